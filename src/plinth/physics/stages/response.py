"""Frequency response: one corner at either end, and where measured points cross a level."""

import dataclasses
import itertools
import math
from collections.abc import Sequence


def band_gain(f_hz: float, f_low_hz: float, f_high_hz: float) -> float:
    """Magnitude of a first-order high-pass and low-pass in series at ``f_hz``, 1 in mid band."""
    low = 1.0 / math.sqrt(1.0 + (f_low_hz / f_hz) ** 2)
    high = 1.0 / math.sqrt(1.0 + (f_hz / f_high_hz) ** 2)
    return low * high


@dataclasses.dataclass(frozen=True)
class Crossing:
    """Where points cross a level, Hz, and its standard uncertainty."""

    f_hz: float
    u_hz: float


def crossings(
    f_hz: Sequence[float], level_db: Sequence[float], at_db: float = -3.0, u_db: Sequence[float] | None = None
) -> list[Crossing]:
    """Where the points, joined as corners run, cross ``at_db`` (below 0); empty if they never do.

    What is lost, 1/|H|^2 - 1 = 10^(-dB/10) - 1, of a low-pass of order n goes with f^2n, of a high-pass with f^-2n
    (Butterworth): between two points that both lose something the order is theirs, else it is the first. Straight
    lines over the decibels would be 10 % off where points lie an octave apart. ``f_hz`` rising; a point exactly at the
    level counts once. The spread is that of the points (``u_db``, standard, none where left out), and of what runs
    between them: an order that is not told, or a bend from the first order on to theirs.
    """
    u = [0.0] * len(f_hz) if u_db is None else list(u_db)
    crossed: list[Crossing] = []
    for (f0, a, u_a), (f1, b, u_b) in itertools.pairwise(zip(f_hz, level_db, u, strict=True)):
        if (a - at_db) * (b - at_db) < 0.0 or (b == at_db and a != at_db):
            at = _crossing_hz((f0, _lost(a)), (f1, _lost(b)), _lost(at_db))
            square = _bend_hz((f0, _lost(a)), (f1, _lost(b)), _lost(at_db), at) ** 2
            for moved_a, moved_b in ((a + u_a, b), (a, b + u_b)):
                # Moved beyond the level a point no longer brackets it: its edge is as far as it can be.
                clear_a, clear_b = (_beside(at_db, moved, was) for moved, was in ((moved_a, a), (moved_b, b)))
                square += (_crossing_hz((f0, _lost(clear_a)), (f1, _lost(clear_b)), _lost(at_db)) - at) ** 2
            crossed.append(Crossing(at, math.sqrt(square)))
    return crossed


# Less than this lost is not told from nothing: 0.2 dB.
TOLD_LOST = 0.047
# Orders that a corner may have where its points do not tell: one, two, three.
_ORDERS = (1, 2, 3)


def _lost(db: float) -> float:
    return float(10.0 ** (-db / 10.0) - 1.0)


def _beside(at_db: float, moved: float, was: float) -> float:
    """A moved level, still on its own side of ``at_db``."""
    return max(moved, at_db) if was >= at_db else min(moved, at_db)


def _crossing_hz(left: tuple[float, float], right: tuple[float, float], lost: float) -> float:
    """Where (frequency, lost) joined by a power of frequency comes to ``lost``."""
    (f0, y0), (_, y1) = left, right
    if min(y0, y1) > TOLD_LOST:
        return float(f0 * (lost / y0) ** (1.0 / _power(left, right)))
    # Losing more upwards it is a low-pass, downwards a high-pass.
    return _of_order(left, right, lost, 2.0 if y1 > y0 else -2.0)


def _of_order(left: tuple[float, float], right: tuple[float, float], lost: float, power: float) -> float:
    (f0, y0), (f1, y1) = left, right
    share = (lost - y0) / (y1 - y0)
    return float((f0**power + share * (f1**power - f0**power)) ** (1.0 / power))


def _power(left: tuple[float, float], right: tuple[float, float]) -> float:
    """Of which power of frequency the loss goes between two points that both lose something."""
    return math.log(right[1] / left[1]) / math.log(right[0] / left[0])


def _bend_hz(left: tuple[float, float], right: tuple[float, float], lost: float, at: float) -> float:
    """Standard uncertainty of a crossing by what runs between its two points."""
    (f0, y0), (f1, y1) = left, right
    if min(y0, y1) <= TOLD_LOST:
        sign = 1.0 if y1 > y0 else -1.0
        ends = [_of_order(left, right, lost, sign * 2.0 * order) for order in _ORDERS]
        # The first order is the likeliest, and the end that is taken.
        return (max(ends) - min(ends)) / math.sqrt(3.0)
    power = abs(_power(left, right))
    width, way = math.log(f1 / f0), math.log(at / f0) / math.log(f1 / f0)
    # A loss whose order rises evenly from the first to as much above this one lies below its chord: in logarithms by
    # a parabola of an eighth of what its slope changes over the width.
    sag = 4.0 * way * (1.0 - way) * abs(power - 2.0) * 2.0 * width / 8.0
    return at * sag / max(power, 1.0) / math.sqrt(3.0)
