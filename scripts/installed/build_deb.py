"""A package for Debian 12 and newer: ``python -m scripts.installed.build_deb OUT`` writes ``plinth_VERSION_ARCH.deb``.

PyInstaller makes a folder with its own Python, which goes below ``/usr/lib``: no version of the system's Python is
asked for. What Qt opens a window with comes from the system, as dependencies.
"""

import datetime as dt
import gzip
import os
import platform
import re
import shutil
import subprocess
import sys
from email.utils import format_datetime
from pathlib import Path

from plinth.cli.doctor import RESTS_ON
from plinth.release import VERSION
from scripts.installed.tree import APP_ID, DATA, ROOT, write_share

# As `scripts/system-libraries` installs them; newer Debian calls one of them otherwise.
DEPENDS = (
    "libc6", "libegl1", "libgl1", "libxkbcommon0", "libxkbcommon-x11-0", "libdbus-1-3", "libfontconfig1",
    "libglib2.0-0t64 | libglib2.0-0", "libxcb-cursor0", "libxcb-icccm4", "libxcb-image0", "libxcb-keysyms1",
    "libxcb-randr0", "libxcb-render-util0", "libxcb-shape0", "libxcb-xkb1",
)  # fmt: skip
ARCHITECTURES = {"x86_64": "amd64", "aarch64": "arm64"}
# What the environment holds for tests and checks, and what its libraries could use but Plinth does not.
LEFT_OUT = (
    "pytest", "hypothesis", "mypy", "ruff", "importlinter", "grimp", "setuptools", "pip", "tkinter", "IPython",
    "matplotlib", "pyvisa.testsuite", "pyvisa_py.testsuite", "PySide6.QtQml", "PySide6.QtQuick",
    "PySide6.QtQuickWidgets",
)  # fmt: skip
MAINTAINER = "The makers of Plinth <makers@plinth-bench.dev>"
DESCRIPTION = """Plan, bring up, measure and record home-built amplifiers
 Plinth is for people who build solid-state audio amplifiers at home. It
 predicts what a build will do, leads through first power step by step,
 takes readings by hand or by instruments, judges them at once, and keeps
 everything in one file."""


def build(out: Path) -> Path:
    """The package, built in ``out``. Raises CalledProcessError where a step fails."""
    work = out / "work"
    root = work / "root"
    shutil.rmtree(work, ignore_errors=True)
    frozen = _frozen(work)
    library = root / "usr" / "lib" / "plinth"
    library.parent.mkdir(parents=True)
    shutil.copytree(frozen, library, symlinks=True)
    (root / "usr" / "bin").mkdir()
    (root / "usr" / "bin" / "plinth").symlink_to("../lib/plinth/plinth")
    share = root / "usr" / "share"
    write_share(share)
    _write_documents(share)
    architecture = ARCHITECTURES[platform.machine()]
    _write_control(root, architecture)
    _set_modes(root, library / "plinth")
    package = out / f"plinth_{VERSION}_{architecture}.deb"
    subprocess.run(["dpkg-deb", "--root-owner-group", "-Zxz", "--build", str(root), str(package)], check=True)
    return package


def _frozen(work: Path) -> Path:
    line = [
        sys.executable, "-m", "PyInstaller", "--noconfirm", "--onedir", "--name", "plinth", "--log-level",
        "WARN", "--distpath", str(work / "frozen"), "--workpath", str(work / "pyinstaller"), "--specpath", str(work),
        "--collect-all", "plinth", "--collect-submodules", "pyvisa_py",
        "--hidden-import", "sqlalchemy.dialects.sqlite",
    ]  # fmt: skip
    for name in (*RESTS_ON, "PyVISA-py"):
        line += ["--copy-metadata", name]
    for name in LEFT_OUT:
        line += ["--exclude-module", name]
    subprocess.run([*line, str(ROOT / "scripts" / "installed" / "frozen.py")], check=True, cwd=ROOT)
    return work / "frozen" / "plinth"


def _write_documents(share: Path) -> None:
    folder = share / "doc" / "plinth"
    folder.mkdir(parents=True)
    shutil.copyfile(DATA / "copyright", folder / "copyright")
    (folder / "changelog.gz").write_bytes(gzip.compress(_changes().encode(), 9, mtime=0))
    overrides = share / "lintian" / "overrides"
    overrides.mkdir(parents=True)
    shutil.copyfile(DATA / "lintian-overrides", overrides / "plinth")


def _changes() -> str:
    """The release's changes as a Debian changelog has them; its date is that of the catalogue data."""
    text = (DATA / f"{APP_ID}.metainfo.xml").read_text(encoding="utf-8")
    date = re.search(rf'<release version="{re.escape(VERSION)}" date="([^"]+)"', text)
    if date is None:
        raise ValueError(f"found no release {VERSION} in {APP_ID}.metainfo.xml, expected its date there")
    day = dt.datetime.fromisoformat(f"{date[1]}T12:00:00+00:00")
    section = (ROOT / "CHANGELOG.md").read_text(encoding="utf-8").split("\n## ")[1]
    lines = [
        line.replace("- ", "  * ", 1) if line.startswith("- ") else f"  {line}" for line in section.splitlines()[1:]
    ]
    body = "\n".join(line.rstrip() for line in lines).strip("\n")
    return f"plinth ({VERSION}) unstable; urgency=medium\n\n{body}\n\n -- {MAINTAINER}  {format_datetime(day)}\n"


def _write_control(root: Path, architecture: str) -> None:
    size = sum(path.lstat().st_size for path in root.rglob("*") if path.is_file() and not path.is_symlink())
    lines = [
        "Package: plinth", f"Version: {VERSION}", f"Architecture: {architecture}", "Section: electronics",
        "Priority: optional", f"Maintainer: {MAINTAINER}",
        f"Installed-Size: {size // 1024}", f"Depends: {', '.join(DEPENDS)}", "Recommends: libusb-1.0-0",
        f"Description: {DESCRIPTION}",
    ]  # fmt: skip
    folder = root / "DEBIAN"
    folder.mkdir()
    (folder / "control").write_text("\n".join([*lines, ""]), encoding="utf-8")


def _set_modes(root: Path, program: Path) -> None:
    for path in root.rglob("*"):
        if not path.is_symlink():
            path.chmod(0o755 if path.is_dir() or path == program else 0o644)


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    built = build(Path(sys.argv[1]))
    sys.stdout.write(f"{built}: {built.stat().st_size / 1e6:.0f} MB\n")
