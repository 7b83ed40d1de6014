"""Three ways to march a rail (summed up, step by step, by matrices) are one rule: they must agree to rounding."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plinth.physics.rails.half_sine import half_wave_mean
from plinth.physics.rails.leaky_rail import march_leaky
from plinth.physics.rails.network import Drives, _Piece, _Pieces, load_volts, march_network, waves_of
from plinth.physics.rails.network_elements import RailElements, RailNetwork
from plinth.physics.rails.rail import LoadCurrent, RailCircuit, rectified_emf
from plinth.physics.rails.rail_march import RailOnGrid
from plinth.physics.rails.steady_state import solve_rail, steady_from_march

STEPS = 400


def half_waves(half_cycles: int, amperes: float, idle_a: float) -> LoadCurrent:
    angle = np.linspace(0.3, 0.3 + 2 * np.pi * 3 * half_cycles, STEPS * half_cycles + 1)
    return LoadCurrent(np.maximum(np.sin(angle), 0.0), half_wave_mean(angle)).scaled(amperes, idle_a)


@settings(max_examples=60, deadline=None)
@given(
    r_source=st.floats(0.01, 8.0), c_f=st.floats(20e-6, 0.1), esr=st.floats(0.0, 0.3), bleeder=st.floats(50.0, 1e5),
    amperes=st.floats(0.0, 3.0), start=st.floats(5.0, 45.0), half_cycles=st.integers(1, 12),
)  # fmt: skip
def test_a_summed_up_march_is_that_of_the_network(
    r_source: float, c_f: float, esr: float, bleeder: float, amperes: float, start: float, half_cycles: int
) -> None:
    circuit = RailCircuit(r_source, c_f, esr, 1.0 / bleeder)
    emf, step = rectified_emf(40.0, 1.4, half_cycles, STEPS * half_cycles), 0.01 / STEPS
    load = half_waves(half_cycles, amperes, 0.02)
    rail = RailOnGrid(circuit, emf, step)
    laid = rail.under(load)
    march = rail.march(laid, start)
    v_cap, v_node = rail.waveform(laid, march)
    network = RailNetwork((RailElements(r_source, c_f, esr, 1.0 / bleeder),))
    drives = Drives(emf[:, None], emf[:, None], load.at[:, None], load.mean[:, None], STEPS)
    other = march_network(network, drives, step, np.array([start]))
    # Where a diode changes within a hair of a sample the two may change a step apart, which is soon forgotten.
    assert v_cap == pytest.approx(other.x[:, 0], abs=2e-3)
    assert np.median(np.abs(v_cap - other.x[:, 0])) < 1e-8
    assert np.median(np.abs(v_node - load_volts(network, drives, step, other)[:, 0])) < 1e-8
    assert march.v_end == pytest.approx(float(v_cap[-1]))
    assert march.slope == pytest.approx(float(other.end_slope[0, 0]), rel=1e-3, abs=1e-9)


@pytest.mark.parametrize("leakage_h", [20e-6, 200e-6, 2e-3])
@pytest.mark.parametrize("r_source", [0.2, 3.0])
def test_a_leaky_rail_alone_is_that_of_the_network(leakage_h: float, r_source: float) -> None:
    """Current that flows on past the mains zero crossing included."""
    network = RailNetwork((RailElements(r_source, 4e-3, 0.02, 1 / 1000, leakage_h),), 0.1)
    halves, step = 8, 0.01 / STEPS
    emf = rectified_emf(40.0, 1.4, halves, STEPS * halves)[:, None]
    load = half_waves(halves, 2.0, 0.1)
    drives = Drives(emf, -emf - 2.8, load.at[:, None], load.mean[:, None], STEPS)
    for start in ([0.0, 0.0], [0.0, 30.0], [1.5, 25.0]):
        alone = march_leaky(network, drives, step, np.array(start))
        other = march_network(network, drives, step, np.array(start))
        assert alone.x == pytest.approx(other.x, abs=1e-9)
        assert alone.emf == pytest.approx(other.emf, abs=1e-12)
        assert [on for _, on in alone.runs] == [on for _, on in other.runs]
        one, two = waves_of(network, drives, step, alone), waves_of(network, drives, step, other)
        assert one.i_source == pytest.approx(two.i_source, abs=1e-9)
        assert one.v_load == pytest.approx(two.v_load, abs=1e-9)
    late = np.flatnonzero(alone.emf[:, 0] < emf[:, 0] - 1.0)
    assert (len(late) > 0) == (leakage_h > 1e-3), "through large leakage the current outlasts the half cycle"


def test_a_rail_far_quicker_than_the_grid_neither_rings_off_nor_loses_its_charge() -> None:
    """Trapezoid steps a hundred times the charging time: every power of the step turns its sign."""
    circuit = RailCircuit(2e-3, 50e-6, 0.0, 1 / 500)
    emf = rectified_emf(40.0, 1.4, 1, STEPS)
    rail = RailOnGrid(circuit, emf, 0.01 / STEPS)
    load = LoadCurrent(np.full(STEPS + 1, 0.05), np.full(STEPS, 0.05))
    state = solve_rail(rail, load)
    assert np.max(state.v_node) <= 40.0
    drawn = 0.05 + state.mean(state.v_node) / 500
    assert state.mean(state.i_diode_a) == pytest.approx(drawn, rel=0.02)


def test_a_known_start_gives_the_same_steady_state() -> None:
    circuit = RailCircuit(0.4, 10e-3, 0.02, 1 / 2200)
    rail = RailOnGrid(circuit, rectified_emf(40.0, 1.4, 2, 2 * STEPS), 0.01 / STEPS)
    load = half_waves(2, 3.0, 0.1)
    found = solve_rail(rail, load)
    again = steady_from_march(rail, load, float(found.v_cap[0]))
    assert again.v_node == pytest.approx(found.v_node, abs=1e-9)
    assert again.marches == 1
    assert solve_rail(rail, load, float(found.v_cap[0])).marches == 1 < found.marches
    assert found.rms(found.i_cap_a) == pytest.approx(math.sqrt(np.mean(found.i_cap_a[:-1] ** 2)))
    # Charge in and out of the capacitor over a period.
    assert abs(found.mean(found.i_cap_a)) < 2e-3 * found.mean(found.i_diode_a)


class Meddling(np.ndarray):
    """A step that another thread asks the piece for a longer one of, in the middle of its being multiplied."""

    piece: _Piece

    def __matmul__(self, other: object) -> Any:
        plain = np.asarray(self)
        piece, self.piece.doublings[0] = self.piece, plain
        piece.power(2**6 - 1)
        return np.matmul(plain, np.asarray(other))


def test_two_threads_at_once_make_the_same_steps() -> None:
    """What a slider asks and what a search asks may need the same network at the same moment."""
    network = RailNetwork(
        (RailElements(0.3, 4e-3, 0.02, 1 / 1000, 20e-6), RailElements(0.4, 5e-3, 0.03, 1 / 900, 30e-6)), 0.1
    )
    shared, alone = (pieces(network, 1e-5)[True, True] for pieces in (_Pieces, _Pieces))
    meddling = np.asarray(shared.doublings[0]).view(Meddling)
    meddling.piece = shared
    shared.doublings[0] = meddling
    shared.doubled(1)
    np.testing.assert_array_equal(shared.power(2**11 - 1), alone.power(2**11 - 1))
    assert alone.power(1) == pytest.approx(alone.step, rel=1e-12)
