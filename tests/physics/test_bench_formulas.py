"""Formulas that the tests at the bench rest on, against step responses, integration and brute force."""

import datetime as dt
import itertools
import math

import numpy as np
import pytest
from scipy import integrate, signal

from plinth.bench.load_heat import LoadUse, allowed_s, cold_after_s, rise_share, still_felt
from plinth.builds.parts import Load
from plinth.physics.numbers.preferred import E12, E24, SERIES
from plinth.physics.stages import gain_setting, square_wave
from plinth.physics.stages.output_impedance import fitted_ohm
from tests.bench.typed_bench import BEGIN as NOW
from tests.bench.typed_bench import told


def after(seconds: float) -> dt.datetime:
    return NOW + dt.timedelta(seconds=seconds)


# Square waves


def step(numerator: list[float], denominator: list[float], seconds: float) -> tuple[np.ndarray, np.ndarray]:
    t = np.linspace(0.0, seconds, 20_001)
    found, y = signal.step(signal.TransferFunction(numerator, denominator), T=t)
    return np.asarray(found), np.asarray(y)


def rise_of(t: np.ndarray, y: np.ndarray) -> float:
    return float(t[np.argmax(y >= 0.9)] - t[np.argmax(y >= 0.1)])


@pytest.mark.parametrize("f_high", [20e3, 118e3])
def test_rise_time_is_that_of_one_pole(f_high: float) -> None:
    t, y = step([1.0], [1.0 / (2 * math.pi * f_high), 1.0], 8.0 / f_high / 2 / math.pi)
    assert square_wave.rise_time_s(f_high) == pytest.approx(rise_of(t, y), rel=2e-3)
    assert square_wave.corner_of_rise_hz(square_wave.rise_time_s(f_high)) == pytest.approx(f_high)
    assert square_wave.rise_time_s(f_high) * f_high == pytest.approx(0.35, rel=2e-3)


@pytest.mark.parametrize("q", [0.4, 0.5, 0.8, 1.5, 4.0])
def test_overshoot_is_that_of_two_poles(q: float) -> None:
    w = 2 * math.pi * 40e3
    _, y = step([1.0], [1.0 / w**2, 1.0 / (q * w), 1.0], 60.0 * q / w)
    assert square_wave.overshoot_share(q) == pytest.approx(max(float(np.max(y)) - 1.0, 0.0), abs=1e-4)
    if q > 0.51:
        assert square_wave.damping_of_overshoot(square_wave.overshoot_share(q)) == pytest.approx(q)


@pytest.mark.parametrize("f_low", [1.0, 3.4, 20.0])
def test_the_top_droops_as_a_high_pass_lets_it(f_low: float) -> None:
    # A square wave of 100 Hz through one pole, until it repeats itself: the last half period of many.
    t = np.arange(0.0, 3.0, 1e-5)
    sent = np.where((t * 100.0) % 1.0 < 0.5, 1.0, -1.0)
    _, y, _ = signal.lsim(([1.0, 0.0], [1.0, 2 * math.pi * f_low]), sent, t, interp=False)
    last = y[-500:] if sent[-1] > 0.0 else y[-1000:-500]
    share = square_wave.tilt_share(f_low, 100.0)
    # The step at its beginning goes from as far below as the top ends above.
    assert share == pytest.approx(float(last[0] - last[-1]) / float(last[0] + last[-1]), rel=5e-3)
    assert square_wave.corner_of_tilt_hz(share, 100.0) == pytest.approx(f_low)
    assert square_wave.slew_rise_s(10.0, 5e6) == pytest.approx(1.6e-6)


# Output resistance


def test_exact_readings_give_the_resistance_behind_them_exactly() -> None:
    r_load = np.array([math.inf, 8.0, 4.0])
    v = 10.0 / (1.0 + 0.13 / np.where(np.isfinite(r_load), r_load, 1.0) * np.isfinite(r_load))
    r, u = fitted_ohm(r_load, v, np.full(3, 1e-4), np.zeros(3))
    assert r == pytest.approx(0.13, rel=1e-9)
    assert 0.0 < u < 1e-3
    two, _ = fitted_ohm(r_load[1:], v[1:], np.full(2, 1e-4), np.zeros(2))
    assert two == pytest.approx(0.13, rel=1e-9)
    with pytest.raises(ValueError, match="one load only"):
        fitted_ohm(np.array([8.0, 8.0]), np.array([9.0, 9.0]), np.full(2, 1e-3), np.zeros(2))


def test_the_true_resistance_lies_inside_the_stated_spread() -> None:
    """2000 simulated benches with loads off by their tolerance and a meter that rounds and drifts."""
    dice, inside = np.random.default_rng(7), 0
    for _ in range(2000):
        r, v0 = dice.uniform(0.02, 2.0), dice.uniform(3.0, 30.0)
        stated = np.array([math.inf, 8.11, 4.03])
        tol = np.array([0.0, 0.01, 0.01])
        true = stated * (1.0 + tol / math.sqrt(3.0) * dice.normal(size=3))
        u_v = 2e-4 * v0
        v = v0 / (1.0 + np.where(np.isfinite(true), r / true, 0.0)) + u_v * dice.normal(size=3)
        found, u = fitted_ohm(stated, v, np.full(3, u_v), tol / math.sqrt(3.0))
        inside += abs(found - r) <= 2.0 * u
    assert 0.935 <= told("output resistance", inside, 2000) <= 0.98


# Resistors


def test_series_are_those_of_the_standard() -> None:
    assert {k: len(one) for k, one in SERIES.items()} == {"E12": 12, "E24": 24, "E48": 48, "E96": 96}
    assert set(E12) < set(E24)
    for value in (1.0, 1.02, 1.47, 2.21, 3.16, 4.99, 6.81, 9.76):
        assert value in SERIES["E96"]
    for value in (1.0, 1.05, 1.47, 2.26, 3.16, 5.11, 9.53):
        assert value in SERIES["E48"]


@pytest.mark.parametrize("arrangement", ["feedback to ground", "feedback to output", "inverting input", "divider top",
                                         "divider bottom"])  # fmt: skip
def test_a_resistor_gives_the_gain_it_was_chosen_for(arrangement: gain_setting.Arrangement) -> None:
    gain = 0.37 if arrangement.startswith("divider") else 22.4
    r = gain_setting.resistor_for(arrangement, gain, 22e3)
    assert gain_setting.gain_with(arrangement, r, 22e3) == pytest.approx(gain)
    with pytest.raises(ValueError, match="expected"):
        gain_setting.resistor_for(arrangement, 0.0, 22e3)


def test_a_gain_that_an_arrangement_cannot_have_is_refused() -> None:
    with pytest.raises(ValueError, match="more than 1"):
        gain_setting.resistor_for("feedback to ground", 0.9, 22e3)
    with pytest.raises(ValueError, match="less than 1"):
        gain_setting.resistor_for("divider top", 1.0, 22e3)


@pytest.mark.parametrize("wanted", [99.0, 632.2, 1028.0, 47_300.0])
@pytest.mark.parametrize("series", ["E12", "E24"])
def test_nothing_comes_nearer_than_what_is_offered(wanted: float, series: str) -> None:
    values = [step * 10.0**power for power in range(7) for step in SERIES[series]]
    near = [one for one in values if wanted / 90 <= one <= wanted * 90]
    alone = min(values, key=lambda one: abs(math.log(one / wanted)))
    pairs = [a + b for a, b in itertools.combinations_with_replacement(near, 2)]
    pairs += [a * b / (a + b) for a, b in itertools.combinations_with_replacement(near, 2)]
    best = min([*pairs, alone], key=lambda one: abs(math.log(one / wanted)))
    assert gain_setting.made_near(wanted, SERIES[series], pairs=False)[0].ohm == pytest.approx(alone)
    offered = gain_setting.made_near(wanted, SERIES[series], pairs=True)
    assert abs(math.log(offered[0].ohm / wanted)) <= abs(math.log(best / wanted)) + 1e-9
    assert len({f"{one.ohm:.5g}" for one in offered}) == len(offered)
    for one in offered:
        a, b = (*one.parts, 0.0)[:2]
        assert one.ohm == pytest.approx({"": a, "series": a + b, "parallel": a * b / (a + b) if b else a}[one.how])


# A dummy load's warmth

LOAD = Load(name="Dummy 4", r_ohm=4.0, p_rated_w=50.0, time_constant_s=95.0)


def test_a_load_is_as_warm_as_its_integral_says() -> None:
    on = ((10.0, 40.0, 80.0), (70.0, 130.0, 60.0), (200.0, 215.0, 120.0))
    history = [LoadUse("Dummy 4", after(a), after(b), w) for a, b, w in on]
    history.append(LoadUse("another", after(0.0), after(400.0), 500.0))

    def slope(t: float, y: np.ndarray) -> np.ndarray:
        power = sum(w for a, b, w in on if a <= t < b)
        return (power / 50.0 - y) / 95.0

    for t in (25.0, 40.0, 100.0, 210.0, 400.0):
        exact = integrate.solve_ivp(slope, (0.0, t), [0.0], max_step=0.5, rtol=1e-8).y[0, -1]
        assert rise_share(LOAD, history, after(t)) == pytest.approx(exact, abs=2e-3), t


def test_how_long_it_may_be_driven_and_when_it_is_cold() -> None:
    left = allowed_s(LOAD, 0.4, 90.0)
    history = [LoadUse("Dummy 4", after(-left), None, 90.0)]
    alone = rise_share(LOAD, history, NOW)
    assert alone is not None
    assert alone + 0.4 * math.exp(-left / 95.0) == pytest.approx(1.0)
    assert allowed_s(LOAD, 0.0, 50.0) == math.inf
    assert allowed_s(LOAD, 0.0, 50.1) > 300.0
    unknown = LOAD.model_copy(update={"time_constant_s": None})
    assert allowed_s(unknown, 0.0, 50.1) == 0.0, "what nobody states allows nothing above the rating"
    assert allowed_s(unknown, 0.0, 50.0) == math.inf
    assert cold_after_s(unknown, 0.5) > 0.0
    assert allowed_s(LOAD, 1.0, 60.0) == 0.0
    assert cold_after_s(LOAD, 0.5) == pytest.approx(95.0 * math.log(10.0))
    assert cold_after_s(LOAD, 0.05) == 0.0
    assert rise_share(LOAD.model_copy(update={"p_rated_w": None}), history, NOW) is None
    long_ago = LoadUse("Dummy 4", after(-2000), after(-1990), 90.0)
    assert still_felt([long_ago, *history], (LOAD,), NOW) == tuple(history)
