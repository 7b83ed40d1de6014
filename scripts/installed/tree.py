"""Write what stands in ``share`` beside the program: ``python -m scripts.installed.tree OUT`` fills ``OUT/share``."""

import gzip
import os
import shutil
import sys
from pathlib import Path

from scripts.installed.completions import completions
from scripts.installed.man_pages import man_pages

ROOT = Path(__file__).parents[2]
DATA = Path(__file__).parent / "data"
ICON = ROOT / "src" / "plinth" / "desk" / "icons" / "plinth.svg"
SIZES = (16, 22, 24, 32, 48, 64, 128, 256, 512)
APP_ID = "dev.plinth_bench.Plinth"


def write_share(share: Path) -> None:
    """Fill ``share``: menu entry, file type, catalogue data, icons, man pages, completions."""
    _copy(DATA / "plinth.desktop", share / "applications")
    _copy(DATA / "plinth.xml", share / "mime" / "packages")
    _copy(DATA / f"{APP_ID}.metainfo.xml", share / "metainfo")
    icons = share / "icons" / "hicolor"
    _copy(ICON, icons / "scalable" / "apps")
    _copy(ICON, icons / "scalable" / "mimetypes", "application-x-plinth.svg")
    _copy(DATA / "plinth-symbolic.svg", icons / "symbolic" / "apps")
    _write_pictures(icons)
    for name, text in man_pages().items():
        path = share / "man" / "man1" / f"{name}.gz"
        path.parent.mkdir(parents=True, exist_ok=True)
        # No time in it: the same source makes the same package.
        path.write_bytes(gzip.compress(text.encode(), 9, mtime=0))
    for place, text in completions().items():
        path = share / place
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8")


def _copy(source: Path, folder: Path, name: str = "") -> None:
    folder.mkdir(parents=True, exist_ok=True)
    shutil.copyfile(source, folder / (name or source.name))


def _write_pictures(icons: Path) -> None:
    """The icon as pixels, for menus that take no drawing."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtCore import Qt
    from PySide6.QtGui import QGuiApplication, QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    app = QGuiApplication.instance() or QGuiApplication([])
    drawing = QSvgRenderer(str(ICON))
    for size in SIZES:
        image = QImage(size, size, QImage.Format.Format_ARGB32)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        drawing.render(painter)
        painter.end()
        folder = icons / f"{size}x{size}" / "apps"
        folder.mkdir(parents=True, exist_ok=True)
        if not image.save(str(folder / "plinth.png")):
            raise OSError(f"found no way to write {folder / 'plinth.png'}, expected a picture there")
    del app


if __name__ == "__main__":
    write_share(Path(sys.argv[1]) / "share")
