"""A burst of a tone in silence: its edges are no distortion, and a clipped one tells its limit."""

import math

import numpy as np
import pytest

from plinth.captures.analysis import analyse_capture
from plinth.captures.figure import Analysis
from plinth.captures.kinds.guess import guessed
from plinth.captures.options import Options
from tests.captures.made import Wave, capture_of

RATE = 48_000.0
LIMIT = 25.0


def bursts(*amplitudes: float, cycles: int = 100, hz: float = 1000.0, noise: float = 2e-3) -> Wave:
    """Each amplitude for so many cycles, cut at the limit; 0.2 s of silence before each and at the end."""
    silence = np.zeros(round(0.2 * RATE))
    t = np.arange(round(cycles / hz * RATE)) / RATE
    parts = [np.clip(a * np.sin(2.0 * math.pi * hz * t), -LIMIT, LIMIT) for a in amplitudes]
    wave = np.concatenate([*(piece for part in parts for piece in (silence, part)), silence])
    return np.asarray(wave + noise * np.random.default_rng(7).standard_normal(len(wave)))


def told(wave: Wave) -> Analysis:
    capture = capture_of(wave, rate=RATE)
    assert guessed(capture) == "levels"
    return analyse_capture(capture, "levels", Options(load_ohm=8.0))


@pytest.mark.parametrize("cycles", [40, 100, 400])
@pytest.mark.parametrize("amplitude", [26.0, 30.0, 45.0])
def test_one_clipped_burst_tells_where_clipping_begins(amplitude: float, cycles: int) -> None:
    report = told(bursts(amplitude, cycles=cycles))
    figures = report.channels[0]
    onset = figures["onset_rms_v"]
    assert abs(onset.value - LIMIT / math.sqrt(2.0)) < onset.spread
    assert onset.spread < 0.02 * onset.value
    assert figures["onset_power_w"].value == pytest.approx(LIMIT**2 / 16.0, rel=0.02)
    # Between which levels 1 % lies, one alone cannot tell.
    assert "level_at_1pct_thd_rms_v" not in figures
    assert any("one level only" in remark for remark in report.remarks)


def test_a_burst_that_is_not_cut_does_not_clip_by_its_edges() -> None:
    report = told(bursts(20.0))
    assert not any("onset" in figure.name or "level_at" in figure.name for figure in report.channels[0].figures)
    assert any("does not clip" in remark for remark in report.remarks)


def test_two_bursts_tell_onset_and_one_per_cent() -> None:
    figures = told(bursts(20.0, 26.0)).channels[0]
    assert figures["levels"].value == 2
    assert abs(figures["onset_rms_v"].value - LIMIT / math.sqrt(2.0)) < figures["onset_rms_v"].spread
    assert "level_at_1pct_thd_rms_v" in figures


def test_rising_bursts_are_a_sweep_of_levels() -> None:
    figures = told(bursts(10.0, 20.0, 24.0, 26.0, 28.0, 33.0)).channels[0]
    assert figures["levels"].value == 6
    assert abs(figures["onset_rms_v"].value - LIMIT / math.sqrt(2.0)) < figures["onset_rms_v"].spread
    assert "level_at_10pct_thd_rms_v" in figures
