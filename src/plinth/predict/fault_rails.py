"""Rails at rest with a fault laid on a build: what a meter would show of a healthy one that it is not."""

import dataclasses
import functools
from collections.abc import Mapping
from typing import Literal, get_args

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.mains.lamp import Lamp
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE
from plinth.predict.at_rest import at_rest, at_rest_shorted
from plinth.predict.circuits import circuit_of
from plinth.predict.estimates import LEFT_OVER_SHARE
from plinth.predict.inputs import inputs_of
from plinth.predict.lamp_ahead import lamp_ahead
from plinth.predict.lamp_outlook import one_channel
from plinth.predict.source_chain import ahead_of

RailFault = Literal[
    "none", "short", "rail missing", "half wave", "primary doubled", "primary halved", "leaking", "bias open",
    "set before", "oscillates", "shorted turn", "dried-out reservoir",
]  # fmt: skip
RAIL_FAULTS: tuple[RailFault, ...] = get_args(RailFault)
# A leaking electrolytic, a stage that oscillates and one whose bias is at its highest, as multiples of what is healthy,
# and what a dried-out can has left: usual orders of magnitude, not measured ones.
LEAK_OHM, OSCILLATES, BIAS_OPEN, DRIED_TO = 300.0, 4.0, 10.0, 0.25
# Turns of a winding for each of its volts: small cores have more, large ones fewer.
TURNS_PER_VOLT = 4.0


@dataclasses.dataclass(frozen=True)
class Behind:
    """Under which a rail is read: the lamp in series, the mains (None: nominal), a board on it, its trimmer set."""

    lamp_w: float | None = None
    mains_v: float | None = None
    board: bool = True
    bias_set: bool = False


@functools.lru_cache(maxsize=512)
def rail_with(build: Build, fault: RailFault, behind: Behind) -> float | None:
    """The lower rail's mean volts with a fault; None where it cannot be told (nothing rests so)."""
    if fault == "shorted turn":
        left = _left_by_turn(build, behind)
        if left is None:
            return None
        return rail_with(build, "none", dataclasses.replace(behind, lamp_w=None, mains_v=left[0]))
    network = _laid(one_channel(build), fault)
    situation = Situation(lamp_w=behind.lamp_w, mains_v_rms=behind.mains_v)
    if not behind.board:
        load = {"rail_load_ohm": LEAK_OHM} if fault == "leaking" else {"rail_load_a": 0.0}
        situation = situation.model_copy(update=load)
    try:
        values = _values(network, fault, behind)
        ahead = ahead_of(network, lamp_ahead(network, situation, values))
        circuit = circuit_of(network, situation, ahead.before(values))
        if fault == "rail missing" or (fault == "short" and circuit.rails > 1):
            # The lower of the two is the one that is not there.
            return 0.0
        rest = at_rest_shorted(circuit, COARSE) if fault == "short" else at_rest(circuit, COARSE)
        return min(rail.mean(rail.v_node) for rail in rest.rails)
    except PhysicsError:
        return 0.0 if fault == "short" else None


def _laid(build: Build, fault: RailFault) -> Build:
    """The build with the fault in its transformer."""
    supply = build.supply
    if supply.transformer is None:
        return build
    factor = {"primary doubled": 2.0, "primary halved": 0.5}.get(fault, 1.0)
    part = supply.transformer
    changed = part.model_copy(update={"v_primary_rms": factor * part.v_primary_rms})
    return build.model_copy(update={"supply": supply.model_copy(update={"transformer": changed})})


def _values(build: Build, fault: RailFault, behind: Behind) -> Mapping[str, float]:
    values = {key: quantity.value for key, quantity in inputs_of(build).items()}
    module = build.module
    if module.bias is not None and not behind.bias_set and fault != "set before":
        values["i_quiescent"] = module.driver_a + LEFT_OVER_SHARE * module.i_quiescent_a
    if fault == "bias open":
        values["i_quiescent"] = module.driver_a + BIAS_OPEN * module.i_quiescent_a
    if fault == "oscillates":
        values["i_quiescent"] += OSCILLATES * module.driver_a
    if fault == "leaking" and behind.board:
        # What leaks draws beside the board, at the rails that the board was made for.
        values["i_quiescent"] += module.v_rail_nominal / LEAK_OHM
    if fault == "half wave":
        # One pulse in two half cycles: each reservoir has to last twice as long.
        values["c"] *= 0.5
        if "c_minus" in values:
            values["c_minus"] *= 0.5
    if fault == "dried-out reservoir":
        for key in ("c", "c_minus"):
            if key in values:
                values[key] *= DRIED_TO
    return values


def shorted_turn_w(build: Build) -> float | None:
    """What a shorted turn of a secondary half takes at its own volts, W; None without a transformer.

    A turn has 1/N of the winding's volts and 1/N of its resistance R, so it takes V^2/(R N). Half of the regulation is
    lost in the secondaries, at VA/2 in each half: R = V^2 reg/VA. N by ``TURNS_PER_VOLT``: an order of magnitude.
    """
    if build.supply.transformer is None:
        return None
    part = build.supply.transformer
    regulation = inputs_of(build)["regulation"].value
    return part.va / (regulation * TURNS_PER_VOLT * part.v_secondary_rms)


def extra_wall_a(build: Build) -> float | None:
    """What a shorted turn adds to the current from the wall, A rms; None without a transformer."""
    p = shorted_turn_w(build)
    return None if p is None or build.mains is None else p / build.mains.v_nominal_rms


def turn_behind_lamp_k(build: Build, behind: Behind) -> float | None:
    """The filament's temperature with a shorted turn behind the lamp, K; None where there is neither."""
    left = _left_by_turn(build, behind)
    return None if left is None else left[1]


def _left_by_turn(build: Build, behind: Behind) -> tuple[float, float | None] | None:
    """Volts that a shorted turn leaves at the primary, and the filament's temperature (None without a lamp)."""
    p, mains = shorted_turn_w(build), build.mains
    if p is None or mains is None:
        return None
    v = mains.v_nominal_rms if behind.mains_v is None else behind.mains_v
    r = mains.v_nominal_rms**2 / p
    if behind.lamp_w is None:
        # The copper of the primary drops half of the regulation at the rated load.
        assert build.supply.transformer is not None, "a turn of a transformer"
        drop = 0.5 * inputs_of(build)["regulation"].value * p / build.supply.transformer.va
        return v / (1.0 + drop), None
    lamp = Lamp(behind.lamp_w, mains.v_nominal_rms)
    t = lamp.settled_k(lambda r_lamp: v / (r + r_lamp))
    return v * r / (r + lamp.ohm(t)), t
