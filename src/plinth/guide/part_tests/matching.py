"""The best sets out of measured pieces.

Pairs between two kinds by optimal assignment (H. W. Kuhn, Naval Res. Logistics Quart. 2, 1955, as SciPy solves it).
Sets of one kind: in the order of their values each set is a run of neighbours, so the best choice is found by going
along them once (R. Bellman, dynamic programming).
"""

import functools
from collections.abc import Mapping, Sequence

import numpy as np

Sets = tuple[tuple[int, ...], ...]


def best_sets(values: Mapping[int, float], count: int, size: int) -> Sets:
    """``count`` sets of ``size`` pieces with the smallest sum of ranges; by piece number. Empty where too few."""
    if size < 1 or len(values) < count * size:
        return ()
    order = sorted(values, key=lambda piece: (values[piece], piece))

    @functools.cache
    def best(begin: int, left: int) -> tuple[float, tuple[int, ...]]:
        """The least sum of ranges with ``left`` sets taken from place ``begin`` on, and where they begin."""
        if left == 0:
            return 0.0, ()
        if len(order) - begin < left * size:
            return float("inf"), ()
        skipped = best(begin + 1, left)
        spread = values[order[begin + size - 1]] - values[order[begin]]
        rest, starts = best(begin + size, left - 1)
        taken = (spread + rest, (begin, *starts))
        return min(taken, skipped, key=lambda pair: pair[0])

    _, starts = best(0, count)
    return tuple(tuple(sorted(order[at : at + size])) for at in starts)


def best_pairs(first: Mapping[int, float], second: Mapping[int, float], count: int) -> Sets:
    """``count`` pairs (a piece of ``first``, one of ``second``) with the least sum of relative differences.

    Empty where there are too few of either.
    """
    if count < 1 or min(len(first), len(second)) < count:
        return ()
    from scipy.optimize import linear_sum_assignment  # slow to import, and asked for at the bench only

    rows, columns = sorted(first), sorted(second)
    a, b = np.array([first[row] for row in rows]), np.array([second[column] for column in columns])
    cost = np.abs(a[:, None] - b[None, :]) / (0.5 * (np.abs(a[:, None]) + np.abs(b[None, :])) + 1e-300)
    # Just ``count`` of them: whoever is left over is paired with nobody, at no cost; two nobodies are not.
    n, m = len(rows), len(columns)
    whole = np.zeros((n + m - count, n + m - count))
    whole[:n, :m] = cost
    whole[n:, m:] = 1e6 + float(cost.sum())
    taken = zip(*linear_sum_assignment(whole), strict=True)
    return tuple((rows[i], columns[j]) for i, j in taken if i < n and j < m)


def range_of(values: Mapping[int, float], pieces: Sequence[int]) -> float:
    """How far the pieces of a set are apart."""
    values_there = [values[piece] for piece in pieces]
    return max(values_there) - min(values_there)
