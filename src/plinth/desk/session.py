"""What the window works on: the open workshop, the build in hand, its prediction, its records.

Widgets ask the session to do things and listen to its signals; none of them writes to the workshop itself.
"""

import contextlib
import dataclasses
import datetime as dt
import secrets
from collections.abc import Callable, Sequence
from pathlib import Path

import pydantic
from PySide6.QtCore import QObject, Signal

from plinth.builds.build import Build
from plinth.builds.fields import in_sentence, part_fields, value_at
from plinth.builds.files import BuildFileError, read_build
from plinth.builds.files import words_of as words_of_invalid
from plinth.builds.history import History
from plinth.builds.instruments import BenchKit
from plinth.builds.makeup import Makeup, makeup_of, remade
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.builds.stations import part_in, stations, with_part
from plinth.demo.workshop import INVENTED
from plinth.desk.jobs import Jobs, words_of
from plinth.desk.solver import Answer, LoadAnswer, Request, answer, answer_loads
from plinth.guide.interlock import Power, held_back
from plinth.guide.progress import StepStand, stands
from plinth.guide.schools.limited_supply import counting_values, plan_steps
from plinth.judge.margin import Margin
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.solve import Prediction, idle_rail_v
from plinth.predict.supply_views import SupplyView, supply_views
from plinth.record.book import RecordBook
from plinth.record.clock import now
from plinth.record.conditions import Conditions
from plinth.record.diary import DiaryEntry, record_of
from plinth.record.reading import Reading, Record
from plinth.record.subject import Kind, Subject, read_subject
from plinth.report.file_out import write_whole
from plinth.workshop.errors import DamagedWorkshopError, WorkshopError
from plinth.workshop.kept_builds import LockedBuild, StoredBuild
from plinth.workshop.store import Workshop


@dataclasses.dataclass(frozen=True)
class PlanState:
    """What undo and redo move through."""

    build: Build
    situation: Situation


@dataclasses.dataclass(frozen=True)
class Stopped:
    """What was stopped, and when."""

    power: Power
    at: dt.datetime


class BenchSession(QObject):
    """One open workshop. ``live`` arguments mean that a slider is still moving."""

    build_switched = Signal()
    plan_changed = Signal()
    predicted = Signal()
    loads_predicted = Signal()
    records_changed = Signal()
    kept = Signal(object)
    trouble = Signal(str)
    refused = Signal(str)
    station_chosen = Signal(str)
    power_changed = Signal()
    fault = Signal(str, object)

    def __init__(self, workshop: Workshop, *, threaded: bool = True) -> None:
        super().__init__()
        self.workshop = workshop
        self.kit: BenchKit = workshop.bench()
        self.demo = bool((workshop.setting("workshop") or {}).get("demo"))
        self.jobs = Jobs(self, threaded=threaded)
        self.jobs.failed.connect(self._job_failed)
        self.prediction: Prediction | None = None
        self.margins: tuple[Margin, ...] = ()
        self.load_powers: dict[str, Figure] = {}
        self.claimed_powers: dict[str, Figure] = {}
        self.problem = ""
        self.station = "rails"
        self._supply = ""
        self.records = RecordBook()
        self.diary_size = (0, 0)
        self._solid: Prediction | None = None
        self._shelves: dict[type[Part], list[Part]] = {}
        self._stands: dict[str, tuple[Build, RecordBook, tuple[StepStand, ...]]] = {}
        self._histories: dict[int, History[PlanState]] = {}
        self._unsaved: tuple[StoredBuild, str | None] | None = None
        self._stored: list[StoredBuild] = workshop.builds()
        self._live: PlanState | None = None
        self._asked = self._shown = 0
        self._power = self._find_power()
        self._stopped: Stopped | None = None
        last = (workshop.setting("desk") or {}).get("build")
        ids = [one.id for one in self._stored]
        if not ids:
            raise DamagedWorkshopError(workshop.path, [one.why for one in workshop.locked])
        self._current = last if last in ids else ids[0]
        self._load()

    # The build in hand

    @property
    def stored(self) -> StoredBuild:
        """The build in hand as last kept."""
        return next(one for one in self._stored if one.id == self._current)

    @property
    def builds(self) -> list[StoredBuild]:
        """All builds of this workshop."""
        return list(self._stored)

    @property
    def build(self) -> Build:
        """The build in hand."""
        return self._plan.build

    @property
    def situation(self) -> Situation:
        """Its situation, with a moving slider's value in it."""
        return self._plan.situation

    @property
    def _plan(self) -> PlanState:
        return self._live or self._history.state

    @property
    def _history(self) -> History[PlanState]:
        return self._histories[self._current]

    def _load(self) -> None:
        stored = self.stored
        if stored.id not in self._histories:
            self._histories[stored.id] = History(PlanState(stored.build, stored.situation))
        # Nothing of another build may stand under this one's name while its own figures are computed.
        self._live, self._solid = None, None
        self.prediction, self.margins, self.problem = None, (), ""
        self.load_powers, self.claimed_powers = {}, {}
        self._read_diary()
        self._solve(live=False)

    def _read_diary(self) -> None:
        try:
            self.diary_size = self.workshop.diary_size(self._current)
            self.records = RecordBook(self.workshop.latest_records(self._current))
        except WorkshopError as error:
            # What cannot be read counts for nothing: every gate is closed until it can.
            self.diary_size, self.records = (0, 0), RecordBook()
            self.trouble.emit(str(error))

    @property
    def locked(self) -> tuple[LockedBuild, ...]:
        """Builds of this workshop that cannot be read."""
        return self.workshop.locked

    @property
    def notices(self) -> tuple[str, ...]:
        """What was set aside at opening, and which builds are locked and why."""
        locked = (f"{one.why}. This build is locked; the others are not." for one in self.workshop.locked)
        return (*self.workshop.notices, *locked)

    def diary_lines(self, first: int = 0, most: int = -1) -> list[DiaryEntry]:
        """Lines of the diary of the build in hand; none (and ``trouble``) where they cannot be read just now."""
        try:
            return self.workshop.diary(self._current, first, most)
        except WorkshopError as error:
            self.trouble.emit(str(error))
            return []

    def switch(self, build_id: int) -> None:
        """Take another build in hand."""
        if build_id == self._current:
            return
        self._save_again()
        self._current = build_id
        self._try(lambda: self.workshop.set_setting("desk", {"build": build_id}))
        self._load()
        self.build_switched.emit()
        self.plan_changed.emit()
        self.records_changed.emit()

    def add_build(self, name: str, *, copy: bool) -> bool:
        """A new build of that name: a copy of this one with its situation, or the same parts and a fresh page."""
        build = self.build.model_copy(update={"name": name, "note": self.build.note if copy else ""})
        situation = self.situation if copy else Situation()
        words = (
            f"{name}: copied from {self.build.name}." if copy else f"{name}: begun with the parts of {self.build.name}."
        )
        return self._add(build, situation, words)

    def _add(self, build: Build, situation: Situation, words: str) -> bool:
        made: list[StoredBuild] = []
        if not self._try(lambda: made.append(self.workshop.add_build(build, situation, words))):
            return False
        self._stored = self.workshop.builds()
        self.switch(made[0].id)
        return True

    def take_in(self, path: Path) -> str:
        """A new build from a build file; a sentence where that cannot be, else empty."""
        try:
            build = read_build(path)
        except BuildFileError as error:
            return str(error)
        names = {one.build.name for one in self._stored}
        name, number = build.name, 1
        while name in names:
            number += 1
            name = f"{build.name}, {number}"
        named = build.model_copy(update={"name": name})
        return "" if self._add(named, Situation(), f"{name}: taken in from {path.name}.") else "It could not be kept."

    def write_out(self, path: Path) -> str:
        """This build as a build file; a sentence where that cannot be, else empty."""
        try:
            write_whole(path, self.build.model_dump_json(indent=2, exclude_none=True) + "\n")
        except OSError as error:
            return f"{path} could not be written ({error.strerror or error}). Choose another folder."
        return ""

    def set_kit(self, kit: BenchKit) -> bool:
        """Keep the instruments of this workshop."""
        if not self._try(lambda: self.workshop.set_setting("bench", kit.model_dump(mode="json"))):
            return False
        self.kit = kit
        self.records_changed.emit()
        return True

    # Planning

    def swap(self, slot: str, part: Part) -> None:
        """Put another part into a station."""
        before = part_in(self.build, slot)
        if part == before:
            return
        words = f"{before.name} exchanged for {part.name}."
        # Another thing stands there from now on, even where it is of the same make: readings of the old one do not
        # count for it.
        self._place(slot, part, words, secrets.token_hex(4))

    def fit_another(self, slot: str) -> None:
        """Another thing of the same make was fitted: nothing changes but that readings of the old one do not count."""
        part = part_in(self.build, slot)
        self._place(slot, part, f"Another {part.name} fitted in place of the one before.", secrets.token_hex(4))

    def remake(self, makeup: Makeup) -> str:
        """Make the build another way; a sentence where that does not go together or another build has the name."""
        before = self.build
        taken = {one.build.name.lower() for one in self._stored if one.id != self._current}
        if makeup.name.lower() in taken:
            return f"Found {makeup.name!r}, which this workshop has already: add a word to it."
        try:
            build = remade(before, makeup)
        except pydantic.ValidationError as error:
            reason = words_of_invalid(error, "")[0].removeprefix(": the build: ").removeprefix(": ")
            return f"Not kept: {reason}."
        if build == before:
            return ""
        if build.module != before.module:
            build = build.with_mark("module", secrets.token_hex(4))
        if makeup_of(build).source != makeup_of(before).source:
            build = build.with_mark("supply.source", secrets.token_hex(4))
        said = []
        if build.name != before.name:
            said.append(f"{before.name} is called {build.name} from now on.")
        if build != before.model_copy(update={"name": build.name}):
            said.append(f"Made another way: {build.module.name} on {makeup.source.name}, {', '.join(build.channels)}.")
        words = " ".join(said)
        self._change(PlanState(build, self.situation), words, words)
        self.build_switched.emit()
        return ""

    @property
    def invented(self) -> tuple[int, int]:
        """How many parts of this build are still of the invented shelf it was begun with, and how many it has."""
        parts = [part_in(self.build, slot) for one in stations(self.build) for slot in one.slots]
        return sum(part in INVENTED for part in parts), len(parts)

    def restate(self, slot: str, part: Part) -> None:
        """Change what is stated of the part in a station."""
        before = part_in(self.build, slot)
        changed = [
            in_sentence(field.words)
            for field in part_fields(part)
            if value_at(part, field.path) != value_at(before, field.path)
        ]
        words = f"{part.name}: {', '.join(changed)} changed."
        self._place(slot, part, words)

    def _place(self, slot: str, part: Part, words: str, mark: str = "") -> None:
        if not mark and part == part_in(self.build, slot):
            return
        try:
            build = with_part(self.build, slot, part, changed=not mark)
            build = build.with_mark(slot, mark) if mark else build
        except pydantic.ValidationError as error:
            # Parts that are sound alone may not go together; the build says why.
            reason = words_of_invalid(error, "")[0].removeprefix(": the build: ").removeprefix(": ")
            self.refused.emit(f"{part.name} was not changed: {reason}.")
            return
        self._change(PlanState(build, self._dropping_load(slot)), words, words)

    def put_on_shelf(self, part: Part) -> None:
        """Keep a part for other builds."""
        if self._try(lambda: self.workshop.add_parts((part,))):
            self._shelves.pop(type(part), None)
            self.plan_changed.emit()

    def shelf(self, kind: type[Part]) -> list[Part]:
        """The parts of one kind on the shelf; read from the file once, as it is asked for at every slider step."""
        if kind not in self._shelves:
            try:
                self._shelves[kind] = self.workshop.shelf(kind)
            except WorkshopError as error:
                self.trouble.emit(str(error))
                return []
        return self._shelves[kind]

    def _dropping_load(self, slot: str) -> Situation:
        """Choosing another load puts the what-if load back, or the choice would not be seen."""
        return self.situation.model_copy(update={"load_ohm": None}) if slot == "load" else self.situation

    def what_if(self, *, live: bool, **changes: object) -> None:
        """Set fields of the situation; while ``live`` it is shown but not yet a step of undo."""
        situation = Situation.model_validate({**self.situation.model_dump(), **changes})
        if live:
            self._live = PlanState(self._history.state.build, situation)
            self.plan_changed.emit()
            self._solve(live=True)
            return
        words = ", ".join(changes).replace("_", " ")
        self._change(PlanState(self._history.state.build, situation), f"what if: {words}", None)

    def reset_what_if(self) -> None:
        """The situation as the build has it."""
        self._change(PlanState(self.build, Situation()), "what if: all back", None)

    def _change(self, state: PlanState, words: str, diary_words: str | None) -> None:
        self._live = None
        if self._history.change(state, words):
            self._save(diary_words)
        self.plan_changed.emit()
        self._solve(live=False)

    def undo(self) -> None:
        """One step back."""
        self._step(self._history.undo(), "Undone")

    def redo(self) -> None:
        """One step forward."""
        self._step(self._history.redo(), "Done again")

    def _step(self, words: str | None, how: str) -> None:
        if words is None:
            return
        self._live = None
        self._save(f"{how}: {words}" if not words.startswith("what if") else None)
        self.plan_changed.emit()
        self._solve(live=False)

    @property
    def can_undo(self) -> bool:
        """Whether there is a step back."""
        return self._history.can_undo

    @property
    def can_redo(self) -> bool:
        """Whether there is a step forward."""
        return self._history.can_redo

    def _save(self, diary_words: str | None) -> None:
        state = self._history.state
        stored = StoredBuild(self._current, state.build, state.situation)
        if not self._try(lambda: self.workshop.save_build(stored, diary_words)):
            # What is on the screen is kept by the next word that is: nobody has to make the change again.
            self._unsaved = (stored, diary_words or (self._unsaved[1] if self._unsaved else None))
            return
        self._unsaved = None
        self._stored = [stored if one.id == stored.id else one for one in self._stored]
        if diary_words:
            self.diary_size = (self.diary_size[0] + 1, self.diary_size[1])
            self.records_changed.emit()

    def _save_again(self) -> None:
        """Keep a change that could not be kept before."""
        if self._unsaved is not None:
            stored, words = self._unsaved
            with contextlib.suppress(WorkshopError):
                self.workshop.save_build(stored, words)
                self._unsaved = None
                self._stored = [stored if one.id == stored.id else one for one in self._stored]
                if stored.id == self._current:
                    self._read_diary()

    # Predicting

    def _solve(self, *, live: bool) -> None:
        self._asked += 1
        request = Request(self._asked, self.build, self.situation, live and self._solid is not None, self._solid)
        self.jobs.ask("plan", lambda _task: answer(request), self._take, lambda error: self._cannot(request, error))

    def _cannot(self, request: Request, error: Exception) -> None:
        # Under new sliders no figure of the old ones may stand.
        self._take(Answer(request, None, (), words_of(error)))
        self._job_failed("plan", error)

    def _job_failed(self, name: str, error: Exception) -> None:
        """A job died of a fault of Plinth's own: said, and written down for whoever mends it."""
        if not isinstance(error, PhysicsError):
            self.fault.emit(name, error)

    def _take(self, got: object) -> None:
        assert isinstance(got, Answer)
        # While a slider moves, an answer for a moment ago is shown too: dropping it would freeze the picture.
        if got.request.build is not self.build or got.request.number <= self._shown:
            return
        self._shown = got.request.number
        self.prediction, self.margins, self.problem = got.prediction, got.margins, got.problem
        if not got.request.live:
            self._solid = got.prediction
        self.predicted.emit()
        if not got.request.live and got.prediction is not None:
            # What stands in the first line is shown first; a slider that moves meanwhile goes before the rest.
            self.jobs.ask(
                "loads", lambda _task: answer_loads(got.request, lambda: self.jobs.waits("plan")), self._take_loads
            )
        elif got.prediction is None:
            self.load_powers, self.claimed_powers = {}, {}

    def _take_loads(self, got: object) -> None:
        if isinstance(got, LoadAnswer) and got.request.build is self.build:
            self.load_powers, self.claimed_powers = got.powers, got.claimed
            self.loads_predicted.emit()

    @property
    def supplies(self) -> tuple[SupplyView, ...]:
        """The supplies of the build in hand; none while it cannot run."""
        return () if self.prediction is None else supply_views(self.prediction.solution)

    @property
    def supply_shown(self) -> SupplyView | None:
        """The supply that band and plots show: the chosen one, else the first."""
        views = self.supplies
        return next((view for view in views if view.name == self._supply), views[0] if views else None)

    def choose_supply(self, name: str) -> None:
        """Show another supply."""
        self._supply = name
        self.predicted.emit()

    # Records

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
        self.records_changed.emit()
        return True

    @property
    def power(self) -> Power | None:
        """What is under power now, in whichever build; None while everything is off."""
        return self._power

    def switch_on(self, channel: str, words: str) -> bool:
        """Write down that the bench supply of a channel of this build was switched on."""
        entry = DiaryEntry(now(), "power_on", Subject(Kind.POWER, channel).text, words)
        if not self._keep_entry(self._current, entry):
            return False
        self._power, self._stopped = Power(self._current, self.build.name, channel, entry.at), None
        self.power_changed.emit()
        return True

    def switch_off(self) -> None:
        """Write down that it was stopped, in the diary of the build that was on. On screen it is off at once."""
        power = self._power
        if power is None:
            return
        at = now()
        self._power, self._stopped = None, Stopped(power, at)
        self._keep_entry(
            power.build_id, DiaryEntry(at, "power_off", Subject(Kind.POWER, power.channel).text, "Stopped.")
        )
        self.power_changed.emit()

    @property
    def stopped(self) -> Stopped | None:
        """The last stop since this window was opened, until something is switched on again."""
        return self._stopped

    def put_away(self) -> None:
        """The discharge was measured: the count-down is over."""
        self._stopped = None
        self.power_changed.emit()

    def _find_power(self) -> Power | None:
        """Power that was on when Plinth was last closed (or killed)."""
        names = {one.id: one.build.name for one in self._stored}
        for build_id, entry in self.workshop.last_of(("power_on", "power_off")):
            if entry.kind == "power_on" and build_id in names:
                channel = read_subject(entry.subject).channel
                return Power(build_id, names[build_id], channel, entry.at, found=True)
        return None

    def build_of(self, build_id: int) -> Build:
        """The build of that number, as it is now."""
        return self.build if build_id == self._current else next(s.build for s in self._stored if s.id == build_id)

    def idle_rail_v(self, build: Build | None = None) -> float | None:
        """A build's rail at idle and nominal mains, V: what "full rail" means. None where no module runs on it."""
        build = build or self._history.state.build
        try:
            rail = idle_rail_v(build)
        except PhysicsError:
            return None
        return rail if rail >= build.module.v_rail_min else None

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
            values = counting_values(self.build, channel, idle, self.records)
            found = stands(plan_steps(self.build, channel, idle, values), self.records)
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
            self.trouble.emit(str(error))
            return []

    def choose_station(self, key: str) -> None:
        """The page speaks about this station."""
        self.station = key
        self.station_chosen.emit(key)

    def _try(self, write: Callable[[], object]) -> bool:
        self._save_again()
        try:
            write()
        except WorkshopError as error:
            self.trouble.emit(str(error))
            return False
        if self._unsaved is None:
            self.kept.emit(dt.datetime.now().astimezone())
        return True

    def close(self) -> None:
        """Stop computing and close the workshop."""
        self.jobs.end()
        self._save_again()
        self.workshop.close()
