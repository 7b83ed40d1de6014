"""Heat, lamp, protection and load networks against closed forms and independent integrations."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from plinth.physics.heat import thermal
from plinth.physics.mains import lamp
from plinth.physics.protection import dc_and_coils
from plinth.physics.stages.load_network import read_network


def test_a_thermal_chain_settles_at_ohms_law_and_follows_an_integration() -> None:
    network = thermal.chain((0.9, 0.4, 0.5), (0.6, 25.0, 900.0))
    power = np.array([30.0, 0.0, 2.0])
    (final,) = network.course_c(power, 25.0, np.full(3, 25.0), np.array([1e5]))
    assert final[2] == pytest.approx(25.0 + 32.0 * 0.5)
    assert final[1] == pytest.approx(final[2] + 30.0 * 0.4)
    assert final[0] == pytest.approx(final[1] + 30.0 * 0.9)

    def slope(_t: float, x: np.ndarray) -> list[float]:
        a, b = (x[0] - x[1]) / 0.9, (x[1] - x[2]) / 0.4
        return [(30.0 - a) / 0.6, (a - b) / 25.0, (b + 2.0 - (x[2] - 25.0) / 0.5) / 900.0]

    times = np.array([0.5, 5.0, 60.0, 600.0, 3000.0])
    start = np.full(3, 25.0)
    exact = solve_ivp(slope, (0, 3000), start, method="Radau", rtol=1e-9, atol=1e-9, t_eval=times).y.T
    found = network.course_c(power, 25.0, start, times)
    # Of each rise, better than the 1 % asked for.
    assert found - 25.0 == pytest.approx(exact - 25.0, rel=1e-5)
    assert 450.0 < network.slowest_s() < 600.0


def test_a_drifting_bias_warms_as_integrated_and_its_waiting_time_is_when_it_is_there() -> None:
    r, c, heat, tempco = 0.6, 700.0, 22.0, 0.012
    gain = thermal.bias_loop_gain(70.0, heat / 70.0, tempco, r)
    assert gain == pytest.approx(heat * tempco * r)
    network = thermal.chain((0.9, r), (4.0, c))
    feedback = np.array([[0.0, heat * tempco], [0.0, 0.0]])
    power, cold, times = np.array([heat, 0.0]), np.full(2, 25.0), np.linspace(0.0, 4000.0, 9)

    def slope(_t: float, x: np.ndarray) -> list[float]:
        through = (x[0] - x[1]) / 0.9
        return [(heat * (1.0 + tempco * (x[1] - 25.0)) - through) / 4.0, (through - (x[1] - 25.0) / r) / c]

    exact = solve_ivp(slope, (0, 4000), cold, method="Radau", rtol=1e-9, atol=1e-9, t_eval=times).y.T
    assert network.course_c(power, 25.0, cold, times, feedback) == pytest.approx(exact, rel=1e-6)
    wait = thermal.wait_s(gain, r, c)
    there, final = network.course_c(power, 25.0, cold, np.array([wait, 1e5]), feedback)[:, 1] - 25.0
    assert final == pytest.approx(heat * r / (1.0 - gain), rel=1e-6)
    # The device between junction and sink adds its seconds to the one mass that the waiting time knows.
    assert there / final == pytest.approx(0.95, abs=0.002)
    assert network.slowest_s(feedback) == pytest.approx(r * c / (1.0 - gain), rel=0.01)
    assert thermal.wait_s(1.0, r, c) == math.inf


def test_a_bias_that_feeds_itself_more_than_the_air_takes_away_never_settles() -> None:
    r, c, heat = 0.6, 700.0, 22.0
    network, power, cold = thermal.chain((0.9, r), (4.0, c)), np.array([heat, 0.0]), np.full(2, 25.0)
    runaway = np.array([[0.0, 1.1 / r], [0.0, 0.0]])
    assert network.slowest_s(runaway) == math.inf
    early, late = network.course_c(power, 25.0, cold, np.array([3000.0, 6000.0]), runaway)[:, 1]
    assert late > 2 * early
    # Just balanced, it rises in a straight line once the device is warm: heat / (all capacity) kelvin per second.
    balanced = np.array([[0.0, 1.0 / r], [0.0, 0.0]])
    first, second = network.course_c(power, 25.0, cold, np.array([1000.0, 2000.0]), balanced)[:, 1]
    assert second - first == pytest.approx(heat / (c + 4.0 * (1.0 + 0.9 / r)) * 1000.0, rel=0.02)


def test_a_plate_in_still_air_loses_what_tables_say() -> None:
    # A black plate 10 cm square, both faces, 40 K above air of 25 degrees: about 12 W/m2K together.
    r = thermal.plate_k_per_w(0.02, 40.0, 25.0, 0.9)
    assert 1.0 / (0.02 * r) == pytest.approx(12.9, rel=0.08)
    assert thermal.plate_k_per_w(0.02, 40.0, 25.0, 0.05) > 1.5 * r, "bare metal hardly radiates"
    assert thermal.plate_k_per_w(0.02, 80.0, 25.0, 0.9) < r, "it loses more per kelvin as it warms"
    # A tenth of a millimetre of air under 4 cm2 is ten times a mica washer.
    assert thermal.gap_k_per_w(1e-4, 4e-4) == pytest.approx(9.6, rel=0.01)


def test_a_lamp_at_its_rated_volts_is_at_its_rated_point() -> None:
    bulb = lamp.Lamp(60.0, 230.0)
    assert bulb.r_rated_ohm == pytest.approx(881.7, abs=0.1)
    assert bulb.settled_k(lambda r: 230.0 / r) == pytest.approx(lamp.RATED_K, rel=1e-3)
    # Cold it has a tenth to a fourteenth of its resistance.
    assert 10.0 < bulb.r_rated_ohm / bulb.ohm(lamp.ROOM_K) < 15.0


@given(st.floats(25, 200), st.floats(5.0, 20_000.0))
def test_a_settled_lamp_radiates_what_it_takes(p_w: float, r_circuit: float) -> None:
    bulb = lamp.Lamp(p_w, 230.0)
    t = bulb.settled_k(lambda r: 230.0 / (r + r_circuit))
    i = 230.0 / (bulb.ohm(t) + r_circuit)
    assert i**2 * bulb.ohm(t) == pytest.approx(bulb.radiated_w(t), rel=0.01, abs=2e-5 * p_w)
    assert lamp.ROOM_K <= t <= lamp.RATED_K * 1.001


def test_a_lamp_warms_in_time_to_where_it_settles() -> None:
    bulb = lamp.Lamp(60.0, 230.0)

    def slope(_t: float, x: np.ndarray) -> list[float]:
        r = 881.6667 * (x[0] / 2700.0) ** 1.2
        i = 230.0 / (r + 400.0)
        radiated = 60.0 * (x[0] ** 4 - 298.0**4) / (2700.0**4 - 298.0**4)
        return [(i * i * r - radiated) / bulb.heat_capacity_j_per_k]

    exact = solve_ivp(slope, (0, 3.0), [298.0], rtol=1e-9, atol=1e-6, t_eval=[0.05, 0.2, 3.0]).y[0]
    t_k, at = 298.0, {}
    for step in range(1, 3001):
        t_k = bulb.warmed_k(t_k, (230.0 / (bulb.ohm(t_k) + 400.0)) ** 2 * bulb.ohm(t_k), 1e-3)
        at[step] = t_k
    assert [at[50], at[200], at[3000]] == pytest.approx(list(exact), rel=0.01)
    assert exact[2] == pytest.approx(bulb.settled_k(lambda r: 230.0 / (r + 400.0)), rel=1e-3)


def test_the_glow_is_named_from_dark_to_bright() -> None:
    seen = [lamp.glow(t) for t in (400, 900, 1300, 1800, 2300, 2700)]
    assert seen == ["dark", "a dull red", "orange", "yellow", "nearly white", "at full brightness"]


def test_the_dc_detector_trips_when_its_low_pass_gets_there() -> None:
    tau, threshold, rail = 0.2, 1.5, 35.0
    found = dc_and_coils.dc_trip_s(rail, threshold, tau)
    assert rail * (1.0 - math.exp(-found / tau)) == pytest.approx(threshold)
    assert dc_and_coils.dc_trip_s(1.0, threshold, tau) == math.inf


@given(st.floats(2.0, 60.0), st.floats(0.5, 1.9), st.floats(0.01, 2.0))
def test_a_sine_at_the_false_trip_frequency_just_reaches_the_threshold(v: float, threshold: float, tau: float) -> None:
    f = dc_and_coils.dc_false_trip_hz(v, threshold, tau)
    assert v / math.hypot(1.0, 2 * math.pi * f * tau) == pytest.approx(threshold)
    assert dc_and_coils.dc_false_trip_hz(threshold, threshold, tau) == 0.0


def test_coils_share_the_rail_with_their_dropper() -> None:
    series = dc_and_coils.coils_on_rail(36.0, 270.0, 2, "series", 180.0)
    assert series.v_each == pytest.approx(13.5)
    assert series.p_dropper_w + series.i_a * 2 * series.v_each == pytest.approx(36.0 * series.i_a)
    side_by_side = dc_and_coils.coils_on_rail(36.0, 270.0, 2, "parallel", 270.0)
    assert side_by_side.v_each == pytest.approx(12.0)
    assert side_by_side.i_a == pytest.approx(2 * 12.0 / 270.0)


@pytest.mark.parametrize(
    ("text", "r", "shares"),
    [
        ("8.2", 8.2, (1.0,)),
        ("8.2+8.2", 16.4, (0.5, 0.5)),
        ("(8.2 + 8.2) || (8.2 + 8.2)", 8.2, (0.25, 0.25, 0.25, 0.25)),
        ("3.9 + 8.2||8.2", 8.0, (3.9 / 8.0, 4.1 / 16.0, 4.1 / 16.0)),
        ("4||4||8", 1.6, (0.4, 0.4, 0.2)),
        ("3,3+4,7", 8.0, (3.3 / 8, 4.7 / 8)),
    ],
)
def test_a_network_makes_this_resistance_and_shares_the_power(text: str, r: float, shares: tuple[float, ...]) -> None:
    found = read_network(text)
    assert found.r_ohm == pytest.approx(r)
    assert found.shares == pytest.approx(shares)
    assert sum(found.shares) == pytest.approx(1.0)
    assert found.hottest_share == max(found.shares)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("8.2 +", "found an end"),
        ("(8.2+8.2", "found an open bracket"),
        ("8.2 * 2", r"found '\*'"),
        ("0 + 8", "found 0 ohm"),
        ("eight", "found 'e'"),
    ],
)
def test_a_network_that_cannot_be_read_says_what_was_found(text: str, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        read_network(text)
