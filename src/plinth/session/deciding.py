"""What can stand side by side of the open workshop, what was changed between, what was heard and what was decided."""

import contextlib
import dataclasses
from collections.abc import Callable, Sequence

from plinth.bench.every_sheet import SHEETS, read_by_test
from plinth.builds.build import Build
from plinth.builds.parts import PART_KINDS
from plinth.builds.situation import Situation
from plinth.captures.capture import Capture, CaptureError
from plinth.captures.options import options_from
from plinth.captures.reading.read_capture import read_content
from plinth.decide.blind import BlindOutcome
from plinth.decide.changes import Changes, changes_between
from plinth.decide.heard import (
    BLIND,
    BLIND_SUBJECT,
    HEARD_SUBJECT,
    HEARD_SUBJECTS,
    VERDICT,
    VERDICT_SUBJECT,
    ListeningNote,
)
from plinth.decide.next_step import NextReading, next_reading
from plinth.decide.overlays import with_spectra
from plinth.decide.side import MOST_SIDES, Side
from plinth.decide.side_by_side import SideBySide, side_by_side
from plinth.record.book import RecordBook
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import KeptCapture
from plinth.record.subject import Kind, read_subject
from plinth.session.capture_recorder import RECORDER
from plinth.session.core import Core
from plinth.session.fixing import Going
from plinth.session.records import Records
from plinth.session.shelf import Shelf
from plinth.session.variants import Variants
from plinth.shelf.bill import bill_of
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_versions import Version

# Older versions than these are reached by the diary.
VERSIONS_SHOWN = 8
MOST_WORDS = 2000
# Of a capture larger than this the spectrum would be long in coming.
MOST_SPECTRUM_BYTES = 8_000_000


@dataclasses.dataclass(frozen=True)
class Candidate:
    """Something that can be chosen: ``key`` names it while the workshop is open, ``version`` of its build (0: none)."""

    key: str
    name: str
    note: str
    build: Build
    situation: Situation
    build_id: int
    listing: bool = False
    version: int = 0


class Deciding:
    """Sides are asked for by their keys; comparing is a function to be run off the thread."""

    def __init__(self, core: Core, records: Records, shelf: Shelf, variants: Variants) -> None:
        self._core, self._records, self._shelf, self._variants = core, records, shelf, variants
        self._known: tuple[object, list[Version]] | None = None

    def candidates(self) -> tuple[Candidate, ...]:
        """The listing, the versions of the current build (newest last), its variants, the other builds."""
        kept, here = self._core.plan_kept, self._core.current
        made = [
            Candidate(
                "listing", "as listed", kept.build.module.name, kept.build, kept.situation, build_id=here, listing=True
            )
        ]  # fmt: skip
        versions = self._versions()
        for version in versions[-VERSIONS_SHOWN:]:
            assert version.build is not None, "those without were left out"
            newest = version is versions[-1]
            build = kept.build if newest else version.build
            note = "as it is now" if newest else "as it was"
            made.append(
                Candidate(
                    f"version {version.number}", f"version {version.number}", note, build, kept.situation,
                    build_id=here, version=version.number,
                )
            )  # fmt: skip
        if not versions:
            made.append(Candidate("now", kept.build.name, "as it is now", kept.build, kept.situation, build_id=here))
        variants = {stored.id for stored in self._variants.all()}
        others = sorted(
            (stored for stored in self._core.stored_builds if stored.id != here),
            key=lambda stored: stored.id not in variants,
        )
        for stored in others:
            note = "a variant" if stored.id in variants else "another build"
            made.append(
                Candidate(
                    f"build {stored.id}", stored.build.name, note, stored.build, stored.situation, build_id=stored.id
                )
            )  # fmt: skip
        return tuple(made)

    def _versions(self) -> list[Version]:
        """Those that can be read; read anew only where a line has been added to the diary."""
        of = (self._core.current, self._records.diary_size)
        if self._known is None or self._known[0] != of:
            self._known = (of, [version for version in self._records.versions() if version.build is not None])
        return self._known[1]

    def proposed(self) -> tuple[str, ...]:
        """What stands side by side at first: the listing where it claims something, and the last two of the build."""
        candidates = self.candidates()
        own = [each.key for each in candidates if each.build_id == self._core.current and not each.listing]
        others = [each.key for each in candidates if each.build_id != self._core.current]
        chosen = own[-2:] if len(own) > 1 else [*own, *others[:1]]
        listing = [each.key for each in candidates if each.listing and each.build.module.claims]
        return tuple([*listing, *chosen][:MOST_SIDES])

    def comparing(self, keys: Sequence[str]) -> Callable[[Going], SideBySide]:
        """Hold these side by side. Raises ValueError for a key that is gone, or another count than 2 to 4."""
        by_key = {each.key: each for each in self.candidates()}
        gone = [key for key in keys if key not in by_key]
        if gone or not 2 <= len(keys) <= MOST_SIDES:
            raise ValueError(f"found {', '.join(keys) or 'nothing'}, expected 2 to {MOST_SIDES} of what is listed")
        # A variant is the same build but for what was changed in it.
        family = {stored.id for stored in self._variants.all()}
        books: dict[int, RecordBook] = {}
        items = self._shelf.items(tuple(PART_KINDS.values()))
        sides = []
        chosen = [by_key[key] for key in keys]
        for each in chosen:
            if each.build_id not in books:
                books[each.build_id] = self._book(each.build_id)
            bill = None if each.listing else bill_of(each.build, items)
            of = self._core.current if each.build_id in family else each.build_id
            sides.append(
                Side(
                    each.name, each.note, each.build, each.situation, books[each.build_id],
                    listing=each.listing, of=f"build {of}", cost=None if bill is None else bill.total,
                    so_far=None if bill is None else bill.so_far,
                )
            )  # fmt: skip
        tones = self._tones(chosen)

        def compare(task: Going) -> SideBySide:
            answer = side_by_side(sides, go_on=task.progress)
            captures: dict[int, Capture] = {}
            for place, kept, data in tones:
                # One that cannot be read any more is no reason for no comparison.
                with contextlib.suppress(CaptureError):
                    captures[place] = read_content(data, kept.name, options_from(kept.facts.stated))
            return dataclasses.replace(answer, overlays=with_spectra(answer.overlays, captures))

        return compare

    def _tones(self, chosen: Sequence[Candidate]) -> list[tuple[int, KeptCapture, bytes]]:
        """By place: the last capture of a tone kept of each and its bytes; none of the largest."""
        tones = []
        for place, candidate in enumerate(chosen):
            if candidate.listing:
                continue
            try:
                kept = [
                    each
                    for each in self._core.workshop.captures(candidate.build_id)
                    if _is_tone(each, candidate.version)
                ]
                data = self._core.workshop.capture_content(kept[-1].number) if kept else None
            except WorkshopError as error:
                self._core.tell.trouble(str(error))
                continue
            if data is not None:
                tones.append((place, kept[-1], data))
        return tones

    def can_read(self, keys: Sequence[str]) -> list[bool]:
        """Of each chosen whether it stands on the bench: neither a listing, nor an older version, nor a mere plan."""
        variants = {stored.id for stored in self._variants.all()}
        by_key = {each.key: each for each in self.candidates()}
        newest = max((each.version for each in by_key.values()), default=0)
        return [
            not by_key[key].listing and by_key[key].version in (0, newest) and by_key[key].build_id not in variants
            for key in keys
        ]

    def next_reading(self, shown: SideBySide, keys: Sequence[str]) -> NextReading | None:
        """What would tell most of the pair that is looked at, by the instruments of this bench."""
        kit = self._core.kit
        return next_reading(shown, self.can_read(keys), lambda role, value: kit.of(role).u(value))

    def _book(self, build_id: int) -> RecordBook:
        """The last records of a build under each condition: for an older version one counts that was taken of it."""
        if build_id == self._core.current:
            return self._records.book
        try:
            records = self._core.workshop.latest_records(build_id)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            records = []
        return RecordBook(records, practice=self._core.practice)

    def changes(self, first: str, second: str) -> Changes | None:
        """What was changed from one to the other; None where one of them is a listing, or gone."""
        by_key = {each.key: each for each in self.candidates()}
        if first not in by_key or second not in by_key:
            return None
        before, after = by_key[first], by_key[second]
        if before.listing or after.listing:
            return None
        sides = (before.build, before.situation), (after.build, after.situation)
        return changes_between(*sides, self._why(before, after))

    def _why(self, before: Candidate, after: Candidate) -> list[DiaryEntry]:
        """The lines of the diary by which one version became the other; none where they are not of one build."""
        since = {version.number: version.since for version in self._versions()}
        first, last = since.get(before.version), since.get(after.version)
        if first is None or last is None or before.build_id != after.build_id:
            return []
        try:
            return self._core.workshop.changes_between(before.build_id, min(first, last), max(first, last))
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return []

    def read_counts(self) -> list[tuple[str, int]]:
        """Of each test how many readings count of the current build, by its name."""
        counts = {kind.name: read_by_test(self._records.book).get(kind.key, 0) for kind in SHEETS}
        kinds = [read_subject(subject).kind for subject in self._records.book]
        clipping = sum(kind in (Kind.CLIP, Kind.CLIP_1, Kind.CLIP_10) for kind in kinds)
        return [*counts.items(), ("Clipping power", clipping), ("Response", kinds.count(Kind.RESPONSE))]

    # What is kept

    def keep_heard(self, note: ListeningNote) -> bool:
        """Keep a listening note in the diary; False (and ``trouble``, or no words) where it could not be."""
        return bool(note.words.strip()) and self._records.note("note", note.line[:MOST_WORDS], HEARD_SUBJECT)

    def keep_blind(self, names: tuple[str, str], outcome: BlindOutcome, apart_db: float, seal: str) -> bool:
        """Keep what came of a blind comparison, with the levels' difference and the seal of its order."""
        words = (
            f"{BLIND} of {names[0]} and {names[1]}: {outcome.sentence} Levels {apart_db:.2f} dB apart at 1 kHz. "
            f"Order sealed as {seal[:16]}."
        )
        return self._records.note("note", words, BLIND_SUBJECT)

    def keep_verdict(self, words: str, rests_on: str) -> bool:
        """Keep a verdict in the diary, with what it rests on."""
        words = " ".join(words.split())[:MOST_WORDS]
        return bool(words) and self._records.note("note", f"{VERDICT}: {words} [{rests_on}]", VERDICT_SUBJECT)

    def heard(self, most: int = 6) -> tuple[str, ...]:
        """What was heard, compared blind and decided of the current build, the newest first."""
        try:
            lines = self._core.workshop.lines_about(self._core.current, HEARD_SUBJECTS, most)
        except WorkshopError:
            return ()
        return tuple(f"{line.at:%Y-%m-%d} {line.words}" for line in lines)


def _is_tone(kept: KeptCapture, version: int) -> bool:
    """Whether a capture is a tone of that version of its build (0: of any), and not of the recorder itself."""
    facts = kept.facts
    return (
        facts.kind == "tone" and kept.subject != RECORDER and kept.size <= MOST_SPECTRUM_BYTES
        and (not version or facts.version == version)
    )  # fmt: skip
