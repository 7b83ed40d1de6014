"""By which school the current build is brought up, and where that stands."""

from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.guide.bleeding import BleedDown
from plinth.guide.causes import Causes, causes, fault_rails
from plinth.guide.equipment import NOTHING, Equipment, read_equipment
from plinth.guide.fault_bench import bench_of
from plinth.guide.inspection.check import Inspected, held_by, inspected
from plinth.guide.inspection.checks import checks_of
from plinth.guide.interlock import held_back
from plinth.guide.part_tests.part_test import PartTest, measured
from plinth.guide.part_tests.tests_of import part_tests_of
from plinth.guide.precomputed import NO_RAILS, Precomputed
from plinth.guide.progress import REPAIRED, StepStand, settling
from plinth.guide.school import School, to_loudspeaker
from plinth.guide.schools.every_school import SCHOOLS, school_at_first
from plinth.guide.schools.reforming import SCHOOL as REFORMING
from plinth.guide.step import Step
from plinth.guide.trimmer_state import state_of, step_as_read
from plinth.guide.watching import Watched, watched
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.reforming import Reforming
from plinth.predict.solve import idle_rail_v
from plinth.record.book import RecordBook
from plinth.record.reading import Reading, Record
from plinth.record.subject import Kind, read_subject
from plinth.session.core import Core
from plinth.session.records import Records
from plinth.session.runner import words_of
from plinth.units.bounds import Bound
from plinth.units.errors import QuantityError
from plinth.workshop.kept_settings import EQUIPMENT, SCHOOL_OF, by_name


class BringUp:
    """First power of the current build."""

    def __init__(self, core: Core, records: Records) -> None:
        self._core, self._records = core, records
        records.grew.append(self._records_grew)
        self._stands: dict[str, tuple[Build, RecordBook, School, tuple[StepStand, ...]]] = {}
        self._schools: dict[str, str] = core.workshop.setting_as(SCHOOL_OF, by_name)
        self._equipment: dict[str, str] = core.workshop.setting_as(EQUIPMENT, by_name)
        self._equipment_read: tuple[str, Build, Equipment] | None = None
        self._inspected: tuple[Build, RecordBook, tuple[Inspected, ...]] | None = None
        self._part_tests: tuple[Build, tuple[PartTest, ...]] | None = None
        # What was last asked to be precomputed, and what is.
        self._school_asked: tuple[str, Build, Equipment] | None = None
        self._known: tuple[tuple[str, Build, Equipment], Precomputed] | None = None
        self._not_precomputed = ""

    def idle_rail_v(self, build: Build | None = None) -> float | None:
        """A build's rail at idle and nominal mains, V: what "full rail" means. None where no module runs on it."""
        build = build or self._core.history.state.build
        try:
            rail = idle_rail_v(build)
        except PhysicsError:
            return None
        return rail if rail >= build.module.v_rail_min else None

    @property
    def schools(self) -> list[tuple[School, str]]:
        """All schools, each with why the current build cannot be brought up so (empty where it can)."""
        return [(school, school.why_not(self._core.build)) for school in SCHOOLS]

    @property
    def school(self) -> School:
        """The school by which the current build is brought up."""
        return self._school_of(self._core.current)

    def _school_of(self, build_id: int) -> School:
        chosen, build = self._schools.get(str(build_id)), self._core.build_of(build_id)
        suitable = (school for school in SCHOOLS if school.key == chosen and not school.why_not(build))
        return next(suitable, None) or school_at_first(build, self._core.now().year, SCHOOLS)

    def choose_school(self, key: str) -> bool:
        """Bring the current build up by another school from now on. What both ask for need not be read again."""
        schools = {**self._schools, str(self._core.current): key}
        if not self._core.attempt(lambda: self._core.workshop.set_setting(SCHOOL_OF, dict(schools))):
            return False
        self._schools = schools
        self._core.tell.records_changed()
        return True

    @property
    def equipment(self) -> Equipment:
        """What there is to bring the current build up with, besides what suits it best."""
        text, known = self.equipment_text, self._equipment_read
        if known is None or known[0] != text or known[1] is not self._core.build:
            try:
                read = read_equipment(text, self._core.build)
            except QuantityError:
                # It went with the build as it was when it was typed; the field still shows it.
                read = NOTHING
            known = self._equipment_read = (text, self._core.build, read)
        return known[2]

    @property
    def equipment_text(self) -> str:
        """As it was typed."""
        return self._equipment.get(str(self._core.current), "")

    def set_equipment(self, text: str) -> str:
        """Keep the equipment there is; a sentence where it is not understood, and nothing is changed then."""
        try:
            read_equipment(text, self._core.build)
        except QuantityError as error:
            return f"{str(error)[0].upper()}{str(error)[1:]}."
        kept = {**self._equipment, str(self._core.current): text.strip()}
        if not self._core.attempt(lambda: self._core.workshop.set_setting(EQUIPMENT, dict(kept))):
            return "It could not be kept."
        self._equipment = kept
        self.forget()
        self._core.tell.records_changed()
        return ""

    def forget(self) -> None:
        """Look anew at where each channel stands when it is next asked for."""
        self._stands.clear()

    def bleed_down(self, build_id: int) -> BleedDown | None:
        """The computed discharge of what a build's school has under power; None where the build cannot run."""
        build = self._core.build_of(build_id)
        idle = self.idle_rail_v(build)
        return None if idle is None else self._school_of(build_id).bleed_down(build, idle)

    def stands(self, channel: str) -> tuple[StepStand, ...]:
        """Where the bring-up of a channel stands; empty where the build cannot run, or before its windows are known.

        The very same answer while neither build nor records change: a slider asks for it at every step.
        """
        known, school = self._stands.get(channel), self.school
        if known is not None and known[0] is self._core.build and known[1] is self._records.book and known[2] is school:
            return known[3]
        if not self._is_precomputed(school):
            return ()
        idle = self.idle_rail_v()
        all_stands: tuple[StepStand, ...] = ()
        if idle is not None:
            all_stands = school.stands(
                self._core.build,
                channel,
                idle,
                self._records.book,
                self.held_by_inspection,
                self._known_for(school) or self.equipment,
            )
        self._stands[channel] = (self._core.build, self._records.book, school, all_stands)
        return all_stands

    def _records_grew(self, before: RecordBook, record: Record) -> None:
        """Channels that do not ask for what was just kept stand where they stood."""
        if read_subject(record.subject).kind is Kind.INSPECT:
            # An inspection may hold any of them.
            return
        if read_subject(record.subject).what == REPAIRED:
            return
        for channel, (build, records, school, stands) in self._stands.items():
            if records is before and all(stand.step.subject != record.subject for stand in stands):
                self._stands[channel] = (build, self._records.book, school, stands)

    def causes(self, channel: str) -> Causes | None:
        """What may be behind the readings of a channel; None while none lies outside its window."""
        stands, idle = self.stands(channel), self.idle_rail_v()
        if idle is None:
            return None
        read = {
            stand.step.key: stand.record
            for stand in stands
            if isinstance(stand.record, Reading)
            and stand.record.bound is Bound.NONE
            and not settling(stand.step, stand.record)
        }
        steps = [
            step_as_read(stand.step, read[stand.step.key]) if stand.step.key in read else stand.step for stand in stands
        ]
        at_least = any(state_of(reading) == "least" for reading in read.values())
        known = self._known_for(self.school)
        rails = NO_RAILS if known is None else known.fault_rails
        bench = bench_of(self._core.build, steps, idle, trimmer_at_least=at_least, known=rails)
        return causes(bench, steps, {key: reading.value for key, reading in read.items()})

    def watched(self, step: Step) -> Watched | None:
        """What the readings of a step over time say; None where it is not watched, or was not read yet."""
        return watched(step, self._records.book)

    def inspection(self) -> tuple[Inspected, ...]:
        """The checks of the current build, and what was found at each; the very same while neither changes."""
        known = self._inspected
        if known is None or known[0] is not self._core.build or known[1] is not self._records.book:
            known = self._inspected = (
                self._core.build,
                self._records.book,
                inspected(checks_of(self._core.build), self._records.book),
            )
        return known[2]

    @property
    def held_by_inspection(self) -> str:
        """Why first power by the chosen school waits for the inspection; empty where it does not."""
        return held_by(self.inspection(), reforming=self.school.reforms)

    def part_tests(self) -> tuple[PartTest, ...]:
        """The parts of the current build that are worth measuring; the very same while it does not change."""
        known = self._part_tests
        if known is None or known[0] is not self._core.build:
            known = self._part_tests = (self._core.build, part_tests_of(self._core.build))
        return known[1]

    def pieces(self, test: PartTest) -> dict[int, Reading]:
        """What was measured of a part, by the number of the piece."""
        return measured(test, self._records.book)

    @property
    def waits(self) -> str:
        """Why there are no steps yet: they are being computed, or could not be; empty else."""
        if self._is_precomputed(self.school):
            return ""
        if self._only_tried:
            return "The steps are computed once this part is taken."
        return self._not_precomputed or "Computing what is to be expected at each step …"

    def reforming_plan(self) -> Reforming | None:
        """The plan of its reservoirs' re-forming, where the school is that one and it is known by now."""
        known = self._known_for(self.school)
        return (
            known.reforming(self._core.now().year) if known is not None and self.school.key == REFORMING.key else None
        )

    @property
    def steps_known(self) -> bool:
        """Whether the steps of the current build can be told at once; asks for nothing."""
        school = self.school
        return school.precompute is None or self._known_for(school) is not None

    @property
    def _only_tried(self) -> bool:
        return self._core.build is not self._core.history.state.build

    def _known_for(self, school: School) -> Precomputed | None:
        """What was computed for the current build by that school; None where it was not yet."""
        asked = school.key, self._core.build, self.equipment
        return self._known[1] if self._known is not None and self._known[0] == asked else None

    def _is_precomputed(self, school: School) -> bool:
        build, equipment = self._core.build, self.equipment
        asked = school.key, build, equipment
        if school.precompute is None or self._known_for(school) is not None:
            return True
        # Whoever looks along the shelf waits for pictures, not for the steps of what will not be built.
        if not self._only_tried and self._school_asked != asked:
            self._school_asked, self._not_precomputed = asked, ""
            self._core.jobs.ask(
                "school",
                lambda _task: _precompute(school, build, equipment),
                lambda known: self._take_precomputed(asked, known),
                self._not_to_precompute,
            )
        return self._known_for(school) is not None

    def _take_precomputed(self, asked: tuple[str, Build, Equipment], known: object) -> None:
        assert isinstance(known, Precomputed), "that is what was asked for"
        self._known = asked, known
        self._core.tell.records_changed()

    def _not_to_precompute(self, error: Exception) -> None:
        text = str(error)
        self._not_precomputed = f"{text[0].upper()}{text[1:]}." if isinstance(error, PhysicsError) else words_of(error)
        self._core.tell.records_changed()

    def brought_up(self, channel: str) -> bool:
        """Whether the loudspeaker permission of a channel is given (or passed over in writing)."""
        steps = to_loudspeaker(self.stands(channel))
        return bool(steps) and steps[-1].settled

    def held_back(self, channels: Sequence[str]) -> tuple[str, ...]:
        """Those of ``channels`` that may not be measured yet."""
        return held_back(self._core.build, channels, self.brought_up, self._records.book)


def _precompute(school: School, build: Build, equipment: Equipment) -> Precomputed:
    """What a school's windows need, and what its rails would be with each fault, so that causes are ranked at once."""
    assert school.precompute is not None, "asked only then"
    known = Precomputed(build, equipment)
    school.precompute(known)
    if school.rails:
        idle = idle_rail_v(build)
        steps = school.steps(build, build.channels[0], idle, {}, known)
        known.fault_rails = fault_rails(bench_of(build, steps, idle), steps)
    return known
