"""The instruments of a session: connected, read by whoever is asked, made safe on every way out."""

import contextlib
import math
import threading
from collections.abc import Callable
from pathlib import Path

from plinth.builds.build import Build
from plinth.builds.parts import Load
from plinth.captures.capture import CaptureError
from plinth.guide.faults import FAULTS
from plinth.instruments.client import InstrumentProcess
from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.instruments.messages import AreOn, Connect, Line, Order, Read
from plinth.physics.numbers.errors import GivenUpError
from plinth.record.probe import Point, Quantity
from plinth.session.core import Core
from plinth.session.dummy_loads import DummyLoads
from plinth.session.instruments.connected import Bench, Connected
from plinth.session.instruments.kept import KeptInstruments
from plinth.session.instruments.orders import Orders
from plinth.session.instruments.setting import Setter
from plinth.session.instruments.simulated import SimulatedBench
from plinth.session.instruments.wanted import Sets, Wanted
from plinth.session.power_port import Feed

UNRATED_J, LEAST_LEFT_S = 500.0, 2.0
PRACTICE_ALONE = "The simulated bench is for a practice workshop: in this one nothing simulated counts."


class Instruments:
    """``bench`` what is connected. ``changed`` is told of it, ``went_off`` (in any thread) what was switched off."""

    def __init__(self, core: Core, loads: DummyLoads) -> None:
        self._core, self._loads = core, loads
        self.kept = KeptInstruments(core)
        self.bench = Bench()
        self.simulated: SimulatedBench | None = None
        self.changed: list[Callable[[], None]] = []
        self.went_off: Callable[[str], None] = lambda _words: None
        self._process: InstrumentProcess | None = None
        self._called_off = threading.Event()
        self._recording = threading.Lock()
        self.setter = Setter(self._orders(), begun=self._begun)

    # Connected

    @property
    def connected(self) -> bool:
        """Whether anything is."""
        return bool(self.bench.instruments)

    def try_simulated(
        self, done: Callable[[str], None], fault: str | None = None, speed: float = 20.0, seed: int = 1,
        truth: Path | None = None,
    ) -> None:  # fmt: skip
        """Start the simulated bench of the current build, off this thread; ``done`` is told "" or why not.

        ``truth``: where it writes, when it ends, what has become of the build.
        """
        if not self._core.practice:
            done(PRACTICE_ALONE)
            return
        if fault is not None and fault not in {each.key for each in FAULTS}:
            done(f"Found the fault {fault!r}, expected one of the catalogue.")
            return
        build = self._core.build
        self.disconnect()

        def work(_task: object) -> object:
            made = SimulatedBench(build, fault, speed, seed, truth)
            try:
                return made, self._linked(made.bench)
            except InstrumentError:
                made.end()
                raise

        def take(answer: object) -> None:
            assert isinstance(answer, tuple), "that is what was asked for"
            self.simulated, self._process = answer
            assert self.simulated is not None, "it was just made"
            self._take(self.simulated.bench)
            done("")

        self._core.jobs.ask("simulated bench", work, take, lambda error: done(str(error)), bench=True)

    def connect(self, instruments: tuple[Connected, ...], done: Callable[[str], None]) -> None:
        """Talk with these, off this thread; ``done`` is told "" or why not."""
        self.disconnect()

        def take(answer: object) -> None:
            assert isinstance(answer, InstrumentProcess), "that is what was asked for"
            self._process = answer
            self._take(Bench(instruments))
            done("")

        self._core.jobs.ask(
            "connect", lambda _task: self._linked(Bench(instruments)), take, lambda error: done(str(error)), bench=True
        )

    def ask_once(self, order: Order, done: Callable[[object], None], failed: Callable[[str], None]) -> None:
        """Carry out an order off this thread, by whoever talks with instruments, or for once."""
        process = self._process

        def work(_task: object) -> object:
            if process is not None:
                return process.ask(order)
            for_once = InstrumentProcess()
            try:
                return for_once.ask(order)
            finally:
                for_once.end()

        self._core.jobs.ask("ask an instrument", work, done, lambda error: failed(str(error)), bench=True)

    def _linked(self, bench: Bench) -> InstrumentProcess:
        process = InstrumentProcess(lambda words: self.went_off(words))
        try:
            for each in bench.instruments:
                process.ask(Connect(each.name, each.address, each.own))
        except InstrumentError:
            process.end()
            raise
        return process

    def _take(self, bench: Bench) -> None:
        self.bench = bench
        self.setter = Setter(self._orders(), begun=self._begun)
        self._tell()

    def disconnect(self) -> None:
        """Everything off, and let go of all of it."""
        self._called_off.set()
        process, self._process = self._process, None
        if process is not None:
            process.end()
        if self.simulated is not None:
            self.simulated.end()
            self.simulated = None
        if self.bench.instruments:
            self.bench = Bench()
            self._tell()

    def _tell(self) -> None:
        for listener in self.changed:
            listener()

    def alive(self) -> None:
        """The window's thread is at work: called by it, often."""
        if self._process is not None:
            self._process.alive()

    # Read

    def _orders(self) -> Orders:
        return Orders(self._ask, lambda: not self._called_off.is_set(), self._wait, self._recording)

    def looks(self) -> Orders:
        """Orders of somebody who only looks, also while nothing is switched on; beside whatever else goes on."""
        return Orders(self._ask, recording=self._recording)

    def _ask(self, order: Order) -> object:
        if self._process is None:
            raise InstrumentError(ErrorKind.PROCESS_LOST, "instruments", "found none connected, expected one")
        return self._process.ask(order)

    def _wait(self, seconds: float) -> None:
        """Of the bench's own time, which a simulated one hurries, or lets pass at once; called off at once."""
        if self.simulated is not None and self._process is not None and seconds >= LET_PASS_S:
            self._process.ask(Line("supply", f"SIMulation:PASS {seconds:.4g}"))
            return
        self._called_off.wait(seconds / self.speed)

    @property
    def bench_time_s(self) -> float | None:
        """Seconds of a simulated bench's own time; None of a real one, whose time is everybody's."""
        if self.simulated is None or self._process is None:
            return None
        try:
            return float(str(self._process.ask(Line("supply", "SIMulation:TIME?"), 2.0)))
        except (InstrumentError, ValueError):
            return None

    @property
    def speed(self) -> float:
        """How many times as fast as the wall's the bench's time runs."""
        return 1.0 if self.simulated is None else self.simulated.speed

    def begin(self) -> Setter:
        """A run begins: what was called off before is no more."""
        self._called_off.clear()
        return self.setter

    def call_off(self) -> None:
        """Whatever is under way ends; outputs go off by whoever stops next."""
        self._called_off.set()

    @property
    def called_off(self) -> bool:
        """Whether what is under way was called off."""
        return self._called_off.is_set()

    def make_safe(self) -> tuple[str, ...]:
        """Everything off; what may still be on, in sentences. Never raises."""
        self._called_off.set()
        self.setter.now, self.setter.source_on = None, False
        return () if self._process is None else self._process.make_safe()

    def are_on(self) -> tuple[str, ...] | None:
        """Whose output is on; None where it cannot be asked."""
        if self._process is None:
            return None
        try:
            on = self._process.ask(AreOn(), 3.0)
        except InstrumentError:
            return None
        assert isinstance(on, tuple), "that is what was asked for"
        return on

    def tell_hand(self, *, one_board: bool = False, trimmer: float = 1.0) -> None:
        """Tell a simulated bench what a hand has done at it: nothing where it is a real one, which knows.

        ``one_board`` alone is wired to the supply; bias trimmers leave ``trimmer`` of the quiescent current.
        """
        if self.simulated is None or self._process is None:
            return
        lines = f"SIMulation:BOARd:ONE {int(one_board)}", f"SIMulation:TRIMmer {trimmer:.4g}"
        with contextlib.suppress(InstrumentError):
            for line in lines:
                self._process.ask(Line("supply", line), 2.0)

    @property
    def mains_share(self) -> float:
        """What the mains source is set to, as a share of the plan's mains; 1 where no instrument gives it."""
        now, build = self.setter.now, self._core.build
        if now is None or now.mains is None or build.mains is None or now.mains_v <= 0.0:
            return 1.0
        return now.mains_v / self._core.situation.mains_rms(build)

    def read_now(self, who: Connected, action: Action) -> float:
        """What one of them reads now, as the bench is set; from any thread. Raises InstrumentError."""
        if self._process is None:
            raise InstrumentError(ErrorKind.PROCESS_LOST, who.name, "found nothing connected, expected it")
        value = self._process.ask(Read(who.name, action), 5.0)
        assert isinstance(value, float), "that is what was asked for"
        return value

    # What a load may take

    def load_of(self, ohm: float | None) -> Load | None:
        """The dummy load of this build that has so many ohms."""
        build = self._core.build
        if ohm is None:
            return None
        near = [load for load in (*build.loads, build.load) if abs(load.r_ohm - ohm) <= 0.01 * ohm]
        return near[0] if near else None

    def may_take(self, ohm: float, watts: float, energy_j: float = 0.0, for_s: float = LEAST_LEFT_S) -> str:
        """Why a load may not take so many watts for ``for_s`` seconds more; empty: it may.

        ``energy_j`` went into it already. One whose rating nobody states takes a few hundred joules, and no more.
        """
        load = self.load_of(ohm)
        if load is None or load.p_carried_w is None:
            # Nobody states what it stands: no more than what any dummy load of this trade does for a moment.
            ahead_j = energy_j + watts * for_s
            return "" if ahead_j <= UNRATED_J else (
                f"found {watts:.3g} W ahead for a load without a rating, expected at most {UNRATED_J:g} J in all: "
                "state what it stands in Plan"
            )  # fmt: skip
        now = self._loads.load_now(load, watts)
        if now is None or watts <= load.p_carried_w:
            return ""
        left_s = now.allowed_s - energy_j / watts
        if left_s > for_s:
            return ""
        if math.isinf(for_s):
            return f"found {watts:.0f} W to stay on {load.name}, expected at most its rating of {load.p_carried_w:g} W"
        return (
            f"found {watts:.0f} W ahead for {load.name}, rated {load.p_carried_w:g} W and warm, expected it to stand "
            f"them for {LEAST_LEFT_S:g} s more: let it cool for {now.cold_s / 60.0:.0f} min"
        )

    def _begun(self, want: Wanted, now_v: float, wanted_v: float) -> None:
        """At the first low level: the output, raised as planned, must be no more than its load stands."""
        sets, channel = want.sets, want.reader.channel
        meter = self.bench.at(InstrumentKind.MULTIMETER, Point.OUTPUT, channel)
        if meter is None or sets.load_ohm is None:
            return
        volts = self.setter.orders.read(meter, Action.READ_VOLTS_AC) * wanted_v / now_v
        # A temperature that is read while the level is on is one of a run of hours.
        for_s = math.inf if want.probe.quantity is Quantity.DEGREES else LEAST_LEFT_S
        why = self.may_take(sets.load_ohm, volts**2 / sets.load_ohm, for_s=for_s)
        if why:
            raise InstrumentError(ErrorKind.BEYOND_LIMITS, "load", why, "The level was not raised.")


# A wait so long is not sat out at a simulated bench.
LET_PASS_S = 5.0


class InstrumentPort:
    """Power through whichever instrument feeds the build; by hand where none does."""

    def __init__(self, instruments: Instruments) -> None:
        self._instruments = instruments
        # What a hand has switched on, no instrument can tell of.
        self._by_hand = False

    def _source(self, feed: Feed) -> Connected | None:
        bench = self._instruments.bench
        kind = InstrumentKind.AC_SOURCE if feed.mains_v is not None else InstrumentKind.DC_SUPPLY
        known = feed.mains_v is not None or (feed.supply_v is not None and feed.limit_a is not None)
        return next(iter(bench.of_kind(kind)), None) if known else None

    def switch_on(self, feed: Feed) -> str:
        """Limits first, then volts, then on."""
        source = self._source(feed)
        self._by_hand = source is None
        if source is None:
            return ""
        setter = self._instruments.begin()
        load = next(iter(self._instruments.bench.of_kind(InstrumentKind.LOAD)), None)
        mains = source if feed.mains_v is not None else None
        supply = source if mains is None else None
        sets = Sets(
            load=load, mains=mains, mains_v=feed.mains_v or 0.0, supply=supply, supply_v=feed.supply_v or 0.0,
            limit_a=feed.limit_a or 0.0,
        )  # fmt: skip
        try:
            setter.feed(sets)
        except (InstrumentError, GivenUpError) as error:
            return str(error)
        return ""

    def switch_off(self) -> str:
        """Off; why not, else."""
        return " ".join(self._instruments.make_safe())

    def is_on(self) -> bool | None:
        """Whether an output is; None where none is connected, or it does not answer."""
        on = self._instruments.are_on()
        feeds = (*self._instruments.bench.of_kind(InstrumentKind.AC_SOURCE),
                 *self._instruments.bench.of_kind(InstrumentKind.DC_SUPPLY))  # fmt: skip
        if on is None or not feeds or self._by_hand:
            return None
        return any(each.name in on for each in feeds)

    def make_safe(self) -> None:
        """Off, whatever happened."""
        self._instruments.make_safe()


def why_failed(error: Exception) -> str:
    """What ended a reading, for people."""
    if isinstance(error, GivenUpError):
        return "Stopped; everything is off."
    if isinstance(error, CaptureError):
        return f"The record gives no reading: {error}."
    return str(error)


def plan_differs(bench: SimulatedBench | None, build: Build) -> bool:
    """Whether the simulated bench is of another build than the current one."""
    return bench is not None and bench.build != build
