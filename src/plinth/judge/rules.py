"""Every limit of a build, each by one small function: add a rule by adding it to ``RULES``."""

from collections.abc import Callable

from plinth.builds.build import Build
from plinth.judge.margin import Margin, state_against
from plinth.judge.state import State
from plinth.predict.figure import Figure, Origin
from plinth.predict.solve import Prediction
from plinth.units.shown import shown

Rule = Callable[[Build, Prediction], Margin]


def judge(prediction: Prediction) -> tuple[Margin, ...]:
    """All margins of a prediction: over first, then close, unknown, clear."""
    order = [State.OVER, State.CLOSE, State.UNKNOWN, State.CLEAR]
    margins = [rule(prediction.build, prediction) for rule in RULES]
    return tuple(sorted(margins, key=lambda margin: order.index(margin.state)))


def _margin(
    key: str,
    label: str,
    station: str,
    figure: Figure | None,
    limit: float | None,
    words: str,
    sentences: dict[State, str],
    mend: str,
    *,
    unit: str = "",
    floor: bool = False,
) -> Margin:
    state = state_against(figure, limit, floor)
    sentence = sentences.get(state) or sentences[State.CLEAR]
    return Margin(
        key=key,
        label=label,
        station=station,
        figure=figure,
        limit=limit,
        unit=figure.unit if figure else unit,
        floor=floor,
        limit_words=words,
        state=state,
        sentence=sentence,
        mend="" if state is State.CLEAR else mend,
    )


def _stated(name: str, label: str, value: float, unit: str, source: str) -> Figure:
    """A number that a part states, dressed as a figure so that it can be judged."""
    return Figure(name, label, value, unit, 0.0, Origin("as stated", source))


def reservoir_voltage(build: Build, prediction: Prediction) -> Margin:
    """Capacitor rating against the unloaded rail at high mains."""
    part = build.supply.reservoir
    high = build.mains.v_nominal_rms * (1.0 + build.mains.tolerance)
    return _margin(
        "reservoir_voltage", "Reservoir voltage", "reservoir",
        prediction["rail_no_load_high_v"], part.v_rated, f"rated {part.v_rated:g} V",
        {
            State.CLEAR: f"No load, mains {high:.0f} V: the capacitors hold it.",
            State.CLOSE: f"No load, mains {high:.0f} V: little is left above it.",
            State.OVER: f"No load, mains {high:.0f} V: above what the capacitors are made for. They can vent.",
        },
        "Fit capacitors of the next voltage class, or a lower secondary.",
    )  # fmt: skip


def winding_current(build: Build, prediction: Prediction) -> Margin:
    """Winding RMS for programme; the sentence names the sine as well."""
    sine = prediction["winding_load_ratio"]
    crest = prediction.situation.crest_db
    part = build.supply.transformer
    rated = part.va / (2.0 * part.v_secondary_rms)
    tail = (
        f"On a sine at this level {sine.value:.2f} × rated: keep such tests short."
        if sine.value > 1.0
        else (f"A sine at this level asks {sine.value:.2f} × rated.")
    )
    return _margin(
        "winding_current", "Transformer winding", "transformer",
        prediction["winding_programme_ratio"], 1.0, f"rated {shown(rated, 'A')} rms per half",
        {
            State.CLEAR: f"Programme of {crest:.0f} dB crest is carried. {tail}",
            State.OVER: f"Programme of {crest:.0f} dB crest overheats the winding. {tail}",
        },
        "More VA, fewer channels at once, or a higher load resistance.",
    )  # fmt: skip


def module_rail_maximum(build: Build, prediction: Prediction) -> Margin:
    """Module's highest rail against the unloaded rail at high mains."""
    return _margin(
        "module_rail_maximum", "Module rail, highest", "module",
        prediction["rail_no_load_high_v"], build.module.v_rail_max, f"at most ±{build.module.v_rail_max:g} V",
        {
            State.CLEAR: "Even unloaded at high mains the module stays inside its rails.",
            State.CLOSE: "Unloaded at high mains the module is near its limit.",
            State.OVER: "Unloaded at high mains the rails exceed what the module stands.",
        },
        "A lower secondary, or a module for higher rails.",
    )  # fmt: skip


def module_rail_minimum(build: Build, prediction: Prediction) -> Margin:
    """Module's lowest working rail against the sagging rail."""
    low = min((prediction["rail_plus_min_v"], prediction["rail_minus_min_v"]), key=lambda f: f.value)
    return _margin(
        "module_rail_minimum", "Module rail, lowest", "rails",
        low, build.module.v_rail_min, f"at least ±{build.module.v_rail_min:g} V",
        {
            State.CLEAR: "The sagging rail stays above what the module needs.",
            State.OVER: "The sagging rail falls below what the module needs: it will cut out.",
        },
        "A higher secondary, more VA, or larger reservoirs.", floor=True,
    )  # fmt: skip


def module_current(build: Build, prediction: Prediction) -> Margin:
    """Peak output current against the module's limit."""
    return _margin(
        "module_current", "Module current", "module",
        prediction["output_i_peak_a"], build.module.i_limit_a, f"limits at {build.module.i_limit_a:g} A peak",
        {
            State.CLEAR: "The peaks stay below the module's current limit.",
            State.OVER: "This load drives the module into its current limit before it clips.",
        },
        "A higher load resistance, or a module with more output devices.",
    )  # fmt: skip


def load_minimum(build: Build, prediction: Prediction) -> Margin:
    """The load against the lowest that the module's maker allows."""
    load = prediction.situation.load(build)
    least = build.module.r_load_min_ohm
    return _margin(
        "load_minimum", "Load resistance", "load",
        _stated("load_ohm", "load", load, "ohm", build.load.name), least, f"at least {least:g} Ω",
        {
            State.CLEAR: "The load is one that the module may drive.",
            State.CLOSE: "The load is about the lowest that the module may drive.",
            State.OVER: "The load is lower than the module may drive.",
        },
        "Choose a load of higher resistance.", floor=True,
    )  # fmt: skip


def fuse_current(build: Build, prediction: Prediction) -> Margin:
    """Fuse against the primary RMS at the level asked for."""
    entry = build.entry
    return _margin(
        "fuse_current", "Fuse", "entry",
        prediction["primary_rms_a"], entry.fuse_a_rms, f"{entry.fuse_kind} {entry.fuse_a_rms:g} A",
        {
            State.CLEAR: "Carries the RMS of the charging pulses at this level.",
            State.CLOSE: "The charging pulses nearly fill it; it ages and opens some day.",
            State.OVER: "The charging pulses exceed its rating; it opens after a while.",
        },
        "Judge by programme, not by sine, before fitting a larger fuse; never above the transformer's own.",
    )  # fmt: skip


def sink_heat(build: Build, prediction: Prediction) -> Margin:
    """Sink temperature for programme against what its owner allows."""
    situation = prediction.situation
    return _margin(
        "sink_heat", "Heat sink", "module",
        prediction["sink_c"], build.sink.t_limit_c, f"at most {build.sink.t_limit_c:g} °C",
        {
            State.CLEAR: f"Programme of {situation.crest_db:.0f} dB crest in air of {situation.ambient_c:.0f} °C.",
            State.OVER: f"Too hot with {situation.crest_db:.0f} dB crest in air of {situation.ambient_c:.0f} °C.",
        },
        "A larger sink or moving air, a higher load, or gentler programme.",
    )  # fmt: skip


def junction_heat(build: Build, prediction: Prediction) -> Margin:
    """Junction temperature for programme against the device limit."""
    limit = build.module.t_junction_max_c
    return _margin(
        "junction_heat", "Output device, inside", "module",
        prediction["junction_c"], limit, "not stated" if limit is None else f"at most {limit:g} °C",
        {
            State.CLEAR: "The devices stay below their limit on programme.",
            State.UNKNOWN: "No highest junction temperature is stated for these devices.",
            State.OVER: "The devices pass their limit on programme.",
        },
        "Type it from the data sheet." if limit is None
        else "A larger sink, better insulators, or more output devices.",
    )  # fmt: skip


def reservoir_ripple(build: Build, prediction: Prediction) -> Margin:
    """Capacitor ripple current against its rating, at the level asked for."""
    part = build.supply.reservoir
    figure = max(
        (prediction["reservoir_plus_ripple_a_rms"], prediction["reservoir_minus_ripple_a_rms"]),
        key=lambda f: f.value,
    )
    words = "not stated" if part.i_ripple_rated_a is None else f"rated {part.i_ripple_rated_a:g} A rms"
    return _margin(
        "reservoir_ripple", "Reservoir ripple current", "reservoir", figure, part.i_ripple_rated_a, words,
        {
            State.CLEAR: "The capacitors carry the ripple of a sine at this level.",
            State.UNKNOWN: "No ripple rating is stated for these capacitors.",
            State.OVER: "A sine at this level heats the capacitors beyond their rating.",
        },
        "Type the rating from the data sheet." if part.i_ripple_rated_a is None
        else "More capacitors in parallel, or keep sine tests short.",
    )  # fmt: skip


def diode_current(build: Build, prediction: Prediction) -> Margin:
    """Bridge rating against the mean current it carries."""
    part = build.supply.rectifier
    figure = max((prediction["diode_plus_mean_a"], prediction["diode_minus_mean_a"]), key=lambda f: f.value)
    return _margin(
        "diode_current", "Rectifier", "reservoir", figure, part.i_rated_a, f"rated {part.i_rated_a:g} A mean",
        {State.CLEAR: "The bridge carries it, if it is bolted to metal."},
        "A larger bridge.",
    )  # fmt: skip


def mute_outlasts_settling(build: Build, _prediction: Prediction) -> Margin:
    """Muting delay against the time the output takes to come to rest."""
    settle = build.module.settle_s
    return _margin(
        "mute_settling", "Mute outlasts settling", "protection",
        _stated("mute_s", "muting delay", build.protection.mute_s, "s", build.protection.name), settle,
        f"output at rest after {settle:g} s",
        {
            State.CLEAR: f"The output moves for {settle:g} s after switch-on; the relay waits longer.",
            State.CLOSE: f"The output moves for {settle:g} s after switch-on; the relay hardly waits longer.",
            State.OVER: f"The output still moves when the relay closes: {settle:g} s of DC reach the loudspeaker.",
        },
        "A longer muting delay.", floor=True,
    )  # fmt: skip


# Steady DC that usual voice coils stand for good; a loudspeaker's own limit is a part of a later model.
DC_LIMIT_V = 3.0


def dc_detector(build: Build, _prediction: Prediction) -> Margin:
    """Whether anything is known about the DC detector at all."""
    threshold = build.protection.dc_threshold_v
    figure = (
        None if threshold is None else _stated("dc_threshold", "DC threshold", threshold, "V", build.protection.name)
    )
    return _margin(
        "dc_detector", "DC trip", "protection", figure, DC_LIMIT_V, f"at most {DC_LIMIT_V:g} V",
        {
            State.CLEAR: "Trips before a loudspeaker is harmed by steady DC.",
            State.CLOSE: "Trips near the DC that a loudspeaker stands.",
            State.OVER: "Lets more steady DC through than loudspeakers stand.",
            State.UNKNOWN: "No threshold is stated for this board: unknown is not safe.",
        },
        "Type the threshold from the board, or measure it.", unit="V",
    )  # fmt: skip


def _other_load(build: Build, prediction: Prediction) -> bool:
    """Whether the load looked at is a what-if value and not the part in the station."""
    return abs(prediction.situation.load(build) - build.load.r_ohm) > 1e-9


def load_rating(build: Build, prediction: Prediction) -> Margin:
    """Dummy load rating against the power at the level asked for."""
    part, other = build.load, _other_load(build, prediction)
    rated = None if other else part.p_rated_w
    words = "not stated" if rated is None else f"rated {rated:g} W"
    return _margin(
        "load_rating", "Load rating", "load", prediction["output_power_w"], rated, words,
        {
            State.CLEAR: "The load may carry this level for good.",
            State.CLOSE: "The load runs near its rating at this level, and hot.",
            State.UNKNOWN: "A what-if load is no part, so it has no rating."
            if other
            else "No rating is stated for this load: measure briefly.",
            State.OVER: "The load may carry this level only for a short time.",
        },
        "Choose a load of that resistance."
        if other
        else "Type the rating."
        if rated is None
        else "Keep it short, or put loads in series-parallel.",
    )  # fmt: skip


RULES: tuple[Rule, ...] = (
    reservoir_voltage,
    winding_current,
    module_rail_maximum,
    module_rail_minimum,
    module_current,
    load_minimum,
    fuse_current,
    sink_heat,
    junction_heat,
    reservoir_ripple,
    diode_current,
    mute_outlasts_settling,
    dc_detector,
    load_rating,
)
