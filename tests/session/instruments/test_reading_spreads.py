"""Spreads of what is read from a record, and the shares in which a level is raised."""

import itertools
import math

import numpy as np
import pytest

from plinth.session.instruments.reading import line_rms
from plinth.session.instruments.setting import RAMP

RATE_HZ, HZ = 96_000.0, 100.0


def test_a_line_of_a_record_is_told_with_the_scatter_that_its_noise_gives_it() -> None:
    dice, rows, noise = np.random.default_rng(6), 9_600, 5e-3
    t = np.arange(rows) / RATE_HZ
    wave = 0.02 * math.sqrt(2.0) * np.sin(2.0 * math.pi * HZ * t + 0.4) + 1.3
    told = [line_rms(wave + noise * dice.standard_normal(rows), RATE_HZ, HZ) for _ in range(400)]
    values, spreads = (np.array(column) for column in zip(*told, strict=True))
    assert float(np.mean(values)) == pytest.approx(0.02, rel=5e-3)
    # Two standard uncertainties hold 95 in a hundred: no fewer, and no more than chance lets them.
    inside = float(np.mean(np.abs(values - 0.02) <= spreads))
    assert 0.92 < inside < 0.98
    assert float(np.mean(spreads)) == pytest.approx(2.0 * float(np.std(values)), rel=0.12)


def test_a_line_between_its_periods_is_fitted_over_whole_ones() -> None:
    t = np.arange(9_600 + 431) / RATE_HZ
    value, spread = line_rms(0.5 * np.sin(2.0 * math.pi * HZ * t), RATE_HZ, HZ)
    assert value == pytest.approx(0.5 / math.sqrt(2.0), rel=1e-9)
    assert spread < 1e-9


def test_a_level_is_raised_from_far_below_and_never_more_than_doubled() -> None:
    assert RAMP[0] <= 0.125
    assert RAMP[-1] == 1.0
    for before, after in itertools.pairwise(RAMP):
        assert before < after <= 2.0 * before
