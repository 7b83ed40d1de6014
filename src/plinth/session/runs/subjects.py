"""What a run goes through: a sheet, the clipping matrix, a response, the steps of a school, each asked in one way."""

import dataclasses
from typing import Protocol

import numpy as np

from plinth.bench import test_conditions, test_settings
from plinth.bench.heat_run import START
from plinth.bench.signal_level import cool_level
from plinth.builds.build import Build
from plinth.guide.fault_bench import bench_of
from plinth.guide.faults import FAULTS
from plinth.guide.given_readings import sound
from plinth.guide.progress import Stand
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.record.giving import Giving
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.probe import Probe
from plinth.record.reading import Reading
from plinth.record.request import Request, Setting
from plinth.session.given import Given
from plinth.session.power_port import Feed
from plinth.session.procedure.bring_up import BringUpProcedure
from plinth.session.procedure.clip_test import ClipProcedure
from plinth.session.procedure.response_test import ResponseProcedure
from plinth.session.procedure.sheet_test import SheetProcedure
from plinth.session.procedure.taking import Procedure, Taken
from plinth.session.session import Session


class Subject(Protocol):
    """``procedure`` asks; ``powered`` whether the current reading wants power; ``extra`` what is set besides."""

    @property
    def procedure(self) -> Procedure:
        """What asks."""

    @property
    def probe(self) -> Probe | None:
        """What is read where; None: no instrument reads it."""

    @property
    def powered(self) -> bool:
        """Whether the current reading wants power."""

    @property
    def extra(self) -> tuple[Setting, ...]:
        """What is set besides what it asks for."""

    @property
    def draw(self) -> Request | None:
        """What is read beside it."""

    def take(self, given: Given, draw: Given | None) -> Taken:
        """Keep it."""

    def leave(self) -> bool:
        """Go to the next that was not read nor left; False where there is none."""

    def ready(self) -> str:
        """Do what comes before the reading; why that cannot be, else empty."""

    def after(self) -> str:
        """Why it must not go on after what was just kept; empty: it may."""

    def by_hand(self) -> Given | None:
        """What a hand would read at a simulated bench; None where it is no simulated one's."""

    @property
    def held(self) -> str:
        """Why the current one is held while others may be read; empty where it is not."""

    @property
    def stays_on(self) -> bool:
        """Whether power stays on between one reading and the next, whoever takes it."""

    @property
    def times(self) -> int:
        """How often the current one may be read before the next must come."""

    @property
    def wait_s(self) -> float:
        """Seconds to wait before it is read."""

    def waited(self) -> None:
        """The wait is over."""


class _OfATest:
    """What the tests of Measure have in common: power goes on once, for all of it."""

    def __init__(self, session: Session, procedure: Procedure) -> None:
        self._session, self._procedure = session, procedure
        self._left: set[str] = set()

    @property
    def procedure(self) -> Procedure:
        """What asks."""
        return self._procedure

    @property
    def probe(self) -> Probe | None:
        """What is read where; None: no instrument reads it."""
        request = self._procedure.request
        return None if request is None else request.probe

    @property
    def stays_on(self) -> bool:
        """A test is done once it is read."""
        return False

    @property
    def held(self) -> str:
        """Why readings are held back here."""
        return self._procedure.blocked

    @property
    def powered(self) -> bool:
        """Whether the current reading wants power."""
        return True

    @property
    def extra(self) -> tuple[Setting, ...]:
        """What is set besides what it asks for."""
        return source_settings(self._session)

    @property
    def draw(self) -> Request | None:
        """What is read beside it."""
        return None

    def take(self, given: Given, _draw: Given | None) -> Taken:
        """Keep it."""
        return self._procedure.take(given.text, given.giving)

    def ready(self) -> str:
        """Power on, written down, through whatever feeds the build."""
        power, request = self._session.power, self._procedure.request
        if power.live is not None or request is None:
            return ""
        keys = self._session.build.channel_keys or self._session.build.channels
        key = request.channel if request.channel in keys else keys[0]
        self._session.instruments.tell_hand()
        on = power.switch_on(key, f"Switched on by instruments: {request.title}.", feed_of(self._session))
        return "" if on else "It was not switched on."

    def after(self) -> str:
        """Why it must not go on after what was just kept; empty: it may."""
        return ""

    def by_hand(self) -> Given | None:
        """What a hand reads at a simulated bench; None where it is none."""
        return None

    @property
    def times(self) -> int:
        """How often the current one may be read before the next must come."""
        return 1

    @property
    def wait_s(self) -> float:
        """Seconds to wait before it is read."""
        return 0.0

    def waited(self) -> None:
        """The wait is over."""
        return


# A course is read so often, until so many readings differ by less than this, or there are enough of them.
COURSE_EVERY_S, COURSE_RESTS, COURSE_WITHIN, COURSE_MOST = 120.0, 5, 0.4, 40


class SheetSubject(_OfATest):
    """A sheet: its rows in turn; a course until it has come to rest."""

    def __init__(self, session: Session, procedure: SheetProcedure) -> None:
        super().__init__(session, procedure)
        self._sheet = procedure
        self._over = False
        self._began_s: float | None = None

    @property
    def _course(self) -> tuple[Reading, ...]:
        """What was read of the current course; nothing where the current row is none."""
        request = self._sheet.request
        if request is None or request.form != "course":
            return ()
        return tuple(self._sheet.readings.get(request.key, ()))

    @property
    def times(self) -> int:
        """A course is read until it rests."""
        request = self._sheet.request
        return COURSE_MOST if request is not None and request.form == "course" else 1

    @property
    def wait_s(self) -> float:
        """Seconds to wait before it is read."""
        return COURSE_EVERY_S if self._course else 0.0

    def take(self, given: Given, _draw: Given | None) -> Taken:
        """Keep it."""
        test, text = self._sheet, given.text
        now_s = self._session.instruments.bench_time_s
        if now_s is not None and test.request is not None and test.request.form == "course":
            # A simulated bench has a time of its own.
            text = text if self._began_s is None else f"{text.split()[0]} at {(now_s - self._began_s) / 60.0:.2f} min"
        elif test.request is not None and test.request.key == START:
            self._began_s = now_s
        taken = test.take(text, given.giving)
        course = self._course
        last = [reading.value for reading in course[-COURSE_RESTS:]]
        rests = len(last) == COURSE_RESTS and max(last) - min(last) <= COURSE_WITHIN
        if taken is Taken.KEPT and course and (rests or len(course) >= COURSE_MOST):
            self._left.add(test.subject)
            self._over = not self.leave()
        return taken

    def after(self) -> str:
        """Why it must not go on after what was just kept; empty: it may."""
        return "The course has come to rest; everything is off." if self._over else ""

    def leave(self) -> bool:
        """Go to the next that was not read nor left; False where there is none."""
        test = self._sheet
        if test.request is not None:
            self._left.add(test.request.subject)
        for place, asked in enumerate(test.asked):
            if asked.subject not in self._left and not test.readings.get(asked.key):
                test.choose(place)
                return True
        return False

    @property
    def extra(self) -> tuple[Setting, ...]:
        """What is set besides what it asks for."""
        request = self._sheet.request
        silent = () if request is None or request.setting(test_settings.LEVEL) else (test_settings.silent(),)
        return (*super().extra, *silent)


class ClipSubject(_OfATest):
    """The clipping matrix: the cells of this source, the draw of the supply beside each."""

    def __init__(self, session: Session, procedure: ClipProcedure) -> None:
        super().__init__(session, procedure)
        self._clip = procedure

    @property
    def draw(self) -> Request | None:
        """What is read beside it."""
        return self._clip.draw_request

    def take(self, given: Given, draw: Given | None) -> Taken:
        """Keep it."""
        if draw is None:
            return self._clip.take(given.text, given.giving)
        return self._clip.take(given.text, given.giving, draw.text, draw.giving)

    def leave(self) -> bool:
        """Go to the next that was not read nor left; False where there is none."""
        cell = self._clip.cell
        if cell is not None:
            self._left.add(f"{cell.subject} {cell.source}")
        for place, each in enumerate(self._clip.cells):
            if f"{each.subject} {each.source}" not in self._left and self._clip.kept(each) is None:
                self._clip.choose(place)
                return True
        return False


class ResponseSubject(_OfATest):
    """A response: one cool level at every frequency."""

    def __init__(self, session: Session, procedure: ResponseProcedure) -> None:
        super().__init__(session, procedure)
        self._response = procedure

    def leave(self) -> bool:
        """Go to the next that was not read nor left; False where there is none."""
        self._left.add(self._response.subject)
        have = self._response.volts()
        for place, f_hz in enumerate(self._response.frequencies):
            if f_hz not in have:
                self._response.choose(place)
                if self._response.subject not in self._left:
                    return True
        return False

    @property
    def extra(self) -> tuple[Setting, ...]:
        """What is set besides what it asks for."""
        build = self._session.build
        load = test_conditions.dummy(build)
        level = cool_level(build, load)
        return (
            *super().extra, Setting(test_settings.LEVEL, level.v_in_rms, "V", 0.0, level.v_in_rms),
            test_settings.into(load),
        )  # fmt: skip


# A trimmer at its least leaves so much of the quiescent current.
LEAST_TRIMMER = 0.05


class BringUpSubject:
    """The steps of a school: each waits as long as it must, and one outside its window ends it, switched off."""

    def __init__(self, session: Session, procedure: BringUpProcedure) -> None:
        self._session, self._steps = session, procedure
        self._dice = np.random.default_rng(7)
        self._asked = ""

    @property
    def procedure(self) -> Procedure:
        """What asks."""
        return self._steps

    @property
    def _step(self) -> Step | None:
        return self._steps.step

    @property
    def probe(self) -> Probe | None:
        """What is read where; None: no instrument reads it."""
        step = self._step
        if step is None or (self._session.instruments.simulated is not None and _of_hand_alone(step)):
            return None
        return step.probe

    @property
    def stays_on(self) -> bool:
        """Steps under power follow one another."""
        return True

    @property
    def held(self) -> str:
        """Steps come in order: none is passed by because it is held."""
        return ""

    @property
    def powered(self) -> bool:
        """Whether the current reading wants power."""
        return self._step is not None and self._step.power

    @property
    def extra(self) -> tuple[Setting, ...]:
        """What is set besides what it asks for."""
        step = self._step
        if step is None:
            return ()
        if step.supply_v is not None:
            return test_settings.silent(), Setting(test_settings.SUPPLY, step.supply_v, "V")
        if step.mains_v is not None:
            return test_settings.silent(), Setting(test_settings.MAINS, step.mains_v, "V")
        return (test_settings.silent(), *source_settings(self._session))

    @property
    def draw(self) -> Request | None:
        """What is read beside it."""
        return None

    def take(self, given: Given, _draw: Given | None) -> Taken:
        """Keep it."""
        self._asked = self._steps.subject
        return self._steps.take(given.text, given.giving)

    def leave(self) -> bool:
        """Go to the next that was not read nor left; False where there is none."""
        return False

    def ready(self) -> str:
        """Do what comes before the reading; why that cannot be, else empty."""
        step, power = self._step, self._session.power
        if step is None:
            return "No step is due."
        allowed, stand = self._steps.allowed, self._steps.stand
        if stand is not None and stand.stand is Stand.HELD:
            return f"Held: {stand.why}."
        if not step.power and power.live is not None:
            self._steps.stop()
        if step.power and (power.live is None or (allowed is not None and not allowed.read_now)):
            if power.live is not None:
                self._steps.stop()
            self._session.instruments.tell_hand(one_board=True, trimmer=self._trimmer)
            if not self._steps.switch_on():
                return "It was not switched on."
        elif step.power:
            self._session.instruments.tell_hand(one_board=True, trimmer=self._trimmer)
        return self._steps.blocked if self._steps.watch_left_s <= 0.0 else ""

    @property
    def _trimmer(self) -> float:
        """Where the trimmers of a simulated bench stand: at their least until the bias is set."""
        step = self._step
        is_set = self._session.bring_up.equipment.bias_set or (step is not None and step.key == "bias")
        is_set = is_set or any(stand.step.key == "bias" and stand.settled for stand in self._steps.stands)
        return 1.0 if is_set else LEAST_TRIMMER

    def after(self) -> str:
        """Why it must not go on after what was just kept; empty: it may."""
        stand = self._steps.stand
        record = None if stand is None else stand.record
        if self._steps.subject != self._asked or not isinstance(record, Reading) or record.state is not State.OVER:
            return ""
        return "Outside its window: switched off."

    def by_hand(self) -> Given | None:
        """What a hand reads at a simulated bench; None where it is none."""
        simulated, step = self._session.instruments.simulated, self._step
        if simulated is None or step is None or step.request is None or step.window is None:
            return None
        value = hand_reading(simulated.build, [stand.step for stand in self._steps.stands], step, simulated.fault,
                             self._session.bring_up.idle_rail_v() or 0.0, self._dice)  # fmt: skip
        origin = ReadingOrigin(Giver.SIMULATED, "simulated hand")
        return Given(_typed(step, value), Giving(origin))

    @property
    def times(self) -> int:
        """How often the current one may be read before the next must come."""
        return 1 if self._step is None else max(self._step.rounds, 1)

    @property
    def wait_s(self) -> float:
        """Seconds to wait before it is read."""
        return self._steps.watch_left_s

    def waited(self) -> None:
        """The wait is over."""
        self._steps.count_down(self._steps.watch_left_s)


def _of_hand_alone(step: Step) -> bool:
    """Whether what stands between wall and rails, or what is taken off them, is not at a simulated bench."""
    return step.reads == "rail_alone" or bool({"lamp_w", "in_series"} & set(step.conditions))


def hand_reading(
    build: Build, steps: list[Step], step: Step, fault: str | None, v_idle: float, dice: np.random.Generator
) -> float:
    """What somebody would read at a step of the simulated bench where no instrument of it is, SI (a lamp in kelvin)."""
    own = next((each for each in FAULTS if each.key == fault), None)
    return sound(step, dice) if own is None else own.reading(bench_of(build, steps, v_idle), step, dice)


def subject_of(session: Session, procedure: Procedure) -> Subject | None:
    """How a run goes through a procedure; None where instruments have no part in it."""
    match procedure:
        case SheetProcedure():
            return SheetSubject(session, procedure)
        case ClipProcedure():
            return ClipSubject(session, procedure)
        case ResponseProcedure():
            return ResponseSubject(session, procedure)
        case BringUpProcedure():
            return BringUpSubject(session, procedure)
    return None


def _typed(step: Step, value: float) -> str:
    from plinth.physics.mains.lamp import glow

    if step.unit == "K":
        return glow(value)
    if step.request is not None and step.request.form == "swing":
        return f"{value:.6g} Vpp"
    return f"{value:.6g} {step.unit}".strip()


def source_settings(session: Session) -> tuple[Setting, ...]:
    """What feeds the current build, with the limit of a bench supply."""
    build = session.build
    source = test_settings.source(build, session.situation)
    limit = build.supply.limit_a
    if source.name == test_settings.SUPPLY and limit is not None:
        return source, Setting(test_settings.CURRENT_LIMIT, limit, "A")
    return (source,)


def feed_of(session: Session) -> Feed:
    """The same, to be switched on."""
    settings = {setting.name: setting.value for setting in source_settings(session)}
    return Feed(
        settings.get(test_settings.CURRENT_LIMIT), settings.get(test_settings.SUPPLY), settings.get(test_settings.MAINS)
    )


@dataclasses.dataclass(frozen=True)
class LeftToHand:
    """What a run did not read: its title, and why."""

    title: str
    why: str
