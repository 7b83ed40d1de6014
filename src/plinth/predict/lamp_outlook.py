"""First power through a lamp in series: which lamp suits a build, what it shows when all is well, and with a short.

One channel's modules hang on the supply at a time, as they are brought up.
"""

import dataclasses
import functools
import math
from collections.abc import Mapping

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.mains.lamp import RATED_K, Lamp, glow
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.common_period import COARSE
from plinth.predict.at_rest import at_rest
from plinth.predict.circuits import circuit_of
from plinth.predict.estimates import LEFT_OVER_SHARE, OF_A_LAMP, OF_THE_MAINS
from plinth.predict.input import Input
from plinth.predict.inputs import inputs_of
from plinth.predict.lamp_ahead import LampAhead, Shorted, lamp_ahead
from plinth.predict.propagate import contributions
from plinth.predict.source_chain import ahead_of

# Bulbs that are to be had, W.
LAMPS_W = (25.0, 40.0, 60.0, 75.0, 100.0, 150.0, 200.0)


# How much of the bias is set behind a lamp: enough to see that it can be set, so little that full mains cannot hurt.
PART_SHARE = 0.5
# A healthy filament is at most this share as warm as with a short, so that an eye tells one from the other.
TOLD_APART = 0.75
_MOVES_A_RAIL = (
    "v_secondary", "regulation", "v_forward", "r_dynamic", "r_series", "i_quiescent", "i_driver", "input_i_load",
)  # fmt: skip


@dataclasses.dataclass(frozen=True)
class AtRest:
    """The lower rail (V, with its standard uncertainty), the filament (K) and the volts on it (RMS).

    Without a lamp ``t_k`` and ``lamp_v`` are None. ``awake``: the module works from such a rail. ``i_idle_a`` what the
    modules' bias then passes, as a share of what it passes at this build's own rail.
    """

    rail_v: float
    u_rail_v: float
    t_k: float | None
    lamp_v: float | None
    awake: bool
    idle_share: float = 1.0

    @property
    def glow(self) -> str:
        """What the eye sees of the filament."""
        return "" if self.t_k is None else glow(self.t_k)


@dataclasses.dataclass(frozen=True)
class LampOutlook:
    """``alone``: no module on the supply; ``least``: trimmers at their least; ``whole``: all the quiescent current.

    ``part``: trimmers set to ``PART_SHARE`` of it, as is done behind the lamp. ``full_alone``, ``full`` (trimmers at
    their least) and ``full_set`` (all of it) without the lamp, on the whole mains. ``shorted`` what a short on the +
    rail shows, ``shorted_a`` the current through the lamp then. ``why`` this wattage and not the next. Spreads are
    those of ``alone``, ``least`` and ``full``.
    """

    lamp_w: float
    mains_v_rms: float
    alone: AtRest
    least: AtRest
    part: AtRest
    whole: AtRest
    full_alone: AtRest
    full: AtRest
    full_set: AtRest
    shorted: Shorted
    shorted_a: float
    why: str


def one_channel(build: Build) -> Build:
    """The build with the modules of one channel on its supply, as it is brought up."""
    return build.model_copy(update={"channels": build.channels[:1], "channel_keys": build.channel_keys[:1]})


def why_no_lamp(build: Build) -> str:
    """Why a lamp in series does not serve here; empty where it does."""
    if build.supply.transformer is not None and build.mains is not None:
        return ""
    return "a lamp in series works with a transformer; a switcher may hunt behind it, a battery has no mains"


@functools.lru_cache(maxsize=32)
def lamp_outlook(build: Build, lamp_w: float | None = None) -> LampOutlook:
    """What to expect behind ``lamp_w``, or behind the lamp that suits the build. Raises PhysicsError.

    A lamp suits where the module works from the rails that it leaves, with its trimmer at its least also on low mains
    and a bulb below its rating; and where an eye tells its whole quiescent current from a short. The smallest such one
    lets the least through into a fault. Source: as ``physics.mains.lamp``; the choice is practice, with these figures.
    """
    why_not = why_no_lamp(build)
    if why_not:
        raise PhysicsError(why_not)
    single = one_channel(build)
    chosen, why, near = (lamp_w, "the one you have", None) if lamp_w is not None else _chosen(single)
    behind = Situation(lamp_w=chosen)
    least = _values(single, share=LEFT_OVER_SHARE)
    rest, seen = _resting(single, behind, least, near, spread=True)
    whole, _ = _resting(single, behind, _values(single), seen)
    part = whole if single.module.bias is None else _resting(single, behind, _values(single, share=PART_SHARE), seen)[0]
    alone, _ = _resting(single, behind.model_copy(update={"rail_load_a": 0.0}), _values(single), seen, spread=True)
    full_alone, _ = _resting(single, Situation(rail_load_a=0.0), _values(single))
    full, _ = _resting(single, Situation(), least, spread=True)
    full_set = full if single.module.bias is None else _resting(single, Situation(), _values(single))[0]
    assert seen is not None, "there is a lamp"
    lamp, shorted = _short(single, behind, least)
    return LampOutlook(
        chosen,
        behind.mains_rms(build),
        alone,
        least=rest,
        part=part,
        whole=whole,
        full_alone=full_alone,
        full=full,
        full_set=full_set,
        shorted=shorted,
        shorted_a=shorted.v_rms / lamp.ohm(shorted.t_k),
        why=why,
    )


def _chosen(build: Build) -> tuple[float, str, LampAhead | None]:
    """The smallest lamp that suits, with why it and neither the one below nor the one above; and as it rests there."""
    mains = build.mains.v_nominal_rms if build.mains is not None else 0.0
    below, seen = "", None
    for place, watts in enumerate(LAMPS_W):
        rest, seen, lacks = _lacking(build, watts, seen)
        if lacks:
            below = f"Behind {watts:g} W {lacks}. "
            continue
        words = f"{below}Behind {watts:g} W the rails stand at {rest.rail_v:.1f} V. "
        if place + 1 < len(LAMPS_W):
            larger = LAMPS_W[place + 1]
            words += (
                f"A larger one, {larger:g} W, would let {larger / mains:.2f} A into a short instead of "
                f"{watts / mains:.2f} A."
            )
        return watts, words.strip(), seen
    return LAMPS_W[-1], f"{below}No larger bulb is to be had.", seen


def _lacking(build: Build, watts: float, near: LampAhead | None) -> tuple[AtRest, LampAhead | None, str]:
    """The module at its least behind a lamp, and why that lamp does not suit; empty where it does."""
    lowest = build.module.v_rail_min
    least, seen = _resting(build, Situation(lamp_w=watts), _values(build, share=LEFT_OVER_SHARE), near)
    if not least.awake:
        return least, seen, f"the rails reach only {least.rail_v:.1f} V, and the board needs {lowest:g} V"
    if not _on_a_bad_day(build, watts, seen).awake:
        return least, seen, f"the {least.rail_v:.1f} V of the rails could as well be less than the {lowest:g} V needed"
    whole, _ = _resting(build, Situation(lamp_w=watts), _values(build), seen)
    if not whole.awake:
        return least, seen, f"the whole quiescent current would pull the rails down to {whole.rail_v:.1f} V"
    # With a short nearly all of the mains stands on it, at its rated temperature.
    if (whole.t_k or 0.0) > TOLD_APART * RATED_K:
        return least, seen, f"the whole quiescent current would look like a short ({whole.glow})"
    return least, seen, ""


def _on_a_bad_day(build: Build, watts: float, near: LampAhead | None) -> AtRest:
    """On low mains with a bulb that is below its rating: twice the standard uncertainty of either."""
    mains = build.mains.v_nominal_rms if build.mains is not None else 0.0
    low = Situation(lamp_w=watts * (1.0 - 2.0 * OF_A_LAMP), mains_v_rms=mains * (1.0 - 2.0 * OF_THE_MAINS))
    return _resting(build, low, _values(build, share=LEFT_OVER_SHARE), near)[0]


def _values(build: Build, *, share: float = 1.0) -> dict[str, Input]:
    """The inputs, the trimmers set to a share of the quiescent current."""
    inputs = inputs_of(build)
    if share != 1.0 and build.module.bias is not None:
        # The drivers draw what they draw, wherever the trimmer stands.
        left = build.module.driver_a + share * build.module.i_quiescent_a
        inputs = {**inputs, "i_quiescent": dataclasses.replace(inputs["i_quiescent"], value=left)}
    return inputs


def _resting(
    build: Build,
    situation: Situation,
    inputs: Mapping[str, Input],
    near: LampAhead | None = None,
    *,
    spread: bool = False,
) -> tuple[AtRest, LampAhead | None]:
    """All rails at rest in a situation; the spread also counts how far lamps and mains are off what they say.

    ``near`` the lamp of a similar situation, to begin at.
    """
    seen = near

    def at(values: Mapping[str, float], here: Situation = situation) -> dict[str, float]:
        nonlocal seen
        lamp = lamp_ahead(build, here, values, seen)
        seen = lamp if here == situation else seen
        ahead = ahead_of(build, lamp)
        if ahead.warms and lamp is not None:
            ahead = ahead.warmed(lamp.i_rms_a, here.ambient_c)
        circuit = circuit_of(build, here, ahead.before(values))
        rest = at_rest(circuit, COARSE)
        rail = min(rail.mean(rail.v_node) for rail in rest.rails)
        return {"rail": rail, "share": circuit.i_idle_at(rail) / circuit.i_idle_a if circuit.i_idle_a else 1.0}

    nominal = {key: quantity.value for key, quantity in inputs.items()}
    at_nominal = at(nominal)
    lamp, u = seen, 0.0
    if spread:
        changes = [change for _, change in contributions(at, _of_rails(inputs))["rail"]]
        mains = situation.mains_rms(build)
        others = [situation.model_copy(update={"mains_v_rms": mains * (1.0 + OF_THE_MAINS)})]
        if situation.lamp_w is not None:
            others.append(situation.model_copy(update={"lamp_w": situation.lamp_w * (1.0 + OF_A_LAMP)}))
        changes += [at(nominal, other)["rail"] - at_nominal["rail"] for other in others]
        u = math.sqrt(sum(change**2 for change in changes))
    t = None if lamp is None else lamp.t_k
    volts = None if lamp is None else lamp.i_rms_a * lamp.r_ohm
    awake = at_nominal["rail"] >= build.module.v_rail_min
    return AtRest(at_nominal["rail"], u, t, volts, awake, at_nominal["share"]), lamp


def _of_rails(inputs: Mapping[str, Input]) -> dict[str, Input]:
    """The inputs with a spread only where a rail at rest feels it: ripple and loads do not move its mean."""
    return {
        key: quantity if key in _MOVES_A_RAIL else dataclasses.replace(quantity, u=0.0)
        for key, quantity in inputs.items()
    }


def _short(build: Build, situation: Situation, inputs: Mapping[str, Input]) -> tuple[Lamp, Shorted]:
    nominal = {key: quantity.value for key, quantity in inputs.items()}
    ahead = lamp_ahead(build, situation, nominal, look_around=True)
    assert ahead is not None, "there is a lamp"
    assert ahead.shorted is not None, "it was asked for"
    return ahead.lamp, ahead.shorted
