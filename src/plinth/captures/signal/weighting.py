"""Weighting curves for noise, as amplitude factors."""

import numpy as np
from numpy.typing import NDArray

# ITU-R BS.468-4, table 1: response in dB at these frequencies.
_ITU_HZ = (31.5, 63, 100, 200, 400, 800, 1000, 2000, 3150, 4000, 5000, 6300, 7100, 8000, 9000, 10000, 12500, 14000,
           16000, 20000, 31500)  # fmt: skip
_ITU_DB = (-29.9, -23.9, -19.8, -13.8, -7.8, -1.9, 0.0, 5.6, 9.0, 10.5, 11.7, 12.2, 12.0, 11.4, 10.1, 8.1, 0.0, -5.3,
           -11.7, -22.2, -42.7)  # fmt: skip


def a_weighting(frequency_hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """A-weighting, 1 at 1 kHz (IEC 61672-1, annex E)."""

    def raw(f: NDArray[np.float64]) -> NDArray[np.float64]:
        s = f**2
        return np.asarray(
            12194.217**2 * s**2
            / ((s + 20.598997**2) * np.sqrt((s + 107.65265**2) * (s + 737.86223**2)) * (s + 12194.217**2))
        )  # fmt: skip

    return np.asarray(raw(np.asarray(frequency_hz)) / raw(np.array([1000.0]))[0])


def itu_r_468(frequency_hz: NDArray[np.float64]) -> NDArray[np.float64]:
    """ITU-R BS.468-4, 1 at 1 kHz, straight in dB over the logarithm of frequency between its points."""
    place = np.log(np.maximum(frequency_hz, 1.0))
    points = np.log(np.array(_ITU_HZ))
    decibels = np.interp(place, points, np.array(_ITU_DB))
    below = (np.array(frequency_hz) < _ITU_HZ[0]) * 20.0 * np.log10(np.maximum(frequency_hz, 1.0) / _ITU_HZ[0])
    return np.asarray(10.0 ** ((decibels + below) / 20.0))
