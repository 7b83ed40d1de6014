"""Speed of the engine, each beside the same work done with plain scipy. Run with ``make bench``."""

import dataclasses
import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication
from tests.sample_builds import SHARED_PAIR

from benchmarks import baseline
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.demo.builds import BUILDS
from plinth.physics.rails.clip_onset import ClipOnset, find_clip_onset
from plinth.physics.rails.common_period import FINE
from plinth.physics.rails.time_course import switch_on
from plinth.predict.batch_onsets import choices, clip_map, sampled_clip_power_w
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import circuit_of, mains_source
from plinth.predict.inputs import inputs_of
from plinth.predict.mains_unstated import u_without_mains
from plinth.predict.power_state import lay_period, level_state, plain_rail, unit_load
from plinth.predict.solve import solve, solve_fully

LEVEL_V = 20.0


@pytest.fixture(scope="module")
def circuit() -> PowerCircuit:
    values = {key: one.value for key, one in inputs_of(SHARED_PAIR).items()}
    return circuit_of(SHARED_PAIR, Situation(), values)


def plinth_both_rails(circuit: PowerCircuit, f_hz: float) -> tuple[float, float]:
    state = level_state(circuit, lay_period(circuit, f_hz, 0.0, FINE), circuit.channels, LEVEL_V)
    assert state.minus is not None
    return state.plus.mean(state.plus.v_node), state.minus.mean(state.minus.v_node)


def plinth_onset(circuit: PowerCircuit, f_hz: float) -> ClipOnset:
    period = lay_period(circuit, f_hz, 0.0, FINE)
    unit = np.maximum(period.signal_sine, 0.0)
    load = unit_load(circuit, period, 1.0).scaled(circuit.channels)
    return find_clip_onset(
        plain_rail(circuit, period), load, circuit.channels * circuit.i_idle_a, unit, circuit.output_limit
    )


def test_plinth_steady_state_of_both_rails_1_khz(benchmark: Any, circuit: PowerCircuit) -> None:
    means = benchmark(plinth_both_rails, circuit, 1000.0)
    assert means[0] == pytest.approx(baseline.both_rails(circuit, LEVEL_V, 1000.0, 0.01)[0], abs=5e-3)


def test_baseline_steady_state_of_both_rails_1_khz(benchmark: Any, circuit: PowerCircuit) -> None:
    benchmark.pedantic(baseline.both_rails, (circuit, LEVEL_V, 1000.0, 0.01), rounds=3)


def test_plinth_clip_onset_1_khz(benchmark: Any, circuit: PowerCircuit) -> None:
    onset = benchmark(plinth_onset, circuit, 1000.0)
    assert onset.v_peak == pytest.approx(baseline.clip_onset(circuit, 1000.0, 0.01), rel=2e-3)


def test_baseline_clip_onset_1_khz(benchmark: Any, circuit: PowerCircuit) -> None:
    benchmark.pedantic(baseline.clip_onset, (circuit, 1000.0, 0.01), rounds=1)


def test_plinth_clip_onset_20_hz(benchmark: Any, circuit: PowerCircuit) -> None:
    onset = benchmark(plinth_onset, circuit, 20.0)
    assert onset.v_peak == pytest.approx(baseline.clip_onset(circuit, 20.0, 0.05), rel=2e-3)


def test_baseline_clip_onset_20_hz(benchmark: Any, circuit: PowerCircuit) -> None:
    benchmark.pedantic(baseline.clip_onset, (circuit, 20.0, 0.05), rounds=1)


LEAKAGE_H = 80e-6


def plinth_switch_on(circuit: PowerCircuit, seconds: float) -> float:
    leaky = dataclasses.replace(circuit, l_leak=LEAKAGE_H)
    course = switch_on(leaky.network, mains_source(leaky), leaky.turns_ratio, seconds, 0.0, steps=150)
    return float(course.v_reservoir[-1, 0])


def test_plinth_two_seconds_of_switch_on_with_leakage(benchmark: Any, circuit: PowerCircuit) -> None:
    end = benchmark(plinth_switch_on, circuit, 2.0)
    assert end == pytest.approx(baseline.switch_on(circuit, LEAKAGE_H, 2.0), rel=2e-3)


def test_baseline_two_seconds_of_switch_on_with_leakage(benchmark: Any, circuit: PowerCircuit) -> None:
    """Each rail by itself, as in a steady state. Plinth sees that both are alike and marches one."""
    benchmark.pedantic(lambda: [baseline.switch_on(circuit, LEAKAGE_H, 2.0) for _ in range(2)], rounds=1)


def test_alone_map_of_8000_clip_onsets(benchmark: Any) -> None:
    c, volts = (next(one for one in choices(SHARED_PAIR) if one.key == key) for key in ("c", "v_secondary"))
    found = benchmark(clip_map, SHARED_PAIR, Situation(), c, volts, c.values(100), volts.values(80))
    assert np.isfinite(found.power_w).all()


def test_alone_monte_carlo_of_2000_samples(benchmark: Any) -> None:
    power = benchmark(sampled_clip_power_w, SHARED_PAIR, Situation(), 2000)
    assert np.std(power) == pytest.approx(u_without_mains(solve(SHARED_PAIR)["clip_power_w"]), rel=0.08)


def test_alone_all_figures_with_uncertainty(benchmark: Any) -> None:
    benchmark(solve_fully.__wrapped__, SHARED_PAIR, Situation())


@pytest.mark.parametrize("build", BUILDS, ids=lambda build: build.name)
def test_alone_slider_step(benchmark: Any, build: Build) -> None:
    before, loads = solve(build, Situation()), itertools.cycle((5.0, 5.6, 6.3, 7.1, 8.0))
    benchmark(lambda: solve(build, Situation(load_ohm=next(loads)), before))


@pytest.mark.parametrize("name", [build.name for build in BUILDS])
def test_alone_slider_step_to_the_picture(benchmark: Any, name: str, tmp_path: Path, qtbot: Any) -> None:
    """As above and everything that the window then paints."""
    from plinth.demo.workshop import make_demo
    from plinth.desk.session import BenchSession
    from plinth.desk.window import PlinthWindow

    session = BenchSession(make_demo(tmp_path), threaded=False)
    session.switch(next(one.id for one in session.builds if one.build.name == name))
    window = PlinthWindow(session)
    qtbot.addWidget(window)
    window.show()
    assert window.plan.rails_plot.graph is not None
    assert window.plan.mains_plot.graph is not None
    loads = itertools.cycle((5.0, 5.6, 6.3, 7.1, 8.0))

    def step() -> None:
        session.plan.what_if(live=True, load_ohm=next(loads))
        QApplication.processEvents()

    benchmark.pedantic(step, rounds=15, warmup_rounds=2)
