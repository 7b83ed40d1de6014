"""Plain rails many at once against each of them alone."""

import math
import random

import numpy as np
import pytest

from plinth.physics.numbers.errors import NoSwingError, RailCollapseError
from plinth.physics.rails.between_samples import least_by_parabola
from plinth.physics.rails.clip_onset import OutputLimit, find_clip_onset
from plinth.physics.rails.half_sine import half_wave_mean
from plinth.physics.rails.many_rails import RailTask, onsets, steady_states
from plinth.physics.rails.rail import LoadCurrent, RailCircuit, constant_current, rectified_emf
from plinth.physics.rails.rail_march import RailOnGrid
from plinth.physics.rails.steady_state import solve_rail
from tests.turns import in_turn

STEPS, STEP_S, NEAR_V = 400, 0.01 / 400, 1e-5
EMF = rectified_emf(40.0, 1.4, 1, STEPS)
ANGLE = np.linspace(0.0, 20.0 * np.pi, STEPS + 1)
UNIT = LoadCurrent(np.maximum(np.sin(ANGLE), 0.0) / 8.0, half_wave_mean(ANGLE) / 8.0)
NEEDED = np.maximum(np.sin(ANGLE), 0.0)
LIMIT = OutputLimit(3.0, 1.02)
USUAL = RailCircuit(0.4, 10e-3, 0.02, 1 / 2200)


def resting(circuit: RailCircuit, amperes: float, emf: np.ndarray = EMF) -> RailTask:
    return RailTask(circuit, emf, constant_current(amperes, STEPS), 0.9 * float(emf.max()))


def touching(circuit: RailCircuit, idle_a: float = 0.05, limit: OutputLimit = LIMIT) -> RailTask:
    return RailTask(circuit, EMF, constant_current(idle_a, STEPS), 34.0, UNIT, NEEDED, limit, 26.0)


def rails(pick: random.Random) -> list[RailCircuit]:
    """A dozen, from too quick to hardly moved, some without bleeder or ESR."""

    def by_ratio(low: float, high: float) -> float:
        return math.exp(pick.uniform(math.log(low), math.log(high)))

    return [
        RailCircuit(
            by_ratio(0.05, 5.0), by_ratio(500e-6, 0.1), pick.choice((0.0, pick.uniform(0.0, 0.2))),
            pick.choice((0.0, 1e-9, pick.uniform(0.0, 5e-3))),
        )
        for _ in range(12)
    ]  # fmt: skip


@pytest.mark.parametrize("seed", in_turn(range(25), 3))
def test_each_steady_state_is_the_one_found_alone(seed: int) -> None:
    pick = random.Random(seed)
    lot = [(circuit, pick.choice((0.0, pick.uniform(0.0, 3.0)))) for circuit in rails(pick)]
    found = steady_states([resting(circuit, amperes) for circuit, amperes in lot], STEP_S, NEAR_V)
    for (circuit, amperes), state in zip(lot, found, strict=True):
        try:
            alone = solve_rail(RailOnGrid(circuit, EMF, STEP_S, NEAR_V), constant_current(amperes, STEPS))
        except RailCollapseError:
            assert state is None
            continue
        if state is None:
            # Left to be solved alone: only what is too quick for one sum over the period, or hardly discharged in one.
            fallen_v = 0.01 * (amperes + 38.6 * circuit.g_bleed_s) / circuit.c_f
            assert circuit.time_constant_on_s() < 0.01 / 11.0 or fallen_v < 0.02
            continue
        assert state.v_node == pytest.approx(alone.v_node, abs=2e-5)
        assert state.v_cap == pytest.approx(alone.v_cap, abs=2e-5)
        assert state.i_diode_a == pytest.approx(alone.i_diode_a, abs=2e-4 / circuit.r_source_ohm)
        assert state.i_cap_a == pytest.approx(alone.i_cap_a, abs=2e-4 / circuit.r_source_ohm)
        # What comes in goes out.
        assert state.mean(state.i_diode_a) == pytest.approx(amperes + state.mean(state.i_bleed_a), abs=0.01)


@pytest.mark.parametrize("seed", range(25))
def test_each_onset_is_the_one_found_alone(seed: int) -> None:
    pick = random.Random(1000 + seed)
    lot, idle_a = rails(pick), pick.uniform(0.0, 0.3)
    found = onsets([touching(circuit, idle_a) for circuit in lot], STEP_S, NEAR_V)
    for circuit, pair in zip(lot, found, strict=True):
        alone = find_clip_onset(RailOnGrid(circuit, EMF, STEP_S, NEAR_V), UNIT, idle_a, NEEDED, LIMIT)
        if pair is None:
            continue
        onset, state = pair
        assert onset.v_peak == pytest.approx(alone.v_peak, abs=1e-5)
        assert onset.v_cap_start == pytest.approx(alone.v_cap_start, abs=3e-5)
        # Touching, not crossing: the definition itself.
        margin = state.v_node - LIMIT.v_sat - onset.v_peak * LIMIT.volts_per_volt * NEEDED
        assert least_by_parabola(margin)[1] == pytest.approx(0.0, abs=1e-4)
        assert state.i_load_a == pytest.approx(idle_a + onset.v_peak * UNIT.at, abs=3e-5)


def test_usual_rails_are_all_found_so() -> None:
    lot = [RailCircuit(r, c, esr, 1 / 2200) for r in (0.2, 0.5) for c in (4.7e-3, 22e-3) for esr in (0.0, 0.05)]
    assert None not in onsets([touching(circuit) for circuit in lot], STEP_S, NEAR_V)
    assert None not in steady_states([resting(circuit, 1.0) for circuit in lot], STEP_S, NEAR_V)
    assert onsets([], STEP_S, NEAR_V) == []
    assert steady_states([], STEP_S, NEAR_V) == []


def test_what_cannot_be_found_so_leaves_the_others_alone() -> None:
    quick = RailCircuit(0.01, 100e-6, 0.0, 0.0)
    weak = OutputLimit(60.0, 1.0)
    with pytest.raises(NoSwingError):
        find_clip_onset(RailOnGrid(USUAL, EMF, STEP_S), UNIT, 0.0, NEEDED, weak)
    first, second, third, fourth = onsets(
        [touching(USUAL), touching(quick), touching(USUAL, limit=weak), touching(USUAL)], STEP_S, NEAR_V
    )
    assert second is None
    assert third is None
    assert first is not None
    assert fourth is not None
    assert first[0].v_peak == fourth[0].v_peak
    good, fallen, other = steady_states(
        [resting(USUAL, 1.0), resting(USUAL, 400.0), resting(USUAL, 1.0, 0.5 * EMF)], STEP_S, NEAR_V
    )
    assert fallen is None
    assert good is not None
    assert other is not None
    assert good.v_max > 1.8 * other.v_max


def test_how_near_is_asked_is_how_near_it_is() -> None:
    sharp = onsets([touching(USUAL)], STEP_S, 1e-7)[0]
    rough = onsets([touching(USUAL)], STEP_S, 2e-3)[0]
    assert sharp is not None
    assert rough is not None
    assert abs(sharp[0].v_peak - rough[0].v_peak) < 2e-3
    assert sharp[0].marches > rough[0].marches
