"""One window per workshop: an advisory lock beside the file, which the system drops when the process ends."""

import fcntl
import os
from pathlib import Path

from plinth.workshop.errors import ReadOnlyWorkshopError, WorkshopInUseError


class WorkshopLock:
    """Held from construction to ``release``. Raises WorkshopInUseError where another process (or window) holds it."""

    def __init__(self, workshop: Path) -> None:
        self._path = workshop.with_name(workshop.name + ".lock")
        try:
            self._file = os.open(self._path, os.O_RDWR | os.O_CREAT, 0o644)
        except OSError as error:
            raise ReadOnlyWorkshopError(
                workshop,
                f"Beside {workshop} nothing can be written ({error.strerror}). "
                "Make a copy where you may write and open that.",
            ) from error
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            holder = os.pread(self._file, 20, 0).decode("ascii", "replace").strip()
            os.close(self._file)
            raise WorkshopInUseError(
                workshop,
                f"{workshop} is open in another Plinth window{f' (process {holder})' if holder else ''}. "
                "Go on in that window, or close it and try again; meanwhile another workshop can be opened here.",
            ) from error
        os.ftruncate(self._file, 0)
        os.pwrite(self._file, f"{os.getpid()}\n".encode(), 0)

    def release(self) -> None:
        """Let the next window have it."""
        if self._file >= 0:
            os.close(self._file)
            self._file = -1
