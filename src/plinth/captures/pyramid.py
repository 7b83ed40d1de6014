"""A long wave ready for a screen: lowest and highest of every stretch, kept coarser and coarser."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Rows = NDArray[np.int64]

_FACTOR = 64
_LEAST = 4096


@dataclass(frozen=True)
class _Level:
    """Lowest and highest of each ``width`` samples, and the rows at which they lie."""

    width: int
    low: Array
    low_at: Rows
    high: Array
    high_at: Rows


class Pyramid:
    """Lowest and highest of each 64 samples, of each 64 of those, and so on; samples themselves are not copied."""

    def __init__(self, samples: Array) -> None:
        self.samples = samples
        self._levels: list[_Level] = []
        while (len(samples) if not self._levels else len(self._levels[-1].low)) > _LEAST:
            if not self._levels:
                low = high = samples
                low_at, high_at, width = None, None, 1
            else:
                last = self._levels[-1]
                low, high, width = last.low, last.high, last.width
                low_at, high_at = last.low_at, last.high_at
            lows, lows_at = _each(low, low_at, _FACTOR, np.argmin)
            highs, highs_at = _each(high, high_at, _FACTOR, np.argmax)
            self._levels.append(_Level(width * _FACTOR, lows, lows_at, highs, highs_at))

    @property
    def largest(self) -> float:
        """The largest size of a sample."""
        if not self._levels:
            return float(np.max(np.abs(self.samples)))
        top = self._levels[-1]
        tail = self.samples[top.width * len(top.low) :]
        ends = [abs(float(np.min(top.low))), abs(float(np.max(top.high)))]
        return max([*ends, float(np.max(np.abs(tail))) if len(tail) else 0.0])

    def between(self, start: int, stop: int, columns: int) -> tuple[Array, Array]:
        """Rows and values of ``start`` to ``stop``, two a column: the lowest and the highest in it, as they come.

        Of so few samples that a screen shows each, all of them. What is taken from a coarser level may begin and end
        up to a quarter of a column early or late. Raises ValueError where the stretch is empty.
        """
        start, stop = max(0, start), min(len(self.samples), stop)
        if stop <= start or columns < 1:
            raise ValueError(f"found rows {start} to {stop} in {columns} columns, expected some of them")
        if stop - start <= 4 * columns:
            return np.arange(start, stop, dtype=np.float64), self.samples[start:stop]
        fitting = [level for level in self._levels if (stop - start) / columns >= 4 * level.width]
        if fitting:
            level = fitting[-1]
            first, last = start // level.width, min(-(-stop // level.width), len(level.low))
            # The last samples, too few for a stretch of their own, stand in no level.
            tail = level.width * len(level.low)
            lows, lows_at = _columns(level.low[first:last], level.low_at[first:last], columns, np.argmin)
            highs, highs_at = _columns(level.high[first:last], level.high_at[first:last], columns, np.argmax)
            if stop > tail:
                rest = self.samples[tail:stop]
                lows, lows_at = np.append(lows, rest.min()), np.append(lows_at, tail + int(np.argmin(rest)))
                highs, highs_at = np.append(highs, rest.max()), np.append(highs_at, tail + int(np.argmax(rest)))
        else:
            stretch, at = self.samples[start:stop], np.arange(start, stop)
            lows, lows_at = _columns(stretch, at, columns, np.argmin)
            highs, highs_at = _columns(stretch, at, columns, np.argmax)
        rows, values = np.stack((lows_at, highs_at), axis=1), np.stack((lows, highs), axis=1)
        turned = rows[:, 0] > rows[:, 1]
        rows[turned], values[turned] = rows[turned, ::-1], values[turned, ::-1]
        return rows.ravel().astype(np.float64), values.ravel()


def _columns(values: Array, at: Rows, columns: int, best: object) -> tuple[Array, Rows]:
    """The best of each of about so many columns, with its row; the last may be shorter."""
    return _each(values, at, -(-len(values) // columns), best, rest=True)


def _each(values: Array, at: Rows | None, size: int, best: object, *, rest: bool = False) -> tuple[Array, Rows]:
    """The best of each ``size`` values, and the rows at which they lie; with ``rest`` that of the last few too."""
    assert callable(best)
    whole = len(values) // size * size
    places = best(values[:whole].reshape(-1, size), axis=1) + np.arange(0, whole, size)
    if rest and whole < len(values):
        places = np.append(places, whole + best(values[whole:]))
    return values[places], places if at is None else at[places]
