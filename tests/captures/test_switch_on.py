"""What a switch-on leaves in a record: step, time to rest, what it rests at; a rail's ripple only where it rests."""

import math

import numpy as np
import pytest
from numpy.typing import NDArray

from plinth.captures.analysis import analyse_capture
from plinth.captures.figure import ChannelFigures
from plinth.captures.kinds.guess import guessed
from plinth.captures.kinds.switch_on import switch_on_of
from plinth.captures.options import Options
from tests.captures.made import capture_of

RATE = 10_000.0
Wave = NDArray[np.float64]


def times(seconds: float, begin: float) -> Wave:
    return np.arange(round(seconds * RATE)) / RATE - begin


def noise(like: Wave, sigma: float, seed: int = 1) -> Wave:
    return np.asarray(sigma * np.random.default_rng(seed).standard_normal(len(like)))


def rail(t: Wave, volts: float, tau: float, hz: float = 50.0, ripple: float = 0.4) -> Wave:
    """It charges with ``tau``; once charged, a ripple of twice the mains."""
    charge = np.where(t > 0.0, 1.0 - np.exp(-np.maximum(t, 0.0) / tau), 0.0)
    return np.asarray(charge * (volts + 0.5 * ripple * np.sin(2.0 * math.pi * 2.0 * hz * t)))


def figures(wave: Wave, kind: str) -> ChannelFigures:
    return analyse_capture(capture_of(wave, rate=RATE), kind, Options()).channels[0]


@pytest.mark.parametrize("hz", [50.0, 60.0])
@pytest.mark.parametrize("volts", [33.0, -33.0])
@pytest.mark.parametrize("tau", [0.05, 0.15, 0.4])
def test_a_rail_rests_after_ln_50_time_constants(tau: float, volts: float, hz: float) -> None:
    t = times(0.1 + 9.0 * tau, 0.1)
    wave = rail(t, volts, tau, hz) + noise(t, 0.01)
    assert guessed(capture_of(wave, rate=RATE)) == "rail"
    seen = figures(wave, "rail")
    assert abs(seen["rest_s"].value - tau * math.log(50.0)) < seen["rest_s"].spread
    assert seen["rest_s"].spread < 0.1 * tau + 0.03
    assert seen["rest_v"].value == pytest.approx(volts, rel=2e-3)


def test_mean_and_ripple_are_drawn_where_the_rail_rests() -> None:
    t = times(2.0, 0.3)
    seen = analyse_capture(capture_of(rail(t, 33.0, 0.1), rate=RATE), "rail", Options())
    own = seen.channels[0]
    # Charged to within 2 % at the first of it: what is left of that moves the mean by a small part of 2 %.
    assert own["mean_v"].value == pytest.approx(33.0, rel=3e-3)
    assert own["ripple_hz"].value == pytest.approx(100.0, abs=0.1)
    assert own["ripple_rms_v"].value == pytest.approx(0.2 / math.sqrt(2.0), rel=0.03)
    assert any("switched on in this record" in remark for remark in seen.remarks)


def test_a_rail_that_was_on_all_along_has_no_time_to_rest() -> None:
    t = times(1.0, -5.0)
    seen = analyse_capture(capture_of(rail(t, 33.0, 0.1), rate=RATE), "rail", Options())
    assert "rest_s" not in seen.channels[0]
    assert not any("switched on" in remark for remark in seen.remarks)


@pytest.mark.parametrize("size", [0.08, -0.5, 3.0])
def test_an_output_s_thump_is_told_with_its_sign(size: float) -> None:
    # It jumps and dies away with 40 ms, onto 12 mV of offset; hum of 2 mV all along.
    t = times(1.5, 0.25)
    thump = np.where(t > 0.0, 0.012 + size * np.exp(-np.maximum(t, 0.0) / 0.04), 0.0)
    wave = thump + 0.001 * np.sin(2.0 * math.pi * 50.0 * t) + noise(t, 2e-4)
    seen = figures(wave, "plain")
    step = seen["step_v"]
    # The mean over a millisecond of what dies away: its first millisecond holds this part of the jump.
    expected = 0.012 + size * 0.04 / 0.001 * (1.0 - math.exp(-0.001 / 0.04))
    assert abs(step.value - expected) < max(step.spread, 0.02 * abs(size))
    assert seen["rest_v"].value == pytest.approx(0.012, abs=1e-3)
    assert 0.0 < seen["rest_s"].value < 0.3


def test_a_step_that_stays_rests_at_once() -> None:
    t = times(1.0, 0.4)
    seen = figures(np.where(t > 0.0, 2.0, 0.0) + noise(t, 1e-3), "plain")
    assert seen["step_v"].value == pytest.approx(2.0, abs=seen["step_v"].spread)
    assert seen["rest_s"].value < 0.03
    assert seen["rest_v"].value == pytest.approx(2.0, abs=1e-3)


def test_what_still_is_on_its_way_is_said() -> None:
    t = times(1.0, 0.1)
    seen = analyse_capture(capture_of(np.maximum(t, 0.0) * 20.0, rate=RATE), "plain", Options())
    assert "rest_s" not in seen.channels[0]
    assert any("still on its way" in remark for remark in seen.remarks)


@pytest.mark.parametrize("seed", range(4))
def test_noise_hum_and_tones_are_no_switch_on(seed: int) -> None:
    t = times(1.0, 0.0)
    for wave in (
        noise(t, 1.0, seed), np.sin(2.0 * math.pi * 50.0 * t + seed), np.sin(2.0 * math.pi * 1000.0 * t),
        33.0 + 0.2 * np.sin(2.0 * math.pi * 100.0 * t) + noise(t, 0.05, seed), np.zeros(len(t)),
    ):  # fmt: skip
        assert switch_on_of(wave, RATE) is None


def test_a_record_that_begins_in_the_middle_of_it_tells_nothing_of_it() -> None:
    assert switch_on_of(rail(times(1.0, 0.005), 33.0, 0.1), RATE) is None
    assert switch_on_of(np.ones(50), RATE) is None


def current(t: Wave, peak: float, tau: float, steady: float = 0.6) -> Wave:
    on = np.maximum(t, 0.0)
    return np.asarray(np.where(t >= 0.0, np.sin(2.0 * math.pi * 50.0 * on) * (peak * np.exp(-on / tau) + steady), 0.0))


@pytest.mark.parametrize("tau", [0.02, 0.06])
def test_the_current_from_the_wall_rests_to_a_cycle(tau: float) -> None:
    t = times(1.0, 0.12)
    volts = 325.0 * np.sin(2.0 * math.pi * 50.0 * t)
    seen = analyse_capture(
        capture_of(volts, current(t, 20.0, tau) + noise(t, 2e-3), rate=RATE, units=("V", "A")), "mains", Options()
    ).channels[1]
    # Within 5 % where peak e^(-t/tau) is a twentieth of what stays.
    expected = tau * math.log(20.0 / 0.6 / 0.05)
    assert abs(seen["rest_s"].value - expected) < seen["rest_s"].spread + 0.01
    assert seen["rest_s"].spread == pytest.approx(0.03, rel=0.01)


def test_a_current_that_flowed_all_along_or_too_short_has_no_time_to_rest() -> None:
    t = times(1.0, -0.0)
    volts = 325.0 * np.sin(2.0 * math.pi * 50.0 * t)
    steady = capture_of(volts, current(times(1.0, -3.0), 0.0, 0.1), rate=RATE, units=("V", "A"))
    assert "rest_s" not in analyse_capture(steady, "mains", Options()).channels[1]
    short = capture_of(volts[:2000], current(times(0.2, 0.12), 20.0, 0.02), rate=RATE, units=("V", "A"))
    report = analyse_capture(short, "mains", Options())
    assert "rest_s" not in report.channels[1]
    assert any("before 8 cycles" in remark for remark in report.remarks)
