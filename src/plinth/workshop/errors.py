"""What can be wrong with a workshop file.

WorkshopError                 every sentence says what was found, and a way on
├── NotAWorkshopError         another kind of file, or none at all
├── DamagedWorkshopError      a workshop that is not as it was written; what is whole can be saved
├── NewerWorkshopError        written by a later Plinth
├── ReadOnlyWorkshopError     may not be written
├── WorkshopInUseError        open in another window
├── OutOfReachError           locked by another program, on a full or on a failing disk: nothing is said of the file
└── NotKeptError              a write did not reach the file (full disk, failed disk, file moved away)
"""

import errno
import sqlite3
from pathlib import Path

# What the system says of a disk, a share or a file that takes no more.
_NO_ROOM = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


class WorkshopError(Exception):
    """``path`` the file; ``str()`` one or two sentences."""

    def __init__(self, path: Path, sentence: str) -> None:
        super().__init__(sentence)
        self.path = path


class NotAWorkshopError(WorkshopError):
    """The file is something else."""


class DamagedWorkshopError(WorkshopError):
    """The file is a workshop and is damaged; ``damage`` says what, a sentence each."""

    def __init__(self, path: Path, damage: list[str]) -> None:
        first = damage[0] if damage else "its pages do not hold together"
        more = f", and {len(damage) - 1} more" if len(damage) > 1 else ""
        super().__init__(
            path,
            f"{path} is damaged ({first}{more}). It was left as it is. Open a backup, or save what is whole in it as "
            "a new workshop.",
        )
        self.damage = damage


class NewerWorkshopError(WorkshopError):
    """The file was written by a later version."""


class ReadOnlyWorkshopError(WorkshopError):
    """The file or its folder may not be written."""


class WorkshopInUseError(WorkshopError):
    """Another window holds the file: the one of ``process``, None where the system does not tell."""

    def __init__(self, path: Path, sentence: str, process: int | None = None) -> None:
        super().__init__(path, sentence)
        self.process = process


class OutOfReachError(WorkshopError):
    """The file cannot be read just now."""


class NotKeptError(WorkshopError):
    """A write failed; what was typed is still only on the screen."""


def disk_words(error: BaseException | None) -> str:
    """What to do about a write that failed with this error of SQLite's or of the system's."""
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if code == sqlite3.SQLITE_FULL or (isinstance(error, OSError) and error.errno in _NO_ROOM):
        return "Free some space and keep it again"
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return "Another program holds the file: close it there and keep it again"
    return "Check the disk and keep it again"
