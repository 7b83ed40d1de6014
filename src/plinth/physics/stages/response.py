"""Frequency response: one corner at either end, and where measured points cross a level."""

import itertools
import math
from collections.abc import Sequence


def band_gain(f_hz: float, f_low_hz: float, f_high_hz: float) -> float:
    """Magnitude of a first-order high-pass and low-pass in series at ``f_hz``, 1 in mid band."""
    low = 1.0 / math.sqrt(1.0 + (f_low_hz / f_hz) ** 2)
    high = 1.0 / math.sqrt(1.0 + (f_hz / f_high_hz) ** 2)
    return low * high


def crossings_hz(f_hz: Sequence[float], level_db: Sequence[float], at_db: float = -3.0) -> list[float]:
    """Frequencies where the points, joined as corners run, cross ``at_db`` (below 0); empty if they never do.

    What is lost, 1/|H|^2 - 1 = 10^(-dB/10) - 1, of a low-pass of order n goes with f^2n, of a high-pass with f^-2n
    (Butterworth): between two points that both lose something the order is theirs, else it is the first. Straight
    lines over the decibels would be 10 % off where points lie an octave apart. ``f_hz`` rising; a point exactly at the
    level counts once.
    """
    points = list(zip(f_hz, level_db, strict=True))
    found: list[float] = []
    for (f0, a), (f1, b) in itertools.pairwise(points):
        if (a - at_db) * (b - at_db) < 0.0 or (b == at_db and a != at_db):
            found.append(_crossing_hz((f0, _lost(a)), (f1, _lost(b)), _lost(at_db)))
    return found


# Less than this lost is not told from nothing: 0.2 dB.
TOLD_LOST = 0.047


def _lost(db: float) -> float:
    return float(10.0 ** (-db / 10.0) - 1.0)


def _crossing_hz(left: tuple[float, float], right: tuple[float, float], lost: float) -> float:
    """Where (frequency, lost) joined by a power of frequency comes to ``lost``."""
    (f0, y0), (f1, y1) = left, right
    if min(y0, y1) > TOLD_LOST:
        power = math.log(y1 / y0) / math.log(f1 / f0)
        return float(f0 * (lost / y0) ** (1.0 / power))
    # Losing more upwards it is a low-pass, downwards a high-pass.
    power = 2.0 if y1 > y0 else -2.0
    share = (lost - y0) / (y1 - y0)
    return float((f0**power + share * (f1**power - f0**power)) ** (1.0 / power))
