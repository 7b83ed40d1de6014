"""A long wave ready for a screen: lowest and highest of every stretch, kept coarser and coarser."""

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_FACTOR = 64
_LEAST = 4096


class Pyramid:
    """Lowest and highest of each 64 samples, of each 64 of those, and so on; samples themselves are not copied."""

    def __init__(self, samples: Array) -> None:
        self.samples = samples
        self._levels: list[tuple[int, Array, Array]] = []
        low = high = samples
        width = 1
        while len(low) > _LEAST:
            whole = len(low) // _FACTOR * _FACTOR
            low = np.min(low[:whole].reshape(-1, _FACTOR), axis=1)
            high = np.max(high[:whole].reshape(-1, _FACTOR), axis=1)
            width *= _FACTOR
            self._levels.append((width, low, high))

    def between(self, start: int, stop: int, columns: int) -> tuple[Array, Array]:
        """Rows and values of ``start`` to ``stop``, two a column: the lowest and the highest that lie in it.

        Of so few samples that a screen shows each, all of them. Raises ValueError where the stretch is empty.
        """
        start, stop = max(0, start), min(len(self.samples), stop)
        if stop <= start or columns < 1:
            raise ValueError(f"found rows {start} to {stop} in {columns} columns, expected some of them")
        if stop - start <= 4 * columns:
            return np.arange(start, stop, dtype=np.float64), self.samples[start:stop]
        width, low, high = 1, self.samples, self.samples
        for coarser, its_low, its_high in self._levels:
            # At least four of a level in each column, so that a stretch that crosses its edge is a quarter of one.
            if (stop - start) / columns >= 4 * coarser:
                width, low, high = coarser, its_low, its_high
        first, last = start // width, min(max(math.ceil(stop / width), start // width + 1), len(low))
        edges = np.unique(np.linspace(first, last, columns + 1).astype(np.int64)[:-1])
        lows = np.minimum.reduceat(low[:last], edges)
        highs = np.maximum.reduceat(high[:last], edges)
        rows = np.repeat(np.clip(edges * width, start, stop - 1), 2).astype(np.float64)
        return rows, np.stack((lows, highs), axis=1).ravel()
