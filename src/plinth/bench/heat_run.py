"""A heat run: temperatures of the sink at any times, fitted to one thermal mass, told on to rest and to a hot day."""

import dataclasses
import datetime as dt
import math
from collections.abc import Sequence

import numpy as np

from plinth.bench import test_conditions, test_settings, winding_temperature
from plinth.bench.sheet import Graph, Measured, Outcome, Readings, Sheet, apart, bench_request
from plinth.bench.signal_level import scope_words
from plinth.builds.build import Build
from plinth.builds.instruments import Role
from plinth.builds.situation import Situation
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.physics.numbers.approach import Approach, approach
from plinth.physics.stages.levels import rms_from_peak
from plinth.predict.estimates import HOT_DAY_C
from plinth.predict.prediction import Prediction
from plinth.predict.solve import solve
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.units.bounds import Bound
from plinth.units.shown import shown, shown_with_spread

TEST = "heat"
# The key of the reading with which a run begins.
START = "start"
_AT_SINK = Probe(Point.SINK, Quantity.DEGREES)
# An eighth of the power at clipping, as a sine: about the heat that compressed music makes.
LEVEL = math.sqrt(1.0 / 8.0)
# By which factor the time constant may be off: stated heat capacity, and a usual one.
TAU_SPREAD, TAU_SPREAD_UNKNOWN = 1.4, 2.0
# J/K for each W/K that a sink passes, where nobody states its heat capacity: aluminium of usual thickness.
USUAL_TAU_S = 900.0
# Of a thermometer's own uncertainty, what differs from one reading to the next.
JITTER_SHARE, UNKNOWN_METER_K = 0.3, 1.0
# Near enough to rest.
WITHIN_K = 1.0


def sheet(build: Build, channel: str, situation: Situation) -> Sheet:
    """The sheet of the sink, which all channels share. Raises PhysicsError where the build cannot run."""
    load = test_conditions.dummy(build)
    prediction = solve(
        build.model_copy(update={"load": load}),
        situation.model_copy(update={"level": LEVEL, "channels_driven": "all", "frequency_hz": 1000.0}),
    )
    v_rms = rms_from_peak(prediction["output_v_peak"].value)
    watts = prediction["output_power_w"].value
    carried = load.p_carried_w
    rating = "its rating is not stated" if carried is None else f"rated {carried:g} W"
    allowed = "it may stay on" if carried is not None and watts <= carried * (1 + 1e-9) else "watch its heat as well"
    return Sheet(
        TEST, "Heat run", "Where the sink comes to rest, here and on a hot day, told before it is there.",
        settings=(
            ("Output, every channel, 1 kHz", f"{shown(v_rms, 'V')} rms"),
            (
                ("Heat in the sink, predicted"),
                shown_with_spread(prediction["heat_w"].value, prediction["heat_w"].spread, "W"),
            ),
            (
                "Time constant",
                (
                    f"about {time_constant(build)[0] / 60.0:.0f} "
                    f"min{'' if build.sink.heat_capacity_j_per_k else ', not stated: a usual one'}"
                ),
            ),
        ),
        load=f"{load.name}, {load.r_ohm:g} Ω on every channel takes {shown(watts, 'W')}: {rating}, {allowed}.",
        wired="Thermometer on the sink beside an output device, in paste; another in the air it "
        "draws in. Case closed as it "
        f"will be. {scope_words(build, channel)}",
        asked=lambda readings: _asked(build, prediction, readings),
        outcomes=lambda readings: _outcomes(build, prediction, readings),
        graph=lambda readings: _graph(build, prediction, readings),
        caution="Sink and loads get hot enough to burn. Stay beside it, and stop where the sink passes its limit.",
    )  # fmt: skip


def time_constant(build: Build) -> tuple[float, float]:
    """Time constant of the sink (s), and by which factor it may be off."""
    capacity = build.sink.heat_capacity_j_per_k
    if capacity is None:
        return USUAL_TAU_S, TAU_SPREAD_UNKNOWN
    return build.sink.to_air_k_per_w * capacity, TAU_SPREAD


def _asked(build: Build, prediction: Prediction, readings: Readings) -> tuple[Request, ...]:
    key = build.key_of(build.channels[0])
    conditions = dict(test_conditions.of_supply(build, prediction.situation, module=build.mark("module")))
    conditions["load_ohm"] = prediction.build.load.r_ohm
    air = _air(readings)
    limit = build.sink.t_limit_c
    at = 25.0 if air is None else air.value
    rise = prediction["sink_sine_c"].value - prediction.situation.ambient_c
    requests = (
        bench_request(
            test=TEST, key="air", channel=key, group="", label="air",
            ask="Thermometer in the air that the sink draws in, out of its warmth.", unit="°C",
            window=Window(0.0, 45.0, "°C", "a room"), conditions=conditions, role=Role.THERMOMETER, example="22.5",
            least=None, needs="all",
        ),
        bench_request(
            test=TEST, key=START, channel=key, group="", label="sink at the start",
            ask="Set the level on every channel; read the sink at that moment. This starts the run anew.", unit="°C",
            window=Window(at - 4.0, limit, "°C", "as warm as the air, or on the way"), conditions=conditions,
            role=Role.THERMOMETER, example="23.0", least=None, needs="all", probe=_AT_SINK,
        ),
        bench_request(
            test=TEST, key="sink", channel=key, group="", label="sink, on the way",
            ask="Read the sink whenever you pass: 41.5 for now, 41.5 at 12 min for then. As often as you like.",
            unit="°C", window=Window(at - 4.0, max(limit, at + 1.5 * rise), "°C", "between the air and its limit"),
            conditions=conditions, form="course", role=Role.THERMOMETER, example="41.5", least=None, needs="all",
            probe=_AT_SINK,
        ),
    )  # fmt: skip
    drive = LEVEL * prediction["drive_v_rms"].value
    driven = test_settings.under(
        requests, *test_settings.generator(drive, 1000.0, prediction["drive_v_rms"].high),
        test_settings.into(prediction.build.load), test_settings.source(build, prediction.situation),
    )  # fmt: skip
    # Gone to by hand: whoever reads no winding is not asked for one between air and sink.
    return (*driven, *winding_temperature.asked(build, TEST, readings))


@dataclasses.dataclass(frozen=True)
class Run:
    """Times since the start (s) and temperatures (deg C), with what differs from one reading to the next."""

    t_s: tuple[float, ...]
    c: tuple[float, ...]
    u_jitter: float
    u_meter: float | None


def run_of(readings: Readings) -> Run | None:
    """The last run: from its start on, in order of time; None before it has begun."""
    starts = [reading for reading in readings.get(START, ()) if not reading.bound.one_sided]
    if not starts:
        return None
    start = starts[-1]
    points = [(0.0, start)]
    for reading in readings.get("sink", ()):
        since = reading.number("since_s")
        if reading.bound is Bound.NONE and since is not None and reading.taken_at >= start.taken_at and since > 0.0:
            points.append((since, reading))
    points.sort(key=lambda point: point[0])
    us = [point.u for _, point in points]
    known = None if any(u is None for u in us) else max(u for u in us if u is not None)
    jitter = max(JITTER_SHARE * (UNKNOWN_METER_K if known is None else known), 0.05)
    return Run(tuple(t for t, _ in points), tuple(point.value for _, point in points), jitter, known)


def since_start_s(readings: Readings, now: dt.datetime) -> float:
    """Seconds since the current run began; 0 where none has."""
    starts: Sequence[Reading] = readings.get(START, ())
    return 0.0 if not starts else max((now - starts[-1].taken_at).total_seconds(), 0.0)


def fit_of(build: Build, run: Run) -> Approach | None:
    """The approach through a run; None before it has two readings that differ in time enough to tell."""
    tau, spread = time_constant(build)
    if len(run.t_s) < 2 or run.t_s[-1] - run.t_s[0] < 0.05 * tau:
        return None
    return approach(np.array(run.t_s), np.array(run.c), run.u_jitter, tau, spread)


def _air(readings: Readings) -> Measured | None:
    held = [reading for reading in readings.get("air", ()) if not reading.bound.one_sided]
    return None if not held else Measured(held[-1].value, UNKNOWN_METER_K if held[-1].u is None else held[-1].u)


def _outcomes(build: Build, prediction: Prediction, readings: Readings) -> tuple[Outcome, ...]:
    air = _air(readings)
    return (*_of_sink(build, prediction, readings, air), *winding_temperature.outcomes(readings, air))


def _of_sink(build: Build, prediction: Prediction, readings: Readings, air: Measured | None) -> tuple[Outcome, ...]:
    run = run_of(readings)
    if run is None:
        return ()
    fit = fit_of(build, run)
    if fit is None:
        tau, _ = time_constant(build)
        return (
            Outcome(
                "The run", f"{len(run.t_s)} reading{'s' if len(run.t_s) > 1 else ''}", State.UNKNOWN, "",
                f"Read again in {max(0.15 * tau / 60.0, 1.0):.0f} min: then it tells where it goes.",
            ),
        )  # fmt: skip
    # What nobody states of a thermometer never counts as exact.
    u = math.hypot(fit.u_end, UNKNOWN_METER_K if run.u_meter is None else run.u_meter)
    end = Measured(fit.end, None if run.u_meter is None else u)
    rise = prediction["sink_sine_c"]
    outcomes = [_rest(end, u, air, rise.value - prediction.situation.ambient_c, rise.u)]
    limit = build.sink.t_limit_c
    outcomes.append(against_limit(f"Here, limit {limit:g} °C", end, u, limit))
    if air is not None:
        hot = Measured(fit.end + HOT_DAY_C - air.value, None if end.u is None else math.hypot(u, air.u or 0.0))
        outcomes.append(against_limit(f"In air of {HOT_DAY_C:g} °C", hot, math.hypot(u, air.u or 0.0), limit))
        outcomes.append(_sink(prediction, fit, air, u))
    outcomes.append(_enough(fit, u, limit, air))
    if run.u_meter is None:
        outcomes.append(
            Outcome(
                "The thermometer", "accuracy not stated", State.UNKNOWN, f"{UNKNOWN_METER_K:g} K of uncertainty taken",
                "State it among the instruments.",
            )
        )  # fmt: skip
    return tuple(outcomes)


def _rest(end: Measured, u: float, air: Measured | None, rise: float, u_rise: float) -> Outcome:
    words = shown_with_spread(end.value, 2.0 * u, "°C")
    if air is None:
        return Outcome(
            "Comes to rest at", words, State.UNKNOWN, "", "Read the air too: then its rise tells of sink and heat."
        )
    expected = air.value + rise
    got = Measured(end.value, math.hypot(u, air.u or 0.0))
    state = apart(got, expected, u_rise)
    say = (
        ""
        if state is State.CLEAR
        else (
            "Warmer: a poor pad or screw, dead air at the sink, or more bias."
            if end.value > expected
            else "Cooler: more air than taken, or less level than set."
        )
    )
    return Outcome(
        "Comes to rest at", words, state, f"predicted {shown_with_spread(expected, 2.0 * u_rise, '°C')}", say
    )


def against_limit(label: str, value: Measured, u: float, limit: float) -> Outcome:
    """A temperature against what it may be, both degrees; ``u`` its standard uncertainty, kelvin."""
    high = value.value + 2.0 * u
    state = State.OVER if value.value > limit * (1 + 1e-9) else State.CLOSE if high > limit else State.CLEAR
    left = limit - value.value
    words = f"{shown(left, 'K', 2)} left" if left >= 0.0 else f"{shown(-left, 'K', 2)} too much"
    return Outcome(label, shown_with_spread(value.value, 2.0 * u, "°C"), state, words)


def _sink(prediction: Prediction, fit: Approach, air: Measured, u: float) -> Outcome:
    heat, stated = prediction["heat_w"], prediction.inputs["r_sink"]
    value = (fit.end - air.value) / heat.value
    spread = abs(value) * math.hypot(u / max(abs(fit.end - air.value), 1e-9), heat.u / heat.value)
    state = apart(Measured(value, spread), stated.value, stated.u)
    return Outcome(
        "The sink, by this run", shown_with_spread(value, 2.0 * spread, "K/W"), state,
        f"{'estimated' if stated.estimated else 'stated'} {shown(stated.value, 'K/W')}", "With the heat predicted.",
    )  # fmt: skip


def _enough(fit: Approach, u: float, limit: float, air: Measured | None) -> Outcome:
    """Whether more readings could still change the verdict."""
    left = fit.left_s(WITHIN_K)
    hot = fit.end if air is None else fit.end + HOT_DAY_C - air.value
    if left == 0.0:
        return Outcome("Enough?", "at rest", State.CLEAR, "", "It will not move by more than a kelvin any more.")
    decided = abs(hot - limit) > 2.0 * u
    after = f"{left / 60.0:.0f} min to within {WITHIN_K:g} K of rest."
    if decided:
        return Outcome("Enough?", "yes", State.CLEAR, "", f"The whole band lies on one side of the limit. {after}")
    return Outcome("Enough?", "not yet", State.CLOSE, "", f"The band still spans the limit: read on. {after}")


def _graph(build: Build, prediction: Prediction, readings: Readings) -> Graph:
    run, air = run_of(readings), _air(readings)
    tau, _ = time_constant(build)
    start = run.c[0] if run is not None else prediction.situation.ambient_c
    at = air.value if air is not None else prediction.situation.ambient_c
    rise = prediction["sink_sine_c"]
    end = at + rise.value - prediction.situation.ambient_c
    far = max(5.0 * tau, 1.1 * run.t_s[-1] if run is not None else 0.0)
    t = np.linspace(0.0, far, 120)
    grown = 1.0 - np.exp(-t / tau)
    curves = [
        Series(
            "predicted", t, start + (end - start) * grown, role="pred", unit="°C", label="predicted",
            label_at="above", spread=rise.spread * grown,
        )
    ]  # fmt: skip
    limit = np.array([build.sink.t_limit_c, build.sink.t_limit_c])
    curves.append(Series("limit", np.array([0.0, far]), limit, "over", "°C", "limit"))
    if run is not None:
        fit = fit_of(build, run)
        if fit is not None:
            begun = fit.end - fit.off * math.exp((run.t_s[-1] - run.t_s[0]) / fit.tau_s)
            y = fit.end + (begun - fit.end) * np.exp(-t / fit.tau_s)
            band = 2.0 * fit.u_end * (1.0 - np.exp(-t / fit.tau_s))
            curves.append(Series("fitted", t, y, role="ink2", unit="°C", label="fitted", label_at="below", spread=band))
        curves.append(Series("read", np.array(run.t_s), np.array(run.c), "ink", "°C", discs=True))
    return Graph("The sink over time", "t", "min", "°C over min", tuple(curves), x_scale=1.0 / 60.0)
