"""Figures made of readings at simulated benches with noise: the true value lies inside the stated spread."""

import dataclasses
import datetime as dt
import math

import numpy as np
import pytest
from scipy.optimize import brentq

from plinth.bench import heat_run, test_conditions
from plinth.bench.every_sheet import kind_of
from plinth.bench.frequency_response import evaluate
from plinth.bench.heat_run import Run, fit_of
from plinth.bench.mains_side import disagreements
from plinth.bench.sheet import Measured, beside, derived, last
from plinth.builds.instruments import BenchKit, Role
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.demo.shelf import BENCH
from plinth.judge.state import State
from plinth.physics.rails.common_period import COARSE
from plinth.physics.stages.output_impedance import fitted_ohm
from plinth.predict.figure_values import figure_values
from plinth.predict.inputs import inputs_of
from plinth.predict.solution import Solution
from plinth.predict.solve import solution_of
from plinth.record.reading import Reading
from plinth.units.shown import shown_with_spread
from tests.bench.typed_bench import TypedBench, told
from tests.family import FAMILY
from tests.turns import in_turn

BENCHES = 200
METER_SHARE, METER_FLOOR_V = 0.005, 0.002
KIT = BenchKit(
    instruments=tuple(
        one.model_copy(update={"accuracy": METER_SHARE, "floor": METER_FLOOR_V}) if one.role is Role.METER else one
        for one in BENCH.instruments
    )
)


def test_heat_runs_end_where_they_say() -> None:
    """Time constants off as they may be, a thermometer whose offset is one of its own and whose readings jitter."""
    dice, inside = np.random.default_rng(3), 0
    tau_s, spread = heat_run.time_constant(STAGE_PAIR)
    for _ in range(BENCHES):
        tau = tau_s * math.exp(math.log(spread) * dice.normal())
        start, end = dice.uniform(18.0, 26.0), dice.uniform(45.0, 80.0)
        t = np.sort(dice.uniform(0.1, 2.5, size=int(dice.integers(3, 8)))) * tau_s
        t[0] = 0.0
        meter, jitter = 0.8, heat_run.JITTER_SHARE * 0.8
        y = end - (end - start) * np.exp(-t / tau) + meter * dice.normal() + jitter * dice.normal(size=len(t))
        run = Run(tuple(t), tuple(y), jitter, meter)
        fit = fit_of(STAGE_PAIR, run)
        if fit is None:
            inside += 1
            continue
        inside += abs(fit.end - end) <= 2.0 * math.hypot(fit.u_end, meter)
    assert told("rest of a heat run", inside, BENCHES) >= 0.93


def test_gains_lie_inside_their_spread() -> None:
    dice, inside = np.random.default_rng(5), 0
    bench = TypedBench("gain", STAGE_PAIR)
    empty = bench.book
    for _ in range(BENCHES):
        bench.book = empty
        gain, v_in = STAGE_PAIR.module.gain * dice.uniform(0.97, 1.03), dice.uniform(0.085, 0.095)
        meter = 1.0 + 0.003 * dice.normal()
        bench.type_in("in_left", f"{v_in * meter:.4f}")
        bench.type_in("out_left", f"{v_in * gain * meter:.3f}")
        into, out = last(bench.readings, "in_left"), last(bench.readings, "out_left")
        assert into is not None
        assert out is not None
        found = derived(lambda a, b: a / b, *beside(out, into))
        assert found.u is not None
        inside += abs(found.value - gain) <= 2.0 * found.u
    assert told("gain", inside, BENCHES) >= 0.93


def test_gains_of_meters_whose_zero_is_off_lie_inside_their_spread() -> None:
    """One meter, off by a share and at its zero as far as its maker allows; small volts in, large ones out."""
    dice, inside = np.random.default_rng(6), 0
    bench = TypedBench("gain", STAGE_PAIR, kit=KIT)
    empty = bench.book
    for _ in range(500):
        bench.book = empty
        gain, v_in = STAGE_PAIR.module.gain * dice.uniform(0.97, 1.03), dice.uniform(0.08, 0.10)
        share, zero = dice.uniform(-METER_SHARE, METER_SHARE), dice.uniform(-METER_FLOOR_V, METER_FLOOR_V)
        bench.type_in("in_left", f"{v_in * (1.0 + share) + zero:.4f}")
        bench.type_in("out_left", f"{v_in * gain * (1.0 + share) + zero:.3f}")
        into, out = last(bench.readings, "in_left"), last(bench.readings, "out_left")
        assert into is not None
        assert out is not None
        found = derived(lambda a, b: a / b, *beside(out, into))
        assert found.u is not None
        assert bench.outcomes()["Gain, left"].words == f"× {shown_with_spread(found.value, 2.0 * found.u, '')}"
        inside += abs(found.value - gain) <= 2.0 * found.u
    assert told("gain, zero off", inside, 500) >= 0.93
    # The zero is most of it: forgotten, a quarter would be inside.
    assert found.u is not None
    assert found.u / found.value == pytest.approx(METER_FLOOR_V / math.sqrt(3.0) / v_in, rel=0.1)


@pytest.mark.parametrize("low_pass", [True, False])
@pytest.mark.parametrize("step", [1.5, 2.0, 2.5])
def test_corners_lie_inside_their_spread(low_pass: bool, step: float) -> None:
    """Corners of one, two and three stages, alike or not, read at steps that fall anywhere on them."""
    dice, inside, missed = np.random.default_rng(8), 0, 0
    for _ in range(500):
        corner = 10.0 ** (dice.uniform(4.0, 4.7) if low_pass else dice.uniform(0.8, 1.5))
        stages = corner * np.array(
            [1.0, *dice.uniform(1.0, 4.0, size=int(dice.integers(0, 3)))]
            if low_pass
            else [1.0, *(1.0 / dice.uniform(1.0, 4.0, size=int(dice.integers(0, 3))))]
        )

        def level(f: float, of: np.ndarray = stages) -> float:
            ratio = f / of if low_pass else of / f
            return float(np.prod(1.0 / np.sqrt(1.0 + ratio**2)))

        ends = (corner / 64.0, corner * 64.0)
        true = brentq(lambda f: 20.0 * math.log10(level(f) / level(1000.0)) + 3.0, *ends)
        f_hz = sorted({1000.0, *(true * step ** (k + dice.uniform(0.0, 1.0)) for k in range(-4, 4))})
        read = {f: float(f"{2.0 * level(f):.3f}") for f in f_hz}
        found = evaluate(read, u_v=dict.fromkeys(read, 0.0005 / math.sqrt(3.0))).minus_3_db
        if len(found) != 1:
            missed += 1
            continue
        inside += abs(found[0].f_hz - true) <= 2.0 * found[0].u_hz + 1e-3 * true
    assert missed <= 10
    assert told(f"−3 dB, {'low' if low_pass else 'high'}-pass, steps of {step}", inside, 500 - missed) >= 0.93


@pytest.mark.parametrize(
    "name", in_turn(["class AB on linear", "class A on linear with chokes", "chip on linear, unequal"], 3)
)
def test_what_is_behind_a_rail_lies_inside_its_spread(name: str) -> None:
    """Parts off as far as they may be: what is read of the rails, over the current that flowed and was not read."""
    build = FAMILY[name]
    dice, inside, benches = np.random.default_rng(12), 0, 120
    bench = TypedBench("rails", build)
    empty, inputs = bench.book, inputs_of(build)
    near: dict[str, Solution | None] = {"full": None, "none": None}
    loaded = build.model_copy(update={"load": test_conditions.dummy(build)})
    for _ in range(benches):
        values = {key: max(one.value + one.u * dice.normal(), 0.0) for key, one in inputs.items()}
        true, drawn = {}, {}
        for key, situation in (("full", Situation()), ("none", Situation(rail_load_a=0.0))):
            near[key] = solution = solution_of(loaded, situation, values, COARSE, near[key])
            figures = figure_values(solution, surge=False)
            true[key], drawn[key] = figures["rail_plus_mean_v"], figures["rail_plus_load_mean_a"]
        bench.book = empty
        meter = 1.0 + 0.003 * dice.normal()
        for key in ("none", "full"):
            typed = f"{true[key] * meter:.2f}"
            found = bench.understand(f"{key}_plus", typed)
            bench.keep(found.taken or found.choices[-1], typed)
        words = bench.outcomes()["Behind the + rail"].words
        value, spread, unit = words.replace("±", "").split()
        scale = {"Ω": 1.0, "mΩ": 1e-3}[unit]
        ohm = (true["none"] - true["full"]) / (drawn["full"] - drawn["none"])
        inside += abs(float(value) * scale - ohm) <= float(spread) * scale
    # Of five hundred 94 to 96 % lie inside.
    assert told(f"behind the rail, {name}", inside, benches) >= 0.90


def test_honest_rows_of_a_power_meter_seldom_disagree() -> None:
    """Mains that move by up to 0.3 % between screens, and what a load draws from them by twice that."""
    dice, named, wrong = np.random.default_rng(21), 0, 0
    at = dt.datetime(2026, 10, 10, tzinfo=dt.UTC)
    for _ in range(500):
        v, a, pf = dice.uniform(226.0, 240.0), dice.uniform(0.2, 2.0), dice.uniform(0.5, 0.98)
        rows = {}
        for key, unit, value, form in (
            ("v", "V", v, ".1f"), ("a", "A", a, ".3f"), ("va", "VA", v * a, ".1f"), ("w", "W", v * a * pf, ".1f"),
            ("pf", "", pf, ".2f"),
        ):  # fmt: skip
            moved = dice.uniform(-0.003, 0.003) * {"v": 1.0, "a": 1.0, "va": 2.0, "w": 2.0, "pf": 0.0}[key]
            typed = f"{value * (1.0 + moved):{form}}"
            rows[key] = Reading(f"test/build/mains:{key}", key, typed, float(typed), unit, None, "power meter", at,
                                State.CLEAR)  # fmt: skip
        said = disagreements(rows, "at rest")
        named += bool(said)
        wrong += any(one.state is State.OVER for one in said)
    assert told("rows of a power meter agree", 500 - named, 500) >= 0.93
    assert wrong <= 5


def test_output_impedances_typed_digit_by_digit_lie_inside_their_spread() -> None:
    dice, inside = np.random.default_rng(9), 0
    loads = [load for load in STAGE_PAIR.loads if load.voice_coil is None]
    bench = TypedBench("impedance", STAGE_PAIR)
    empty = bench.book
    for _ in range(BENCHES):
        bench.book = empty
        ohm, v0 = dice.uniform(0.02, 0.3), dice.uniform(3.6, 4.4)
        meter = 1.0 + 0.005 * dice.normal()
        assert bench.type_in("mid_open", f"{v0 * meter:.3f}") is not None
        points = [(math.inf, 0.0, v0 * meter)]
        for load in loads:
            true = load.r_ohm * (1.0 + load.r_tol / math.sqrt(3.0) * dice.normal())
            v = v0 * meter / (1.0 + ohm / true)
            assert bench.type_in(f"mid_{load.identity}", f"{v:.3f}") is not None
            points.append((load.r_ohm, load.r_tol, round(v, 3)))
        outcome = bench.outcomes()["Output impedance, 1 kHz"]
        r, tol, v_read = (np.array(column) for column in zip(*points, strict=True))
        value, u = fitted_ohm(r, v_read, np.full(len(r), 0.0005 / math.sqrt(3.0)), tol / math.sqrt(3.0))
        inside += abs(value - ohm) <= 2.0 * u
        assert outcome.words
    assert told("output impedance", inside, BENCHES) >= 0.93


def test_sags_lie_inside_their_spread() -> None:
    dice, inside = np.random.default_rng(13), 0
    bench = TypedBench("rails", REHEARSAL_ROOM)
    empty = bench.book
    for _ in range(BENCHES):
        bench.book = empty
        none, full = dice.uniform(26.9, 28.2), dice.uniform(22.5, 24.0)
        meter = 1.0 + 0.004 * dice.normal()
        bench.type_in("none_plus", f"{none * meter:.2f}")
        bench.type_in("full_plus", f"{full * meter:.2f}")
        a, b = last(bench.readings, "none_plus"), last(bench.readings, "full_plus")
        assert a is not None
        assert b is not None
        share = derived(lambda x, y: 100.0 * (x - y) / x, *beside(a, b))
        assert share.u is not None
        inside += abs(share.value - 100.0 * (none - full) / none) <= 2.0 * share.u
    assert told("sag of a rail", inside, BENCHES) >= 0.93


@pytest.mark.parametrize("level", ["rest", "full"])
def test_power_factors_made_of_three_lie_inside_their_spread(level: str) -> None:
    """A power meter of stated accuracy: what two readings give of the third has its spread."""
    dice, inside = np.random.default_rng(17), 0
    for _ in range(BENCHES):
        watts, va = dice.uniform(20.0, 300.0), dice.uniform(40.0, 600.0)
        u_w, u_va = 0.005 * watts, 0.005 * va
        found = derived(
            lambda w, s: w / s, Measured(watts + u_w * dice.normal(), u_w), Measured(va + u_va * dice.normal(), u_va)
        )
        assert found.u is not None
        inside += abs(found.value - watts / va) <= 2.0 * found.u
    assert told(f"power factor, {level}", inside, BENCHES) >= 0.92
    assert dataclasses.is_dataclass(kind_of("mains").make(STAGE_PAIR, "left", Situation()))
