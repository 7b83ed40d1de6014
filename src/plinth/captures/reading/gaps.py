"""Cells that hold no number, bridged."""

import numpy as np
from numpy.typing import NDArray


def bridged(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """The same with a straight line over each gap, and the nearest value beyond the ends."""
    sound = np.isfinite(values)
    if sound.all():
        return values
    rows = np.arange(len(values), dtype=np.float64)
    return np.interp(rows, rows[sound], values[sound])
