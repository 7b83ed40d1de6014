"""The shape of the mains: a sine, or one flattened by its third harmonic, with the RMS kept."""

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def mains_wave(angle_rad: Array, third_harmonic: float = 0.0) -> Array:
    """Mains volts per volt of amplitude of a pure sine of the same RMS, at the angles given.

    (sin a + h sin 3a) / sqrt(1 + h^2), with ``third_harmonic`` h from 0 to 0.2 as a fraction of the fundamental:
    in phase, as the charging pulses of everybody's rectifiers flatten the crest. Zero where the sine is zero.
    """
    if third_harmonic == 0.0:
        return np.sin(angle_rad)
    mixed = np.sin(angle_rad) + third_harmonic * np.sin(3.0 * angle_rad)
    return np.asarray(mixed / math.sqrt(1.0 + third_harmonic**2))


def crest(third_harmonic: float = 0.0) -> float:
    """Highest value of ``mains_wave``.

    At 90 degrees up to h = 1/9, where it is (1 - h) / sqrt(1 + h^2); beyond that two humps stand beside it, at
    sin^2 a = (1 + 3 h) / (12 h).
    """
    h = third_harmonic
    if h <= 1.0 / 9.0:
        return (1.0 - h) / math.sqrt(1.0 + h * h)
    s = math.sqrt((1.0 + 3.0 * h) / (12.0 * h))
    return (s * (1.0 + 3.0 * h) - 4.0 * h * s**3) / math.sqrt(1.0 + h * h)
