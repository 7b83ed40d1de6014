"""Where a function of one number passes through nought, up to where something can be had, and where a map rests."""

import math
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")


def bracketed(f: Callable[[float], float], low: tuple[float, float], high: tuple[float, float], within: float) -> float:
    """Where ``f`` is nearer to 0 than ``within``, between two places given as (x, f(x)) of unlike signs.

    False position, with the end that stays halved (the Illinois way: M. Dowell and P. Jarratt, BIT 11, 1971). Raises
    ValueError where the signs are alike.
    """
    (a, at_a), (b, at_b) = low, high
    if at_a * at_b > 0.0:
        raise ValueError(f"found {at_a:g} and {at_b:g} at the ends, expected unlike signs")
    if at_a == at_b:
        return a
    kept = 0
    for _ in range(60):
        x = a + (b - a) * at_a / (at_a - at_b)
        at_x = f(x)
        if abs(at_x) < within or abs(b - a) <= 1e-12 * max(abs(a), abs(b)):
            return x
        if (at_x > 0.0) == (at_a > 0.0):
            a, at_a = x, at_x
            at_b *= 0.5 if kept == 1 else 1.0
            kept = 1
        else:
            b, at_b = x, at_x
            at_a *= 0.5 if kept == -1 else 1.0
            kept = -1
    return x


def last_had(had_at: Callable[[float], T | None], low: float, high: float, within: float) -> tuple[float, T] | None:
    """The highest place, to ``within``, where ``had_at`` gives something, and what it gives; None where it never does.

    Halving: ``had_at`` is asked between ``low`` and ``high`` only, and need not be smooth.
    """
    best: tuple[float, T] | None = None
    while high - low > within:
        x = 0.5 * (low + high)
        answer = had_at(x)
        if answer is None:
            high = x
        else:
            low, best = x, (x, answer)
    return best


def resting_place(
    after: Callable[[float], tuple[float, float, T]],
    x: float,
    low: float,
    high: float,
    near_enough: Callable[[float, float], bool],
    most: int,
) -> tuple[T, int]:
    """Where a map leaves a place as it is, what it gave there, and how often it was asked; at most ``most`` times.

    ``after`` gives the gap (place after less place before), the map's slope, and what else it found. Newton's steps,
    held between places known to lie on either side (W. H. Press et al., Numerical Recipes, 9.4, "rtsafe").
    """
    gap, slope, answer = after(x)
    asked = 1
    while asked < most and not near_enough(gap, slope):
        low, high = (x, high) if gap > 0 else (low, x)
        step = gap / (1.0 - slope) if slope < 1.0 - 1e-12 else math.inf
        x = x + step if low < x + step < high else 0.5 * (low + high)
        gap, slope, answer = after(x)
        asked += 1
    return answer, asked
