"""What is in a wave at each moment: spectra of stretches, on rows that rise by equal ratios."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_COLUMNS, _ROWS = 600, 240
_LOWEST_HZ = 15.0
_DEEPEST_DB = -140.0


@dataclass(frozen=True)
class SpectrogramView:
    """``decibels`` to the strongest line, a row a frequency (rising by equal ratios), a column a moment.

    ``frame_s`` length of each stretch; ``floor_db`` what the darkest shade stands for.
    """

    decibels: Array
    frequencies_hz: Array
    frame_s: float
    floor_db: float


def spectrogram_of(samples: Array, rate_hz: float) -> SpectrogramView:
    """The spectrogram of a wave: Hann windows, each row the strongest line in its band, so that none is lost."""
    import scipy.signal

    length = int(min(max(2 ** int(np.log2(max(len(samples) / 8, 64))), 64), 16_384))
    hop = max(1, (len(samples) - length) // _COLUMNS)
    starts = np.arange(0, len(samples) - length + 1, hop)[: _COLUMNS + 1]
    window = scipy.signal.get_window("hann", length)
    frequencies = np.fft.rfftfreq(length, 1.0 / rate_hz)
    edges_hz = np.geomspace(max(_LOWEST_HZ, frequencies[1]), frequencies[-1], _ROWS + 1)
    lows = np.clip(np.searchsorted(frequencies, edges_hz[:-1]), 1, len(frequencies) - 1)
    power = np.empty((_ROWS, len(starts)))
    for column, start in enumerate(starts):
        stretch = samples[start : start + length]
        lines = np.abs(np.fft.rfft((stretch - np.mean(stretch)) * window)) ** 2
        power[:, column] = np.maximum.reduceat(lines, lows)
    top = float(np.max(power))
    decibels = 10.0 * np.log10(np.maximum(power, 1e-30 * max(top, 1e-300)) / max(top, 1e-300))
    floor = max(float(np.percentile(decibels, 2.0)) - 3.0, _DEEPEST_DB)
    return SpectrogramView(np.maximum(decibels, floor), edges_hz[:-1], length / rate_hz, floor)
