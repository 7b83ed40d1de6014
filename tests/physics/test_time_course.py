"""Switch-on, soft start and power off against scipy, with the mains joining at any moment."""

import dataclasses
import math
from collections.abc import Callable

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from plinth.physics.mains.lamp import ROOM_K, Lamp
from plinth.physics.rails.network_elements import RailElements, RailNetwork
from plinth.physics.rails.time_course import (
    MainsSource,
    SoftStart,
    Thermistor,
    rails_after_switch_off,
    switch_on,
    worst_inrush,
)
from plinth.physics.rails.transients import bleed_down_s

RATIO = 8.5
SOURCE = MainsSource(38.0, 1.5, 50.0)
PLAIN = RailElements(r_source_ohm=0.35, c_f=10e-3, esr_ohm=0.02, g_bleed_s=1 / 2200)
LEAKY = RailElements(r_source_ohm=0.35, c_f=10e-3, esr_ohm=0.02, g_bleed_s=1 / 2200, l_source_h=120e-6)


def integrated(
    rail: RailElements, phase_deg: float, seconds: float, r_soft: Callable[[float], float] = lambda _t: 0.0
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Times, rail volts and one rail's source current, two like rails sharing the soft start; idle 0 A."""
    phase = math.radians(phase_deg)

    def emf(t: float) -> float:
        return 38.0 * abs(math.sin(2 * math.pi * 50.0 * t + phase)) - 1.5

    def split(t: float, y: np.ndarray) -> tuple[float, float]:
        v = float(y[0])
        if rail.l_source_h:
            i = max(float(y[1]), 0.0)
            return (v + rail.esr_ohm * i) / (1 + rail.esr_ohm * rail.g_bleed_s), i
        r = rail.r_source_ohm + 2 * r_soft(t) / RATIO**2
        a = 1 + rail.esr_ohm * rail.g_bleed_s
        i = max((emf(t) - v / a) / (r + rail.esr_ohm / a), 0.0)
        return (v + rail.esr_ohm * i) / a, i

    def slope(t: float, y: np.ndarray) -> list[float]:
        node, i = split(t, y)
        d = [(i - rail.g_bleed_s * node) / rail.c_f]
        if rail.l_source_h:
            over = emf(t) - node - (rail.r_source_ohm + 2 * r_soft(t) / RATIO**2) * i
            d.append(over / rail.l_source_h if i > 0.0 or over > 0.0 else 0.0)
        return d

    start = [0.0, 0.0] if rail.l_source_h else [0.0]
    run = solve_ivp(slope, (0, seconds), start, method="RK45", rtol=1e-8, atol=1e-8, max_step=2e-5, dense_output=True)
    t = np.linspace(0.0, seconds, round(seconds / 5e-6) + 1)
    y = run.sol(t)
    found = [split(float(at), y[:, k]) for k, at in enumerate(t)]
    return t, np.array([f[0] for f in found]), np.array([f[1] for f in found])


@pytest.mark.parametrize("rail", [PLAIN, LEAKY], ids=["no leakage", "leakage"])
@pytest.mark.parametrize("soft", [None, SoftStart(33.0, 0.03)], ids=["hard", "soft"])
def test_switch_on_follows_an_independent_integration(rail: RailElements, soft: SoftStart | None) -> None:
    network = RailNetwork((rail, rail))
    course = switch_on(network, SOURCE, RATIO, 0.06, 0.0, soft, steps=500)
    t, v, i = integrated(rail, 0.0, 0.06, lambda at: 33.0 if soft is not None and at < 0.03 else 0.0)
    assert course.v_load[:, 0] == pytest.approx(course.v_load[:, 1], abs=1e-9)
    for at in (0.004, 0.0085, 0.013, 0.024, 0.037, 0.055):
        assert np.interp(at, course.t_s, course.v_load[:, 0]) == pytest.approx(np.interp(at, t, v), rel=2e-3, abs=2e-3)
    assert course.inrush_peak_a == pytest.approx(2 * np.max(i) / RATIO, rel=5e-3)
    assert course.i2t_a2s() == pytest.approx(float(np.trapezoid((2 * i / RATIO) ** 2, t)), rel=5e-3)


def test_the_worst_inrush_is_ohms_law_at_the_crest_without_leakage() -> None:
    amperes, moment = worst_inrush(RailNetwork((PLAIN, PLAIN)), SOURCE, RATIO)
    assert amperes == pytest.approx(2 * 36.5 / 0.37 / RATIO, rel=1e-3)
    assert moment == pytest.approx(90.0)
    softened, _ = worst_inrush(RailNetwork((PLAIN, PLAIN)), SOURCE, RATIO, 20.0)
    assert softened == pytest.approx(2 * 36.5 / (0.37 + 2 * 20.0 / RATIO**2) / RATIO, rel=1e-3)


def test_the_worst_inrush_through_leakage_is_the_worst_of_all_moments() -> None:
    amperes, moment = worst_inrush(RailNetwork((LEAKY, LEAKY)), SOURCE, RATIO)
    peaks = {phase: 2 * np.max(integrated(LEAKY, phase, 0.006)[2]) / RATIO for phase in range(20, 100, 10)}
    assert amperes == pytest.approx(max(peaks.values()), rel=5e-3)
    assert amperes >= 0.995 * max(peaks.values())
    assert abs(moment - max(peaks, key=peaks.__getitem__)) <= 10.0
    assert amperes < worst_inrush(RailNetwork((PLAIN, PLAIN)), SOURCE, RATIO)[0]


def test_an_ntc_warms_and_lets_more_through() -> None:
    ntc = Thermistor(r_25_ohm=22.0, beta_k=3000.0, dissipation_w_per_k=0.02, heat_capacity_j_per_k=0.6)
    course = switch_on(RailNetwork((PLAIN, PLAIN)), SOURCE, RATIO, 1.5, 1.2, SoftStart(22.0, ntc=ntc))
    assert course.r_soft_ohm[0] == pytest.approx(22.0)
    assert np.all(np.diff(course.t_soft_c[course.t_soft_c > 25.0][5:]) > -0.5)
    assert course.r_soft_ohm[-1] < 0.6 * course.r_soft_ohm[0]
    # All that it took in is in its warmth or was lost to the air.
    length = np.diff(course.t_s[np.append(0, course.piece_ends)])
    power = np.array([
        np.mean(course.i_primary_a[a:b] ** 2) for a, b in zip(np.append(0, course.piece_ends[:-1]), course.piece_ends,
                                                             strict=True)
    ]) * course.r_soft_ohm  # fmt: skip
    lost = float(np.sum(0.02 * (course.t_soft_c - 25.0) * length))
    kept = 0.6 * (course.t_soft_c[-1] - 25.0)
    assert float(np.sum(power * length)) == pytest.approx(lost + kept, rel=0.01)
    hard = switch_on(RailNetwork((PLAIN, PLAIN)), SOURCE, RATIO, 0.1, 1.2)
    assert course.inrush_peak_a < 0.6 * hard.inrush_peak_a


@pytest.mark.parametrize(
    ("ntc", "f_hz"), [(Thermistor(5.0, 3200.0, 0.025, 2.5), 60.0), (Thermistor(22.0, 3000.0, 0.02, 0.6), 50.0)]
)
def test_a_fuse_sees_through_a_thermistor_what_an_integration_sees(ntc: Thermistor, f_hz: float) -> None:
    """Against scipy with the temperature as a state: a 500 VA transformer for 35-0-35 V and 22 mF on each rail."""
    rail, source, ratio = RailElements(0.31, 22e-3, 0.02), MainsSource(52.5, 1.6, f_hz), 3.23

    def slope(t: float, y: np.ndarray) -> list[float]:
        r = rail.r_source_ohm + rail.esr_ohm + 2.0 * ntc.ohm(y[1]) / ratio**2
        i = max((52.5 * abs(math.sin(2.0 * math.pi * f_hz * t)) - 1.6 - y[0]) / r, 0.0)
        square = (2.0 * i / ratio) ** 2
        lost = ntc.dissipation_w_per_k * (y[1] - 25.0)
        return [i / rail.c_f, (square * ntc.ohm(y[1]) - lost) / ntc.heat_capacity_j_per_k, square]

    found = solve_ivp(slope, (0.0, 0.15), [0.0, 25.0, 0.0], rtol=1e-8, atol=1e-8, max_step=2e-5).y[:, -1]
    course = switch_on(RailNetwork((rail, rail)), source, ratio, 0.15, 0.0, SoftStart(ntc.r_25_ohm, ntc=ntc))
    assert course.v_load[-1, 0] == pytest.approx(found[0], rel=1e-3)
    assert course.t_soft_c[-1] == pytest.approx(found[1], rel=3e-3)
    assert course.i2t_a2s() == pytest.approx(found[2], rel=3e-3)


def test_an_ntc_settles_where_it_loses_what_it_takes() -> None:
    ntc = Thermistor(10.0, 3000.0, 0.02, 0.6)
    t_c, ohm = ntc.steady(1.1, 30.0)
    assert 1.1**2 * ohm == pytest.approx(0.02 * (t_c - 30.0), rel=1e-6)
    assert ohm == pytest.approx(10.0 * math.exp(3000.0 * (1 / (t_c + 273.15) - 1 / 298.15)))
    assert ntc.ohm(25.0) == 10.0


@pytest.mark.parametrize(("g", "i"), [(1 / 2200, 0.1), (1 / 2200, 0.0), (0.0, 0.1)])
def test_rails_after_power_off_follow_an_integration(g: float, i: float) -> None:
    times = np.linspace(0.0, 40.0, 81)

    def slope(_t: float, y: np.ndarray) -> list[float]:
        return [-(g * y[0] + (i if y[0] > 12.0 else 0.0)) / 10e-3]

    exact = solve_ivp(slope, (0, 40), [36.0], rtol=1e-9, atol=1e-9, max_step=0.01, t_eval=times).y[0]
    found = rails_after_switch_off(10e-3, g, i, 36.0, 12.0, times)
    assert found == pytest.approx(exact, abs=0.01)


def test_hold_up_is_when_a_driven_rail_has_fallen() -> None:
    seconds = bleed_down_s(10e-3, 2200.0, 31.0, 18.0, 2.2)

    def low(_t: float, y: np.ndarray) -> float:
        return float(y[0]) - 18.0

    low.terminal = True  # type: ignore[attr-defined]
    run = solve_ivp(lambda _t, y: [-(y[0] / 2200 + 2.2) / 10e-3], (0, 5), [31.0], events=low, rtol=1e-10)
    assert seconds == pytest.approx(float(run.t_events[0][0]), rel=1e-5)


def test_a_lamp_in_series_flashes_and_dims_as_integrated() -> None:
    """Against scipy with the filament's temperature as a state; its resistance outweighs all else."""
    lamp, rail = Lamp(60.0, 230.0), PLAIN
    course = switch_on(RailNetwork((rail, rail)), SOURCE, RATIO, 0.3, 0.0, SoftStart(lamp.ohm(ROOM_K), lamp=lamp))

    def slope(t: float, y: np.ndarray) -> list[float]:
        v, t_k = float(y[0]), float(y[1])
        r, a = rail.r_source_ohm + 2 * lamp.ohm(t_k) / RATIO**2, 1 + rail.esr_ohm * rail.g_bleed_s
        emf = 38.0 * abs(math.sin(2 * math.pi * 50.0 * t)) - 1.5
        i = max((emf - v / a) / (r + rail.esr_ohm / a), 0.0)
        heat = (2 * i / RATIO) ** 2 * lamp.ohm(t_k) - lamp.radiated_w(t_k)
        return [(i - rail.g_bleed_s * (v + rail.esr_ohm * i) / a) / rail.c_f, heat / lamp.heat_capacity_j_per_k]

    times = np.array([0.01, 0.03, 0.1, 0.2, 0.3])
    exact = solve_ivp(slope, (0, 0.3), [0.0, ROOM_K], rtol=1e-8, max_step=5e-5, t_eval=times).y
    ends = course.t_s[course.piece_ends]
    assert np.interp(times, ends, course.t_soft_c + 273.15) == pytest.approx(exact[1], rel=0.01)
    late = times > 0.05
    assert np.interp(times, course.t_s, course.v_reservoir[:, 0])[late] == pytest.approx(exact[0][late], rel=0.01)
    assert np.max(course.t_soft_c) > course.t_soft_c[-1], "it dims once the reservoirs are filled"


def test_two_rails_alike_are_marched_as_one() -> None:
    """A hair of difference sends the same rails through the network of both: the courses must agree."""
    almost = dataclasses.replace(LEAKY, c_f=LEAKY.c_f * (1 + 1e-9))
    soft = SoftStart(22.0, bypass_s=0.05)
    for r_shared in (0.0, 0.2):
        alike, apart = (
            switch_on(RailNetwork((LEAKY, other), r_shared), SOURCE, RATIO, 0.2, 0.4, soft, 40.0)
            for other in (LEAKY, almost)
        )
        assert alike.v_load == pytest.approx(apart.v_load, abs=1e-5)
        assert alike.i_primary_a == pytest.approx(apart.i_primary_a, abs=1e-4)
        assert alike.i2t_a2s() == pytest.approx(apart.i2t_a2s(), rel=1e-6)


@pytest.mark.parametrize("half_cycles", [1, 3, 5, 7, 10, 13, 23, 29, 30])
@pytest.mark.parametrize("hertz", [50.0, 60.0])
def test_a_soft_start_is_bridged_at_the_half_cycle_that_is_said(half_cycles: int, hertz: float) -> None:
    """Moments add up in steps: a whole number of half cycles is just so many, whatever the last binary digit."""
    source = dataclasses.replace(SOURCE, f_mains_hz=hertz)
    bridged = half_cycles * 0.5 / hertz
    course = switch_on(RailNetwork((LEAKY,), 0.0), source, RATIO, bridged + 0.05, 0.4, SoftStart(22.0, bridged), 40.0)
    ends = course.t_s[course.piece_ends]
    inside = ends[course.r_soft_ohm > 0.0]
    assert float(inside[-1]) == pytest.approx(bridged, abs=1e-6)
    assert course.r_soft_ohm[-1] == 0.0
