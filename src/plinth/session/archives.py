"""The open workshop, or one build of it, out as an archive; an archive in as a workshop of its own."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from plinth.archive.pack import packed
from plinth.report.file_out import not_written_words, write_whole
from plinth.session.core import Core
from plinth.session.outside import OutsideError, imported
from plinth.workshop.backup import copy_to
from plinth.workshop.errors import WorkshopError
from plinth.workshop.store import open_workshop

Then = Callable[[str, bool], None]


class Archives:
    """Both tell a sentence, and whether it was done."""

    def __init__(self, core: Core) -> None:
        self._core = core

    def write(self, to: Path, then: Then, *, only_current: bool) -> None:
        """Write an archive of the workshop, or of the current build with the whole shelf."""
        path, number = self._core.workshop.path, self._core.current

        def work(_task: object) -> int:
            # A copy of the moment: the window goes on writing to its own.
            with tempfile.TemporaryDirectory(prefix="plinth-archive-") as folder:
                copy = Path(folder) / "copy.plinth"
                copy_to(path, copy)
                workshop = open_workshop(copy)
                try:
                    content = packed(workshop, lambda stored: not only_current or stored.id == number)
                finally:
                    workshop.close()
            write_whole(to, content)
            return len(content)

        def failed(error: Exception) -> None:
            if isinstance(error, OSError) and not isinstance(error, FileExistsError):
                then(not_written_words(to, error), False)
            else:
                then(f"Not written: {error}", False)

        def done(size: object) -> None:
            assert isinstance(size, int), "a count of bytes"
            then(f"Archive written to {to} ({size / 1e6:.1f} MB).", True)

        self._core.jobs.ask("archive", work, done, failed, long=True)

    def read(self, archive: Path, to: Path, then: Then) -> None:
        """Begin a new workshop ``to`` with what an archive holds; it is not opened by this."""

        def work(_task: object) -> dict[str, object]:
            if to.exists():
                raise OutsideError(f"{to}: found a file there, expected none: choose another name")
            return imported(archive, to)

        def done(taken: object) -> None:
            assert isinstance(taken, dict), "that is what was asked for"
            remarks = taken["remarks"]
            assert isinstance(remarks, list)
            builds = taken["builds"]
            assert isinstance(builds, list)
            said = f" To be known: {'; '.join(map(str, remarks[:4]))}." if remarks else ""
            then(
                f"{to.name} holds {len(builds)} builds, {taken['parts']} parts, {taken['lines']} lines of diary, "
                f"{taken['photos']} photos and {taken['captures']} captures.{said}", True,
            )  # fmt: skip

        def failed(error: Exception) -> None:
            known = isinstance(error, OutsideError | WorkshopError | OSError)
            then(f"Nothing was taken in: {error}" if known else f"Plinth made a mistake: {error}", False)

        self._core.jobs.ask("archive", work, done, failed, long=True)
