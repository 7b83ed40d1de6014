"""The least value of a sampled waveform, between its samples."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_FINE = np.linspace(0.0, 1.0, 41)


def least_by_parabola(samples: Array) -> tuple[int, float]:
    """Index of the least sample and the least value, a parabola laid through it and its neighbours."""
    k = int(np.argmin(samples))
    if 0 < k < len(samples) - 1:
        before, here, after = float(samples[k - 1]), float(samples[k]), float(samples[k + 1])
        bend = before - 2.0 * here + after
        if bend > 0.0:
            return k, here - (after - before) ** 2 / (8.0 * bend)
    return k, float(samples[k])


def least_of_period(samples: Array) -> float:
    """The least value of one period (its first instant repeated at the end), corners included.

    A rail turns upward in a corner, where a diode begins to conduct. The parabola through three samples left of an
    interval and that through three right of it are each right up to the corner, which lies where they cross.
    """
    once = samples[:-1]
    n, k = len(once), int(np.argmin(once))
    found = float(once[k])
    if n < 8:
        return found
    for first in (k - 1, k):
        left = _parabola(once, (first - 2, first - 1, first), 2.0 + _FINE)
        right = _parabola(once, (first + 1, first + 2, first + 3), _FINE - 1.0)
        found = min(found, float(np.min(np.maximum(left, right))))
    return found


def most_of_period(samples: Array) -> float:
    """The greatest value of one period, as ``least_of_period``."""
    return -least_of_period(-samples)


def _parabola(once: Array, at: tuple[int, int, int], x: Array) -> Array:
    """The parabola through three samples of a period, at ``x`` steps from the first of them."""
    a, b, c = (float(once[i % len(once)]) for i in at)
    return a + x * (b - a) + 0.5 * x * (x - 1.0) * (a - 2.0 * b + c)
