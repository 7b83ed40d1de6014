"""The open workshop, or one build of it, out as an archive; an archive in, as one of its own or into this one."""

import dataclasses
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Literal

from plinth.archive.copies import Copies, Own, copies_of
from plinth.archive.pack import packed
from plinth.archive.unpack import Archive, TakenIn, merge_in, only_builds, take_in
from plinth.record.diary import DiaryEntry
from plinth.report.file_out import not_written_words, write_whole
from plinth.session.core import Core
from plinth.session.outside import OutsideError, imported, refuse_other_kind, whole_archive
from plinth.session.records import Records
from plinth.workshop.backup import copy_to
from plinth.workshop.errors import WorkshopError
from plinth.workshop.store import Workshop, open_workshop

Then = Callable[[str, bool], None]


@dataclasses.dataclass(frozen=True)
class ArchiveLook:
    """An archive, and each of its builds beside the open workshop's own; ``refused`` why it may not come in here."""

    path: Path
    archive: Archive
    copies: tuple[Copies, ...]
    refused: str = ""


WayKind = Literal["merge", "apart", "leave"]


@dataclasses.dataclass(frozen=True)
class Way:
    """What is done with a build of an archive: merged (these lines of it), taken in apart, or left."""

    kind: WayKind
    lines: tuple[DiaryEntry, ...] = ()


class Archives:
    """All tell a sentence, and whether it was done."""

    def __init__(self, core: Core, records: Records) -> None:
        self._core, self._records = core, records

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

    def look(self, archive: Path, then: Callable[["ArchiveLook | None", str], None]) -> None:
        """Read an archive and hold its builds against those of the open workshop; what came of it, or why not."""
        path = self._core.workshop.path

        def work(_task: object) -> ArchiveLook:
            content = whole_archive(archive)
            with tempfile.TemporaryDirectory(prefix="plinth-archive-") as folder:
                copy = Path(folder) / "copy.plinth"
                copy_to(path, copy)
                workshop = open_workshop(copy)
                try:
                    refused = _refused(workshop, content, path)
                    return ArchiveLook(archive, content, _held_beside(workshop, content), refused)
                finally:
                    workshop.close()

        def done(look: object) -> None:
            assert isinstance(look, ArchiveLook), "that is what was asked for"
            then(look, "")

        self._core.jobs.ask("archive", work, done, lambda error: then(None, _why_not(error)), long=True)

    def add(self, look: ArchiveLook, ways: Sequence[Way], then: Then) -> None:
        """Add to the open workshop what was chosen of an archive: one way for each of its builds, and its shelf."""
        if look.refused:
            then(f"Nothing was taken in: {look.refused}", False)
            return
        workshop, archive = self._core.workshop, look.archive
        chosen = [copies for copies, way in zip(look.copies, ways, strict=True) if way.kind != "leave"]
        samples = [
            archive.contents[capture.file]
            for copies in chosen
            for capture in copies.archived.captures
            if capture.file in archive.contents
        ]

        def set_aside(_task: object) -> None:
            # What is large is written in chunks here; the rest is rows.
            for content in samples:
                workshop.put_aside(content, what="The capture")

        def failed(error: Exception) -> None:
            then(_why_not(error), False)

        self._core.jobs.ask(
            "archive", set_aside, lambda _done: self._add_rows(look, ways, then), failed, long=True
        )  # fmt: skip

    def _add_rows(self, look: ArchiveLook, ways: Sequence[Way], then: Then) -> None:
        workshop, archive = self._core.workshop, look.archive
        said = list(archive.damaged)
        apart = [place for place, way in enumerate(ways) if way.kind == "apart"]
        merged = 0
        taken: list[TakenIn] = []

        def write() -> None:
            nonlocal merged
            for copies, way in zip(look.copies, ways, strict=True):
                if way.kind == "merge" and copies.own is not None and copies.has_more:
                    said.extend(merge_in(workshop, archive, copies, way.lines, self._core.now()))
                    merged += 1
            taken.append(take_in(workshop, only_builds(archive, apart)))

        whole = self._core.attempt(write)
        # Some of it may have been kept before the rest could not be.
        self._core.stored_builds = workshop.builds()
        self._records.read_diary()
        self._core.tell.build_switched()
        if not whole:
            then("Not all of it was taken in: the sentence at the top of the window says why.", False)
            return
        (shelf,) = taken
        said += [remark for remark in shelf.remarks if remark not in said]
        parts = f"{shelf.parts} part{'s' * (shelf.parts != 1)}"
        known = f" To be known: {'; '.join(said[:4])}." if said else ""
        then(f"Merged {merged}, taken in {len(shelf.builds)} builds and {parts}.{known}", True)

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

        self._core.jobs.ask("archive", work, done, lambda error: then(_why_not(error), False), long=True)


def _why_not(error: Exception) -> str:
    known = isinstance(error, OutsideError | WorkshopError | OSError)
    return f"Nothing was taken in: {error}" if known else f"Plinth made a mistake: {error}"


def _refused(workshop: Workshop, content: Archive, path: Path) -> str:
    """Why an archive may not come into the workshop at ``path`` (of which this is a copy); empty where it may."""
    try:
        refuse_other_kind(workshop, content, Path(path.name))
    except OutsideError as error:
        return str(error)
    return ""


def _held_beside(workshop: Workshop, content: Archive) -> tuple[Copies, ...]:
    """Each build of an archive beside the workshop's own of that name, where there is one."""
    by_name = {stored.build.name: stored for stored in workshop.builds()}

    def own(name: str) -> Own | None:
        stored = by_name.get(name)
        if stored is None:
            return None
        return Own(
            stored, tuple(workshop.diary(stored.id)), tuple(workshop.photos(stored.id)),
            tuple(workshop.captures(stored.id)),
        )  # fmt: skip

    return tuple(copies_of(archived, own(archived.build.name)) for archived in content.builds)
