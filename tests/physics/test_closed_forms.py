"""Rails, heat, bleed and levels against closed forms."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.physics.heat import rises, thermal
from plinth.physics.mains import transformer, wave
from plinth.physics.numbers.errors import NoSwingError, RailCollapseError
from plinth.physics.rails import supply_flow, transients
from plinth.physics.rails.common_period import FINE, common_period
from plinth.physics.rails.half_sine import half_wave_mean
from plinth.physics.rails.rail import LoadCurrent, RailCircuit, constant_current, rectified_emf
from plinth.physics.rails.rail_march import Laid, RailOnGrid
from plinth.physics.rails.steady_state import solve_rail
from plinth.physics.stages import bias, levels, response


def unloaded(g_bleed: float = 0.0) -> RailCircuit:
    return RailCircuit(r_source_ohm=0.4, c_f=10e-3, esr_ohm=0.02, g_bleed_s=g_bleed)


def test_rail_without_load_stands_at_the_crest_less_the_drops() -> None:
    emf = rectified_emf(v_amplitude=35.0, v_drop=1.6, half_cycles=1, steps=500)
    state = solve_rail(RailOnGrid(unloaded(), emf, 0.01 / 500), constant_current(0.0, 500))
    assert float(np.max(state.v_node)) == pytest.approx(35.0 - 1.6, abs=1e-3)
    assert float(np.ptp(state.v_node)) < 1e-3


def test_ripple_of_a_large_reservoir_is_charge_over_capacitance() -> None:
    big = RailCircuit(r_source_ohm=0.05, c_f=0.5, esr_ohm=0.0, g_bleed_s=0.0)
    emf = rectified_emf(35.0, 1.0, 1, 2000)
    state = solve_rail(RailOnGrid(big, emf, 0.01 / 2000), constant_current(2.0, 2000))
    share_off = 1.0 - state.conduction_angle_deg() / 180.0
    assert float(np.ptp(state.v_cap)) == pytest.approx(2.0 * 0.01 * share_off / 0.5, rel=0.02)
    assert float(np.ptp(state.v_cap)) < 2.0 / (2 * 50 * 0.5)


def test_mean_diode_current_is_the_load_current() -> None:
    circuit = unloaded(1 / 2200)
    emf = rectified_emf(35.0, 1.6, 1, 500)
    state = solve_rail(RailOnGrid(circuit, emf, 0.01 / 500), constant_current(1.5, 500))
    drawn = 1.5 + state.mean(state.v_node) / 2200
    assert state.mean(state.i_diode_a) == pytest.approx(drawn, rel=1e-3)


@pytest.mark.parametrize("r_source", [0.02, 0.4, 5.0])
@pytest.mark.parametrize("c_f", [47e-6, 1e-3, 22e-3])
def test_runs_equal_steps_taken_one_by_one(r_source: float, c_f: float) -> None:
    """The vectorised march against the same trapezoid rule written out as a plain loop."""
    circuit = RailCircuit(r_source, c_f, 0.015, 1 / 1000)
    steps, half_cycles = 3000, 3
    emf = rectified_emf(30.0, 1.0, half_cycles, steps)
    angle = np.linspace(0, 9 * np.pi, steps + 1)
    unit = LoadCurrent(np.maximum(np.sin(angle), 0.0), half_wave_mean(angle))
    load, h = unit.scaled(0.3, 0.02), half_cycles * 0.01 / steps
    rail = RailOnGrid(circuit, emf, h)
    laid, along = rail.under(load), rail.alone(unit)
    result = rail.march(laid, 27.0, along)
    v_cap, _ = rail.waveform(laid, result)

    def current(v: float, e: float, i: float, on: bool) -> float:
        g_s = 1 / r_source if on else 0.0
        g = circuit.g_bleed_s + g_s
        return (g_s * e - i - g * v) / (1 + circuit.esr_ohm * g)

    def advance(v: float, on: bool, j: int) -> tuple[float, bool]:
        for new in (False, True):
            zero, one = current(0.0, emf[j + 1], load.mean[j], new), current(1.0, emf[j + 1], load.mean[j], new)
            k = h / (2 * c_f)
            v1 = (v + k * (current(v, emf[j], load.mean[j], on) + zero)) / (1 - k * (one - zero))
            node = v1 + circuit.esr_ohm * current(v1, emf[j + 1], load.at[j + 1], new)
            if new or emf[j + 1] <= node:
                return float(v1), new
        raise AssertionError

    v, on, worst = 27.0, False, 0.0
    for j in range(steps):
        v, on = advance(v, on, j)
        worst = max(worst, abs(v - v_cap[j + 1]))
    assert worst < 2e-3
    nudged = rail.march(laid.plus(1e-6, along), 27.0)
    assert (nudged.v_end - result.v_end) / 1e-6 == pytest.approx(result.response, rel=0.05, abs=1e-3)
    moved = rail.march(laid, 27.0 + 1e-6)
    assert (moved.v_end - result.v_end) / 1e-6 == pytest.approx(result.slope, rel=0.05, abs=1e-6)
    for k in (17, 500, steps // 2, steps):
        by_start, by_scale = rail.node_slopes(along, result, k)
        beside, before = node_at(rail, laid.plus(1e-6, along), 27.0, k), node_at(rail, laid, 27.0, k)
        assert (beside - before) / 1e-6 == pytest.approx(by_scale, rel=0.05, abs=1e-3)
        assert (node_at(rail, laid, 27.0 + 1e-6, k) - before) / 1e-6 == pytest.approx(by_start, rel=0.05, abs=1e-6)


def node_at(rail: RailOnGrid, laid: Laid, v_start: float, k: int) -> float:
    return float(rail.waveform(laid, rail.march(laid, v_start))[1][k])


def test_too_much_load_is_said_to_collapse_the_rail() -> None:
    emf = rectified_emf(20.0, 1.6, 1, 500)
    with pytest.raises(RailCollapseError, match="collapses the rail"):
        solve_rail(RailOnGrid(unloaded(), emf, 0.01 / 500), constant_current(60.0, 500))


def test_no_swing_below_saturation() -> None:
    from plinth.physics.rails.clip_onset import OutputLimit, find_clip_onset

    emf = rectified_emf(3.0, 1.6, 1, 500)
    unit = constant_current(0.25, 500)
    with pytest.raises(NoSwingError, match="below"):
        find_clip_onset(RailOnGrid(unloaded(), emf, 2e-5), unit, 0.0, np.ones(501), OutputLimit(3.0, 1.0))


@given(st.floats(0.01, 50), st.floats(0.0, 2 * math.pi))
def test_half_wave_means_hold_the_exact_charge(turns: float, phase: float) -> None:
    angle = phase + np.linspace(0.0, 2 * np.pi * turns, 37)
    fine = phase + np.linspace(0.0, 2 * np.pi * turns, 36 * 4000 + 1)
    charge = float(np.trapezoid(np.maximum(np.sin(fine), 0.0), fine))
    total = float(np.sum(half_wave_mean(angle) * np.diff(angle)))
    assert total == pytest.approx(charge, rel=1e-4, abs=1e-6)


@pytest.mark.parametrize(
    ("f_signal", "half_cycles", "cycles"), [(1000.0, 1, 10), (50.0, 2, 1), (20.0, 5, 1), (60.0, 5, 3), (100.0, 1, 1)]
)
def test_common_period_of_familiar_frequencies(f_signal: float, half_cycles: int, cycles: int) -> None:
    shared = common_period(50.0, f_signal)
    assert (shared.half_cycles, shared.signal_cycles) == (half_cycles, cycles)
    assert shared.f_signal_hz == pytest.approx(f_signal)
    assert shared.steps(FINE) >= 40 * cycles


@given(st.floats(5, 100_000), st.sampled_from([50.0, 60.0]))
def test_common_period_is_short_and_near(f_signal: float, f_mains: float) -> None:
    shared = common_period(f_mains, f_signal)
    assert shared.half_cycles <= 40
    assert shared.f_signal_hz == pytest.approx(f_signal, rel=0.06)


def test_bleed_down_follows_the_exponential() -> None:
    t = transients.bleed_down_s(10e-3, 2200.0, 36.0, 5.0)
    assert t == pytest.approx(22.0 * math.log(36 / 5))
    assert transients.bleed_voltage(10e-3, 2200.0, 36.0, t) == pytest.approx(5.0)
    assert transients.bleed_down_s(10e-3, math.inf, 36.0, 5.0) == math.inf
    assert transients.bleed_down_s(10e-3, math.inf, 36.0, 5.0, i_load_a=0.1) == pytest.approx(3.1)
    # Against integration of C dv/dt = -(v/R + I).
    from scipy.integrate import solve_ivp

    def at_five(_t: float, y: np.ndarray) -> float:
        return float(y[0]) - 5.0

    at_five.terminal = True  # type: ignore[attr-defined]
    run = solve_ivp(lambda _t, y: [-(y[0] / 470 + 0.05) / 4.7e-3], (0, 60), [30.0], events=at_five, rtol=1e-9)
    assert transients.bleed_down_s(4.7e-3, 470.0, 30.0, 5.0, 0.05) == pytest.approx(float(run.t_events[0][0]), rel=1e-6)


def test_switch_on_reaches_the_rail() -> None:
    circuit = unloaded(1 / 2200)
    seconds = transients.switch_on_s(circuit, 35.0, 1.6, 50.0, 0.1, 33.0)
    assert 0.005 < seconds < 0.5


def test_short_time_rating_of_a_resistor() -> None:
    assert rises.time_to_rated_rise_s(50, 50, 95) == math.inf
    t = rises.time_to_rated_rise_s(100, 50, 95)
    assert 100 * (1 - math.exp(-t / 95)) == pytest.approx(50)
    assert thermal.wait_s(0.0, 0.5, 900) == pytest.approx(450 * math.log(20))


@given(st.floats(1e-3, 200))
def test_levels_agree_with_one_another(v_rms: float) -> None:
    assert levels.rms_from_peak(levels.peak_from_rms(v_rms)) == pytest.approx(v_rms)
    assert levels.rms_from_peak_to_peak(2 * levels.peak_from_rms(v_rms)) == pytest.approx(v_rms)
    assert levels.rms_for_power(levels.power_w(v_rms, 8.0), 8.0) == pytest.approx(v_rms)


def test_levels_refuse_what_has_no_meaning() -> None:
    with pytest.raises(ValueError, match="above 0 ohm"):
        levels.power_w(1.0, 0.0)
    with pytest.raises(ValueError, match="above 0 V"):
        levels.decibels(0.0, 1.0)
    assert levels.level_fraction_for_crest(20 * math.log10(math.sqrt(2))) == pytest.approx(1.0)


def test_transformer_conventions() -> None:
    assert transformer.open_circuit_v_rms(25, 0.07) == pytest.approx(26.75)
    r = transformer.winding_resistance_ohm(25, 4.5, 0.07)
    # At rated current the terminal voltage is the rated one: that is what regulation means.
    assert transformer.open_circuit_v_rms(25, 0.07) - 4.5 * r == pytest.approx(25.0)
    small, large = (transformer.estimate_regulation(va, "toroid")[0] for va in (10, 500))
    assert 0.2 <= small <= 0.40
    assert 0.03 <= large <= 0.07
    with pytest.raises(ValueError, match="not known"):
        transformer.estimate_regulation(100, "air")


def test_bias_and_idle_current() -> None:
    assert bias.bias_mv(0.1, 0.33) == pytest.approx(33.0)
    assert bias.quiescent_a(33.0, 0.33) == pytest.approx(0.1)
    assert bias.idle_driver_current_a(0.014, 18.0, 36.0) == pytest.approx((0.007, 0.014))
    assert bias.drifted_a(0.1, 0.004, 25.0) == pytest.approx(0.11)


def test_response_corners_are_three_decibels_down() -> None:
    assert 20 * math.log10(response.band_gain(10.0, 10.0, 1e6)) == pytest.approx(-3.0103, abs=1e-3)
    f = [float(x) for x in np.geomspace(10.0, 100_000.0, 60)]
    db = [20 * math.log10(response.band_gain(x, 30.0, 30_000.0)) for x in f]
    low, high = (one.f_hz for one in response.crossings(f, db))
    assert low == pytest.approx(30.0, rel=0.01)
    assert high == pytest.approx(30_000.0, rel=0.01)
    assert response.crossings(f, [0.0] * 60) == []


def test_switch_on_follows_the_exponential_of_a_slow_reservoir() -> None:
    """A reservoir that takes many half cycles charges nearly like RC on the mean of a conducting source."""
    slow = RailCircuit(r_source_ohm=20.0, c_f=50e-3, esr_ohm=0.0, g_bleed_s=1 / 500)
    emf = rectified_emf(35.0, 1.0, 1, 500)
    final = float(solve_rail(RailOnGrid(slow, emf, 2e-5), constant_current(0.0, 500)).v_cap[0])
    early, late = (transients.switch_on_s(slow, 35.0, 1.0, 50.0, 0.0, final, within=w) for w in (0.05, 0.01))
    from scipy.integrate import solve_ivp

    def slope(t: float, y: np.ndarray) -> list[float]:
        e = 35.0 * abs(math.sin(2 * math.pi * 50 * t)) - 1.0
        return [(max(e - y[0], 0.0) / 20.0 - y[0] / 500) / 50e-3]

    run = solve_ivp(slope, (0.0, 30.0), [0.0], method="LSODA", rtol=1e-8, max_step=2e-4, t_eval=np.arange(0, 30, 0.01))
    for share, found in ((0.95, early), (0.99, late)):
        exact = float(run.t[np.argmax(run.y[0] >= share * final)])
        assert found == pytest.approx(exact, abs=0.02)


@pytest.mark.parametrize("third_harmonic", [0.0, 0.05])
def test_a_core_takes_its_loss_in_phase_and_its_magnetising_current_in_quadrature(third_harmonic: float) -> None:
    angle = np.linspace(0.0, 2.0 * np.pi, 2001)
    i = supply_flow.core_current(angle, 1.0, 230.0, 6.0, 0.04, third_harmonic)
    v = 230.0 * math.sqrt(2.0) * wave.mains_wave(angle, third_harmonic)
    side = supply_flow.mains_side(i, v)
    assert side.p_w == pytest.approx(6.0, rel=1e-6)
    # The flux is the integral of the volts: a third harmonic counts a third in it.
    flux_rms = 0.04 * math.sqrt((1 + third_harmonic**2 / 9) / (1 + third_harmonic**2))
    assert side.i_rms_a == pytest.approx(math.hypot(6.0 / 230.0, flux_rms), rel=1e-6)
    slope = np.gradient(supply_flow.core_current(angle, 1.0, 230.0, 0.0, 0.04, third_harmonic), angle)
    assert slope[5:-5] / 0.04 == pytest.approx(v[5:-5] / 230.0, abs=2e-5)
    low = supply_flow.mains_side(supply_flow.core_current(angle, 0.5, 230.0, 6.0, 0.04, third_harmonic), 0.5 * v)
    assert low.p_w == pytest.approx(6.0 / 4.0, rel=1e-6), "a loss rises with the square of the volts"


@pytest.mark.parametrize("order", [1, 2, 3])
@pytest.mark.parametrize("corner", [11.0, 38_660.0])
@pytest.mark.parametrize("apart", [1.25, 2.0, 3.0])
def test_a_corner_is_found_between_points_an_octave_apart(order: int, corner: float, apart: float) -> None:
    """Butterworth corners, by steps as one types them; the reference is the corner put in."""
    low_pass = corner > 1000.0
    f = [corner / 1.4 * apart**k for k in range(-3, 4)]
    ratio = [x / corner if low_pass else corner / x for x in f]
    db = [-10.0 * math.log10(1.0 + r ** (2 * order)) for r in ratio]
    at_corner = -10.0 * math.log10(2.0)
    (found,) = (one.f_hz for one in response.crossings(f, db, at_corner))
    nearer = max(10.0 ** (-x / 10.0) - 1.0 for x in db if x > at_corner)
    if order == 1 or nearer > 0.05:
        assert found == pytest.approx(corner, rel=1e-6)
    else:
        # Nothing tells its order: the first is taken, between the two points at any rate.
        assert max(x for x in f if x < corner) <= found <= min(x for x in f if x > corner)


@pytest.mark.parametrize("corner", [11.0, 38_660.0])
def test_a_first_order_corner_is_exact_also_where_the_nearer_point_loses_nothing(corner: float) -> None:
    low_pass = corner > 1000.0
    f = sorted((corner / 30.0, 2.0 * corner) if low_pass else (corner / 2.0, 30.0 * corner))
    db = [-10.0 * math.log10(1.0 + (x / corner if low_pass else corner / x) ** 2) for x in f]
    (found,) = (one.f_hz for one in response.crossings(f, db, -10.0 * math.log10(2.0)))
    assert found == pytest.approx(corner, rel=1e-9)
