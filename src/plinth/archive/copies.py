"""Two copies of one build, a workshop's and an archive's: what only one of them holds, and what both do."""

import dataclasses
from collections.abc import Sequence

from plinth.archive.documents import ArchivedBuild, ArchivedCapture, ArchivedPhoto
from plinth.guide.progress import repaired_subject
from plinth.record.diary import DiaryEntry, record_of
from plinth.record.kept_capture import KeptCapture
from plinth.record.photo import Photo
from plinth.record.subject import read_subject
from plinth.shelf.compare import stated_differences
from plinth.workshop.kept_builds import StoredBuild

# Lines that tell of the build itself, or of its power: in another copy they are history, not something that is so here.
_NOT_HERE = {"made": "begun", "changed": "changed", "power_on": "power on", "power_off": "power off"}


@dataclasses.dataclass(frozen=True)
class Own:
    """What a workshop keeps of a build."""

    stored: StoredBuild
    diary: tuple[DiaryEntry, ...]
    photos: tuple[Photo, ...]
    captures: tuple[KeptCapture, ...]


@dataclasses.dataclass(frozen=True)
class Copies:
    """A build of an archive beside the workshop's own of that name (``own`` None: there is none).

    ``both`` lines stand in each; ``differs`` names what of the build is otherwise there (thing, here, there).
    """

    archived: ArchivedBuild
    own: Own | None
    only_here: tuple[DiaryEntry, ...] = ()
    only_there: tuple[DiaryEntry, ...] = ()
    both: int = 0
    photos_there: tuple[ArchivedPhoto, ...] = ()
    captures_there: tuple[ArchivedCapture, ...] = ()
    differs: tuple[tuple[str, str, str], ...] = ()

    @property
    def has_more(self) -> bool:
        """Whether the archive holds anything of it that is not here."""
        return bool(self.only_there or self.photos_there or self.captures_there)


def copies_of(archived: ArchivedBuild, own: Own | None) -> Copies:
    """Compare the two, line by line: the same moment, kind, subject, words and reading are the same line."""
    if own is None:
        return Copies(archived, None)
    here, there = [_key(entry) for entry in own.diary], [_key(entry) for entry in archived.diary]
    photos = {(photo.subject, photo.at, photo.name) for photo in own.photos}
    captures = {(capture.subject, capture.at, capture.name) for capture in own.captures}
    return Copies(
        archived,
        own,
        only_here=_without(own.diary, here, set(there)),
        only_there=_without(archived.diary, there, set(here)),
        both=len(set(here) & set(there)),
        photos_there=tuple(each for each in archived.photos if (each.subject, each.at, each.name) not in photos),
        captures_there=tuple(each for each in archived.captures if (each.subject, each.at, each.name) not in captures),
        differs=stated_differences(own.stored.build, archived.build),
    )


def taken_over(entry: DiaryEntry, own: Sequence[DiaryEntry] = ()) -> DiaryEntry:
    """A line of another copy as a line of this one, whose lines are ``own``.

    That the build was changed or under power there was not done here. The last record of a thing is the one that
    counts: what is older than what is kept of it here, or than a repair here, is told as a note and counts for nothing.
    """
    if entry.kind in _NOT_HERE:
        return DiaryEntry(entry.at, "note", "note", f"In the other copy, {_NOT_HERE[entry.kind]}: {entry.words}")
    if record_of(entry) is not None and any(_stands_over(line, entry) for line in own):
        typed = f", {entry.reading.typed}" if entry.reading is not None else ""
        return DiaryEntry(entry.at, "note", "note", f"In the other copy, earlier: {entry.words or entry.kind}{typed}")
    return dataclasses.replace(entry, version=0)


def _stands_over(line: DiaryEntry, entry: DiaryEntry) -> bool:
    """Whether a line of this copy is not older than a record of the other, and of the same thing, or its repair."""
    if line.at < entry.at or record_of(line) is None:
        return False
    return line.subject == entry.subject or line.subject == repaired_subject(read_subject(entry.subject).channel)


def _key(entry: DiaryEntry) -> tuple[object, ...]:
    reading = entry.reading
    read = None if reading is None else (reading.typed, reading.value, reading.unit, reading.instrument)
    return entry.at, entry.kind, entry.subject, entry.words, read


def _without(
    entries: Sequence[DiaryEntry], keys: Sequence[tuple[object, ...]], others: set[tuple[object, ...]]
) -> tuple[DiaryEntry, ...]:
    return tuple(entry for entry, key in zip(entries, keys, strict=True) if key not in others)
