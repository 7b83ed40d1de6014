"""What was observed of the current build: kept, and found again."""

import dataclasses
from collections.abc import Callable, Iterator, Sequence

from plinth.builds.build import Fitted
from plinth.guide.progress import repaired_subject
from plinth.guide.step import Step
from plinth.record.book import RecordBook
from plinth.record.conditions import Conditions
from plinth.record.diary import DiaryEntry, Moment, of_line, record_of
from plinth.record.origin import Giver
from plinth.record.reading import Finding, Override, Reading, Record
from plinth.session.core import Core
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_versions import Version

REAL_IN_PRACTICE = "this workshop is for practice, and the two never mix. Open a real one for it."

# Of a line that is corrected so much is quoted.
MOST_QUOTED = 80


class Records:
    """Records of the current build. ``kept`` is told of each record once it is on disk, ``grew`` of the book before it.

    ``book`` all that counts, by subject; ``diary_size`` (lines, readings among them).
    """

    def __init__(self, core: Core) -> None:
        self._core = core
        self.book = RecordBook(practice=core.practice)
        self.diary_size = (0, 0)
        self.kept: list[Callable[[Record], None]] = []
        self.grew: list[Callable[[RecordBook, Record], None]] = []

    def read_diary(self) -> None:
        """Take in what is kept of the current build."""
        core = self._core
        try:
            self.diary_size = core.workshop.diary_size(core.current)
            self.book = RecordBook(core.workshop.latest_records(core.current), practice=core.practice)
        except WorkshopError as error:
            # What cannot be read counts for nothing: every gate is closed until it can.
            self.diary_size, self.book = (0, 0), RecordBook(practice=core.practice)
            # Nobody listens yet where this is the start: it then stands among what was set aside.
            core.workshop.notice(str(error))
            core.tell.trouble(str(error))

    def diary_lines(self, first: int = 0, most: int = -1) -> list[DiaryEntry]:
        """Lines of the diary of the current build; none (and ``trouble``) where they cannot be read just now."""
        try:
            return self._core.workshop.diary_by_version(self._core.current, first, most)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return []

    def diary_in_parts(self, most: int) -> Iterator[list[DiaryEntry]]:
        """The diary of the current build, ``most`` lines at a time; of that build also where another is taken since.

        Raises WorkshopError on the way where they cannot be read: half a diary is none.
        """
        workshop, build_id = self._core.workshop, self._core.current

        def parts() -> Iterator[list[DiaryEntry]]:
            first = 0
            while part := workshop.diary_by_version(build_id, first, most):
                yield part
                first += len(part)

        return parts()

    def versions(self) -> list[Version]:
        """The versions of the current build, oldest first; none (and ``trouble``) where they cannot be read now."""
        try:
            return self._core.workshop.versions(self._core.current)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return []

    def fitted_by_version(self) -> dict[int, tuple[Fitted, ...]]:
        """What had been exchanged in each version of the current build. Raises WorkshopError."""
        return self._core.workshop.fitted_by_version(self._core.current)

    def keep(self, record: Record) -> bool:
        """Keep a record. True only once it is on disk; else ``trouble`` has said why and nothing is lost on screen."""
        build_id = self._core.current
        if self._core.practice and isinstance(record, Reading):
            if record.origin.giver in (Giver.INSTRUMENT, Giver.CAPTURE):
                self._core.tell.trouble(f"Found a reading of {record.instrument}, expected none: {REAL_IN_PRACTICE}")
                return False
            # Whatever is typed here was read off a stand-in.
            record = dataclasses.replace(record, origin=dataclasses.replace(record.origin, giver=Giver.SIMULATED))
        if not self._kept_line(build_id, lambda: self._core.workshop.keep_record(build_id, record)):
            return False
        for listener in self.kept:
            listener(record)
        return True

    def keep_all(self, records: Sequence[Override | Finding]) -> bool:
        """Keep several records that are no readings, all or none of them."""
        build_id = self._core.current
        return self._kept_lines(build_id, lambda: self._core.workshop.keep_records(build_id, records))

    def repaired(self, step: Step, words: str) -> bool:
        """Something on the board that a step is about was repaired: what was read of it before counts no more."""
        return self.keep(Override(repaired_subject(step.about.channel), words, self._core.now()))

    def note(self, kind: str, words: str, subject: str = "note") -> bool:
        """Keep a diary line that is no reading."""
        return self.keep_entry(self._core.current, DiaryEntry(self._core.now(), kind, subject, words))

    def correct(self, entry: DiaryEntry, words: str) -> bool:
        """Add a correction to a line, which stays as it is."""
        of = " ".join((entry.words or entry.kind).split())[:MOST_QUOTED]
        when = f"{entry.at.astimezone():%Y-%m-%d %H:%M}"
        return self.note("note", f"Correction to {when}, “{of}”: {words}", of_line(entry))

    def moments(self, first: int = 0) -> list[Moment]:
        """When each line of the current build's diary was written; none (and ``trouble``) where it cannot be read."""
        try:
            return self._core.workshop.moments(self._core.current, first)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return []

    def keep_entry(self, build_id: int, entry: DiaryEntry) -> bool:
        """Keep a diary line of a build, whichever it is; False (and ``trouble``) where it could not be."""
        return self._kept_line(build_id, lambda: self._core.workshop.keep_entry(build_id, entry))

    def _kept_line(self, build_id: int, keep: Callable[[], DiaryEntry]) -> bool:
        return self._kept_lines(build_id, lambda: [keep()])

    def _kept_lines(self, build_id: int, keep: Callable[[], list[DiaryEntry]]) -> bool:
        lines: list[DiaryEntry] = []
        if not self._core.attempt(lambda: lines.extend(keep())):
            return False
        # What was just kept is known: the diary need not be read again for it.
        for entry in lines if build_id == self._core.current else []:
            record = record_of(entry)
            self.diary_size = (self.diary_size[0] + 1, self.diary_size[1] + (entry.reading is not None))
            if record is not None:
                before, self.book = self.book, self.book.adding(record)
                for listener in self.grew:
                    listener(before, record)
        self._core.tell.records_changed()
        return True

    def reading(self, subject: str, conditions: Conditions | None = None) -> Reading | None:
        """The latest reading of a subject; the latest that counts under these conditions where they are given."""
        record = self.book.last(subject) if conditions is None else self.book.counting(subject, conditions)
        return record if isinstance(record, Reading) else None

    def readings_of(self, subjects: Sequence[str]) -> list[Reading]:
        """All readings of some subjects that this build's diary holds, in the order they were kept."""
        try:
            return self._core.workshop.readings_of(self._core.stored.id, subjects)
        except WorkshopError as error:
            self._core.tell.trouble(str(error))
            return []
