"""Everything a listing claims, each judged three ways: possible at all, with its own other claims, and in this build.

Every verdict shows its arithmetic. What cannot be judged says what is missing; unknown is never taken for true.
Sources: IEC 60268-3 for power, gain, damping and response; a sine's peak and Ohm's law for the rest.
"""

import dataclasses
import itertools
import math
from collections.abc import Callable, Iterator, Mapping

from plinth.builds.build import Build
from plinth.builds.modules import ClassDModule, Module, PowerClaim
from plinth.builds.supplies import LinearSupply
from plinth.builds.supply_parts import Regulator
from plinth.judge.claims import THD_OF, at_distortion, bias_claim, other_rail, power_claim, sensitivity_claim
from plinth.judge.state import State
from plinth.physics.stages import output_filter, output_stage
from plinth.physics.stages.clipped_sine import power_ratio_at
from plinth.physics.stages.levels import peak_from_rms, power_w, rms_for_power
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown, shown_with_spread

COPPER_OHM_M = 1.72e-8
# What a capacitor as large as a fist gives off at 10 K above the air around it; more boils its electrolyte.
MOST_CAN_W = 6.0
# Distortion that falls by more than this with rising frequency was not seen whole.
FALLS = 0.9


@dataclasses.dataclass(frozen=True)
class Verdict:
    """``state`` clear: yes; close: only just, or with a word to it; over: no; unknown: it cannot be told."""

    state: State
    sentence: str


@dataclasses.dataclass(frozen=True)
class JudgedClaim:
    """``words`` the claim, ``part`` whose it is."""

    words: str
    part: str
    possible: Verdict
    consistent: Verdict
    here: Verdict


@dataclasses.dataclass(frozen=True)
class Into:
    """This build into a claimed load: at clip, its rail without load, and at the distortion meant, where computed."""

    clip_power: Figure
    clip_v_peak: Figure
    rail_v: float
    as_claimed: Figure | None = None


def _yes(sentence: str) -> Verdict:
    return Verdict(State.CLEAR, sentence)


def _no(sentence: str) -> Verdict:
    return Verdict(State.OVER, sentence)


def _unsure(sentence: str) -> Verdict:
    return Verdict(State.UNKNOWN, sentence)


def _near(sentence: str) -> Verdict:
    return Verdict(State.CLOSE, sentence)


ALONE = _unsure("No other claim of this listing bears on it.")


def judged_claims(build: Build, prediction: Prediction, into: Mapping[float, Into]) -> tuple[JudgedClaim, ...]:
    """All claims of the build's parts. ``into`` what the build gives into each claimed load, by its ohms."""
    judges: tuple[Callable[[], Iterator[JudgedClaim]], ...] = (
        lambda: _powers(build, into), lambda: _sensitivity(build.module, prediction), lambda: _gain(build, prediction),
        lambda: _response(build), lambda: _quiescent(build, prediction), lambda: _damping(build),
        lambda: _distortion(build.module), lambda: _supply_ratings(build, prediction),
    )  # fmt: skip
    return tuple(one for judge in judges for one in judge())


# Power


def _powers(build: Build, into: Mapping[float, Into]) -> Iterator[JudgedClaim]:
    module = build.module
    for claim in module.claims:
        words = f"{claim.power_w:g} W into {claim.r_load_ohm:g} Ω{at_distortion(claim)}"
        words += "" if claim.v_rail_v is None else f" on {build.rails_words(claim.v_rail_v)}"
        found = into.get(claim.r_load_ohm)
        yield JudgedClaim(
            words, module.name, _power_possible(build, claim), _power_consistent(module, claim),
            _unsure("Not computed for this load.") if found is None else _power_here(build, claim, found),
        )  # fmt: skip


def _swing(build: Build, rail: float) -> float:
    """The most that an output can swing of its rails with nothing lost: of a bridged pair twice as much."""
    module = build.module
    if isinstance(module, ClassDModule):
        rail *= module.modulation_max
    pair = build.wiring == "bridged"
    return rail * (1.0 if build.supply.single_rail or not pair else 2.0)


def _power_possible(build: Build, claim: PowerClaim) -> Verdict:
    module = build.module
    rail = claim.v_rail_v if claim.v_rail_v is not None else module.v_rail_max
    # Where nobody says how clipping is meant, the kindest meaning is taken.
    share = THD_OF.get(claim.definition, 0.10 if claim.definition == "unstated" else 0.0)
    ratio = power_ratio_at(share)
    swing = _swing(build, rail)
    most = power_w(swing / math.sqrt(2.0), claim.r_load_ohm) * ratio
    meant = f" × {ratio:.2f} at {100.0 * share:g} % distortion" if share else ""
    sum_ = f"{shown(swing, 'V')}² / (2 × {claim.r_load_ohm:g} Ω){meant} = {shown(most, 'W')}"
    peak = peak_from_rms(rms_for_power(claim.power_w / ratio, claim.r_load_ohm)) / claim.r_load_ohm
    if claim.power_w > most * (1.0 + 1e-9):
        return _no(f"No: {sum_} with nothing lost, on {build.rails_words(rail)}.")
    if peak > module.i_limit_a * (1.0 + 1e-9):
        return _no(f"No: it takes {shown(peak, 'A')} of peak, and the module limits at {module.i_limit_a:g} A.")
    if claim.power_w > 0.85 * most:
        return _near(f"Only just: {sum_} with nothing lost in the devices.")
    return _yes(f"Yes: {sum_} with nothing lost.")


def _power_consistent(module: Module, claim: PowerClaim) -> Verdict:
    if claim.r_load_ohm < module.r_load_min_ohm * (1.0 - 1e-9):
        return _no(
            f"The same listing allows no load below {module.r_load_min_ohm:g} Ω, and claims one of "
            f"{claim.r_load_ohm:g} Ω."
        )
    same = [one for one in module.claims if one is not claim and (one.definition, one.v_rail_v) == _meant(claim)]
    peak = peak_from_rms(rms_for_power(claim.power_w, claim.r_load_ohm))
    for other in same:
        theirs = peak_from_rms(rms_for_power(other.power_w, other.r_load_ohm))
        if claim.r_load_ohm < other.r_load_ohm and peak > 1.01 * theirs:
            return _no(
                f"{claim.power_w:g} W into {claim.r_load_ohm:g} Ω is {shown(peak, 'V')} of peak, {other.power_w:g} W "
                f"into {other.r_load_ohm:g} Ω only {shown(theirs, 'V')}: more volts into the heavier load. One of the "
                "two is not so."
            )
    listed = module.sensitivity_v_rms
    if (
        listed is not None
        and module.claims
        and claim is max(module.claims, key=lambda one: one.power_w * one.r_load_ohm)
    ):
        driven = listed * module.gain
        needed = rms_for_power(claim.power_w, claim.r_load_ohm)
        if abs(driven / needed - 1.0) > 0.15:
            return _no(
                f"Sensitivity {shown(listed, 'V')} × gain {module.gain:g} = {shown(driven, 'V')} rms; this power is "
                f"{shown(needed, 'V')} rms. One of the three is not so."
            )
        return _yes(f"Sensitivity × gain = {shown(driven, 'V')} rms, and this power is {shown(needed, 'V')} rms.")
    return _yes(f"{shown(peak, 'V')} of peak agrees with the other loads it lists.") if same else ALONE


def _meant(claim: PowerClaim) -> tuple[str, float | None]:
    return claim.definition, claim.v_rail_v


def _power_here(build: Build, claim: PowerClaim, into: Into) -> Verdict:
    verdict = power_claim(claim, into.clip_power, into.clip_v_peak, into.as_claimed)
    other = other_rail(claim, build.module.v_rail_nominal, into.rail_v)
    if other and verdict.state is State.OVER:
        # Lower rails than the listing means disprove nothing.
        return _near(f"{verdict.sentence} The listing is {other}.")
    return Verdict(verdict.state, verdict.sentence)


# Gain and drive


def _sensitivity(module: Module, prediction: Prediction) -> Iterator[JudgedClaim]:
    listed = module.sensitivity_v_rms
    if listed is None:
        return
    driven = listed * module.gain
    peak = peak_from_rms(driven)
    sum_ = f"{shown(listed, 'V')} × {module.gain:g} = {shown(driven, 'V')} rms, {shown(peak, 'V')} of peak"
    fits = peak * (1.0 - module.gain_tol) <= module.v_rail_max
    possible = _yes(f"Yes: {sum_}.") if fits else _no(f"No: {sum_}, and the module stands {module.v_rail_max:g} V.")
    nearest = min(
        (rms_for_power(one.power_w, one.r_load_ohm) for one in module.claims), key=lambda v: abs(v / driven - 1.0),
        default=None,
    )  # fmt: skip
    if nearest is None:
        consistent = _unsure("No power is listed that it could be held against.")
    elif abs(nearest / driven - 1.0) <= 0.15:
        consistent = _yes(f"{sum_}; its listed power is {shown(nearest, 'V')} rms.")
    else:
        consistent = _no(f"{sum_}; its nearest listed power is {shown(nearest, 'V')} rms.")
    drive = prediction["drive_v_rms"]
    words = sensitivity_claim(module, drive)
    here = f"This build clips at {shown_with_spread(drive.value, drive.spread, 'V')} of drive."
    yield JudgedClaim(
        f"full power at {shown(listed, 'V')}", module.name, possible, consistent,
        _yes(here) if words is None else _near(here) if fits else _no(words),
    )  # fmt: skip


def _gain(build: Build, prediction: Prediction) -> Iterator[JudgedClaim]:
    module = build.module
    db = 20.0 * math.log10(module.gain)
    words = f"gain {module.gain:g} times, {db:.1f} dB"
    sensible = 2.0 <= module.gain <= 200.0
    possible = (_yes if sensible else _near)(
        f"{db:.1f} dB: power amplifiers lie between 20 and 36 dB."
        if sensible
        else f"{db:.1f} dB is outside what power amplifiers have: perhaps decibels and times were mixed up."
    )
    listed = module.sensitivity_v_rms
    if listed is None or not module.claims:
        consistent = ALONE
    else:
        volts = max(rms_for_power(one.power_w, one.r_load_ohm) for one in module.claims)
        by = volts / listed
        consistent = (_yes if abs(by / module.gain - 1.0) <= 0.15 else _no)(
            f"Its power over its sensitivity is {shown(volts, 'V')} / {shown(listed, 'V')} = {by:.3g} times."
        )
    source = prediction.situation.source_v_rms
    drive = prediction["drive_v_rms"]
    if source is None:
        here = _unsure("What the source gives is not said: move its slider.")
    else:
        ahead = build.preamplifier.gain if build.preamplifier.fitted else 1.0
        spare = 20.0 * math.log10(source * ahead / drive.value)
        here = (_yes if spare >= 0.0 else _no)(
            f"The source's {shown(source, 'V')} against {shown(drive.value, 'V')} to clip: {spare:+.1f} dB."
        )
    yield JudgedClaim(words, module.name, possible, consistent, here)


# Band


def _response(build: Build) -> Iterator[JudgedClaim]:
    module = build.module
    words = f"{shown(module.f_low_hz, 'Hz', 2)} to {shown(module.f_high_hz, 'Hz', 3)}"
    if isinstance(module, ClassDModule):
        corner = output_filter.corner_hz(module.l_filter_h, module.c_filter_f)
        half = module.f_switching_hz / 2.0
        possible = (_yes if module.f_high_hz <= min(1.6 * corner, half) else _no)(
            f"Its filter's corner is 1 / (2π √(LC)) = {shown(corner, 'Hz')}, half its clock {shown(half, 'Hz')}."
        )
    elif module.f_low_hz < module.f_high_hz:
        possible = _yes("Nothing in a linear stage speaks against it.")
    else:
        possible = _no("The lower end lies above the upper one.")
    if module.slew_v_per_s is None:
        consistent = _unsure("No slew rate is listed that it could be held against.")
    else:
        volts = max((peak_from_rms(rms_for_power(c.power_w, c.r_load_ohm)) for c in module.claims),
                    default=module.v_rail_nominal)  # fmt: skip
        full = output_stage.power_bandwidth_hz(module.slew_v_per_s, volts)
        sum_ = f"slew / (2π × {shown(volts, 'V')}) = {shown(full, 'Hz')}"
        consistent = (
            _yes(f"Its slew rate carries it at full power: {sum_}.") if full >= module.f_high_hz
            else _near(f"At a small signal only: at full power {sum_}.")
        )  # fmt: skip
    c = build.hookup.c_input_f
    if build.hookup.coupling in (None, "direct") or c is None:
        here = _unsure("How the input is coupled is not said.")
    else:
        corner = 1.0 / (2.0 * math.pi * module.r_input_ohm * c)
        both = math.hypot(corner, module.f_low_hz)
        here = (_yes if corner <= module.f_low_hz else _near if both <= 20.0 else _no)(
            f"With {shown(c, 'F', 2)} into {shown(module.r_input_ohm, 'ohm')} the input itself begins at "
            f"{shown(corner, 'Hz', 2)}."
        )
    yield JudgedClaim(words, module.name, possible, consistent, here)


# Bias, damping, distortion


def _quiescent(build: Build, prediction: Prediction) -> Iterator[JudgedClaim]:
    module = build.module
    bias, stated = module.bias, module.i_quiescent_stated_a
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
    if limit is None or junction is None:
        possible = _unsure(f"{sum_}, {shown(heat, 'W')} at rest; no junction limit is listed.")
    else:
        rise = heat / module.pairs * junction
        possible = (_yes if 40.0 + rise < limit else _no)(
            f"{sum_}: {shown(heat, 'W')} at rest lift each junction {rise:.0f} K above its sink; {limit:g} °C allowed."
        )
    if bias is None or stated is None:
        consistent = ALONE
    else:
        by = module.pairs * bias.i_pair_a
        consistent = (_yes if abs(by / stated - 1.0) <= 0.1 else _no)(
            f"{module.pairs} × {shown(bias.i_pair_a, 'A')} = {shown(by, 'A')}; it says {shown(stated, 'A')} at rest."
        )
    other = bias_claim(module)
    sink = prediction["sink_idle_c"]
    if other is not None:
        here = _near(other)
    else:
        limit_c = build.sink.t_limit_c
        here = (_no if sink.value > limit_c else _near if sink.high > limit_c else _yes)(
            f"At rest the sink comes to {shown_with_spread(sink.value, sink.spread, '°C')} of {limit_c:g} °C."
        )
    yield JudgedClaim(words, module.name, possible, consistent, here)


def _damping(build: Build) -> Iterator[JudgedClaim]:
    module = build.module
    if module.r_output_ohm is None:
        return
    load = build.load.r_ohm
    alone = output_stage.damping_factor(load, max(module.r_output_ohm, 1e-6))
    words = f"{shown(module.r_output_ohm, 'ohm')} at its output, damping {alone:.0f} into {load:g} Ω"
    contact = 2e-3
    possible = (_yes if module.r_output_ohm >= contact else _near)(
        f"Screws and plugs alone are some {shown(contact, 'ohm')}: below that it holds at the board only."
    )
    cable = build.cable
    if not cable.fitted or cable.length_m is None or cable.a_m2 is None:
        here = _unsure("The loudspeaker's cable is not said, and it usually decides.")
    else:
        r = 2.0 * COPPER_OHM_M * cable.length_m / cable.a_m2
        with_cable = output_stage.damping_factor(load, module.r_output_ohm + r)
        here = (_yes if with_cable >= 0.5 * alone else _near if with_cable >= 20.0 else _no)(
            f"With {shown(r, 'ohm')} of cable it is {load:g} / ({shown(module.r_output_ohm, 'ohm')} + "
            f"{shown(r, 'ohm')}) = {with_cable:.0f} at the loudspeaker."
        )
    yield JudgedClaim(words, module.name, possible, ALONE, here)


def _distortion(module: Module) -> Iterator[JudgedClaim]:
    points = module.distortion
    if not points:
        return
    words = ", ".join(f"{100.0 * one.share:.3g} % at {shown(one.f_hz, 'Hz', 3)}" for one in points)
    falls = next(
        ((a, b) for a, b in itertools.pairwise(points) if b.f_hz > 1000.0 and b.share < FALLS * a.share), None
    )  # fmt: skip
    if len(points) < 2:
        possible = _unsure("One frequency says nothing of the rest: feedback falls with frequency, so it rises.")
    elif falls is not None:
        low, high = falls
        possible = _no(
            f"Band-limited: it falls from {100.0 * low.share:.3g} % at {shown(low.f_hz, 'Hz', 3)} to "
            f"{100.0 * high.share:.3g} % at {shown(high.f_hz, 'Hz', 3)}, where feedback lets it rise. Harmonics of "
            f"{shown(high.f_hz, 'Hz', 3)} begin at {shown(2.0 * high.f_hz, 'Hz', 3)}: a meter 20 kHz wide does not see "
            "them."
        )
    else:
        possible = _yes("It rises with frequency, as falling feedback lets it.")
    top = points[-1]
    swing = max((peak_from_rms(rms_for_power(c.power_w, c.r_load_ohm)) for c in module.claims), default=0.0)
    if module.slew_v_per_s is None or not swing:
        consistent = _unsure("No slew rate and power are listed that it could be held against.")
    else:
        full = output_stage.power_bandwidth_hz(module.slew_v_per_s, swing)
        consistent = (_yes if full >= top.f_hz else _no)(
            f"At {shown(top.f_hz, 'Hz', 3)} its slew rate carries full power up to {shown(full, 'Hz')}."
        )
    here = _unsure("Below clipping distortion is not predicted: measure it, with load and level written beside it.")
    yield JudgedClaim(words, module.name, possible, consistent, here)


# Ratings of the supply's parts


def _supply_ratings(build: Build, prediction: Prediction) -> Iterator[JudgedClaim]:
    supply = build.supply
    if isinstance(supply, LinearSupply):
        bridge, mean = supply.rectifier, prediction.get("diode_plus_mean_a")
        fuse = build.entry.fuse_a_rms
        yield JudgedClaim(
            f"{bridge.i_rated_a:g} A mean", bridge.name,
            (_yes if bridge.i_rated_a <= 100.0 else _near)("On a sink: without one a bridge carries a fifth of it."),
            (_yes if bridge.i_rated_a >= supply.transformer.i_rated_a / 1.6 else _no)(
              f"The winding gives {shown(supply.transformer.i_rated_a, 'A')} rms, some "
              f"{shown(supply.transformer.i_rated_a / 1.6, 'A')} mean; the fuse is {fuse:g} A."),
            _unsure("Not predicted.") if mean is None else _rated(mean, bridge.i_rated_a),
        )  # fmt: skip
    can = supply.reservoir
    if can.i_ripple_rated_a is not None:
        ripple = prediction.get("reservoir_plus_ripple_a_rms")
        if can.esr_ohm is None:
            possible = _unsure("No ESR is listed, so its heat cannot be told.")
        else:
            heat = can.i_ripple_rated_a**2 * can.esr_ohm
            possible = (_yes if heat <= MOST_CAN_W else _no)(
                f"({can.i_ripple_rated_a:g} A)² × {shown(can.esr_ohm, 'ohm')} = {shown(heat, 'W')} of heat; a can "
                f"gives off some {MOST_CAN_W:g} W."
            )
        here = _unsure("Not predicted.") if ripple is None else _rated(ripple, can.i_ripple_rated_a)
        yield JudgedClaim(f"{can.i_ripple_rated_a:g} A of ripple", can.name, possible, ALONE, here)
    if isinstance(supply, LinearSupply) and supply.input_supply is not None:
        yield _regulator(supply.input_supply.regulator, supply.input_supply.i_load_a, prediction)


def _regulator(part: Regulator, i_load_a: float, prediction: Prediction) -> JudgedClaim:
    limit = 125.0 if part.t_junction_max_c is None else part.t_junction_max_c
    heat = part.i_max_a * part.v_dropout_v
    most = (limit - 25.0) / part.r_junction_air_k_per_w
    possible = (_yes if heat <= most else _no)(
        f"{part.i_max_a:g} A × {part.v_dropout_v:g} V of dropout alone is {shown(heat, 'W')}; as it is cooled it gives "
        f"off ({limit:g} − 25) K / {part.r_junction_air_k_per_w:g} K/W = {shown(most, 'W')}."
    )
    if part.v_in_max is None:
        consistent = _unsure("No highest input is listed.")
    else:
        both = part.i_max_a * (part.v_in_max - part.v_out)
        consistent = (_yes if both <= most else _near)(
            f"Full current at its highest input would be {shown(both, 'W')}: not both at once."
            if both > most
            else f"Even full current at its highest input is {shown(both, 'W')}."
        )
    figure = prediction.get("input_rail_mean_v")
    if figure is None:
        here = _unsure("Not predicted.")
    else:
        own = (figure.value - part.v_out) * i_load_a
        here = (_yes if own <= most and i_load_a <= part.i_max_a else _no)(
            f"Here ({shown(figure.value, 'V')} − {part.v_out:g} V) × {shown(i_load_a, 'A')} = {shown(own, 'W')}."
        )
    return JudgedClaim(f"{part.v_out:g} V, {part.i_max_a:g} A", part.name, possible, consistent, here)


def _rated(figure: Figure, limit: float) -> Verdict:
    words = f"Predicted {shown_with_spread(figure.value, figure.spread, figure.unit)} of {limit:g} {figure.unit}."
    if figure.value > limit * (1.0 + 1e-9):
        return _no(words)
    return _near(words) if figure.high > limit else _yes(words)
