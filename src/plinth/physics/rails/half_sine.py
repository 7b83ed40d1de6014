"""The half-wave current of a push-pull output stage, per ampere of peak."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def _charge(angle_rad: Array) -> Array:
    """Integral of max(sin, 0) from 0 to each angle (any sign): 2 per turn, (1 - cos) in the first half."""
    turns = np.floor(angle_rad / (2.0 * np.pi))
    rest = angle_rad - turns * 2.0 * np.pi
    return 2.0 * turns + np.where(rest < np.pi, 1.0 - np.cos(rest), 2.0)


def half_wave_mean(angle_rad: Array) -> Array:
    """Exact mean of max(sin, 0) over each interval between neighbours; n angles give n - 1 means.

    The charge of a step is then exact whatever the step, which keeps the rail right at few steps a cycle.
    """
    return np.diff(_charge(angle_rad)) / np.diff(angle_rad)
