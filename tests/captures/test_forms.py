"""Where on the wave distortion stands, how long a rail is charged, what a class of equipment may draw."""

import math

import numpy as np
import pytest

from plinth.captures.analysis import analyse_capture
from plinth.captures.capture import AMPERES, VOLTS, Capture, Channel
from plinth.captures.kinds.mains import class_a_limit_a
from plinth.captures.options import Options
from plinth.captures.signal.folding import folded

RATE = 96_000.0
T = np.arange(int(RATE)) / RATE
TURNS = 2.0 * math.pi * 997.0 * T
SINE = 10.0 * np.sin(TURNS)


def remarks(wave: np.ndarray, kind: str = "tone") -> str:
    noisy = wave + 2e-4 * np.random.default_rng(5).standard_normal(len(wave))
    return " ".join(analyse_capture(Capture("x", (Channel("ch1", noisy, VOLTS),), RATE), kind, Options()).remarks)


def deadband(wave: np.ndarray, volts: float) -> np.ndarray:
    return np.asarray(np.sign(wave) * np.maximum(np.abs(wave) - volts, 0.0))


@pytest.mark.parametrize("volts", [0.05, 0.3])
def test_crossover_is_told_by_where_it_stands(volts: float) -> None:
    told = remarks(deadband(SINE, volts))
    assert "crossover, a bias too low" in told
    assert "begins to clip" not in told


@pytest.mark.parametrize("share", [0.995, 0.97])
def test_clipping_is_told_by_where_it_stands(share: float) -> None:
    told = remarks(np.clip(SINE, -10.0 * share, 10.0 * share))
    assert "begins to clip" in told
    assert "crossover" not in told
    # One side alone as well.
    assert "begins to clip" in remarks(np.minimum(SINE, 10.0 * share))


@pytest.mark.parametrize("order", [2, 3, 4])
def test_a_harmonic_by_itself_is_neither(order: int) -> None:
    told = remarks(SINE + 0.02 * np.sin(order * TURNS + 0.4))
    assert "crossover" not in told
    assert "begins to clip" not in told


def test_a_clean_tone_says_nothing_of_it() -> None:
    told = remarks(SINE)
    assert "crossover" not in told
    assert "clip" not in told


def test_a_wave_laid_over_itself_is_its_own_shape() -> None:
    shape, u = folded(SINE + 0.5 * np.random.default_rng(2).standard_normal(len(T)), 2.0 * math.pi * 997.0 / RATE, 60)
    middle = 10.0 * np.sin((np.arange(60) + 0.5) / 60 * 2.0 * math.pi)
    assert float(np.max(np.abs(shape - middle) / u)) < 4.5
    # 0.5 V of noise over 1600 samples a part, and what the wave moves within a part.
    assert float(np.median(u)) == pytest.approx(0.5 / math.sqrt(1600), rel=0.15)


def saw(charge_share: float, tau_s: float, ripple_hz: float = 100.0, volts: float = 36.0) -> np.ndarray:
    """A rail that falls with a time constant and is charged along a straight line."""
    period, rise = 1.0 / ripple_hz, charge_share / ripple_hz
    t = T % period
    low = volts * math.exp(-(period - rise) / tau_s)
    return np.where(t < rise, low + (volts - low) * t / rise, volts * np.exp(-(t - rise) / tau_s))


@pytest.mark.parametrize(("charge_share", "tau_s"), [(0.15, 0.2), (0.3, 0.08), (0.22, 1.0)])
@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_how_long_a_rail_is_charged_and_how_fast_it_falls(charge_share: float, tau_s: float, sign: float) -> None:
    wave = sign * saw(charge_share, tau_s) + 2e-3 * np.random.default_rng(3).standard_normal(len(T))
    told = analyse_capture(Capture("x", (Channel("ch1", wave, VOLTS),), RATE), "rail", Options()).channels[0]
    # A share of 10 ms, which is half a cycle of 50 Hz: 180 degrees.
    assert told["conduction_deg"].value == pytest.approx(180.0 * charge_share, abs=told["conduction_deg"].spread)
    assert told["conduction_deg"].spread < 15.0
    assert told["discharge_tau_s"].value == pytest.approx(tau_s, abs=told["discharge_tau_s"].spread)
    assert told["discharge_tau_s"].spread < 0.2 * tau_s


def test_a_ripple_in_its_noise_has_no_form() -> None:
    wave = 36.0 + 1e-3 * np.sin(2.0 * math.pi * 100.0 * T) + 0.05 * np.random.default_rng(3).standard_normal(len(T))
    analysis = analyse_capture(Capture("x", (Channel("ch1", wave, VOLTS),), RATE), "rail", Options())
    assert "conduction_deg" not in analysis.channels[0]


def test_the_limits_of_class_a_are_the_standards() -> None:
    table = {2: 1.08, 3: 2.30, 4: 0.43, 5: 1.14, 6: 0.30, 7: 0.77, 9: 0.40, 11: 0.33, 13: 0.21}
    assert {order: class_a_limit_a(order) for order in table} == table
    assert class_a_limit_a(15) == pytest.approx(0.15)
    assert class_a_limit_a(39) == pytest.approx(0.15 * 15 / 39)
    assert class_a_limit_a(8) == pytest.approx(0.23)
    assert class_a_limit_a(40) == pytest.approx(0.046)


@pytest.mark.parametrize(("third_a", "said"), [(2.6, True), (2.0, False)])
def test_a_current_above_its_class_is_named(third_a: float, said: bool) -> None:
    w = 2.0 * math.pi * 50.0 * T
    volts = 325.0 * np.sin(w)
    amperes = math.sqrt(2.0) * (4.0 * np.sin(w) + third_a * np.sin(3.0 * w + math.pi))
    noise = 2e-3 * np.random.default_rng(1).standard_normal(len(T))
    capture = Capture("m", (Channel("v", volts, VOLTS), Channel("i", amperes + noise, AMPERES)), RATE)
    told = " ".join(analyse_capture(capture, "mains", Options()).remarks)
    assert ("harmonic 3: 2.6 A of 2.3 A" in told) == said
