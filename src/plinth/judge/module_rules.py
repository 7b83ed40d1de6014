"""Limits of modules: rails, current, safe area, pumping, filter, heat."""

import math

from plinth.builds.build import Build
from plinth.builds.modules import ClassABModule
from plinth.judge.limit_row import LimitRow
from plinth.judge.making import make_margin
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.figure_values import lockout_after_s
from plinth.predict.prediction import Prediction
from plinth.units.shown import shown

# What power devices in plastic stand inside where nobody states it: common, not promised.
USUAL_JUNCTION_C = 150.0

MODULE_RAIL_MAXIMUM = LimitRow(
    "module_rail_maximum", "Module rail, highest", "module", ("rail_no_load_high_v",), "module.v_rail_max",
    "at most {sign}{stated:g} V",
    clear="Even unloaded at its highest the supply stays inside the module's rails.",
    close="Unloaded at its highest the supply is near the module's limit.",
    over="Unloaded at its highest the supply exceeds what the module stands.",
    fix="A lower supply, or a module for higher rails.",
)  # fmt: skip


def _sign(build: Build) -> str:
    return "" if build.supply.single_rail else "±"


MODULE_RAIL_MINIMUM = LimitRow(
    "module_rail_minimum", "Module rail, lowest", "rails", ("rail_plus_min_v", "rail_minus_min_v"),
    "module.v_rail_min", "at least {sign}{stated:g} V",
    clear="The sagging rail stays above what the module needs.",
    over="The sagging rail falls below what the module needs: it will cut out.",
    fix="A higher supply, more VA, or larger reservoirs.", floor=True,
)  # fmt: skip


MODULE_CURRENT = LimitRow(
    "module_current", "Module current", "module", ("output_i_asked_a",), "module.i_limit_a",
    "limits at {stated:g} A peak",
    clear="The peaks stay below the module's current limit.",
    over="This load drives the module into its current limit before the rails clip: power ends there.",
    fix="A higher load resistance, or a module with more output devices.",
)  # fmt: skip


def safe_area(build: Build, prediction: Prediction) -> Margin | None:
    """A chip's safe-area protection, which lets less current through the more volts stand across the device."""
    if not isinstance(build.module, ClassABModule):
        return None
    figure = prediction.get("safe_area_share")
    if figure is None and build.module.bias is not None:
        return None
    return make_margin(
        "safe_area", "Safe area of the output", "module", figure=figure, limit=1.0,
        words="no curve stated" if figure is None else "1 × what the chip allows",
        sentences={
            State.CLEAR: "At every instant the chip's own protection allows this current.",
            State.CLOSE: "The chip's protection is near at the worst instant.",
            State.UNKNOWN: "No safe-area points are stated for this chip.",
            State.OVER: "The chip's protection cuts into the wave: it spikes and crackles before it clips.",
        },
        fix="Type its safe area under Module, from the data sheet: 10 V 4 A; 30 V 1.2 A." if figure is None
        else "A higher or less reactive load, or lower rails.", unit="×",
    )  # fmt: skip


POWER_BANDWIDTH = LimitRow(
    "power_bandwidth", "Power bandwidth", "module", ("power_bandwidth_hz",), 20_000.0, "at least 20 kHz",
    clear="The slew rate carries a full swing through the audio band.",
    close="The slew rate just carries a full swing at 20 kHz.",
    over="A full swing at 20 kHz is slewed into a triangle. Music hardly asks it.",
    fix="Judge by programme, or choose a faster module.", floor=True,
)  # fmt: skip


def source_drive(build: Build, prediction: Prediction) -> Margin | None:
    """Whether the source reaches clipping, where the situation says what it gives."""
    source = prediction.situation.source_v_rms
    if source is None:
        return None
    drive, power = prediction["drive_v_rms"], prediction["clip_power_w"]
    ahead = build.preamplifier.gain if build.preamplifier.fitted else 1.0
    there = source * ahead
    spare_db = 20.0 * math.log10(there / drive.value)
    reached = shown(power.value * min(1.0, there / drive.value) ** 2, "W")
    words = f"source gives {source:g} V" if ahead == 1.0 else f"source gives {source:g} V, {ahead:g} times"
    return make_margin(
        "source_drive", "Drive from the source", "module", figure=drive, limit=there, words=words,
        sentences={
            State.CLEAR: f"The source drives it to clipping with {spare_db:.1f} dB to spare.",
            State.CLOSE: "The source just drives it to clipping.",
            State.OVER: f"Drive is missing: with this source it reaches {reached}.",
        },
        fix="More gain, a preamplifier, or a source that gives more.",
    )  # fmt: skip


def pumping(build: Build, prediction: Prediction) -> Margin | None:
    """A half bridge pumps the other rail up in the bass: against the lower of all over-voltage lock-outs."""
    figure = prediction.get("pumped_20hz_v")
    if figure is None:
        return None
    limit, who = build.over_voltage_lockout or (None, "")
    after = ""
    if limit is not None:
        seconds = lockout_after_s(prediction.solution, limit, 20.0)
        after = f": silent {shown(seconds, 's', 2)} into a beat" if math.isfinite(seconds) else ""
    return make_margin(
        "pumping", "Rail pumped by bass", "rails", figure=figure, limit=limit,
        words="no lock-out stated" if limit is None else f"{who} shuts down at {limit:g} V",
        sentences={
            State.CLEAR: "Bass at 20 Hz pumps the rails, but not that far.",
            State.CLOSE: "Bass at 20 Hz pumps the rails near the lock-out.",
            State.UNKNOWN: "The rails are pumped up in the bass, and no lock-out is stated: measure with care.",
            State.OVER: f"Bass at 20 Hz pumps the rails into the lock-out{after}, at the worst level.",
        },
        fix="Type the lock-out from the data sheet." if limit is None
        else "Larger output capacitors, channels against each other, or a bridged pair.",
    )  # fmt: skip


FILTER_PEAK = LimitRow(
    "filter_peak", "Output filter", "module", ("filter_peak_db",), 2.0, "peaks at most {stated:g} dB",
    clear="Into this load the filter stays flat enough.",
    close="Into this load the filter begins to peak.",
    over="Into so light a load the filter rings above the audio band; without a load more still.",
    fix="A load of lower resistance, or a damping network at the output.",
)  # fmt: skip


def sink_heat(build: Build, prediction: Prediction) -> Margin:
    """Sink temperature against what its owner allows: for programme, or at rest where that is hotter (class A)."""
    situation = prediction.situation
    playing, resting = prediction["sink_c"], prediction["sink_idle_c"]
    figure = max(playing, resting, key=lambda f: f.value)
    what = "At rest" if figure is resting else f"Programme of {situation.crest_db:.0f} dB crest"
    return make_margin(
        "sink_heat",
        "Heat sink",
        "module",
        figure=figure,
        limit=build.sink.t_limit_c,
        words=f"at most {build.sink.t_limit_c:g} °C",
        sentences={
            State.CLEAR: f"{what} in air of {situation.ambient_c:.0f} °C.",
            State.OVER: f"Too hot: {what[0].lower()}{what[1:]} in air of {situation.ambient_c:.0f} °C.",
        },
        fix="A larger sink or moving air, a lower bias or rail, or gentler programme.",
        limit_of=(build.sink, "t_limit_c"),
    )


JUNCTION_HEAT = LimitRow(
    "junction_heat", "Output device, inside", "module", ("junction_c",), "module.t_junction_max_c",
    "at most {stated:g} °C",
    clear="The devices stay below their limit on programme.",
    unknown="No highest junction temperature is stated for these devices.",
    close="On programme the devices come near their limit.",
    over="The devices pass their limit on programme.", assumed=USUAL_JUNCTION_C,
    over_assumed="On programme they reach what usual ones stand, or nearly.",
    fix="A larger sink, better insulators, or more output devices.", fix_unknown="Type it from the data sheet.",
)  # fmt: skip


BIAS_RUNAWAY = LimitRow(
    "bias_runaway", "Thermal run-away", "module", ("bias_loop_gain",), 1.0, "runs away at 1 ×",
    clear="The sink takes away more than the drifting bias brings.",
    close="The drifting bias feeds itself: a hot day or a covered vent may be enough.",
    over="The bias heats itself without end.",
    fix="A larger sink, a lower bias, or better thermal coupling of the bias transistor.",
)  # fmt: skip
