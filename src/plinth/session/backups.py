"""Copies of the open workshop: one a day by itself, another whenever somebody wants one, taken out again."""

import datetime as dt
from collections.abc import Callable
from pathlib import Path

from plinth.session.core import Core
from plinth.units.shown import shown
from plinth.workshop.backup import DAYS, MOST_BYTES, WEEKS, BackupCopy, back_up, copies, copy_to, folder_for
from plinth.workshop.errors import WorkshopError

__all__ = ["BackupCopy", "Backups"]


class Backups:
    """``begin`` says where; until then there are none. What fails is told, and nothing is lost by it."""

    def __init__(self, core: Core) -> None:
        self._core = core
        self.folder: Path | None = None
        self._day: dt.date | None = None

    def begin(self, root: Path) -> None:
        """Make the copy of today where there is none, behind, once a day; below ``root`` each workshop has a folder."""
        path, day = self._core.workshop.path, self._core.now().date()
        if day == self._day:
            return
        self._day = day
        folder = self.folder = folder_for(path, root)
        self._core.jobs.ask(
            "backup", lambda task: back_up(path, folder, day, task.progress), lambda _copy: None,
            lambda error: self._core.tell.trouble(f"The copy of today was not made. {error}"), long=True,
        )  # fmt: skip

    def all(self) -> list[BackupCopy]:
        """The copies of this workshop, the newest first."""
        return [] if self.folder is None else copies(self.folder)

    @property
    def words(self) -> str:
        """How many there are, how much room they take, where, and for how long they are kept."""
        every = self.all()
        total = shown(float(sum(copy.size for copy in every)), "B")
        place = "" if self.folder is None else f" in {self.folder}"
        return (
            f"{len(every)} {'copy' if len(every) == 1 else 'copies'}, {total}{place}. One is made on each day that the "
            f"workshop is opened; the last {DAYS} are kept and one of each of the last {WEEKS} weeks, "
            f"{shown(float(MOST_BYTES), 'B')} at most."
        )

    def copy(self, what: Path | None, to: Path, then: Callable[[str, bool], None]) -> None:
        """Copy the workshop as it is now (or an older copy) to a new file; what to say, and whether it was done."""
        source = what or self._core.workshop.path

        def failed(error: Exception) -> None:
            if isinstance(error, FileExistsError | WorkshopError):
                then(f"{str(error)[:1].upper()}{str(error)[1:].rstrip('.')}.", False)
            else:
                then(f"Not copied: {error}.", False)

        self._core.jobs.ask(
            f"copy to {to}", lambda task: copy_to(source, to, task.progress),
            lambda _none: then(f"Saved as {to}. This workshop stays open.", True), failed, long=True,
        )  # fmt: skip
