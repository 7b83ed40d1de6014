"""The rails: without load, into loads of one's own, at rest, under load, on high and low mains; ripple; how they sag.

What each of them shows is predicted for the very conditions; the curve over load gives what stands behind the rails.
"""

import dataclasses
import math

import numpy as np

from plinth.bench import supply_alone, test_conditions, test_settings
from plinth.bench.sheet import (
    Graph,
    Measured,
    Outcome,
    Readings,
    Sheet,
    apart,
    bench_request,
    beside,
    derived,
    difference,
    last,
    measured,
    window_of,
)
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.parts import Load
from plinth.builds.situation import Situation
from plinth.builds.supplies import InputSupply
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Needs, Request, Setting
from plinth.units.shown import shown, shown_with_spread

TEST = "rails"
_POINTS = {"plus": Point.RAIL_PLUS, "minus": Point.RAIL_MINUS}
# Rails of one supply further apart than this have a cause.
APART_SHARE = 0.03
# A regulator's output as stated by its maker, where nobody states it better.
REGULATED_SHARE = 0.04
CAUTION = (
    "The reservoirs keep their charge after switch-off: clip on with everything off and discharged, then one hand. "
    "Mains parts stay covered."
)


# The levels that stand in the curve: on other mains it is another one.
_IN_GRAPH = ("none", "rest", "half", "full")


@dataclasses.dataclass(frozen=True)
class _Level:
    """One loading of the rails: its key, its heading, how to bring it about, and what is predicted there."""

    key: str
    group: str
    how: str
    prediction: Prediction
    optional: bool = False

    def reading_key(self, what: str) -> str:
        """What a reading of it is known by."""
        return f"{self.key}_{what}"


def sheet(build: Build, channel: str, situation: Situation) -> Sheet:
    """The sheet of the supply of ``channel``. Raises PhysicsError where no such supply could run."""
    load = test_conditions.dummy(build)
    levels = _levels(build.model_copy(update={"load": load}), situation, load)
    unloaded, *loaded = levels
    alone = supply_alone.loaded(build, situation)
    asked = (
        *_asked_at(build, channel, unloaded),
        *supply_alone.asked(build, channel, unloaded.prediction, alone, _most_v(unloaded.prediction)),
        *(request for level in loaded for request in _asked_at(build, channel, level)),
        *_auxiliary(build, channel, situation),
    )
    drive = next(level for level in levels if level.key == "full").prediction["drive_v_rms"]
    return Sheet(
        TEST, "Rails, without load to full", "What the rails are at each load, how they sag, and what stands "
            "behind them.",
        settings=(
            ("Generator at clipping", f"{shown_with_spread(drive.value, drive.spread, 'V')} rms"),
            ("Meter", "DC, + rail to 0 V"),
            ("Scope for ripple", "AC, p-p, 10 ms across"),
        ),
        load=f"{load.name}, {load.r_ohm:g} Ω on every channel for the loaded rows; a few seconds are enough.",
        wired=_wired(build),
        asked=lambda _readings: asked,
        outcomes=lambda readings: (
            *_outcomes(build, levels, readings),
            *supply_alone.outcomes(build, unloaded.prediction, alone, readings),
        ),
        graph=lambda readings: _graph(levels, alone, readings),
        caution=CAUTION,
    )  # fmt: skip


def _wired(build: Build) -> str:
    ends = "rail to 0 V" if build.supply.single_rail else "each rail to 0 V, at the board's own terminals"
    earth = " The scope's clip is earthed: to 0 V only, never to a rail." if not build.supply.set_by_hand else ""
    return f"Meter on DC from {ends}. Scope on AC at the same place for ripple.{earth}"


def _levels(build: Build, situation: Situation, load: Load) -> tuple[_Level, ...]:
    def at(**changes: object) -> Prediction:
        return solve(build, situation.model_copy(update={"frequency_hz": 1000.0, "channels_driven": "all", **changes}))

    alone = "Boards unplugged or their fuses out. Wait until it stands still."
    levels = [
        _Level("none", "No load", alone, at(rail_load_a=0.0)),
        _Level("rest", "At rest", "All boards on, no signal.", at(level=0.0)),
        _Level("half", "Half volts out", f"1 kHz into {load.r_ohm:g} Ω at half the volts of clipping.", at(level=0.5)),
        _Level(
            "full", "At clipping", f"1 kHz into {load.r_ohm:g} Ω on every channel, just below onset.", at(level=1.0)
        ),
    ]
    further: list[tuple[str, str, str, dict[str, object]]] = []
    if build.mains is not None:
        mains = situation.mains_rms(build)
        for key, words, factor in (
            ("low", "Low mains", 1.0 - test_conditions.MAINS_SHARE),
            ("high", "High mains", 1.0 + test_conditions.MAINS_SHARE),
        ):
            volts = float(round(mains * factor))
            how = f"Variable transformer at {volts:g} V, no signal."
            further.append((key, f"{words}, {volts:g} V", how, {"mains_v_rms": volts, "level": 0.0}))
    if build.supply.battery is not None:
        battery = build.supply.battery
        for key, words, volts in (("low", "Battery empty", battery.v_empty), ("high", "Battery full", battery.v_full)):
            how = f"With {volts:g} V at its terminals, no signal."
            further.append((key, f"{words}, {volts:g} V", how, {"battery_v": volts, "level": 0.0}))
    for key, group, how, changes in further:
        try:
            levels.append(_Level(key, group, how, at(**changes), optional=True))
        except PhysicsError:
            # On such mains these modules do not work: then there is nothing to read.
            continue
    return tuple(levels)


def _asked_at(build: Build, channel: str, level: _Level) -> list[Request]:
    key, requests = test_conditions.supply_key(build, channel), []
    prediction = level.prediction
    conditions = dict(test_conditions.of_supply(build, prediction.situation))
    if level.key in ("half", "full"):
        conditions |= {"module": build.mark("module"), "load_ohm": prediction.build.load.r_ohm}
    elif level.key != "none":
        conditions |= {"module": build.mark("module")}
    needs: Needs = "nothing" if level.key == "none" else "channel" if _own(build) else "all"
    maximum = _most_v(prediction)
    for side, sign in supply_alone.sides(build):
        requests.append(
            bench_request(
                test=TEST, key=f"{level.key}_{side}", channel=key, group=level.group, label=f"{sign} rail",
                ask=f"{level.how} {sign} rail to 0 V, DC.", unit="V",
                window=window_of(prediction[f"rail_{side}_mean_v"], least=0.0), conditions=conditions,
                form="magnitude", optional=level.optional, most=maximum,
                most_words="" if maximum is None else f"this supply gives at most {shown(maximum, 'V')}",
                caution=CAUTION if level.key == "none" and side == "plus" else "", example="34.8", needs=needs,
                probe=None if level.key == "none" else Probe(_POINTS[side], Quantity.VOLTS_DC),
            )
        )  # fmt: skip
    if level.key in ("rest", "full"):
        for side, sign in supply_alone.sides(build):
            figure = _ripple(prediction, side, level.key)
            if figure is not None and figure.known and figure.value > supply_alone.LEAST_RIPPLE_V:
                requests.append(
                    bench_request(
                        test=TEST, key=f"{level.key}_ripple_{side}", channel=key, group=level.group,
                        label=f"{sign} rail ripple, p-p",
                        ask=f"{level.how} Scope on AC at the {sign} rail: highest to lowest.", unit="V",
                        window=window_of(figure, least=0.0), conditions=conditions, form="ripple", role=Role.SCOPE,
                        most=maximum, example="1.8pp", optional=True, needs=needs,
                        probe=Probe(_POINTS[side], Quantity.SWING),
                    )
                )  # fmt: skip
    limit = build.supply.limit_a
    if build.supply.set_by_hand and limit is not None and level.key in ("rest", "full"):
        for side, sign in supply_alone.sides(build):
            current = prediction.get(f"rail_{side}_load_mean_a")
            requests.append(
                bench_request(
                    test=TEST, key=f"{level.key}_a_{side}", channel=key, group=level.group,
                    label=f"{sign} supply's current",
                    ask=f"{level.how} The current that the {sign} bench supply shows.", unit="A",
                    window=window_of(current, least=0.0), conditions=conditions, form="magnitude", role=Role.SUPPLY,
                    example="1.4", most=max(1.05 * limit, 0.0 if current is None else current.high),
                    most_words=f"it limits at {limit:g} A", needs=needs, probe=Probe(Point.SUPPLY, Quantity.AMPERES),
                )
            )  # fmt: skip
    set_at: list[Setting] = [test_settings.source(build, prediction.situation)]
    if level.key in ("half", "full"):
        drive = prediction["drive_v_rms"]
        v_rms = drive.value * prediction.situation.level
        set_at += (*test_settings.generator(v_rms, 1000.0, drive.high), test_settings.into(prediction.build.load))
    elif level.key != "none":
        set_at.append(test_settings.silent())
    return list(test_settings.under(requests, *set_at))


def _most_v(prediction: Prediction) -> float | None:
    """Above this no rail of the supply can stand, V; None where its highest is not known."""
    high = prediction.get("rail_no_load_high_v")
    return None if high is None else 1.25 * max(high.high, prediction["rail_plus_max_v"].high)


def _own(build: Build) -> bool:
    return build.one_supply_per_channel


def _ripple(prediction: Prediction, side: str, level: str) -> Figure | None:
    return prediction.get("rail_idle_ripple_v_pp" if level == "rest" else f"rail_{side}_ripple_v_pp")


def _auxiliary(build: Build, channel: str, situation: Situation) -> tuple[Request, ...]:
    """The input stages' own rails, where they have a supply of their own."""
    supply = build.supply
    if supply.transformer is None or supply.input_supply is None:
        return ()
    small: InputSupply = supply.input_supply
    prediction = solve(build, situation.model_copy(update={"level": 0.0}))
    key, conditions = test_conditions.supply_key(build, channel), test_conditions.of_supply(build, prediction.situation)
    regulated = small.regulator.v_out
    requests = []
    for side, sign in (("plus", "+"), ("minus", "−")):
        requests.append(
            bench_request(
                test=TEST, key=f"input_{side}", channel=key, group="Input stages' supply",
                label=f"{sign} before regulator",
                ask=f"All boards on, no signal. {sign} reservoir of the input stages' supply to 0 V, DC.", unit="V",
                window=window_of(prediction.get("input_rail_mean_v"), least=0.0), conditions=conditions,
                form="magnitude", optional=True, example="24.3",
            )
        )  # fmt: skip
        requests.append(
            bench_request(
                test=TEST, key=f"regulated_{side}", channel=key, group="Input stages' supply",
                label=f"{sign} regulated",
                ask=f"All boards on, no signal. {sign} output of the regulator to 0 V, DC.", unit="V",
                window=Window(regulated * (1.0 - REGULATED_SHARE), regulated * (1.0 + REGULATED_SHARE), "V",
                    "the regulator's own volts, within 4 %", ("regulator's tolerance",)),
                conditions=conditions, form="magnitude", optional=True, example=f"{regulated:g}",
            )
        )  # fmt: skip
    return tuple(requests)


# What the readings say


def _outcomes(build: Build, levels: tuple[_Level, ...], readings: Readings) -> tuple[Outcome, ...]:
    by = {level.key: level for level in levels}
    outcomes: list[Outcome] = []
    for side, sign in supply_alone.sides(build):
        none, full = last(readings, f"none_{side}"), last(readings, f"full_{side}")
        if none is not None and full is not None and none.value > 0.0:
            outcomes.append(_sag(by, side, sign, *beside(none, full)))
            behind = _behind(by, side, sign, *beside(none, full))
            if behind is not None:
                outcomes.append(behind)
        ripple = last(readings, f"full_ripple_{side}")
        figure = _ripple(by["full"].prediction, side, "full")
        if ripple is not None and figure is not None:
            outcomes.append(_ripple_says(sign, measured(ripple), figure))
    for level in levels:
        plus, minus = last(readings, f"{level.key}_plus"), last(readings, f"{level.key}_minus")
        if plus is not None and minus is not None and level.key in ("none", "full"):
            outcomes.append(_against_each_other(level, *beside(plus, minus)))
    return tuple(outcomes)


def _sag(by: dict[str, _Level], side: str, sign: str, none: Measured, full: Measured) -> Outcome:
    share = derived(lambda a, b: 100.0 * (a - b) / a, none, full)
    name = f"rail_{side}_mean_v"
    a, b = by["none"].prediction[name], by["full"].prediction[name]
    sags = difference(a, b)
    expected, u = 100.0 * sags.value / a.value, 100.0 * (sags.u or 0.0) / a.value
    state = apart(share, expected, u)
    say = ""
    if state is not State.CLEAR:
        say = (
            "It sags more: a smaller transformer than stated, a weak joint or fuse, or low mains under load."
            if share.value > expected
            else "It sags less: a larger transformer, or a lighter load than noted."
        )
    return Outcome(
        f"{sign} rail sags", share.words("%"), state, f"predicted {shown_with_spread(expected, 2.0 * u, '%')}", say
    )


def _behind(by: dict[str, _Level], side: str, sign: str, none: Measured, full: Measured) -> Outcome | None:
    name = f"rail_{side}_mean_v"
    drawn = _drawn(by, side)
    if drawn is None:
        return None
    r = derived(lambda a, b, i: (a - b) / i, none, full, drawn)
    sags = difference(by["none"].prediction[name], by["full"].prediction[name])
    expected, u = sags.value / drawn.value, (sags.u or 0.0) / drawn.value
    return Outcome(
        f"Behind the {sign} rail", r.words("ohm"), apart(r, expected, u),
        f"predicted {shown_with_spread(expected, 2.0 * u, 'ohm')}",
        f"At {drawn.words('A')} of mean rail current, as predicted for this power.",
    )  # fmt: skip


def _drawn(by: dict[str, _Level], side: str) -> Measured | None:
    """What the rail gives more at full level than with nothing on it, as predicted, with its spread."""
    loaded, alone = (by[key].prediction.get(f"rail_{side}_load_mean_a") for key in ("full", "none"))
    if loaded is None or not loaded.known:
        return None
    drawn = Measured(loaded.value, loaded.u) if alone is None or not alone.known else difference(loaded, alone)
    return drawn if drawn.value > 0.0 else None


def _ripple_says(sign: str, ripple: Measured, figure: Figure) -> Outcome:
    state = apart(ripple, figure.value, figure.u)
    share = figure.value / ripple.value if ripple.value > 0.0 else math.inf
    say = f"As from {100.0 * share:.0f} % of the capacitance, at the current predicted."
    if state is not State.CLEAR and share < 1.0:
        say += " An aged or smaller can, a dead half of the bridge, or more load than noted."
    return Outcome(
        f"{sign} rail ripple", ripple.words("V"), state,
        f"predicted {shown_with_spread(figure.value, figure.spread, 'V')}", say,
    )  # fmt: skip


def _against_each_other(level: _Level, plus: Measured, minus: Measured) -> Outcome:
    name = ("rail_plus_mean_v", "rail_minus_mean_v")
    expected = level.prediction[name[0]].value - level.prediction[name[1]].value
    between = derived(lambda a, b: a - b, plus, minus)
    off = abs(between.value - expected)
    slack = 2.0 * (between.u or 0.0) + APART_SHARE * plus.value
    state = State.CLEAR if off <= slack else State.CLOSE if off <= 2.0 * slack else State.OVER
    say = (
        ""
        if state is State.CLEAR
        else "One rail differs: a diode or half winding that carries too little, a jumper, or a load on one side only."
    )
    return Outcome(f"+ less −, {level.group.lower()}", between.words("V"), state, f"expect {shown(expected, 'V')}", say)


def _graph(levels: tuple[_Level, ...], alone: tuple[supply_alone.Loaded, ...], readings: Readings) -> Graph | None:
    loads = [(level.reading_key, level.prediction) for level in levels if level.key in _IN_GRAPH]
    loads += [(step.key, step.prediction) for step in alone if step.prediction is not None]
    curves = []
    for side, sign, role in (("plus", "+", "plus"), ("minus", "−", "minus")):
        figures = [prediction.get(f"rail_{side}_mean_v") for _, prediction in loads]
        if any(figure is None for figure in figures):
            continue
        drawn = [prediction.get(f"rail_{side}_load_mean_a") for _, prediction in loads]
        x = np.array([0.0 if figure is None or not figure.known else figure.value for figure in drawn])
        y = np.array([figure.value for figure in figures if figure is not None])
        half = np.array([figure.spread for figure in figures if figure is not None])
        order = np.argsort(x)
        if side == "plus":
            curves.append(
                Series(
                    "predicted", x[order], y[order], role="pred", unit="V", label="predicted", label_at="above",
                    spread=half[order],
                )
            )  # fmt: skip
        have = [(x[k], last(readings, key(side))) for k, (key, _) in enumerate(loads)]
        points = [(at, reading.value) for at, reading in have if reading is not None]
        if points:
            in_order = np.array(sorted(points))
            curves.append(
                Series(
                    f"{sign} rail read", in_order[:, 0], in_order[:, 1], role=role, unit="V", label=f"{sign}",
                    label_at="right", discs=True,
                )
            )  # fmt: skip
    return Graph("Rails over load", "mean rail current", "A", "V over A", tuple(curves)) if curves else None
