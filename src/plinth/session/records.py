"""What was observed of the build in hand: kept, found again, and where its first power stands."""

from collections.abc import Callable, Sequence

from plinth.builds.build import Build
from plinth.guide.interlock import held_back
from plinth.guide.progress import StepStand
from plinth.guide.school import School
from plinth.guide.schools.every_school import SCHOOLS
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.record.clock import now
from plinth.record.conditions import Conditions
from plinth.record.diary import DiaryEntry, record_of
from plinth.record.reading import Reading, Record
from plinth.session.announcing import Telling
from plinth.session.core import Core
from plinth.session.runner import Runner
from plinth.workshop.errors import WorkshopError
from plinth.workshop.kept_versions import Version
from plinth.workshop.store import Workshop


class Records(Core):
    """Records of the build in hand."""

    def __init__(self, workshop: Workshop, jobs: Runner, tell: Telling) -> None:
        super().__init__(workshop, jobs, tell)
        self._stands: dict[str, tuple[Build, RecordBook, tuple[StepStand, ...]]] = {}

    def diary_lines(self, first: int = 0, most: int = -1) -> list[DiaryEntry]:
        """Lines of the diary of the build in hand; none (and ``trouble``) where they cannot be read just now."""
        try:
            return self.workshop.diary_by_version(self._current, first, most)
        except WorkshopError as error:
            self.tell.trouble(str(error))
            return []

    def versions(self) -> list[Version]:
        """The versions of the build in hand, oldest first; none (and ``trouble``) where they cannot be read now."""
        try:
            return self.workshop.versions(self._current)
        except WorkshopError as error:
            self.tell.trouble(str(error))
            return []

    def keep(self, record: Record) -> bool:
        """Keep a record. True only once it is on disk; else ``trouble`` has said why and nothing is lost on screen."""
        build_id = self._current
        return self._kept_line(build_id, lambda: self.workshop.keep_record(build_id, record))

    def note(self, kind: str, words: str, subject: str = "note") -> bool:
        """Keep a diary line that is no reading."""
        return self._keep_entry(self._current, DiaryEntry(now(), kind, subject, words))

    def _keep_entry(self, build_id: int, entry: DiaryEntry) -> bool:
        return self._kept_line(build_id, lambda: self.workshop.keep_entry(build_id, entry))

    def _kept_line(self, build_id: int, keep: Callable[[], DiaryEntry]) -> bool:
        lines: list[DiaryEntry] = []
        if not self._try(lambda: lines.append(keep())):
            return False
        if build_id == self._current:
            # What was just kept is known: the diary need not be read again for it.
            entry, record = lines[0], record_of(lines[0])
            self.diary_size = (self.diary_size[0] + 1, self.diary_size[1] + (entry.reading is not None))
            if record is not None:
                self.records = self.records.adding(record)
        self.tell.records_changed()
        return True

    def idle_rail_v(self, build: Build | None = None) -> float | None:
        """A build's rail at idle and nominal mains, V: what "full rail" means. None where no module runs on it."""
        build = build or self._history.state.build
        try:
            rail = idle_rail_v(build)
        except PhysicsError:
            return None
        return rail if rail >= build.module.v_rail_min else None

    @property
    def school(self) -> School:
        """The school by which the build in hand is brought up."""
        return SCHOOLS[0]

    def bringup(self, channel: str) -> tuple[StepStand, ...]:
        """Where the bring-up of a channel stands; empty where the build cannot run.

        The very same answer while neither build nor records change: a slider asks for it at every step.
        """
        known = self._stands.get(channel)
        if known is not None and known[0] is self.build and known[1] is self.records:
            return known[2]
        idle = self.idle_rail_v()
        found: tuple[StepStand, ...] = ()
        if idle is not None:
            found = self.school.stands(self.build, channel, idle, self.records)
        self._stands[channel] = (self.build, self.records, found)
        return found

    def brought_up(self, channel: str) -> bool:
        """Whether the loudspeaker permission of a channel is given (or passed over in writing)."""
        steps = self.bringup(channel)
        return bool(steps) and steps[-1].settled

    def held_back(self, channels: Sequence[str]) -> tuple[str, ...]:
        """Those of ``channels`` that may not be measured yet."""
        return held_back(self.build, channels, self.brought_up, self.records)

    def reading(self, subject: str, conditions: Conditions | None = None) -> Reading | None:
        """The latest reading of a subject; the latest that counts under these conditions where they are given."""
        record = self.records.last(subject) if conditions is None else self.records.counting(subject, conditions)
        return record if isinstance(record, Reading) else None

    def readings_of(self, subjects: Sequence[str]) -> list[Reading]:
        """All readings of some subjects that this build's diary holds, in the order they were kept."""
        try:
            return self.workshop.readings_of(self.stored.id, subjects)
        except WorkshopError as error:
            self.tell.trouble(str(error))
            return []
