"""The least value of a sampled waveform, between its samples."""

import math

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def least_by_parabola(samples: Array) -> tuple[int, float]:
    """Index of the least sample and the least value, a parabola laid through it and its neighbours."""
    k = int(samples.argmin())
    if 0 < k < len(samples) - 1:
        before, here, after = samples.item(k - 1), samples.item(k), samples.item(k + 1)
        bend = before - 2.0 * here + after
        if bend > 0.0:
            return k, here - (after - before) ** 2 / (8.0 * bend)
    return k, samples.item(k)


def least_of_period(samples: Array) -> float:
    """The least value of one period (its first instant repeated at the end), corners included.

    A rail turns upward in a corner, where a diode begins to conduct. The parabola through three samples left of an
    interval and that through three right of it are each right up to the corner, which lies where they cross.
    """
    n, k = len(samples) - 1, int(samples[:-1].argmin())
    least = samples.item(k)
    if n < 8:
        return least
    near = [samples.item(i % n) for i in range(k - 3, k + 4)]
    return min(least, _least_between(near[:6]), _least_between(near[1:]))


def most_of_period(samples: Array) -> float:
    """The greatest value of one period, as ``least_of_period``."""
    return -least_of_period(-samples)


def _least_between(near: list[float]) -> float:
    """Between the third and the fourth of six samples, the least of the higher of both parabolas."""
    a, b, c, d, e, f = near
    # As c0 + c1 x + c2 x^2 over x from 0 at the third to 1 at the fourth.
    bend, turned = 0.5 * (a - 2.0 * b + c), 0.5 * (d - 2.0 * e + f)
    left = (c, c - b + bend, bend)
    slope = d - e + turned
    right = (d + slope + turned, -slope - 2.0 * turned, turned)
    at = [0.0, 1.0, *_turning(left), *_turning(right), *_crossings(left, right)]
    return min(max(_value(left, x), _value(right, x)) for x in at)


_Parabola = tuple[float, float, float]


def _value(p: _Parabola, x: float) -> float:
    return p[0] + x * (p[1] + x * p[2])


def _turning(p: _Parabola) -> list[float]:
    x = -0.5 * p[1] / p[2] if p[2] else -1.0
    return [x] if 0.0 < x < 1.0 else []


def _crossings(p: _Parabola, q: _Parabola) -> list[float]:
    c0, c1, c2 = (first - other for first, other in zip(p, q, strict=True))
    if abs(c2) < 1e-12 * abs(c1):
        places = [-c0 / c1]
    else:
        under = c1 * c1 - 4.0 * c0 * c2
        if c2 == 0.0 or under < 0.0:
            return []
        # The larger root first, the other from their product, so that neither loses its digits.
        far = -0.5 * (c1 + math.copysign(math.sqrt(under), c1))
        places = [far / c2, *([c0 / far] if far else [])]
    return [x for x in places if 0.0 < x < 1.0]
