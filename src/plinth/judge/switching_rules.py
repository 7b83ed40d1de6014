"""Limits of mains switchers and battery converters."""

from plinth.builds.build import Build
from plinth.builds.supplies import BatterySupply, DirectSupply, SwitcherSupply
from plinth.judge.making import make_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.physics.switchers.push_pull import turns_within
from plinth.predict.solve import Prediction
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
        "supply_power", "Supply power", "transformer", figure, 1.0, f"{watts:g} W continuous",
        {
            State.CLEAR: f"Programme of {crest:.0f} dB crest is carried. A sine at this level asks {sine:.2f} × that.",
            State.OVER: f"Programme of {crest:.0f} dB crest asks more than it gives for good.",
        },
        "A stronger supply, fewer channels at once, or a higher load resistance.",
    )  # fmt: skip


def _continuous_w(build: Build) -> float:
    match build.supply:
        case SwitcherSupply(switcher=part):
            return part.p_continuous_w
        case BatterySupply(converter=converter):
            return converter.p_continuous_w
        case _:
            return 0.0


def short_time_power(build: Build, prediction: Prediction) -> Margin | None:
    """Short-time power of a switcher against a sine at the level asked for."""
    if not isinstance(build.supply, SwitcherSupply):
        return None
    part = build.supply.switcher
    seconds = "" if part.short_s is None else f" for {part.short_s:g} s"
    return make_margin(
        "short_time_power", "Supply power, peaks", "transformer", prediction["supply_power_w"], part.p_short_w,
        "not stated" if part.p_short_w is None else f"{part.p_short_w:g} W{seconds}",
        {
            State.CLEAR: "A passage as loud as a sine at this level is carried for a moment.",
            State.UNKNOWN: "No short-time power is stated for this supply.",
            State.OVER: "A loud passage takes it into its limit.",
        },
        "Type it from the data sheet." if part.p_short_w is None else "A stronger supply, or more output capacitors.",
    )  # fmt: skip


def supply_current(build: Build, prediction: Prediction) -> Margin | None:
    """Peak rail current against the supply's limit, and what it does there."""
    match build.supply:
        case SwitcherSupply(switcher=part):
            limit, then = part.i_limit_a, "folds back" if part.limit == "fold_back" else "cuts out and tries again"
        case BatterySupply(converter=converter):
            limit, then = converter.i_limit_a, "shortens its pulses"
        case DirectSupply(source=source):
            limit, then = source.i_limit_a, "lets the volts fall"
        case _:
            return None
    figure = prediction.get("supply_rail_peak_a") or prediction["rail_plus_load_mean_a"]
    return make_margin(
        "supply_current", "Supply current", "transformer", figure, limit, f"limits at {limit:g} A per rail",
        {
            State.CLEAR: "The rails ask less than its limit.",
            State.CLOSE: f"Near its limit, at which it {then}.",
            State.OVER: f"Beyond its limit it {then}. The output capacitors carry short peaks only.",
        },
        "More output capacitors, a higher load, or a stronger supply.",
    )  # fmt: skip


def mains_range(build: Build, _prediction: Prediction) -> Margin | None:
    """Low mains against what the switcher works from."""
    if not isinstance(build.supply, SwitcherSupply) or build.mains is None:
        return None
    part = build.supply.switcher
    low = build.mains.v_nominal_rms * (1.0 - build.mains.tolerance)
    return make_margin(
        "mains_range", "Mains, low day", "wall",
        stated("mains_low_v", "low mains", low, "V", "EN 50160"), part.v_mains_min, f"from {part.v_mains_min:g} V",
        {
            State.CLEAR: "It works on the lowest mains that is allowed.",
            State.CLOSE: "It just works on the lowest mains that is allowed.",
            State.OVER: "On a low day it drops out.",
        },
        "A switcher with a wider range.", floor=True,
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
        stated("mains_high_v", "high mains", high, "V", "EN 50160"), limit,
        f"up to {limit:.0f} V" if jumper is None else f"jumper at {jumper:g} V",
        {
            State.CLEAR: "It stands the highest mains that is allowed.",
            State.CLOSE: "The highest mains that is allowed is near its limit.",
            State.OVER: "A high day exceeds what it stands.",
        },
        "A switcher for a higher mains." if jumper is None else "Check the jumper; a switcher for a higher mains.",
    )  # fmt: skip


HOLD_UP_S = 0.010


def hold_up(build: Build, prediction: Prediction) -> Margin | None:
    """Whether one missing half cycle is ridden through at this level."""
    if not isinstance(build.supply, SwitcherSupply):
        return None
    figure = prediction.get("hold_up_s")
    return make_margin(
        "hold_up", "Rides through a gap", "transformer", figure, HOLD_UP_S, "one half cycle, 10 ms",
        {
            State.CLEAR: "A missing half cycle is not heard at this level.",
            State.CLOSE: "A missing half cycle is just ridden through at this level.",
            State.UNKNOWN: "The bulk voltage at which its rails drop out is not stated.",
            State.OVER: "At this level a missing half cycle drops the rails.",
        },
        "Type it from the data sheet." if figure is None else "More bulk capacitance, or less power.",
        floor=True, unit="s",
    )  # fmt: skip


def battery_lockout(build: Build, prediction: Prediction) -> Margin | None:
    """The battery's volts under load against the converter's low-battery lock-out."""
    if not isinstance(build.supply, BatterySupply):
        return None
    limit = build.supply.converter.v_lockout_v
    return make_margin(
        "battery_lockout", "Battery under load", "wall", prediction["battery_v"], limit, f"stops below {limit:g} V",
        {
            State.CLEAR: "The battery sags under this level, but not to where the converter stops.",
            State.CLOSE: "A battery that is half empty stops the converter on the loudest passages.",
            State.OVER: "The battery sags below where the converter stops: silence on the loudest passages.",
        },
        "A larger or fuller battery, thicker cable, or less level.", floor=True,
    )  # fmt: skip


def battery_cable(build: Build, prediction: Prediction) -> Margin | None:
    """What the cable drops, against 3 % of the battery."""
    if not isinstance(build.supply, BatterySupply):
        return None
    limit = 0.03 * build.supply.battery.v_nominal
    return make_margin(
        "battery_cable", "Battery cable", "entry", prediction["battery_cable_drop_v"], limit,
        f"3 % of {build.supply.battery.v_nominal:g} V",
        {
            State.CLEAR: "The cable keeps cool and takes little.",
            State.CLOSE: "The cable takes nearly 3 %.",
            State.OVER: "The cable takes more than 3 % and warms up.",
        },
        "Thicker or shorter cable.",
    )  # fmt: skip


def core_flux(build: Build, prediction: Prediction) -> Margin | None:
    """Flux swing of the converter's core against what its material allows in both directions."""
    if not isinstance(build.supply, BatterySupply):
        return None
    part, flux = build.supply.converter, prediction["core_flux_pp_t"]
    limit, turns = 2.0 * part.b_max_t, turns_within(part.turns_primary, flux.high, part.b_max_t)
    wound = f"At least {turns} turns on each primary half in place of {part.turns_primary}"
    return make_margin(
        "core_flux", "Core flux", "transformer", flux, limit, f"at most {limit:g} T p-p",
        {
            State.CLEAR: "The core stays out of saturation even on a full battery.",
            State.CLOSE: "On a full battery the core is near saturation.",
            State.OVER: "On a full battery the core saturates and the switches burn.",
        },
        f"{wound}, a larger core, or a faster clock.",
    )  # fmt: skip


def converter_diodes(build: Build, prediction: Prediction) -> Margin | None:
    """Reverse stress of the converter's diodes, without the ringing that comes on top."""
    if not isinstance(build.supply, BatterySupply):
        return None
    limit = build.supply.converter.v_diode_rated_v
    return make_margin(
        "converter_diodes", "Converter diodes, reverse", "transformer", prediction["converter_diode_reverse_v"], limit,
        f"rated {limit:g} V",
        {
            State.CLEAR: "The diodes block what both halves of the winding give on a full battery.",
            State.CLOSE: "Little is left for the ringing on top.",
            State.OVER: "On a full battery the diodes break through.",
        },
        "Diodes of the next voltage class, a snubber, or fewer secondary turns.",
    )  # fmt: skip


def converter_input_capacitors(build: Build, prediction: Prediction) -> Margin | None:
    """Ripple of the converter's input capacitors."""
    if not isinstance(build.supply, BatterySupply):
        return None
    limit = build.supply.converter.i_in_ripple_rated_a
    return make_margin(
        "converter_input", "Converter input capacitors", "transformer", prediction["converter_input_ripple_a"], limit,
        "not stated" if limit is None else f"rated {limit:g} A rms",
        {
            State.CLEAR: "They carry the ripple of a sine at this level.",
            State.UNKNOWN: "No ripple rating is stated for them.",
            State.OVER: "A sine at this level heats them beyond their rating.",
        },
        "Type the rating." if limit is None else "More capacitors in parallel right at the switches.",
    )  # fmt: skip


def converter_choke(build: Build, prediction: Prediction) -> Margin | None:
    """The input choke against the battery's current."""
    if not isinstance(build.supply, BatterySupply):
        return None
    limit = build.supply.converter.i_choke_rated_a
    return make_margin(
        "converter_choke", "Converter input choke", "transformer", prediction["battery_i_mean_a"], limit,
        "not stated" if limit is None else f"rated {limit:g} A",
        {
            State.CLEAR: "It carries the current of a sine at this level.",
            State.UNKNOWN: "No rating is stated for it.",
            State.OVER: "A sine at this level saturates it.",
        },
        "Type the rating." if limit is None else "A larger choke, or keep sine tests short.",
    )  # fmt: skip


def converter_reach(build: Build, prediction: Prediction) -> Margin | None:
    """Whether the turns still reach the rail when the battery is empty."""
    if not isinstance(build.supply, BatterySupply) or build.supply.converter.control == "proportional":
        return None
    limit = build.supply.converter.v_rail
    return make_margin(
        "converter_reach", "Rail on an empty battery", "rails", prediction["converter_reach_v"], limit,
        f"at least {limit:g} V",
        {
            State.CLEAR: "The turns reach the rail down to an empty battery.",
            State.CLOSE: "The turns just reach the rail on an empty battery.",
            State.OVER: "As the battery empties the rail falls with it.",
        },
        "More secondary turns.", floor=True,
    )  # fmt: skip


DIVIDER_PERCENT = 5.0


def feedback_divider(build: Build, prediction: Prediction) -> Margin | None:
    """The rail that the divider sets against the rail that is meant."""
    figure = prediction.get("divider_rail_v")
    if figure is None or not isinstance(build.supply, BatterySupply):
        return None
    meant = build.supply.converter.v_rail
    off = abs(100.0 * (figure.value / meant - 1.0))
    for factor, wired, asked in ((2.0, "rail to rail", "0 V"), (0.5, "a rail to 0 V", "rail")):
        if abs(100.0 * (figure.value / (factor * meant) - 1.0)) <= DIVIDER_PERCENT:
            return make_margin(
                "feedback_divider", "Feedback divider", "transformer", None, None, f"for {meant:g} V rails",
                {
                    State.UNKNOWN: f"The divider sets {figure.value:.1f} V: right if it runs from {wired}, twice off "
                    f"if it runs from rail to {asked}. Which is it?"
                },
                "Look where the divider is fed from.", unit="V",
            )  # fmt: skip
    words = f"The divider sets {figure.value:.1f} V where {meant:g} V are meant."
    return make_margin(
        "feedback_divider", "Feedback divider", "transformer",
        stated("divider_off", "divider off by", off, "%", build.supply.converter.name), DIVIDER_PERCENT,
        f"within {DIVIDER_PERCENT:g} % of {meant:g} V",
        {State.CLEAR: words, State.OVER: f"{words} Check before power."},
        "Check both resistors of the divider.",
    )  # fmt: skip


def strand(build: Build, prediction: Prediction) -> Margin | None:
    """Strand diameter against twice the skin depth."""
    figure = prediction.get("skin_depth_m")
    if figure is None or not isinstance(build.supply, BatterySupply):
        return None
    limit = 2.0 * figure.value
    d = build.supply.converter.d_wire_m
    return make_margin(
        "strand", "Winding strand", "transformer",
        stated("d_wire", "strand", d, "m", build.supply.converter.name), limit, f"at most {shown(limit, 'm', 2)}",
        {
            State.CLEAR: "The current fills the whole strand.",
            State.CLOSE: "The current still fills the strand.",
            State.OVER: "The current runs in the skin only: the copper inside is wasted.",
        },
        "Thinner strands, more of them.",
    )  # fmt: skip
