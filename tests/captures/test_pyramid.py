"""Long waves on a screen: no extreme is lost at any zoom, and each stands at its own row."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plinth.captures.pyramid import Pyramid

WAVE = np.random.default_rng(3).standard_normal(300_000)
PYRAMID = Pyramid(WAVE)


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 299_000), st.integers(1, 300_000), st.integers(10, 900))
def test_lowest_and_highest_of_every_stretch_are_there_at_their_rows(start: int, length: int, columns: int) -> None:
    stop = min(start + length, len(WAVE))
    rows, values = PYRAMID.between(start, stop, columns)
    assert np.all(np.diff(rows) >= 0)
    assert np.array_equal(WAVE[rows.astype(np.int64)], values)
    assert float(np.min(values)) <= float(np.min(WAVE[start:stop]))
    assert float(np.max(values)) >= float(np.max(WAVE[start:stop]))
    # Beyond the stretch by a quarter of a column at the most.
    reach = 0.25 * (stop - start) / columns + 1.0
    assert start - reach <= rows[0]
    assert rows[-1] <= stop + reach
    assert len(values) <= max(4 * columns, 2 * (columns + 2))


def test_few_samples_are_all_there() -> None:
    rows, values = PYRAMID.between(1000, 1100, 800)
    assert np.array_equal(rows, np.arange(1000, 1100))
    assert np.array_equal(values, WAVE[1000:1100])


def test_a_spike_among_the_last_samples_is_seen() -> None:
    wave = np.zeros(1_000_037)
    wave[-1], wave[123_456] = 5.0, -7.0
    rows, values = Pyramid(wave).between(0, len(wave), 800)
    assert (rows[int(np.argmax(values))], rows[int(np.argmin(values))]) == (1_000_036, 123_456)


def test_the_largest_is_the_largest() -> None:
    assert PYRAMID.largest == float(np.max(np.abs(WAVE)))
    for length in (1_000_037, 5000, 12):
        wave = np.zeros(length)
        wave[-1] = -5.0
        assert Pyramid(wave).largest == 5.0


def test_nothing_between_is_refused() -> None:
    with pytest.raises(ValueError, match="expected some"):
        PYRAMID.between(5, 5, 100)
