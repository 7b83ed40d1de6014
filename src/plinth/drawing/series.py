"""What a plot shows."""

import dataclasses

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class Series:
    """One curve. ``role`` a colour token; ``spread`` half the width of the band that a prediction is drawn as.

    ``discs``: readings, drawn as discs. ``unit`` for the readout. ``label`` stands at the curve's end, ``above`` or
    ``below`` it, to its ``right``, at its ``start``, or in the ``corner`` of the plot below all of it; empty for none.
    """

    name: str
    x: Array
    y: Array
    role: str
    unit: str
    label: str = ""
    label_at: str = "above"
    spread: float | Array = 0.0
    discs: bool = False
    wide: bool = False
