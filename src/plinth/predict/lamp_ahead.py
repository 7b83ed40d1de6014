"""A lamp in series with the mains: how warm a build at rest keeps it, and what it takes from the mains."""

import dataclasses
import math

import numpy as np

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import LinearSupply
from plinth.physics.common_period import COARSE
from plinth.physics.errors import PhysicsError, RailCollapseError
from plinth.physics.lamp import Lamp
from plinth.predict.circuits import Values, circuit_of, supplies_in_all
from plinth.predict.operating_points import PowerState, resting
from plinth.predict.wall import core_currents, primary_frame


@dataclasses.dataclass(frozen=True)
class LampAhead:
    """The lamp, its filament's temperature (kelvin) and resistance, and the current through it."""

    lamp: Lamp
    t_k: float
    r_ohm: float
    i_rms_a: float


def lamp_ahead(build: Build, situation: Situation, values: Values) -> LampAhead | None:
    """The lamp of a situation; None without one. Raises PhysicsError where no transformer hangs on the mains."""
    if situation.lamp_w is None:
        return None
    if not isinstance(build.supply, LinearSupply) or build.mains is None:
        raise PhysicsError(
            "a lamp in series works with a transformer; a switch-mode supply may hunt behind it, and a battery has no "
            "mains to put it into: take a limited bench supply instead"
        )
    lamp = Lamp(situation.lamp_w, build.mains.v_nominal_rms)
    bare = circuit_of(build, situation, values)
    count = supplies_in_all(build)
    known: list[PowerState] = []

    def current(r_ohm: float) -> float:
        circuit = dataclasses.replace(bare, r_ahead=r_ohm * count)
        try:
            rest = resting(circuit, circuit.channels * circuit.i_idle_a, COARSE, known[-1] if known else None)
        except RailCollapseError:
            # The build takes all that the lamp lets through: next to nothing is left behind it.
            return circuit.mains_v_rms / r_ohm
        known.append(rest)
        signed = np.sign(rest.period.mains_wave) * count * primary_frame(rest) + core_currents(build, rest)
        return float(np.sqrt(np.mean(signed[:-1] ** 2)))

    t = lamp.settled_k(current)
    r = lamp.ohm(t)
    return LampAhead(lamp, t, r, math.sqrt(lamp.radiated_w(t) / r))
