"""Switchers, converters, filters, loudspeakers and stage limits against closed forms and integrations."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import minimize_scalar

from plinth.physics.numbers.errors import RailCollapseError
from plinth.physics.rails import supply_flow
from plinth.physics.rails.limited_source import CurrentLimit, LimitedRail, LimitState, march_limited
from plinth.physics.stages import loudspeaker, output_filter, output_stage
from plinth.physics.switchers import push_pull, wall


def test_a_bulk_capacitor_under_constant_power_follows_an_integration() -> None:
    p, v_rms, c, r, esr = 250.0, 230.0, 220e-6, 1.2, 0.1
    found = wall.bulk_state(p, v_rms, 50.0, c, r, v_bridge=1.8, esr_ohm=0.1)
    crest = math.sqrt(2.0) * v_rms

    def node(t: float, v: float) -> tuple[float, float]:
        # The load takes P at the node, behind the capacitor's ESR: the node by iteration, then the bridge's current.
        emf, at = crest * abs(math.sin(2 * math.pi * 50.0 * t)) - 1.8, v
        i = 0.0
        for _ in range(40):
            i = max((emf - at) / r, 0.0)
            at = v + esr * (i - p / at) if i == 0.0 else (v / esr + emf / r - p / at) / (1 / esr + 1 / r)
        return at, i

    def slope(t: float, y: np.ndarray) -> list[float]:
        at, i = node(t, float(y[0]))
        return [(i - p / at) / c]

    v = crest - 20.0
    for _ in range(12):
        run = solve_ivp(slope, (0, 0.01), [v], rtol=1e-8, atol=1e-7, max_step=4e-5, dense_output=True)
        v = float(run.y[0, -1])
    t = np.linspace(0.0, 0.01, 2001)
    nodes = np.array([node(float(a), float(run.sol(a)[0])) for a in t])
    assert float(np.mean(found.v[:-1])) == pytest.approx(float(np.mean(nodes[:-1, 0])), rel=1e-4)
    assert found.v_trough == pytest.approx(float(np.min(nodes[:, 0])), rel=1e-3)
    mains = np.sqrt(2.0) * v_rms * np.sin(np.linspace(0.0, np.pi, len(found.v)))
    side = supply_flow.mains_side(found.i_mains_a, mains)
    exact = supply_flow.mains_side(nodes[:, 1], np.sqrt(2.0) * v_rms * np.sin(2 * np.pi * 50.0 * t))
    assert side.i_rms_a == pytest.approx(exact.i_rms_a, rel=3e-3)
    assert side.power_factor == pytest.approx(exact.power_factor, abs=1e-3)
    assert 0.4 < side.power_factor < 0.75
    with pytest.raises(RailCollapseError):
        wall.bulk_state(50_000.0, v_rms, 50.0, c, 20.0, v_bridge=1.8, esr_ohm=0.1)


def test_a_power_factor_stage_draws_a_sine_and_stores_the_rest() -> None:
    found = wall.corrected_state(300.0, 230.0, 390.0, 50.0, 220e-6)
    mains = np.sqrt(2.0) * 230.0 * np.sin(np.linspace(0.0, np.pi, len(found.v)))
    side = supply_flow.mains_side(found.i_mains_a, mains)
    assert side.power_factor == pytest.approx(1.0, abs=1e-6)
    assert side.p_w == pytest.approx(300.0, rel=1e-4)
    assert side.crest_factor == pytest.approx(math.sqrt(2.0), rel=1e-3)
    assert float(np.ptp(found.v)) == pytest.approx(300.0 / (2 * math.pi * 50.0 * 220e-6 * 390.0), rel=1e-3)
    with pytest.raises(ValueError, match="its output must lie above"):
        wall.corrected_state(300.0, 280.0, 390.0, 50.0, 220e-6)


def test_hold_up_is_when_a_constant_power_has_emptied_the_capacitor() -> None:
    seconds = wall.hold_up_s(270e-6, 310.0, 215.0, 180.0)

    def low(_t: float, y: np.ndarray) -> float:
        return float(y[0]) - 215.0

    low.terminal = True  # type: ignore[attr-defined]
    run = solve_ivp(lambda _t, y: [-180.0 / y[0] / 270e-6], (0, 1), [310.0], events=low, rtol=1e-10)
    assert seconds == pytest.approx(float(run.t_events[0][0]), rel=1e-6)
    assert wall.hold_up_s(270e-6, 200.0, 215.0, 180.0) == 0.0
    assert wall.hold_up_s(270e-6, 310.0, 215.0, 0.0) == math.inf


def test_a_converter_meets_its_efficiency_at_its_rating_and_its_draw_at_rest() -> None:
    assert wall.input_power_w(300.0, 300.0, 0.88, 6.0) == pytest.approx(300.0 / 0.88)
    assert wall.input_power_w(0.0, 300.0, 0.88, 6.0) == 6.0


@given(st.floats(10, 30), st.floats(1e-3, 0.2), st.floats(1, 500))
def test_a_battery_gives_what_is_asked_at_its_terminals_or_says_that_it_cannot(v0: float, r: float, p: float) -> None:
    if p > v0**2 / (4 * r):
        with pytest.raises(ValueError, match="gives at most"):
            push_pull.battery_current(p, v0, r)
        return
    i, v = push_pull.battery_current(p, v0, r)
    assert v * i == pytest.approx(p)
    assert v == pytest.approx(v0 - r * i)
    assert v >= 0.5 * v0 * (1 - 1e-9)


def test_the_clock_core_and_wire_of_a_converter() -> None:
    assert push_pull.oscillator_hz(10e3, 1e-9) == pytest.approx(1 / (1.4 * 10_075 * 1e-9))
    # 12.6 V for 48 % of 14 us over 4 turns on 1.25 cm2.
    swing = push_pull.flux_swing_t(12.6, 0.48, 70e3, 4, 1.25e-4)
    assert swing == pytest.approx(12.6 * 0.48 / 70e3 / (4 * 1.25e-4))
    turns = push_pull.turns_within(10, push_pull.flux_swing_t(12.6, 0.48, 70e3, 10, 1.25e-4), 0.08)
    assert push_pull.flux_swing_t(12.6, 0.48, 70e3, turns, 1.25e-4) <= 0.16
    assert push_pull.flux_swing_t(12.6, 0.48, 70e3, turns - 1, 1.25e-4) > 0.16
    assert push_pull.skin_depth_m(100e3) == pytest.approx(0.209e-3, rel=0.01)
    assert push_pull.diode_reverse_v(14.4, 4, 10) == pytest.approx(72.0)
    assert push_pull.divider_rail_v(2.5, 11.8e3, 1e3) == pytest.approx(32.0)
    assert push_pull.run_time_s(20.0, 4.0) == pytest.approx(4 * 3600.0)
    assert push_pull.run_time_s(20.0, 0.0) == math.inf


def test_the_ripple_of_pulsed_input_current_is_that_of_the_pulses() -> None:
    duty, i = 0.8, 10.0
    t = np.linspace(0.0, 1.0, 100_001)[:-1]
    pulses = np.where(t < duty, i / duty, 0.0)
    assert push_pull.input_ripple_rms_a(i, duty) == pytest.approx(float(np.std(pulses)), rel=1e-3)
    # Each half gives one of two pulses a period, and both together the battery's mean.
    half = np.where(t < duty / 2.0, i / duty, 0.0)
    assert 2.0 * float(np.mean(half)) == pytest.approx(i, rel=1e-4)
    assert push_pull.primary_half_rms_a(i, duty) == pytest.approx(float(np.sqrt(np.mean(half**2))), rel=1e-4)


@given(st.floats(5e-6, 50e-6), st.floats(0.2e-6, 2e-6), st.floats(2, 100))
def test_the_output_filter_peaks_where_its_gain_is_highest(l_h: float, c_f: float, r: float) -> None:
    corner = output_filter.corner_hz(l_h, c_f)
    best = minimize_scalar(
        lambda x: -output_filter.gain_db(math.exp(x), l_h, c_f, r),
        bounds=(math.log(0.02 * corner), math.log(2 * corner)), method="bounded",
    )  # fmt: skip
    assert output_filter.peak_db(l_h, c_f, r) == pytest.approx(max(-best.fun, 0.0), abs=5e-3)
    # Half a decade below its corner into the load it is made for it is flat within a decibel.
    made_for = math.sqrt(l_h / c_f) * math.sqrt(0.5)
    assert abs(output_filter.gain_db(corner / 5.0, l_h, c_f, made_for)) < 1.0


def test_a_loudspeaker_at_resonance_and_far_from_it() -> None:
    z, phase = loudspeaker.loudspeaker_impedance(58.0, 6.1, 58.0, 3.8, 0.62, 0.0)
    assert z == pytest.approx(6.1 * (1 + 3.8 / 0.62))
    assert phase == pytest.approx(0.0, abs=1e-9)
    z, _ = loudspeaker.loudspeaker_impedance(0.5, 6.1, 58.0, 3.8, 0.62, 0.55e-3)
    assert z == pytest.approx(6.1, rel=0.01)
    z, phase = loudspeaker.loudspeaker_impedance(20e3, 6.1, 58.0, 3.8, 0.62, 0.55e-3)
    assert z == pytest.approx(math.hypot(6.1, 2 * math.pi * 20e3 * 0.55e-3), rel=0.01)
    assert phase > 80.0
    below = loudspeaker.loudspeaker_impedance(40.0, 6.1, 58.0, 3.8, 0.62, 0.0)[1]
    above = loudspeaker.loudspeaker_impedance(80.0, 6.1, 58.0, 3.8, 0.62, 0.0)[1]
    assert below > 0.0 > above


def test_safe_area_slew_class_a_and_damping() -> None:
    points = [(20.0, 5.0), (35.0, 3.0), (60.0, 1.1)]
    # 2 A at 47.5 V, where 2.05 A are allowed; at 10 V the first point holds.
    assert output_stage.safe_area_share(np.array([47.5, 10.0]), np.array([2.0, 4.0]), points) == pytest.approx(2 / 2.05)
    assert output_stage.power_bandwidth_hz(10e6, 25.0) == pytest.approx(10e6 / (2 * math.pi * 25.0))
    assert output_stage.class_a_limit_w(1.1, 8.0) == pytest.approx((2 * 1.1) ** 2 * 8 / 2)
    assert output_stage.damping_factor(8.0, 0.05) == pytest.approx(160.0)


@pytest.mark.parametrize("m", [0.4, 2 / math.pi, 0.9])
def test_the_pumped_charge_is_bounded_by_its_largest(m: float) -> None:
    v, r, c, f = 32.0, 4.0, 10e-3, 20.0
    angle = np.linspace(0.0, np.pi, 20_001)
    out = m * v * np.sin(angle)
    # What the - rail gets back while the output is positive: (1 - d) i, less nothing.
    back = (1.0 - (out + v) / (2 * v)) * out / r
    rise = float(np.trapezoid(back, angle)) / (2 * math.pi * f) / c
    bound = output_stage.pumped_rise_v(v, r, c, f)
    assert rise <= bound * (1 + 1e-6)
    if m == pytest.approx(2 / math.pi):
        assert rise == pytest.approx(bound, rel=1e-4)


@pytest.mark.parametrize("share", [0.05, 0.5, 0.95, 1.0 - 1e-9])
def test_the_moment_of_a_lock_out_is_when_that_charge_has_flowed_back(share: float) -> None:
    v, r, c, f = 32.0, 4.0, 4.7e-3, 20.0
    over = share * output_stage.pumped_rise_v(v, r, c, f, 2)
    after = output_stage.pumped_to_after_s(over, v, r, c, f, 2)
    t = np.linspace(0.0, after, 40_001)
    out = 2.0 / math.pi * v * np.sin(2.0 * math.pi * f * t)
    back = 2.0 * (1.0 - (out + v) / (2.0 * v)) * out / r
    assert float(np.trapezoid(back, t)) / c == pytest.approx(over, rel=1e-5)
    assert 0.0 < after <= 0.5 / f


def test_a_lock_out_out_of_reach_never_comes_and_one_below_the_rail_is_there_at_once() -> None:
    most = output_stage.pumped_rise_v(32.0, 4.0, 4.7e-3, 20.0)
    assert math.isinf(output_stage.pumped_to_after_s(1.001 * most, 32.0, 4.0, 4.7e-3, 20.0))
    assert output_stage.pumped_to_after_s(-1.0, 32.0, 4.0, 4.7e-3, 20.0) == 0.0


RAIL = LimitedRail(v_set=40.0, r_ohm=0.05, c_f=2e-3, esr_ohm=0.01, g_bleed_s=0.0)


def test_a_limited_source_lets_the_rail_fall_by_the_charge_that_is_missing() -> None:
    load = np.full((2000, 1), 9.0)
    march = march_limited((RAIL,), load, 1e-5, CurrentLimit(6.0), LimitState((40.0,)))
    # 3 A too little out of 2 mF: 1.5 V each millisecond, once the limit holds.
    assert march.limiting[100:].all()
    fall = (march.v_node[500, 0] - march.v_node[1500, 0]) / 0.01
    assert fall == pytest.approx(3.0 / 2e-3, rel=1e-6)
    assert march.end.v_cap[0] == pytest.approx(march.v_node[-1, 0] + 0.01 * 3.0, rel=1e-6)
    free = march_limited((RAIL,), load, 1e-5, CurrentLimit(60.0), LimitState((40.0,)))
    assert not free.limiting.any()
    assert free.v_node[-1, 0] == pytest.approx(40.0 - 0.05 * 9.0, abs=1e-6)


def test_a_limited_source_settles_as_an_integration_of_it_does() -> None:
    """Half-sine load, folding limit; scipy on the same law with the switch written out."""
    limit, step, n = CurrentLimit(5.0, left_at_zero=0.25), 5e-6, 10_000
    t = (np.arange(n) + 0.5) * step
    load = 9.0 * np.maximum(np.sin(2 * np.pi * 40.0 * t), 0.0)
    found = march_limited((RAIL,), load[:, None], step, limit, LimitState((40.0,)))

    def slope(at: float, y: np.ndarray) -> list[float]:
        v, i_load = float(y[0]), 9.0 * max(math.sin(2 * math.pi * 40.0 * at), 0.0)
        free = max((40.0 - v + 0.01 * i_load) / 0.06, 0.0)
        return [(min(free, 5.0 * (0.25 + 0.75 * min(v / 40.0, 1.0))) - i_load) / 2e-3]

    run = solve_ivp(slope, (0.0, n * step), [40.0], method="LSODA", rtol=1e-8, max_step=2e-5)
    assert found.end.v_cap[0] == pytest.approx(float(run.y[0, -1]), abs=0.01)
    lowest = float(np.min(found.v_node))
    assert lowest < 36.0
    assert float(np.min(run.y[0])) == pytest.approx(lowest, abs=0.1)


def test_a_source_that_cuts_out_waits_and_tries_again() -> None:
    limit = CurrentLimit(5.0, trips_s=0.01, off_s=0.03)
    march = march_limited((RAIL, RAIL), np.full((1000, 2), 8.0), 1e-4, limit, LimitState((40.0, 40.0)))
    changes = np.flatnonzero(np.diff(march.off.astype(int)))
    first_off, first_on = int(changes[0]) + 1, int(changes[1]) + 1
    assert (first_on - first_off) * 1e-4 == pytest.approx(0.03, abs=2e-4)
    assert first_off * 1e-4 == pytest.approx(0.01, abs=1e-3)
    assert (march.v_node >= 0.0).all(), "a load does not turn a rail over"
    # Both rails hang on the one source.
    assert march.v_node[:, 0] == pytest.approx(march.v_node[:, 1])


def test_a_rail_pumped_above_its_source_is_left_alone() -> None:
    march = march_limited((RAIL,), np.full((100, 1), -4.0), 1e-4, CurrentLimit(5.0), LimitState((40.0,)))
    assert march.end.v_cap[0] == pytest.approx(40.0 + 4.0 * 0.01 / 2e-3, rel=1e-6)
    assert not march.limiting.any()
