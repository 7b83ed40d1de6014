"""An archive back into a workshop: what is whole is taken in, what is not is said, nothing strange is opened."""

import dataclasses
import datetime as dt
import hashlib
import io
import re
import stat
import zipfile
import zlib
from collections.abc import Callable, Collection, Sequence
from typing import TypeVar

from pydantic import ValidationError

from plinth.archive.copies import Copies, taken_over
from plinth.archive.documents import PARTS, VERSION, ArchivedBuild, ArchivedPart, ArchiveHead
from plinth.archive.pack import HEAD
from plinth.builds.parts import PART_KINDS, Part
from plinth.record.diary import DiaryEntry
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.store import Workshop

MOST_FILES, MOST_BYTES, MOST_RATIO = 20_000, 2_000_000_000, 100
_LARGE = 200_000_000
_NAME = re.compile(
    r"(archive\.json|parts\.json|builds/\d+\.json|builds/\d+-readings\.csv|(photos|papers|captures)/[\d\-a-z]+\.bin)"
)
_Read = TypeVar("_Read")


class ArchiveError(ValueError):
    """An archive that is refused; one sentence."""


@dataclasses.dataclass(frozen=True)
class Archive:
    """An archive taken apart: ``damaged`` tells what of it is not whole, a sentence each."""

    head: ArchiveHead
    builds: tuple[ArchivedBuild, ...]
    parts: tuple[ArchivedPart, ...]
    contents: dict[str, bytes]
    damaged: tuple[str, ...]


@dataclasses.dataclass(frozen=True)
class TakenIn:
    """What came into a workshop: names of builds (as they are called now), counts, and what is to be said."""

    builds: tuple[str, ...]
    parts: int
    lines: int
    photos: int
    papers: int
    captures: int
    remarks: tuple[str, ...]


def read_archive(data: bytes) -> Archive:
    """Take an archive apart. Raises ArchiveError where it is none, or holds what no archive of Plinth holds."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            names = _names(packed)
            head = _head(packed)
            damaged = [f"left out when it was made: {words}" for words in head.left_out]
            contents = {name: whole for name in names if (whole := _whole(packed, name, head, damaged)) is not None}
    # All that zipfile falls with on bytes that somebody else wrote.
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, OSError, ValueError) as error:
        if isinstance(error, ArchiveError):
            raise
        raise ArchiveError(f"found no zip that can be read ({error}), expected an archive of Plinth") from error
    damaged += [f"{name} is missing" for name in head.files if name not in names]
    builds = []
    for name in sorted(contents, key=_number):
        if re.fullmatch(r"builds/\d+\.json", name):
            document = _read(name, contents[name], ArchivedBuild.model_validate_json, damaged)
            builds += [] if document is None else [document]
    parts: tuple[ArchivedPart, ...] = ()
    if "parts.json" in contents:
        parts = _read("parts.json", contents["parts.json"], PARTS.validate_json, damaged) or ()
    return Archive(head, tuple(builds), parts, contents, tuple(damaged))


def only_builds(archive: Archive, wanted: Collection[int]) -> Archive:
    """The archive with the builds of these places alone (counted from 0), and the whole shelf."""
    return dataclasses.replace(
        archive, builds=tuple(build for place, build in enumerate(archive.builds) if place in wanted)
    )  # fmt: skip


def merge_in(
    workshop: Workshop, archive: Archive, copies: Copies, lines: Sequence[DiaryEntry], at: dt.datetime
) -> list[str]:
    """Add lines of another copy, its photos and captures to the workshop's own build; what is to be said of it.

    Nothing that is there is touched. A line of its own, at ``at``, tells that they were taken over.
    """
    assert copies.own is not None, "only what is there is merged into"
    number, said = copies.own.stored.id, list[str]()
    entries = [taken_over(entry, copies.own.diary) for entry in lines]
    photos = [
        (photo, archive.contents[photo.original], archive.contents[photo.scaled])
        for photo in copies.photos_there
        if photo.original in archive.contents and photo.scaled in archive.contents
    ]
    captures = [
        (capture, archive.contents[capture.file])
        for capture in copies.captures_there
        if capture.file in archive.contents
    ]
    lost = len(copies.photos_there) + len(copies.captures_there) - len(photos) - len(captures)
    if lost:
        said.append(f"{copies.archived.build.name}: {lost} pictures or samples are not in the archive as written")
    count = f"{len(entries)} line{'s' * (len(entries) != 1)} of diary"
    words = f"Taken over from another copy: {count}, {len(photos)} photos, {len(captures)} captures."
    workshop.keep_entries(number, [*entries, DiaryEntry(at, "note", "note", words)])
    for photo, original, scaled in photos:
        workshop.add_photo(
            number, photo.subject, photo.at, name=photo.name, content=original, scaled=scaled, words=photo.words,
            marks=photo.marks,
        )  # fmt: skip
    for capture, content in captures:
        workshop.add_capture(
            number, capture.subject, capture.at, name=capture.name, content=content, facts=capture.facts,
            words=capture.words,
        )  # fmt: skip
    return said


def take_in(workshop: Workshop, archive: Archive) -> TakenIn:
    """Put what an archive holds into a workshop. What is there already is kept apart, never written over."""
    remarks = list(archive.damaged)
    own = {stored.build.name for stored in workshop.builds()}
    builds, names = [], []
    for number, archived in enumerate(archive.builds):
        name = _free(archived.build.name, own)
        if name != archived.build.name:
            remarks.append(f"{archived.build.name} is there already: what came in is called {name}")
        own.add(name)
        names.append(name)
        builds.append(StoredBuild(number, archived.build.model_copy(update={"name": name}), archived.situation))
    lines: list[tuple[int, int, DiaryEntry]] = [
        (number, line, dataclasses.replace(entry, version=0))
        for number, archived in enumerate(archive.builds)
        for line, entry in enumerate(archived.diary)
    ]
    versions = [
        (number, version.since_line, version.build)
        for number, archived in enumerate(archive.builds)
        for version in archived.versions
    ]
    parts, papers = _parts(workshop, archive, remarks)
    numbers = workshop.restore(builds, lines, versions)
    photos = captures = 0
    for number, archived in enumerate(archive.builds):
        for photo in archived.photos:
            original, scaled = archive.contents.get(photo.original), archive.contents.get(photo.scaled)
            if original is None or scaled is None:
                remarks.append(f"photo {photo.name}: its picture is not in the archive as it was written")
                continue
            workshop.add_photo(
                numbers[number], photo.subject, photo.at, name=photo.name, content=original, scaled=scaled,
                words=photo.words, marks=photo.marks,
            )  # fmt: skip
            photos += 1
        for capture in archived.captures:
            content = archive.contents.get(capture.file)
            if content is None:
                remarks.append(f"capture {capture.name}: its samples are not in the archive as they were written")
                continue
            workshop.add_capture(
                numbers[number], capture.subject, capture.at, name=capture.name, content=content, facts=capture.facts,
                words=capture.words,
            )  # fmt: skip
            captures += 1
    return TakenIn(
        tuple(names), parts=parts, lines=len(lines), photos=photos, papers=papers, captures=captures,
        remarks=tuple(remarks),
    )  # fmt: skip


def _parts(workshop: Workshop, archive: Archive, remarks: list[str]) -> tuple[int, int]:
    there = {(type(item.part).__name__, item.part.model_dump_json()) for item in workshop.items()}
    coming: list[tuple[Part, ArchivedPart]] = []
    for archived in archive.parts:
        kind = PART_KINDS.get(archived.kind)
        if kind is None:
            remarks.append(f"a part of kind {archived.kind!r}, which this Plinth does not know, is left out")
            continue
        try:
            part = kind.model_validate(archived.part)
        except ValidationError as error:
            remarks.append(f"a part of kind {archived.kind} is left out: {error.errors()[0]['msg']}")
            continue
        if (archived.kind, part.model_dump_json()) not in there:
            coming.append((part, archived))
    items = workshop.add_items([(part, archived.stock) for part, archived in coming])
    papers = [
        (item.number, paper.name, paper.note, paper.words, archive.contents[paper.file])
        for item, (_, archived) in zip(items, coming, strict=True)
        for paper in archived.papers
        if paper.file in archive.contents
    ]
    workshop.restore_papers(papers)
    return len(items), len(papers)


def _names(packed: zipfile.ZipFile) -> list[str]:
    """The names of its files. Raises ArchiveError for what an archive of Plinth never holds."""
    infos = packed.infolist()
    if len(infos) > MOST_FILES:
        raise ArchiveError(f"found {len(infos)} files in it, expected {MOST_FILES} at most")
    whole, packed_bytes = sum(info.file_size for info in infos), sum(info.compress_size for info in infos)
    if whole > MOST_BYTES:
        raise ArchiveError(f"found more than {MOST_BYTES / 1e9:.0f} GB unpacked, expected less")
    if whole > _LARGE and whole > MOST_RATIO * packed_bytes:
        raise ArchiveError(f"found {whole / 1e6:.0f} MB packed beyond reason, expected an archive of Plinth")
    for info in infos:
        if stat.S_ISLNK(info.external_attr >> 16):
            raise ArchiveError(f"found a link in it ({info.filename[:80]!r}), expected plain files")
        if _NAME.fullmatch(info.filename) is None:
            raise ArchiveError(f"found {info.filename[:80]!r} in it, expected the files of an archive of Plinth alone")
        if info.flag_bits & 1:
            raise ArchiveError(f"found {info.filename!r} locked with a password, expected an open archive")
    names = [info.filename for info in infos]
    if len(set(names)) != len(names):
        raise ArchiveError("found a file twice in it, expected each once")
    if HEAD not in names:
        raise ArchiveError(f"found no {HEAD} in it, expected an archive of Plinth")
    return [name for name in names if name != HEAD]


def _head(packed: zipfile.ZipFile) -> ArchiveHead:
    try:
        head = ArchiveHead.model_validate_json(packed.read(HEAD))
    except ValidationError as error:
        raise ArchiveError(
            f"{HEAD}: found {error.errors()[0]['msg']}, expected that of an archive of Plinth"
        ) from error
    if head.version > VERSION:
        raise ArchiveError(
            f"found an archive of version {head.version}, expected {VERSION} at most: take a newer Plinth"
        )
    return head


def _whole(packed: zipfile.ZipFile, name: str, head: ArchiveHead, damaged: list[str]) -> bytes | None:
    """The content of a file if it is as it was written, else None and a sentence."""
    try:
        content = packed.read(name)
    except (zipfile.BadZipFile, zlib.error, EOFError, ValueError):
        damaged.append(f"{name} cannot be unpacked")
        return None
    if hashlib.sha256(content).hexdigest() != head.files.get(name):
        damaged.append(f"{name} is not as it was written")
        return None
    return content


def _read(name: str, content: bytes, read: Callable[[bytes], _Read], damaged: list[str]) -> _Read | None:
    try:
        return read(content)
    except ValidationError as error:
        where = ".".join(str(place) for place in error.errors()[0]["loc"])
        damaged.append(f"{name}, {where}: {error.errors()[0]['msg']}")
        return None


def _number(name: str) -> int:
    digits = re.search(r"\d+", name)
    return int(digits.group()) if digits else 0


def _free(name: str, taken: set[str]) -> str:
    """The name, or the same with a count behind it where it is taken."""
    if name not in taken:
        return name
    count = 2
    while f"{name} ({count})" in taken:
        count += 1
    return f"{name} ({count})"
