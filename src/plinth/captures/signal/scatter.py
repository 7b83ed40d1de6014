"""Noise as it is seen in samples, and what of it is left in a mean."""

import math

import numpy as np
from numpy.typing import NDArray


def white_noise(samples: NDArray[np.float64]) -> float:
    """Standard deviation of white noise, seen in third differences, in which a smooth wave leaves next to nothing."""
    stretch = samples[:400_000]
    third = np.diff(stretch, 3)
    return float(np.median(np.abs(third))) / 0.6745 / math.sqrt(20.0)


def of_mean(values: NDArray[np.float64]) -> float:
    """Standard uncertainty of the mean of values that scatter; 0 of a single one."""
    return float(np.std(values, ddof=1)) / math.sqrt(len(values)) if len(values) > 1 else 0.0
