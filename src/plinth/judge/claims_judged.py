"""Everything a listing claims, each judged three ways: possible at all, with its own other claims, and in this build.

Every verdict shows its arithmetic. What cannot be judged says what is missing; unknown is never taken for true. What
is only assumed of a part is no claim of its listing: nothing is held against it, and where it is used it is said to be.
Sources: IEC 60268-3 for power, gain, damping and response; a sine's peak and Ohm's law for the rest.
"""

import dataclasses
import itertools
import math
from collections.abc import Callable, Iterator, Mapping

from plinth.builds.build import Build
from plinth.builds.modules import ClassDModule, Module, PowerClaim
from plinth.builds.properties import is_stated
from plinth.judge.claim_verdict import ALONE, ClaimState, JudgedClaim, near, no, unsure, yes
from plinth.judge.claimed_power import most_power
from plinth.judge.claims import at_distortion, bias_claim, other_rail, power_claim, sensitivity_claim
from plinth.judge.state import State
from plinth.judge.supply_claims import supply_ratings
from plinth.physics.materials import wire_ohm
from plinth.physics.stages import output_filter, output_stage
from plinth.physics.stages.levels import peak_from_rms, rms_for_power
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown, shown_with_spread

# Distortion that falls by more than this with rising frequency was not seen whole.
FALLS = 0.9


@dataclasses.dataclass(frozen=True)
class Into:
    """This build into a claimed load: at clip, its rail without load, and at the distortion meant, where computed."""

    clip_power: Figure
    clip_v_peak: Figure
    rail_v: float
    as_claimed: Figure | None = None


def judged_claims(build: Build, prediction: Prediction, into: Mapping[float, Into]) -> tuple[JudgedClaim, ...]:
    """All claims of the build's parts. ``into`` what the build gives into each claimed load, by its ohms."""
    judges: tuple[Callable[[], Iterator[JudgedClaim]], ...] = (
        lambda: _powers(build, into), lambda: _sensitivity(build.module, prediction), lambda: _gain(build, prediction),
        lambda: _response(build), lambda: _quiescent(build, prediction), lambda: _damping(build),
        lambda: _distortion(build.module), lambda: supply_ratings(build, prediction),
    )  # fmt: skip
    return tuple(margin for judge in judges for margin in judge())


# Power


def _powers(build: Build, into: Mapping[float, Into]) -> Iterator[JudgedClaim]:
    module = build.module
    for claim in module.claims:
        words = f"{claim.power_w:g} W into {claim.r_load_ohm:g} Ω{at_distortion(claim)}"
        words += "" if claim.v_rail_v is None else f" on {build.rails_words(claim.v_rail_v)}"
        power = into.get(claim.r_load_ohm)
        yield JudgedClaim(
            words, module.name, _power_possible(build, claim), _power_consistent(module, claim),
            unsure("Not computed for this load.") if power is None else _power_here(build, claim, power),
        )  # fmt: skip


def _swing(build: Build, rail: float) -> float:
    """The most that an output can swing of its rails with nothing lost: of a bridged pair twice as much."""
    module = build.module
    if isinstance(module, ClassDModule) and is_stated(module, "modulation_max"):
        rail *= module.modulation_max
    pair = build.wiring == "bridged"
    return rail * (1.0 if build.supply.single_rail or not pair else 2.0)


def _power_possible(build: Build, claim: PowerClaim) -> ClaimState:
    module = build.module
    rail, known = _highest_rail(module, claim)
    swing = _swing(build, rail)
    maximum = most_power(swing, claim.r_load_ohm, claim.definition)
    if not known:
        return unsure(
            f"No rail is listed that it could be held against. On {build.rails_words(rail)}, which is only assumed, it "
            f"would be {maximum.arithmetic} with nothing lost."
        )
    peak = peak_from_rms(rms_for_power(claim.power_w / maximum.ratio, claim.r_load_ohm)) / claim.r_load_ohm
    if claim.power_w > maximum.power_w * (1.0 + 1e-9):
        return no(f"No: {maximum.arithmetic} with nothing lost, on {build.rails_words(rail)}.")
    if peak > module.i_limit_a * (1.0 + 1e-9) and is_stated(module, "i_limit_a"):
        return no(f"No: it takes {shown(peak, 'A')} of peak, and the module limits at {module.i_limit_a:g} A.")
    if claim.power_w > 0.85 * maximum.power_w:
        return near(f"Only just: {maximum.arithmetic} with nothing lost in the devices.")
    return yes(f"Yes: {maximum.arithmetic} with nothing lost.")


def _highest_rail(module: Module, claim: PowerClaim) -> tuple[float, bool]:
    """The rail a claim is held against, and whether its listing says it: its own, the highest, the nominal one."""
    if claim.v_rail_v is not None:
        return claim.v_rail_v, True
    for field in ("v_rail_max", "v_rail_nominal"):
        if is_stated(module, field):
            return float(getattr(module, field)), True
    return module.v_rail_max, False


def _power_consistent(module: Module, claim: PowerClaim) -> ClaimState:
    if is_stated(module, "r_load_min_ohm") and claim.r_load_ohm < module.r_load_min_ohm * (1.0 - 1e-9):
        return no(
            f"The same listing allows no load below {module.r_load_min_ohm:g} Ω, and claims one of "
            f"{claim.r_load_ohm:g} Ω."
        )
    same = [
        stated
        for stated in module.claims
        if stated is not claim and (stated.definition, stated.v_rail_v) == _meant(claim)
    ]
    peak = peak_from_rms(rms_for_power(claim.power_w, claim.r_load_ohm))
    for other in same:
        theirs = peak_from_rms(rms_for_power(other.power_w, other.r_load_ohm))
        if claim.r_load_ohm < other.r_load_ohm and peak > 1.01 * theirs:
            return no(
                f"{claim.power_w:g} W into {claim.r_load_ohm:g} Ω is {shown(peak, 'V')} of peak, {other.power_w:g} W "
                f"into {other.r_load_ohm:g} Ω only {shown(theirs, 'V')}: more volts into the heavier load. One of the "
                "two is not so."
            )
    listed = _listed_with_gain(module)
    if (
        listed is not None
        and module.claims
        and claim is max(module.claims, key=lambda stated: stated.power_w * stated.r_load_ohm)
    ):
        driven = listed * module.gain
        needed = rms_for_power(claim.power_w, claim.r_load_ohm)
        if abs(driven / needed - 1.0) > 0.15:
            return no(
                f"Sensitivity {shown(listed, 'V')} × gain {module.gain:g} = {shown(driven, 'V')} rms; this power is "
                f"{shown(needed, 'V')} rms. One of the three is not so."
            )
        return yes(f"Sensitivity × gain = {shown(driven, 'V')} rms, and this power is {shown(needed, 'V')} rms.")
    return yes(f"{shown(peak, 'V')} of peak agrees with the other loads it lists.") if same else ALONE


def _meant(claim: PowerClaim) -> tuple[str, float | None]:
    return claim.definition, claim.v_rail_v


def _power_here(build: Build, claim: PowerClaim, into: Into) -> ClaimState:
    verdict = power_claim(claim, into.clip_power, into.clip_v_peak, into.as_claimed)
    other = other_rail(claim, build.module.v_rail_nominal, into.rail_v)
    if other and verdict.state is State.OVER:
        # Lower rails than the listing means disprove nothing.
        return near(f"{verdict.sentence} The listing is {other}.")
    return ClaimState(verdict.state, verdict.sentence)


# Gain and drive


def _listed_with_gain(module: Module) -> float | None:
    """The listed sensitivity where the gain is listed as well, so that the two can be held against each other."""
    both = is_stated(module, "sensitivity_v_rms") and is_stated(module, "gain")
    return module.sensitivity_v_rms if both else None


def _sensitivity(module: Module, prediction: Prediction) -> Iterator[JudgedClaim]:
    listed = module.sensitivity_v_rms
    if listed is None or not is_stated(module, "sensitivity_v_rms"):
        return
    drive = prediction["drive_v_rms"]
    here = f"This build clips at {shown_with_spread(drive.value, drive.spread, 'V')} of drive."
    words = sensitivity_claim(module, drive)
    if not is_stated(module, "gain"):
        missing = unsure("No gain is listed that it could be held against.")
        assumed = f"{here if words is None else words} The gain of {module.gain:g} is only assumed."
        yield JudgedClaim(f"full power at {shown(listed, 'V')}", module.name, missing, missing, near(assumed))
        return
    driven = listed * module.gain
    peak = peak_from_rms(driven)
    sum_ = f"{shown(listed, 'V')} × {module.gain:g} = {shown(driven, 'V')} rms, {shown(peak, 'V')} of peak"
    fits = peak * (1.0 - module.gain_tol) <= module.v_rail_max
    if not is_stated(module, "v_rail_max"):
        possible = unsure(f"{sum_}; no highest rail is listed.")
    else:
        possible = yes(f"Yes: {sum_}.") if fits else no(f"No: {sum_}, and the module stands {module.v_rail_max:g} V.")
    nearest = min(
        (rms_for_power(stated.power_w, stated.r_load_ohm) for stated in module.claims),
        key=lambda v: abs(v / driven - 1.0),
        default=None,
    )
    if nearest is None:
        consistent = unsure("No power is listed that it could be held against.")
    elif abs(nearest / driven - 1.0) <= 0.15:
        consistent = yes(f"{sum_}; its listed power is {shown(nearest, 'V')} rms.")
    else:
        consistent = no(f"{sum_}; its nearest listed power is {shown(nearest, 'V')} rms.")
    yield JudgedClaim(
        f"full power at {shown(listed, 'V')}", module.name, possible, consistent,
        yes(here) if words is None else near(here) if fits else no(words),
    )  # fmt: skip


def _gain(build: Build, prediction: Prediction) -> Iterator[JudgedClaim]:
    module = build.module
    if not is_stated(module, "gain"):
        return
    db = 20.0 * math.log10(module.gain)
    words = f"gain {module.gain:g} times, {db:.1f} dB"
    sensible = 2.0 <= module.gain <= 200.0
    possible = (yes if sensible else near)(
        f"{db:.1f} dB: power amplifiers lie between 20 and 36 dB."
        if sensible
        else f"{db:.1f} dB is outside what power amplifiers have: perhaps decibels and times were mixed up."
    )
    listed = _listed_with_gain(module)
    if listed is None or not module.claims:
        consistent = ALONE
    else:
        volts = max(rms_for_power(stated.power_w, stated.r_load_ohm) for stated in module.claims)
        by = volts / listed
        consistent = (yes if abs(by / module.gain - 1.0) <= 0.15 else no)(
            f"Its power over its sensitivity is {shown(volts, 'V')} / {shown(listed, 'V')} = {by:.3g} times."
        )
    source = prediction.situation.source_v_rms
    drive = prediction["drive_v_rms"]
    if source is None:
        here = unsure("What the source gives is not said: move its slider.")
    else:
        ahead = build.preamplifier.gain if build.preamplifier.fitted else 1.0
        spare = 20.0 * math.log10(source * ahead / drive.value)
        here = (yes if spare >= 0.0 else no)(
            f"The source's {shown(source, 'V')} against {shown(drive.value, 'V')} to clip: {spare:+.1f} dB."
        )
    yield JudgedClaim(words, module.name, possible, consistent, here)


# Band


def _response(build: Build) -> Iterator[JudgedClaim]:
    module = build.module
    if not (is_stated(module, "f_low_hz") and is_stated(module, "f_high_hz")):
        return
    words = f"{shown(module.f_low_hz, 'Hz', 2)} to {shown(module.f_high_hz, 'Hz', 3)}"
    coil = module.output_filter
    if coil is not None and not all(is_stated(module, path) for path in ("l_filter_h", "c_filter_f", "f_switching_hz")):
        possible = unsure("Its filter and its clock are only assumed.")
    elif coil is not None:
        corner = output_filter.corner_hz(coil.l_h, coil.c_f)
        half = coil.f_clock_hz / 2.0
        possible = (yes if module.f_high_hz <= min(1.6 * corner, half) else no)(
            f"Its filter's corner is 1 / (2π √(LC)) = {shown(corner, 'Hz')}, half its clock {shown(half, 'Hz')}."
        )
    elif module.f_low_hz < module.f_high_hz:
        possible = yes("Nothing in a linear stage speaks against it.")
    else:
        possible = no("The lower end lies above the upper one.")
    if module.slew_v_per_s is None or not is_stated(module, "slew_v_per_s"):
        consistent = unsure("No slew rate is listed that it could be held against.")
    elif not module.claims and not is_stated(module, "v_rail_nominal"):
        consistent = unsure("Neither power nor rail is listed that its slew rate could be held against.")
    else:
        volts = max((peak_from_rms(rms_for_power(c.power_w, c.r_load_ohm)) for c in module.claims),
                    default=module.v_rail_nominal)  # fmt: skip
        full = output_stage.power_bandwidth_hz(module.slew_v_per_s, volts)
        sum_ = f"slew / (2π × {shown(volts, 'V')}) = {shown(full, 'Hz')}"
        consistent = (
            yes(f"Its slew rate carries it at full power: {sum_}.") if full >= module.f_high_hz
            else near(f"At a small signal only: at full power {sum_}.")
        )  # fmt: skip
    c = build.hookup.c_input_f
    if build.hookup.coupling in (None, "direct") or c is None:
        here = unsure("How the input is coupled is not said.")
    else:
        corner = 1.0 / (2.0 * math.pi * module.r_input_ohm * c)
        both = math.hypot(corner, module.f_low_hz)
        by = "" if is_stated(module, "r_input_ohm") else ", which is only assumed,"
        here = (yes if corner <= module.f_low_hz else near if both <= 20.0 else no)(
            f"With {shown(c, 'F', 2)} into {shown(module.r_input_ohm, 'ohm')}{by} the input itself begins at "
            f"{shown(corner, 'Hz', 2)}."
        )
    yield JudgedClaim(words, module.name, possible, consistent, here)


# Bias, damping, distortion


def _quiescent(build: Build, prediction: Prediction) -> Iterator[JudgedClaim]:
    module = build.module
    bias = module.bias if module.bias and is_stated(module, "bias.listed_mv") else None
    stated = module.i_quiescent_stated_a if is_stated(module, "i_quiescent_stated_a") else None
    if bias is not None:
        words = f"{bias.listed_mv:g} mV across {bias.r_listed_ohm:g} Ω"
        sum_ = f"{bias.listed_mv:g} mV / {bias.r_listed_ohm:g} Ω = {shown(bias.i_pair_a, 'A')} for each pair"
    elif stated is not None:
        words, sum_ = f"{shown(stated, 'A')} at rest", shown(stated, "A")
    else:
        return
    amperes = module.i_quiescent_a
    heat = 2.0 * module.v_rail_nominal * amperes
    junction = module.r_junction_sink_k_per_w
    limit = module.t_junction_max_c
    if limit is None or junction is None or not is_stated(module, "t_junction_max_c"):
        possible = unsure(f"{sum_}, {shown(heat, 'W')} at rest; no junction limit is listed.")
    else:
        rise = heat / module.pairs * junction
        possible = (yes if 40.0 + rise < limit else no)(
            f"{sum_}: {shown(heat, 'W')} at rest lift each junction {rise:.0f} K above its sink; {limit:g} °C allowed."
        )
    if bias is None or stated is None:
        consistent = ALONE
    else:
        by = module.pairs * bias.i_pair_a
        consistent = (yes if abs(by / stated - 1.0) <= 0.1 else no)(
            f"{module.pairs} × {shown(bias.i_pair_a, 'A')} = {shown(by, 'A')}; it says {shown(stated, 'A')} at rest."
        )
    other = bias_claim(module)
    sink = prediction["sink_idle_c"]
    if other is not None:
        here = near(other)
    else:
        limit_c = build.sink.t_limit_c
        here = (no if sink.value > limit_c else near if sink.high > limit_c else yes)(
            f"At rest the sink comes to {shown_with_spread(sink.value, sink.spread, '°C')} of {limit_c:g} °C."
        )
    yield JudgedClaim(words, module.name, possible, consistent, here)


def _damping(build: Build) -> Iterator[JudgedClaim]:
    module = build.module
    if module.r_output_ohm is None or not is_stated(module, "r_output_ohm"):
        return
    load = build.load.r_ohm
    alone = output_stage.damping_factor(load, max(module.r_output_ohm, 1e-6))
    words = f"{shown(module.r_output_ohm, 'ohm')} at its output, damping {alone:.0f} into {load:g} Ω"
    contact = 2e-3
    possible = (yes if module.r_output_ohm >= contact else near)(
        f"Screws and plugs alone are some {shown(contact, 'ohm')}: below that it holds at the board only."
    )
    cable = build.cable
    if not cable.fitted or cable.length_m is None or cable.a_m2 is None:
        here = unsure("The loudspeaker's cable is not said, and it usually decides.")
    else:
        r = 2.0 * wire_ohm(cable.length_m, cable.a_m2)
        with_cable = output_stage.damping_factor(load, module.r_output_ohm + r)
        here = (yes if with_cable >= 0.5 * alone else near if with_cable >= 20.0 else no)(
            f"With {shown(r, 'ohm')} of cable it is {load:g} / ({shown(module.r_output_ohm, 'ohm')} + "
            f"{shown(r, 'ohm')}) = {with_cable:.0f} at the loudspeaker."
        )
    yield JudgedClaim(words, module.name, possible, ALONE, here)


def _distortion(module: Module) -> Iterator[JudgedClaim]:
    points = module.distortion
    if not points:
        return
    words = ", ".join(f"{100.0 * point.share:.3g} % at {shown(point.f_hz, 'Hz', 3)}" for point in points)
    falls = next(
        ((a, b) for a, b in itertools.pairwise(points) if b.f_hz > 1000.0 and b.share < FALLS * a.share), None
    )  # fmt: skip
    if len(points) < 2:
        possible = unsure("One frequency says nothing of the rest: feedback falls with frequency, so it rises.")
    elif falls is not None:
        low, high = falls
        possible = no(
            f"Band-limited: it falls from {100.0 * low.share:.3g} % at {shown(low.f_hz, 'Hz', 3)} to "
            f"{100.0 * high.share:.3g} % at {shown(high.f_hz, 'Hz', 3)}, where feedback lets it rise. Harmonics of "
            f"{shown(high.f_hz, 'Hz', 3)} begin at {shown(2.0 * high.f_hz, 'Hz', 3)}: a meter 20 kHz wide does not see "
            "them."
        )
    else:
        possible = yes("It rises with frequency, as falling feedback lets it.")
    top = points[-1]
    swing = max((peak_from_rms(rms_for_power(c.power_w, c.r_load_ohm)) for c in module.claims), default=0.0)
    if module.slew_v_per_s is None or not swing or not is_stated(module, "slew_v_per_s"):
        consistent = unsure("No slew rate and power are listed that it could be held against.")
    else:
        full = output_stage.power_bandwidth_hz(module.slew_v_per_s, swing)
        consistent = (yes if full >= top.f_hz else no)(
            f"At {shown(top.f_hz, 'Hz', 3)} its slew rate carries full power up to {shown(full, 'Hz')}."
        )
    here = unsure("Below clipping distortion is not predicted: measure it, with load and level written beside it.")
    yield JudgedClaim(words, module.name, possible, consistent, here)
