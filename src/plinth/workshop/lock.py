"""One window per workshop: a lock on the file itself, whatever name it is opened by; the system drops it at the end.

The lock is SQLite's file, but not one of SQLite's own locks (those are record locks, this is a flock): the two do not
meet. Its descriptor is closed last, because closing any descriptor of a file drops a process's record locks on it.
"""

import fcntl
import os
from pathlib import Path

from plinth.workshop.errors import ReadOnlyWorkshopError, WorkshopInUseError


class WorkshopLock:
    """Held from construction to ``release``. Raises WorkshopInUseError where another process (or window) holds it."""

    def __init__(self, workshop: Path) -> None:
        try:
            # Not blocking: a pipe would wait for somebody to write into it.
            self._file = os.open(workshop, os.O_RDWR | os.O_CLOEXEC | os.O_NONBLOCK)
        except OSError as error:
            raise ReadOnlyWorkshopError(
                workshop,
                f"{workshop} may not be written ({error.strerror}), so nothing could be kept. It was left as it is. "
                "Make a copy where you may write and open that.",
            ) from error
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            holder = _holder(os.fstat(self._file))
            os.close(self._file)
            raise WorkshopInUseError(
                workshop,
                f"{workshop} is open in another Plinth window{f' (process {holder})' if holder else ''}. "
                "Go on in that window, or close it and try again; meanwhile another workshop can be opened here.",
                holder,
            ) from error

    def holds(self, path: Path) -> bool:
        """Whether ``path`` still names the locked file: not renamed, replaced or deleted since."""
        try:
            there = path.stat()
        except OSError:
            return False
        return os.path.samestat(there, os.fstat(self._file))

    def release(self) -> None:
        """Let the next window have it."""
        if self._file >= 0:
            os.close(self._file)
            self._file = -1


def _holder(locked: os.stat_result) -> int | None:
    """The process that holds a flock on a file, as the system tells; None where it does not."""
    try:
        lines = Path("/proc/locks").read_text(encoding="ascii").splitlines()
    except OSError:
        return None
    for line in lines:
        _, kind, _, _, process, place, *_ = [*line.split(), "", "", "", "", "", ""]
        if kind == "FLOCK" and place.rpartition(":")[2] == str(locked.st_ino) and process.isdigit():
            return int(process)
    return None
