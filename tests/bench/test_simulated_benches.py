"""Figures made of readings at simulated benches with noise: the true value lies inside the stated spread."""

import dataclasses
import math

import numpy as np
import pytest

from plinth.bench import heat_run
from plinth.bench.every_sheet import kind_of
from plinth.bench.heat_run import Run, fit_of
from plinth.bench.sheet import Measured, beside, derived, last
from plinth.builds.situation import Situation
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.physics.stages.output_impedance import fitted_ohm
from tests.bench.typed_bench import TypedBench, told

BENCHES = 200


def test_heat_runs_end_where_they_say() -> None:
    """Time constants off as they may be, a thermometer whose offset is one of its own and whose readings jitter."""
    dice, inside = np.random.default_rng(3), 0
    tau_s, spread = heat_run._tau(STAGE_PAIR)
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
