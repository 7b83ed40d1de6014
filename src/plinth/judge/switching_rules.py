"""Limits of mains switchers and battery converters."""

from plinth.builds.build import Build
from plinth.builds.properties import PartModel
from plinth.builds.supplies import SwitcherSupply
from plinth.judge.limit_row import LimitRow
from plinth.judge.making import make_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.physics.switchers.push_pull import turns_within
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown


def supply_power(build: Build, prediction: Prediction) -> Margin | None:
    """Continuous power of a switcher or converter against programme; the sentence names the sine as well."""
    figure = prediction.get("supply_programme_ratio")
    if figure is None:
        return None
    sine = prediction["supply_load_ratio"].value
    crest = prediction.situation.crest_db
    watts = _continuous_w(build)
    return make_margin(
        "supply_power", "Supply power", "transformer", figure=figure, limit=1.0, words=f"{watts:g} W continuous",
        sentences={
            State.CLEAR: f"Programme of {crest:.0f} dB crest is carried. A sine at this level asks {sine:.2f} × that.",
            State.OVER: f"Programme of {crest:.0f} dB crest asks more than it gives for good.",
        },
        fix="A stronger supply, fewer channels at once, or a higher load resistance.", limit_of=_power_of(build),
    )  # fmt: skip


def _power_of(build: Build) -> tuple[PartModel, str] | None:
    return None if build.supply.continuous_w is None else (build.supply.source_part, "p_continuous_w")


def _continuous_w(build: Build) -> float:
    return build.supply.continuous_w or 0.0


def short_time_power(build: Build, prediction: Prediction) -> Margin | None:
    """Short-time power of a switcher against a sine at the level asked for."""
    if not isinstance(build.supply, SwitcherSupply):
        return None
    part = build.supply.switcher
    seconds = "" if part.short_s is None else f" for {part.short_s:g} s"
    return make_margin(
        "short_time_power", "Supply power, peaks", "transformer", figure=prediction["supply_power_w"],
        limit=part.p_short_w, words="not stated" if part.p_short_w is None else f"{part.p_short_w:g} W{seconds}",
        sentences={
            State.CLEAR: "A passage as loud as a sine at this level is carried for a moment.",
            State.UNKNOWN: "No short-time power is stated for this supply.",
            State.OVER: "A loud passage takes it into its limit.",
        },
        fix="Type it from the data sheet."
        if part.p_short_w is None
        else "A stronger supply, or more output capacitors.",
        limit_of=(part, "p_short_w"),
    )  # fmt: skip


def supply_current(build: Build, prediction: Prediction) -> Margin | None:
    """Peak rail current against the supply's limit, and what it does there."""
    limit, then = build.supply.limit_a, build.supply.at_its_limit
    if limit is None:
        return None
    figure = prediction.get("supply_rail_peak_a") or prediction["rail_plus_load_mean_a"]
    return make_margin(
        "supply_current", "Supply current", "transformer", figure=figure, limit=limit,
        words=f"limits at {limit:g} A per rail",
        sentences={
            State.CLEAR: "The rails ask less than its limit.",
            State.CLOSE: f"Near its limit, at which it {then}.",
            State.OVER: f"Beyond its limit it {then}. The output capacitors carry short peaks only.",
        },
        fix="More output capacitors, a higher load, or a stronger supply.",
        limit_of=(build.supply.source_part, "i_limit_a"),
    )  # fmt: skip


def mains_range(build: Build, _prediction: Prediction) -> Margin | None:
    """Low mains against what the switcher works from."""
    if not isinstance(build.supply, SwitcherSupply) or build.mains is None:
        return None
    part = build.supply.switcher
    low = build.mains.v_nominal_rms * (1.0 - build.mains.tolerance)
    return make_margin(
        "mains_range", "Mains, low day", "wall", figure=stated("mains_low_v", "low mains", low, "V", "EN 50160"),
        limit=part.v_mains_min, words=f"from {part.v_mains_min:g} V",
        sentences={
            State.CLEAR: "It works on the lowest mains that is allowed.",
            State.CLOSE: "It just works on the lowest mains that is allowed.",
            State.OVER: "On a low day it drops out.",
        },
        fix="A switcher with a wider range.", floor=True, limit_of=(part, "v_mains_min"),
    )  # fmt: skip


def mains_highest(build: Build, prediction: Prediction) -> Margin | None:
    """High mains against what the switcher stands, by its jumper where it has one."""
    if not isinstance(build.supply, SwitcherSupply) or build.mains is None:
        return None
    part = build.supply.switcher
    high = max(build.mains.v_nominal_rms * (1.0 + build.mains.tolerance), prediction.situation.mains_rms(build))
    jumper = part.v_mains_jumper
    limit = part.v_mains_max if jumper is None else min(part.v_mains_max, 1.15 * jumper)
    return make_margin(
        "mains_highest", "Mains, high day", "wall",
        figure=stated("mains_high_v", "high mains", high, "V", "EN 50160"), limit=limit,
        words=f"up to {limit:.0f} V" if jumper is None else f"jumper at {jumper:g} V",
        sentences={
            State.CLEAR: "It stands the highest mains that is allowed.",
            State.CLOSE: "The highest mains that is allowed is near its limit.",
            State.OVER: "A high day exceeds what it stands.",
        },
        fix="A switcher for a higher mains." if jumper is None else "Check the jumper; a switcher for a higher mains.",
    )  # fmt: skip


HOLD_UP = LimitRow(
    "hold_up", "Rides through a gap", "transformer", ("hold_up_s",), 0.010, "one half cycle, 10 ms",
    clear="A missing half cycle is not heard at this level.",
    close="A missing half cycle is just ridden through at this level.",
    unknown="The bulk voltage at which its rails drop out is not stated.",
    over="At this level a missing half cycle drops the rails.",
    fix="More bulk capacitance, or less power.", fix_unknown="Type it from the data sheet.", floor=True, unit="s",
    unknown_without_figure=True, when=lambda build: isinstance(build.supply, SwitcherSupply),
)  # fmt: skip


BATTERY_LOCKOUT = LimitRow(
    "battery_lockout", "Battery under load", "wall", ("battery_v",), "supply.converter.v_lockout_v",
    "stops below {stated:g} V",
    clear="The battery sags under this level, but not to where the converter stops.",
    close="A battery that is half empty stops the converter on the loudest passages.",
    over="The battery sags below where the converter stops: silence on the loudest passages.",
    fix="A larger or fuller battery, thicker cable, or less level.", floor=True,
)  # fmt: skip


BATTERY_CABLE = LimitRow(
    "battery_cable", "Battery cable", "entry", ("battery_cable_drop_v",), "supply.battery.v_nominal",
    "3 % of {stated:g} V", scale=0.03,
    clear="The cable keeps cool and takes little.",
    close="The cable takes nearly 3 %.",
    over="The cable takes more than 3 % and warms up.",
    fix="Thicker or shorter cable.",
)  # fmt: skip


def core_flux(build: Build, prediction: Prediction) -> Margin | None:
    """Flux swing of the converter's core against what its material allows in both directions."""
    if build.supply.converter is None:
        return None
    part, flux = build.supply.converter, prediction["core_flux_pp_t"]
    limit, turns = 2.0 * part.b_max_t, turns_within(part.turns_primary, flux.high, part.b_max_t)
    more = turns > part.turns_primary
    wound = f"At least {turns} turns on each primary half in place of {part.turns_primary}, " if more else ""
    fix = f"{wound}a larger core, or a faster clock."
    return make_margin(
        "core_flux", "Core flux", "transformer", figure=flux, limit=limit, words=f"at most {limit:g} T p-p",
        sentences={
            State.CLEAR: "The core stays out of saturation even on a full battery.",
            State.CLOSE: "On a full battery the core is near saturation.",
            State.OVER: "On a full battery the core saturates and the switches burn.",
        },
        fix=f"{fix[0].upper()}{fix[1:]}", limit_of=(part, "b_max_t"),
    )  # fmt: skip


CONVERTER_DIODES = LimitRow(
    "converter_diodes", "Converter diodes, reverse", "transformer", ("converter_diode_reverse_v",),
    "supply.converter.v_diode_rated_v", "rated {stated:g} V",
    # Without the ringing that comes on top.
    clear="The diodes block what both halves of the winding give on a full battery.",
    close="Little is left for the ringing on top.",
    over="On a full battery the diodes break through.",
    fix="Diodes of the next voltage class, a snubber, or fewer secondary turns.",
)  # fmt: skip


CONVERTER_INPUT_CAPACITORS = LimitRow(
    "converter_input", "Converter input capacitors", "transformer", ("converter_input_ripple_a",),
    "supply.converter.i_in_ripple_rated_a", "rated {stated:g} A rms",
    clear="They carry the ripple of a sine at this level.",
    unknown="No ripple rating is stated for them.",
    over="A sine at this level heats them beyond their rating.",
    fix="More capacitors in parallel right at the switches.", fix_unknown="Type the rating.",
)  # fmt: skip


CONVERTER_CHOKE = LimitRow(
    "converter_choke", "Converter input choke", "transformer", ("battery_i_mean_a",),
    "supply.converter.i_choke_rated_a", "rated {stated:g} A",
    clear="It carries the current of a sine at this level.",
    unknown="No rating is stated for it.",
    over="A sine at this level saturates it.",
    fix="A larger choke, or keep sine tests short.", fix_unknown="Type the rating.",
)  # fmt: skip


CONVERTER_REACH = LimitRow(
    "converter_reach", "Rail on an empty battery", "rails", ("converter_reach_v",), "supply.converter.v_rail",
    "at least {stated:g} V",
    clear="The turns reach the rail down to an empty battery.",
    close="The turns just reach the rail on an empty battery.",
    over="As the battery empties the rail falls with it.",
    fix="More secondary turns.", floor=True,
    when=lambda build: build.supply.converter is not None and build.supply.converter.control != "proportional",
)  # fmt: skip


DIVIDER_PERCENT = 5.0


def feedback_divider(build: Build, prediction: Prediction) -> Margin | None:
    """The rail that the divider sets against the rail that is meant."""
    figure = prediction.get("divider_rail_v")
    if figure is None or build.supply.converter is None:
        return None
    meant = build.supply.converter.v_rail
    off = abs(100.0 * (figure.value / meant - 1.0))
    for factor, wired, asked in ((2.0, "rail to rail", "0 V"), (0.5, "a rail to 0 V", "rail")):
        if abs(100.0 * (figure.value / (factor * meant) - 1.0)) <= DIVIDER_PERCENT:
            return make_margin(
                "feedback_divider", "Feedback divider", "transformer", figure=None, limit=None,
                words=f"for {meant:g} V rails",
                sentences={
                    State.UNKNOWN: f"The divider sets {figure.value:.1f} V: right if it runs from {wired}, twice off "
                    f"if it runs from rail to {asked}. Which is it?"
                },
                fix="Look where the divider is fed from.", unit="V",
            )  # fmt: skip
    words = f"The divider sets {figure.value:.1f} V where {meant:g} V are meant."
    return make_margin(
        "feedback_divider", "Feedback divider", "transformer",
        figure=stated("divider_off", "divider off by", off, "%", build.supply.converter.name), limit=DIVIDER_PERCENT,
        words=f"within {DIVIDER_PERCENT:g} % of {meant:g} V",
        sentences={State.CLEAR: words, State.OVER: f"{words} Check before power."},
        fix="Check both resistors of the divider.",
    )  # fmt: skip


def strand(build: Build, prediction: Prediction) -> Margin | None:
    """Strand diameter against twice the skin depth."""
    figure = prediction.get("skin_depth_m")
    if figure is None or build.supply.converter is None:
        return None
    limit = 2.0 * figure.value
    d = build.supply.converter.d_wire_m
    return make_margin(
        "strand", "Winding strand", "transformer",
        figure=stated("d_wire", "strand", d, "m", build.supply.converter.name), limit=limit,
        words=f"at most {shown(limit, 'm', 2)}",
        sentences={
            State.CLEAR: "The current fills the whole strand.",
            State.CLOSE: "The current still fills the strand.",
            State.OVER: "The current runs in the skin only: the copper inside is wasted.",
        },
        fix="Thinner strands, more of them.",
    )  # fmt: skip
