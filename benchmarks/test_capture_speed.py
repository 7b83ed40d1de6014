"""Figures of a tone, beside what a plain script of SciPy and NumPy computes of it."""

import math

import numpy as np
import pytest
import scipy.fft
import scipy.signal
from numpy.typing import NDArray
from pytest_benchmark.fixture import BenchmarkFixture

from plinth.captures.analysis import analyse_capture
from plinth.captures.capture import Capture, Channel
from plinth.captures.options import Options

RATE = 192_000.0
ROWS = [192_000, 10_000_000]


def tone(rows: int) -> NDArray[np.float64]:
    t = np.arange(rows) / RATE
    noise = 1e-5 * np.random.default_rng(1).standard_normal(rows)
    return np.asarray(np.sin(2.0 * math.pi * 997.0 * t) + 1e-3 * np.sin(4.0 * math.pi * 997.0 * t) + noise)


def plain_script(wave: NDArray[np.float64]) -> float:
    """A window, one transform, and lines picked out of it: distortion alone, without a spread."""
    power = np.abs(scipy.fft.rfft(wave * scipy.signal.windows.blackmanharris(len(wave), sym=False))) ** 2
    peak = int(np.argmax(power[10:])) + 10
    lines = [float(np.sum(power[k * peak - 4 : k * peak + 5])) for k in range(1, 11)]
    return 10.0 * math.log10(sum(lines[1:]) / lines[0])


@pytest.mark.parametrize("rows", ROWS)
@pytest.mark.benchmark(group="tone")
def test_all_figures_of_a_tone(benchmark: BenchmarkFixture, rows: int) -> None:
    capture = Capture("made", (Channel("ch1", tone(rows), "V"),), RATE)
    analysis = benchmark(analyse_capture, capture, "tone", Options())
    assert analysis.channels[0]["thd_db"].value == pytest.approx(-60.0, abs=0.01)


@pytest.mark.parametrize("rows", ROWS)
@pytest.mark.benchmark(group="tone")
def test_distortion_by_a_plain_script(benchmark: BenchmarkFixture, rows: int) -> None:
    assert benchmark(plain_script, tone(rows)) == pytest.approx(-60.0, abs=0.05)
