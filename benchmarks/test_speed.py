"""Speed of the engine, each beside the same work done with plain scipy. Run with ``make bench``."""

from typing import Any

import numpy as np
import pytest

from benchmarks import baseline
from plinth.builds.situation import Situation
from plinth.demo.builds import STAGE_PAIR
from plinth.physics.clip_onset import ClipOnset, find_clip_onset
from plinth.physics.common_period import FINE
from plinth.predict.inputs import supply_and_module_inputs
from plinth.predict.linear_supply import LinearCircuit, lay_period, level_state
from plinth.predict.solve import circuit_of, solve, solve_fully

LEVEL_V = 20.0


@pytest.fixture(scope="module")
def circuit() -> LinearCircuit:
    values = {key: one.value for key, one in supply_and_module_inputs(STAGE_PAIR).items()}
    return circuit_of(STAGE_PAIR, Situation(), values)


def plinth_both_rails(circuit: LinearCircuit, f_hz: float) -> tuple[float, float]:
    state = level_state(circuit, lay_period(circuit, f_hz, 0.0, FINE), circuit.channels, LEVEL_V)
    return state.plus.mean(state.plus.v_node), state.minus.mean(state.minus.v_node)


def plinth_onset(circuit: LinearCircuit, f_hz: float) -> ClipOnset:
    period = lay_period(circuit, f_hz, 0.0, FINE)
    unit = np.maximum(period.signal_sine, 0.0)
    return find_clip_onset(
        circuit.rail, period.emf, period.step_s, period.unit_plus.scaled(circuit.channels),
        circuit.channels * circuit.i_idle_a, unit, circuit.output_limit,
    )  # fmt: skip


def test_plinth_steady_state_of_both_rails_1_khz(benchmark: Any, circuit: LinearCircuit) -> None:
    means = benchmark(plinth_both_rails, circuit, 1000.0)
    assert means[0] == pytest.approx(baseline.both_rails(circuit, LEVEL_V, 1000.0, 0.01)[0], abs=5e-3)


def test_baseline_steady_state_of_both_rails_1_khz(benchmark: Any, circuit: LinearCircuit) -> None:
    benchmark.pedantic(baseline.both_rails, (circuit, LEVEL_V, 1000.0, 0.01), rounds=3)


def test_plinth_clip_onset_1_khz(benchmark: Any, circuit: LinearCircuit) -> None:
    onset = benchmark(plinth_onset, circuit, 1000.0)
    assert onset.v_peak == pytest.approx(baseline.clip_onset(circuit, 1000.0, 0.01), rel=2e-3)


def test_baseline_clip_onset_1_khz(benchmark: Any, circuit: LinearCircuit) -> None:
    benchmark.pedantic(baseline.clip_onset, (circuit, 1000.0, 0.01), rounds=1)


def test_plinth_clip_onset_20_hz(benchmark: Any, circuit: LinearCircuit) -> None:
    onset = benchmark(plinth_onset, circuit, 20.0)
    assert onset.v_peak == pytest.approx(baseline.clip_onset(circuit, 20.0, 0.05), rel=2e-3)


def test_baseline_clip_onset_20_hz(benchmark: Any, circuit: LinearCircuit) -> None:
    benchmark.pedantic(baseline.clip_onset, (circuit, 20.0, 0.05), rounds=1)


def test_alone_all_figures_with_uncertainty(benchmark: Any) -> None:
    benchmark(solve_fully.__wrapped__, STAGE_PAIR, Situation())


def test_alone_all_figures_while_a_slider_moves(benchmark: Any) -> None:
    before = solve(STAGE_PAIR, Situation())
    benchmark(solve, STAGE_PAIR, Situation(load_ohm=6.0), before)
