"""Frequency response: one corner at either end, and where measured points cross a level."""

import math
from collections.abc import Sequence


def band_gain(f_hz: float, f_low_hz: float, f_high_hz: float) -> float:
    """Magnitude of a first-order high-pass and low-pass in series at ``f_hz``, 1 in mid band."""
    low = 1.0 / math.sqrt(1.0 + (f_low_hz / f_hz) ** 2)
    high = 1.0 / math.sqrt(1.0 + (f_hz / f_high_hz) ** 2)
    return low * high


def crossings_hz(f_hz: Sequence[float], level_db: Sequence[float], at_db: float = -3.0) -> list[float]:
    """Frequencies where the points, joined over log frequency, cross ``at_db``; empty if they never do.

    ``f_hz`` rising. A point exactly at the level counts once.
    """
    found: list[float] = []
    for (f0, a), (f1, b) in zip(
        zip(f_hz, level_db, strict=True), list(zip(f_hz, level_db, strict=True))[1:], strict=False
    ):
        if (a - at_db) * (b - at_db) < 0.0 or (b == at_db and a != at_db):
            share = (at_db - a) / (b - a)
            found.append(math.exp(math.log(f0) + share * (math.log(f1) - math.log(f0))))
    return found
