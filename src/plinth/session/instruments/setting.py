"""Setting a bench for a reading: limits before volts, off while it changes, the level from low to high."""

import dataclasses
import math
from collections.abc import Callable

from plinth.instruments.errors import ErrorKind, InstrumentError
from plinth.instruments.kinds import Action
from plinth.session.instruments.connected import Connected
from plinth.session.instruments.orders import Orders
from plinth.session.instruments.wanted import Sets, Wanted

# The level is raised in such shares of what is asked for.
RAMP = (0.125, 0.25, 0.5, 1.0)
# Rails rest where two looks, so far apart, differ by less than this share; after so long a wait they are taken as they
# are, and say so by the reading itself.
LOOK_S, RESTS_SHARE, MOST_LOOKS = 0.05, 0.003, 120
# Without anything at a rail, so long is waited for it.
BLIND_S = 3.0


def _nothing(_want: Wanted, _now_v: float, _wanted_v: float) -> None:
    """Nobody looks."""


@dataclasses.dataclass
class Setter:
    """``now`` what is set; None while everything is off.

    ``begun`` is told when the generator has come on, at the first of its levels, and what it is to be raised to: it
    may refuse, by an InstrumentError.
    """

    orders: Orders
    now: Sets | None = None
    source_on: bool = False
    begun: Callable[[Wanted, float, float], None] = _nothing

    def make_safe(self) -> tuple[str, ...]:
        """Everything off."""
        self.now, self.source_on = None, False
        return self.orders.make_safe()

    def silenced(self) -> None:
        """The generator was switched off outside of this."""
        if self.now is not None:
            self.now = dataclasses.replace(self.now, level_v=0.0)

    def set_up(self, want: Wanted, level_v: float | None = None) -> None:
        """Bring the bench to what is wanted, the generator to ``level_v`` if that is given. Raises InstrumentError."""
        sets, before = want.sets, self.now
        level = sets.level_v if level_v is None else level_v
        if sets.most_level_v is not None and level > sets.most_level_v * (1.0 + 1e-6):
            raise InstrumentError(
                ErrorKind.BEYOND_LIMITS, "generator",
                f"found {level:.4g} V asked of it, expected at most {sets.most_level_v:.4g} V in this test",
                "Nothing was sent.",
            )  # fmt: skip
        wires = before is None or _wires(before) != _wires(sets)
        shaped = before is not None and before.square != sets.square
        if wires or before is None or shaped or before.hz != sets.hz or level < before.level_v or level == 0.0:
            self._silence(sets.generator)
        if wires:
            self._source_and_load(want)
        if level > 0.0 and sets.generator is not None:
            self._raise(want, level, 0.0 if self.now is None else self.now.level_v)
        self.now = dataclasses.replace(sets, level_v=level)

    def feed(self, sets: Sets) -> None:
        """Source on, no signal, no load, without waiting for it to rest. Raises InstrumentError."""
        before = self.now
        self._silence(sets.generator)
        if before is not None and _other_source(before, sets):
            self._source_off(before)
        if sets.load is not None:
            self.orders.tell(sets.load, Action.SET_OUTPUT, 0.0)
        self._source_on(sets)
        self.now = dataclasses.replace(sets, level_v=0.0)

    def _source_off(self, before: Sets) -> None:
        for source in (before.mains, before.supply):
            if source is not None and self.source_on:
                self.orders.tell(source, Action.SET_OUTPUT, 0.0)
        self.source_on = False

    def _source_on(self, sets: Sets) -> None:
        if sets.supply is not None:
            self.orders.tell(sets.supply, Action.SET_CURRENT_LIMIT, sets.limit_a)
            self.orders.tell(sets.supply, Action.SET_VOLTS, sets.supply_v)
            self.orders.tell(sets.supply, Action.SET_OUTPUT, 1.0)
        if sets.mains is not None:
            self.orders.tell(sets.mains, Action.SET_VOLTS, sets.mains_v)
            self.orders.tell(sets.mains, Action.SET_OUTPUT, 1.0)
        self.source_on = sets.supply is not None or sets.mains is not None

    def _silence(self, generator: Connected | None) -> None:
        if generator is not None and (self.now is None or self.now.level_v > 0.0):
            self.orders.tell(generator, Action.SET_OUTPUT, 0.0)
            if self.now is not None:
                self.now = dataclasses.replace(self.now, level_v=0.0)

    def _source_and_load(self, want: Wanted) -> None:
        sets, before = want.sets, self.now
        changed = before is None or _source(before) != _source(sets)
        if before is not None and _other_source(before, sets) and self.source_on:
            self._source_off(before)
        if sets.load is not None:
            self.orders.tell(sets.load, Action.SET_OUTPUT, 0.0)
            if sets.load_ohm is not None:
                self.orders.tell(sets.load, Action.SET_OHMS, sets.load_ohm)
                self.orders.tell(sets.load, Action.SET_OUTPUT, 1.0)
        if sets.generator is not None and sets.generator.can(Action.SET_COUPLED):
            self.orders.tell(sets.generator, Action.SET_COUPLED, float(sets.all_driven))
        if changed or not self.source_on:
            self._source_on(sets)
            self.rest(want)

    def rest(self, want: Wanted) -> None:
        """Wait until the rails rest."""
        if want.rail is None:
            self.orders.wait(BLIND_S)
            return
        last = math.inf
        for _ in range(MOST_LOOKS):
            self.orders.wait(LOOK_S)
            volts = self.orders.read(want.rail, Action.READ_VOLTS_DC)
            if abs(volts - last) <= RESTS_SHARE * abs(volts) + 1e-3:
                return
            last = volts

    def _raise(self, want: Wanted, level: float, from_v: float) -> None:
        sets, generator = want.sets, want.sets.generator
        assert generator is not None, "asked only then"
        if from_v == 0.0:
            if generator.can(Action.SET_SHAPE):
                self.orders.tell(generator, Action.SET_SHAPE, place="square" if sets.square else "sine")
            self.orders.tell(generator, Action.SET_FREQUENCY, sets.hz)
            self.orders.tell(generator, Action.SET_VOLTS, RAMP[0] * level)
            self.orders.tell(generator, Action.SET_OUTPUT, 1.0)
            self.begun(want, RAMP[0] * level, level)
        for share in RAMP:
            if share * level > max(from_v, RAMP[0] * level):
                self.orders.tell(generator, Action.SET_VOLTS, share * level)


def _wires(sets: Sets) -> tuple[object, ...]:
    """What is changed with the signal off."""
    return (*_source(sets), sets.load, sets.load_ohm, sets.all_driven)


def _other_source(before: Sets, sets: Sets) -> bool:
    return before.mains is not sets.mains or before.supply is not sets.supply


def _source(sets: Sets) -> tuple[object, ...]:
    return sets.mains, sets.mains_v, sets.supply, sets.supply_v, sets.limit_a
