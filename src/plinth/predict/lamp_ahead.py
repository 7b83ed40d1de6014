"""A lamp in series with the mains: how warm a build at rest keeps it, and what it takes from the mains."""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.mains.lamp import RATED_K, Lamp
from plinth.physics.numbers.errors import PhysicsError, RailCollapseError
from plinth.physics.rails.common_period import COARSE
from plinth.predict.at_rest import at_rest, at_rest_shorted
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import circuit_of, input_circuit_of, supplies_in_all
from plinth.predict.power_state import PowerState
from plinth.predict.supply_kinds.numbers import Values
from plinth.predict.wall import from_the_wall, primary_frame, rms_a

# A short leaves a lamp nearly all of the mains: where to begin, as a share of its rated temperature.
NEARLY_FULL = 0.95
# Resting points nearer to each other than this share are one.
APART = 0.05


@dataclasses.dataclass(frozen=True)
class Shorted:
    """What the lamp shows with the + rail of one supply shorted: kelvin, volts on it, volts of the other rail.

    ``other_rail_v`` None where there is one rail only.
    """

    t_k: float
    v_rms: float
    other_rail_v: float | None


@dataclasses.dataclass(frozen=True)
class LampAhead:
    """The lamp, its filament's temperature (kelvin) and resistance, and the current through it.

    ``others_k`` further temperatures at which it could rest as well, by what went before. ``main_share`` and
    ``input_share``: all current through the lamp as a multiple of what main and input supplies draw. ``shorted`` what
    it would show with one rail shorted, where that was asked for; ``mains_v_rms`` the mains all this is for.
    """

    lamp: Lamp
    t_k: float
    r_ohm: float
    i_rms_a: float
    others_k: tuple[float, ...] = ()
    main_share: float = 1.0
    input_share: float = 1.0
    shorted: Shorted | None = None
    mains_v_rms: float = 0.0

    @property
    def r_main_ohm(self) -> float:
        """What the main supplies see: the lamp drops what all draw, not only they."""
        return self.r_ohm * self.main_share

    @property
    def r_input_ohm(self) -> float:
        """The same for the input stages' supplies."""
        return self.r_ohm * self.input_share


class _Behind:
    """The build at rest behind a resistance, each time sought from the last answer on."""

    def __init__(self, build: Build, situation: Situation, values: Values) -> None:
        self._build, self._count = build, supplies_in_all(build)
        self._main = circuit_of(build, situation, values)
        supply = build.supply
        inputs = supply.transformer is not None and supply.input_supply is not None
        self._input = input_circuit_of(build, situation, values) if inputs else None
        self._known: PowerState | None = None
        self._input_known: PowerState | None = None
        self.main_share = self.input_share = 1.0
        if self._input is not None:
            # Where the lamp is cold it drops nothing: what each then draws is where the shares begin.
            self.current_a(0.0)

    def current_a(self, r_ohm: float) -> float:
        """RMS amperes through the lamp at its resistance."""
        main = dataclasses.replace(self._main, r_ahead=r_ohm * self._count * self.main_share)
        try:
            rest = at_rest(main, COARSE, self._known)
        except RailCollapseError:
            # The build takes all that the lamp lets through: next to nothing is left behind it.
            return main.mains_v_rms / r_ohm
        self._known = rest
        if self._input is None:
            return rms_a(from_the_wall(self._build, [(self._count, rest)], None))
        further = dataclasses.replace(self._input, r_ahead=r_ohm * self._count * self.input_share)
        self._input_known = at_rest(further, COARSE, self._input_known)
        whole = rms_a(from_the_wall(self._build, [(self._count, rest)], self._input_known))
        own, small = (self._count * rms_a(primary_frame(rest_or_input)) for rest_or_input in (rest, self._input_known))
        # Their pulses coincide nearly, so amperes RMS add up nearly.
        self.main_share, self.input_share = max(1.0, whole / own), max(1.0, whole / small)
        return whole


def _shorted(lamp: Lamp, build: Build, circuit: PowerCircuit) -> Shorted:
    """One supply shorted takes all that the lamp lets through: what the others would draw is left out."""
    known: PowerState | None = None

    def current_a(r_ohm: float) -> float:
        nonlocal known
        behind = dataclasses.replace(circuit, r_ahead=r_ohm)
        try:
            known = at_rest_shorted(behind, COARSE, known)
        except RailCollapseError:
            return circuit.mains_v_rms / r_ohm
        return rms_a(from_the_wall(build, [(1, known)], None))

    t = lamp.settled_near_k(current_a, NEARLY_FULL * RATED_K)
    other = None if known is None else known.minus
    return Shorted(t, math.sqrt(lamp.radiated_w(t) * lamp.ohm(t)), None if other is None else other.mean(other.v_node))


def lamp_ahead(
    build: Build, situation: Situation, values: Values, near: LampAhead | None = None, *, look_around: bool = False
) -> LampAhead | None:
    """The lamp of a situation; None without one. Raises PhysicsError where no transformer hangs on the mains.

    ``near`` that of a similar case; ``look_around`` for further temperatures at which it could rest, and for what a
    short would show.
    """
    if situation.lamp_w is None:
        return None
    if build.supply.transformer is None or build.mains is None:
        raise PhysicsError(
            "a lamp in series works with a transformer; a switch-mode supply may hunt behind it, and a battery has no "
            "mains to put it into: take a limited bench supply instead"
        )
    lamp = Lamp(situation.lamp_w, build.mains.v_nominal_rms)
    behind = _Behind(build, situation, values)
    t = lamp.settled_k(behind.current_a) if near is None else lamp.settled_near_k(behind.current_a, near.t_k)
    # Before looking around, which leaves other shares behind.
    main_share, input_share = behind.main_share, behind.input_share
    others: tuple[float, ...] = ()
    shorted: Shorted | None = None
    mains = situation.mains_rms(build)
    if near is not None and (near.lamp, near.mains_v_rms) == (lamp, mains):
        # On one mains, what a short shows hardly depends on what else changes.
        others, shorted = near.others_k, near.shorted
    if look_around:
        points_k = lamp.resting_points_k(behind.current_a)
        others = tuple(seen for seen in points_k if abs(seen - t) > APART * t)
        circuit = circuit_of(build, situation, values)
        shorted = None if circuit.modules_away else _shorted(lamp, build, circuit)
    r = lamp.ohm(t)
    i = math.sqrt(lamp.radiated_w(t) / r)
    return LampAhead(
        lamp,
        t,
        r,
        i_rms_a=i,
        others_k=others,
        main_share=main_share,
        input_share=input_share,
        shorted=shorted,
        mains_v_rms=mains,
    )
