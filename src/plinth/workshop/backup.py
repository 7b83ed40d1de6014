"""Copies of a workshop by SQLite's own backup: whole even while it is written, one a day, thinned out by age.

The last of each of seven days and of each of four weeks is kept, no more than a bound in all; the newest always.
"""

import contextlib
import dataclasses
import datetime as dt
import hashlib
import re
import sqlite3
from collections.abc import Callable, Sequence
from pathlib import Path

from plinth.workshop.begun import give_name, making
from plinth.workshop.errors import NotKeptError, OutOfReachError, disk_words

DAYS, WEEKS = 7, 4
# All copies of one workshop together take no more than this, but for the newest one.
MOST_BYTES = 2_000_000_000
_NAME = re.compile(r"(\d{4}-\d{2}-\d{2})\.plinth")
# Pages at a time: between two of them the window may write.
_PAGES = 512


@dataclasses.dataclass(frozen=True)
class BackupCopy:
    """One copy: where it is, of which day, how large."""

    path: Path
    day: dt.date
    size: int


def folder_for(workshop: Path, root: Path) -> Path:
    """Where the copies of a workshop lie below ``root``: by its name, and by its place, which tells two apart."""
    place = hashlib.sha256(str(workshop.resolve()).encode("utf-8", "surrogateescape")).hexdigest()[:10]
    return root / f"{workshop.stem}-{place}"


def copy_to(workshop: Path, to: Path, go_on: Callable[[float], object] = lambda _share: None) -> None:
    """Copy a workshop, open or not, to a new file; ``go_on`` is told the share copied.

    Raises FileExistsError where ``to`` is taken, OutOfReachError or NotKeptError where it could not be written; nothing
    is then left behind.
    """
    try:
        with making(to) as aside:
            source = sqlite3.connect(f"{workshop.resolve().as_uri()}?mode=ro", uri=True)
            try:
                target = sqlite3.connect(aside)
                try:
                    source.backup(target, pages=_PAGES, progress=lambda _status, left, every: _told(go_on, left, every))
                finally:
                    target.close()
            finally:
                source.close()
            give_name(aside, to)
    except sqlite3.Error as error:
        raise NotKeptError(
            workshop, f"{workshop.name} was not copied to {to}: {error}. {disk_words(error)}."
        ) from error
    except OSError as error:
        if isinstance(error, FileExistsError):
            raise
        raise OutOfReachError(
            to, f"{workshop.name} was not copied to {to}: {error.strerror or error}. Nothing was left behind there."
        ) from error


def _told(go_on: Callable[[float], object], left: int, every: int) -> None:
    go_on(1.0 - left / every if every else 1.0)


def copies(folder: Path) -> list[BackupCopy]:
    """The copies in a folder, the newest first; none where there is no such folder."""
    found = []
    with contextlib.suppress(OSError):
        for path in folder.iterdir():
            match = _NAME.fullmatch(path.name)
            if match is None:
                continue
            with contextlib.suppress(ValueError, OSError):
                found.append(BackupCopy(path, dt.date.fromisoformat(match[1]), path.stat().st_size))
    return sorted(found, key=lambda copy: copy.day, reverse=True)


def superfluous(every: Sequence[BackupCopy], most_bytes: int = MOST_BYTES) -> list[BackupCopy]:
    """Which copies (the newest first) are not needed: by age, then by the space that all take together."""
    newest_of_week: dict[tuple[int, int], BackupCopy] = {}
    for copy in every:
        newest_of_week.setdefault(copy.day.isocalendar()[:2], copy)
    weekly = set(list(newest_of_week.values())[:WEEKS])
    kept, total = [], 0
    for place, copy in enumerate(every):
        wanted = place < DAYS or copy in weekly
        if wanted and (place == 0 or total + copy.size <= most_bytes):
            kept.append(copy)
            total += copy.size
    return [copy for copy in every if copy not in kept]


def back_up(
    workshop: Path, folder: Path, day: dt.date, go_on: Callable[[float], object] = lambda _share: None
) -> BackupCopy | None:
    """The copy of today, where there is none yet, and take away what is not needed any more; None where there is one.

    Raises OutOfReachError or NotKeptError where it could not be made: nothing is taken away then.
    """
    path = folder / f"{day.isoformat()}.plinth"
    if path.exists():
        return None
    with contextlib.suppress(FileExistsError):
        copy_to(workshop, path, go_on)
    for copy in superfluous(copies(folder)):
        with contextlib.suppress(OSError):
            copy.path.unlink()
    return BackupCopy(path, day, path.stat().st_size)
