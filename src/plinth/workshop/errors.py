"""What can be wrong with a workshop file.

WorkshopError                 every sentence says what was found, and a way on
├── NotAWorkshopError         another kind of file, or none at all
├── DamagedWorkshopError      a workshop whose pages do not hold together
├── NewerWorkshopError        written by a later Plinth
├── ReadOnlyWorkshopError     may not be written
├── WorkshopInUseError        open in another window
└── NotKeptError              a write did not reach the file (full disk, failed disk)
"""

from pathlib import Path


class WorkshopError(Exception):
    """``path`` the file; ``str()`` one or two sentences."""

    def __init__(self, path: Path, sentence: str) -> None:
        super().__init__(sentence)
        self.path = path


class NotAWorkshopError(WorkshopError):
    """The file is something else."""


class DamagedWorkshopError(WorkshopError):
    """The file is a workshop and is damaged."""


class NewerWorkshopError(WorkshopError):
    """The file was written by a later version."""


class ReadOnlyWorkshopError(WorkshopError):
    """The file or its folder may not be written."""


class WorkshopInUseError(WorkshopError):
    """Another window holds the file."""


class NotKeptError(WorkshopError):
    """A write failed; what was typed is still only on the screen."""
