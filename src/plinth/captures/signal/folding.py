"""A long wave laid over itself cycle by cycle: its mean shape, its noise averaged away."""

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def folded(samples: Array, omega: float, bins: int, phase: float = 0.0) -> tuple[Array, Array]:
    """Mean of the samples at each of ``bins`` equal parts of a cycle, and the standard uncertainty of each.

    ``omega`` radians a sample; ``phase`` of row 0, radians. A part in which no sample lies is drawn through its
    neighbours, with an uncertainty of infinity.
    """
    places = (omega * np.arange(len(samples)) + phase) / (2.0 * math.pi) % 1.0
    which = np.minimum((places * bins).astype(np.int64), bins - 1)
    counts = np.bincount(which, minlength=bins)
    sums = np.bincount(which, weights=samples, minlength=bins)
    squares = np.bincount(which, weights=samples**2, minlength=bins)
    held = counts > 0
    means = np.zeros(bins)
    means[held] = sums[held] / counts[held]
    if not held.all():
        known = np.flatnonzero(held)
        means = np.interp(np.arange(bins), known, means[known], period=bins)
    u = np.full(bins, np.inf)
    several = counts > 1
    scatter = np.maximum(squares[several] / counts[several] - means[several] ** 2, 0.0)
    u[several] = np.sqrt(scatter / (counts[several] - 1))
    return means, u
