"""Rails at rest with a fault laid on a build: what a meter would show of a healthy one that it is not."""

import dataclasses
import functools
from collections.abc import Mapping
from typing import Literal

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import LinearSupply
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE
from plinth.predict.ahead import ahead_of
from plinth.predict.at_rest import at_rest, at_rest_shorted
from plinth.predict.circuits import circuit_of
from plinth.predict.estimates import LEFT_OVER_SHARE
from plinth.predict.inputs import inputs_of
from plinth.predict.lamp_ahead import lamp_ahead
from plinth.predict.lamp_outlook import one_channel

RailFault = Literal[
    "none", "short", "rail missing", "half wave", "primary doubled", "primary halved", "leaking", "bias open",
    "oscillates",
]  # fmt: skip
# A leaking electrolytic, a stage that oscillates and one whose bias is at its highest, as multiples of what is healthy:
# usual orders of magnitude, not measured ones.
LEAK_OHM, OSCILLATES, BIAS_OPEN = 300.0, 4.0, 10.0


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
    one = _laid(one_channel(build), fault)
    situation = Situation(lamp_w=behind.lamp_w, mains_v_rms=behind.mains_v)
    if not behind.board:
        load = {"rail_load_ohm": LEAK_OHM} if fault == "leaking" else {"rail_load_a": 0.0}
        situation = situation.model_copy(update=load)
    try:
        values = _values(one, fault, behind)
        ahead = ahead_of(one, lamp_ahead(one, situation, values))
        circuit = circuit_of(one, situation, ahead.before(values))
        if fault in ("short", "rail missing") and circuit.rails > 1:
            # The lower of the two is the one that is not there.
            return 0.0
        rest = at_rest_shorted(circuit, COARSE) if fault == "short" else at_rest(circuit, COARSE)
        return min(rail.mean(rail.v_node) for rail in rest.rails)
    except PhysicsError:
        return 0.0 if fault == "short" else None


def _laid(build: Build, fault: RailFault) -> Build:
    """The build with the fault in its transformer."""
    supply = build.supply
    if not isinstance(supply, LinearSupply):
        return build
    factor = {"primary doubled": 2.0, "primary halved": 0.5}.get(fault, 1.0)
    part = supply.transformer
    changed = part.model_copy(update={"v_primary_rms": factor * part.v_primary_rms})
    return build.model_copy(update={"supply": supply.model_copy(update={"transformer": changed})})


def _values(build: Build, fault: RailFault, behind: Behind) -> Mapping[str, float]:
    values = {key: one.value for key, one in inputs_of(build).items()}
    module = build.module
    if module.bias is not None and not behind.bias_set:
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
    return values
