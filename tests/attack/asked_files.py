"""Where files are asked for: every dialog is answered at random, with places where a writer does harm among them."""

import os
import random
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from plinth.demo.builds import STAGE_PAIR
from plinth.workshop.errors import WorkshopError
from plinth.workshop.store import open_workshop

KEPT = "wiring, drawn in the shed"


class AskedFiles:
    """A folder of places to name; ``lost`` says which of the precious ones a writer has changed."""

    def __init__(self, folder: Path, workshop: Path, pick: random.Random) -> None:
        self._pick, self._workshop = pick, workshop
        folder.mkdir()
        self._other = Path(shutil.copy(workshop, folder / "other.plinth"))
        # The same workshop by another name, and by a link.
        self._copied = Path(shutil.copy(workshop, folder / "other.html"))
        self._linked = folder / "linked.csv"
        self._linked.symlink_to(self._other)
        self._read_only = folder / "kept.txt"
        self._read_only.write_text(KEPT)
        self._read_only.chmod(0o444)
        self._precious = {path: path.read_bytes() for path in (self._other, self._copied, self._read_only)}
        build = folder / "build.json"
        build.write_text(STAGE_PAIR.model_dump_json())
        self.places = (
            workshop, self._other, self._copied, self._linked, self._read_only, folder, folder / "missing" / "a.html",
            folder / "free.html", folder / "free.csv", folder / "free.json", folder / "free.png", folder / "free.svg",
            folder / "free", Path(f"{workshop}-journal"), folder / ("x" * 300), build, Path("/dev/full"),
        )  # fmt: skip

    def answer(self, *_asked: object, **_options: object) -> tuple[str, str]:
        """What a dialog answers; one in eight is closed."""
        return ("" if self._pick.random() < 0.125 else str(self._pick.choice(self.places)), "")

    def lost(self) -> str:
        """What was there and is not as it was; empty where all is."""
        for path, content in self._precious.items():
            if not path.exists() or path.read_bytes() != content:
                return f"{path.name} was written over"
        # What was written and left aside is nobody's any more.
        aside = [path.name for path in self._other.parent.iterdir() if path.name.endswith(".part")]
        if aside:
            return f"left aside: {aside}"
        try:
            workshop = open_workshop(self._workshop)
        except WorkshopError as error:
            return str(error)
        workshop.close()
        return "" if os.path.getsize(self._workshop) else "the workshop is empty"


@contextmanager
def answered(files: AskedFiles) -> Iterator[None]:
    """Every dialog that asks for a file is answered by ``files``."""
    names = ("getSaveFileName", "getOpenFileName")
    before = {name: getattr(QFileDialog, name) for name in names}
    for name in names:
        setattr(QFileDialog, name, files.answer)
    try:
        yield
    finally:
        for name, method in before.items():
            setattr(QFileDialog, name, method)
