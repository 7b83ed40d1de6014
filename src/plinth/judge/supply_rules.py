"""Limits of linear supplies: capacitors, winding, rectifier, choke, fuse, regulators."""

import math

from plinth.builds.build import Build
from plinth.judge.limit_row import LimitRow
from plinth.judge.making import make_margin, stated
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.warnings import RIGHT_PRIMARY
from plinth.units.shown import shown


def reservoir_voltage(build: Build, prediction: Prediction) -> Margin:
    """Capacitor rating against the highest rail: unloaded at high mains, or pumped up by a class D stage."""
    part = build.supply.reservoir
    figure, when = _highest_rail(build, prediction)
    return make_margin(
        "reservoir_voltage", "Reservoir voltage", "reservoir",
        figure=figure, limit=part.v_rated, words=f"rated {part.v_rated:g} V",
        sentences={
            State.CLEAR: f"{when}: the capacitors hold it.",
            State.CLOSE: f"{when}: little is left above it.",
            State.OVER: f"{when}: above what the capacitors are made for. They can vent.",
        },
        fix="Fit capacitors of the next voltage class, or a lower rail.", limit_of=(part, "v_rated"),
    )  # fmt: skip


def _highest_rail(build: Build, prediction: Prediction) -> tuple[Figure, str]:
    rest, pumped = prediction["rail_no_load_high_v"], prediction.get("pumped_20hz_v")
    if pumped is not None and pumped.value > rest.value:
        return pumped, "Pumped by bass at 20 Hz"
    if build.mains is None:
        return rest, "No load"
    return rest, f"No load, mains {build.mains.v_nominal_rms * (1.0 + build.mains.tolerance):.0f} V"


def other_reservoir_voltage(build: Build, prediction: Prediction) -> Margin | None:
    """The same for the - rail's own reservoir and for the second stage's capacitor, whichever is rated lower."""
    if build.supply.transformer is None:
        return None
    parts = [p for p in (build.supply.reservoir_minus, build.supply.smoothing) if p is not None]
    if not parts:
        return None
    part = min(parts, key=lambda p: p.v_rated)
    figure, when = _highest_rail(build, prediction)
    return make_margin(
        "other_reservoir_voltage", "Further capacitor, voltage", "reservoir",
        figure=figure, limit=part.v_rated, words=f"{part.name} rated {part.v_rated:g} V",
        sentences={
            State.CLEAR: f"{when}: it holds that.",
            State.CLOSE: f"{when}: little is left above it.",
            State.OVER: f"{when}: above what it is made for. It can vent.",
        },
        fix="Fit a capacitor of the next voltage class.", limit_of=(part, "v_rated"),
    )  # fmt: skip


def winding_current(build: Build, prediction: Prediction) -> Margin | None:
    """Winding RMS for programme; the sentence names the sine as well."""
    if build.supply.transformer is None:
        return None
    sine = prediction["winding_load_ratio"]
    crest = prediction.situation.crest_db
    part = build.supply.transformer
    tail = (
        f"On a sine at this level {sine.value:.2f} × rated: keep such tests short."
        if sine.value > 1.0
        else (f"A sine at this level asks {sine.value:.2f} × rated.")
    )
    return make_margin(
        "winding_current", "Transformer winding", "transformer", figure=prediction["winding_programme_ratio"],
        limit=1.0, words=f"rated {shown(part.i_rated_a, 'A')} rms per winding",
        sentences={
            State.CLEAR: f"Programme of {crest:.0f} dB crest is carried. {tail}",
            State.OVER: f"Programme of {crest:.0f} dB crest overheats the winding. {tail}",
        },
        fix="More VA, fewer channels at once, or a higher load resistance.", limit_of=(part, "va"),
    )  # fmt: skip


RESERVOIR_RIPPLE = LimitRow(
    "reservoir_ripple", "Reservoir ripple current", "reservoir",
    ("reservoir_plus_ripple_a_rms", "reservoir_minus_ripple_a_rms"),
    "supply.reservoir.i_ripple_rated_a", "rated {stated:g} A rms",
    clear="The capacitors carry the ripple of a sine at this level.",
    unknown="No ripple rating is stated for these capacitors.",
    over="A sine at this level heats the capacitors beyond their rating.",
    fix="More capacitors in parallel, or keep sine tests short.",
    fix_unknown="Type the rating from the data sheet.",
)  # fmt: skip


def _worse(prediction: Prediction, name: str) -> Figure:
    """The larger of both rails' figures; a single rail has one."""
    rails = [prediction.get(name.format(rail)) for rail in ("plus", "minus")]
    return max((f for f in rails if f is not None), key=lambda f: f.value)


DIODE_CURRENT = LimitRow(
    "diode_current", "Rectifier", "reservoir", ("diode_plus_mean_a", "diode_minus_mean_a"),
    "supply.rectifier.i_rated_a", "rated {stated:g} A mean",
    clear="The bridge carries it, if it is bolted to metal.", over="",
    fix="A larger bridge.",
)  # fmt: skip


def smoothing_current(build: Build, prediction: Prediction) -> Margin | None:
    """Choke or resistor of the second stage against its rating."""
    if build.supply.transformer is None or build.supply.smoothing is None:
        return None
    part = build.supply.smoothing
    rms = _worse(prediction, "smoothing_{}_rms_a")
    if part.l_h is None and part.p_rated_w is not None:
        limit: float | None = math.sqrt(part.p_rated_w / part.r_ohm) if part.r_ohm else None
        words, field = f"{part.p_rated_w:g} W in {part.r_ohm:g} Ω", "p_rated_w"
    else:
        field = "i_rated_a"
        limit = part.i_rated_a
        words = "not stated" if limit is None else f"rated {limit:g} A"
    return make_margin(
        "smoothing_current", "Choke" if part.l_h else "Smoothing resistor", "reservoir", figure=rms, limit=limit,
        words=words,
        sentences={
            State.CLEAR: "Carries the current of a sine at this level.",
            State.UNKNOWN: "No rating is stated for it.",
            State.OVER: "A sine at this level overheats it; a choke saturates and loses its inductance.",
        },
        fix="Type its rating." if limit is None else "A larger one, or keep sine tests short.",
        limit_of=(part, field),
    )  # fmt: skip


def fuse_current(build: Build, prediction: Prediction) -> Margin | None:
    """Fuse against the RMS it carries at the level asked for: at the primary, or at the battery."""
    entry = build.entry
    figure = prediction.get("primary_rms_a") or prediction.get("battery_i_mean_a")
    if figure is None:
        return None
    kind = "at the battery" if build.mains is None else "of the charging pulses"
    return make_margin(
        "fuse_current", "Fuse", "entry", figure=figure, limit=entry.fuse_a_rms,
        words=f"{entry.fuse_kind} {entry.fuse_a_rms:g} A",
        sentences={
            State.CLEAR: f"Carries the current {kind} at this level.",
            State.CLOSE: f"The current {kind} nearly fills it; it ages and opens some day.",
            State.OVER: f"The current {kind} exceeds its rating; it opens after a while.",
        },
        fix="Judge by programme, not by sine, before fitting a larger fuse; never above what wire and supply stand.",
        limit_of=(entry, "fuse_a_rms"),
    )  # fmt: skip


REGULATOR_DROPOUT = LimitRow(
    "regulator_dropout", "Input regulators, headroom", "rails", ("regulator_headroom_v",), 0.0,
    "above 0 V at low mains",
    clear="The lowest of their input stays above output and dropout.",
    close="On a low day the ripple nearly comes through.",
    over="On a low day they stop regulating and the ripple comes through.",
    fix="A higher secondary, a larger reservoir, or regulators with less dropout.", floor=True,
)  # fmt: skip


REGULATOR_INPUT = LimitRow(
    "regulator_input", "Input regulators, highest input", "rails", ("regulator_input_high_v",),
    "supply.input_supply.regulator.v_in_max", "at most {stated:g} V",
    clear="High mains stays inside what they stand.",
    unknown="No highest input is stated for these regulators.",
    over="High mains exceeds what they stand.",
    fix="A lower secondary, or a resistor before them.", fix_unknown="Type it from the data sheet.",
)  # fmt: skip


REGULATOR_HEAT = LimitRow(
    "regulator_heat", "Input regulators, inside", "rails", ("regulator_junction_c",),
    "supply.input_supply.regulator.t_junction_max_c", "at most {stated:g} °C",
    clear="They stay below their limit at high mains.",
    unknown="No highest junction temperature is stated for them.",
    over="They overheat at high mains and shut down.",
    fix="A small sink on each, or a lower secondary.", fix_unknown="Type it from the data sheet.",
)  # fmt: skip


# What sets right what a supply is made for, by what says so.
_SET_RIGHT = {
    "primary": "Check the primary's tapping or jumper before power.",
    "jumper": "Set the mains jumper before power.",
}


def primary(build: Build, prediction: Prediction) -> Margin | None:
    """The mains against what the primary (or the jumper) is set for: the cause of all that a wrong one brings."""
    wound_for, where = build.supply.made_for_v_rms, build.supply.made_for_by
    if wound_for is None:
        return None
    fix = _SET_RIGHT[where]
    mains = prediction.situation.mains_rms(build)
    low, high = (share * wound_for for share in RIGHT_PRIMARY)
    too_low = mains < wound_for
    limit = low if too_low else high
    return make_margin(
        "primary", f"Mains on this {where}", "transformer",
        figure=stated("mains_v", "mains", mains, "V", "the mains in force"),
        limit=limit, words=f"{where} for {wound_for:g} V",
        sentences={
            State.CLEAR: f"The {where} is set for this mains.",
            State.CLOSE: f"The mains is {'lower' if too_low else 'higher'} than the {where} is set for.",
            State.OVER: f"The {where} is set for {wound_for:g} V and the mains has {mains:g} V: all that is "
            f"{'too low' if too_low else 'over its limit'} here may come from that.",
        },
        fix=fix, floor=too_low,
    )  # fmt: skip
