"""The difference of one figure between two sides, with its spread and the word that it deserves."""

import dataclasses
import enum
import math

from plinth.decide.cell import Cell, Value
from plinth.record.reading import Reading


class DifferenceWord(enum.StrEnum):
    """What is to be said; the values are the words."""

    DIFFERENCE = "a difference"
    ALIKE = "not told apart"
    SAME = "the same reading"
    NO_CHANGE = "predicted the same"
    PREDICTED = "predicted only"
    UNKNOWN_SPREAD = "not told: an accuracy is not stated"
    MIXED = "not held: one is read, one predicted"
    CLAIMED = "claimed only"
    NOTHING = ""


# Less than this share of the values is the solver's rest.
_NOTHING_SHARE = 1e-6
# The surest first.
_LAST = (DifferenceWord.SAME, DifferenceWord.NO_CHANGE, DifferenceWord.NOTHING)
_ORDER = {word: place for place, word in enumerate([*(word for word in DifferenceWord if word not in _LAST), *_LAST])}


@dataclasses.dataclass(frozen=True)
class Difference:
    """The second less the first, with its ``spread`` (half width of about 95 %; None: not known)."""

    word: DifferenceWord
    value: float | None = None
    spread: float | None = None

    @property
    def rank(self) -> tuple[int, float]:
        """By how sure it is, then by how large: the surest and largest first."""
        if self.value is None:
            return _ORDER[self.word], 0.0
        size = abs(self.value) / self.spread if self.spread else (math.inf if self.value else 0.0)
        return _ORDER[self.word], -size


def difference_of(first: Cell, second: Cell) -> Difference:
    """What the second is more than the first.

    Two readings of one instrument share the error of its scale: what it may be off by in proportion counts for the
    difference alone. What is read is never set against what is only predicted.
    """
    if first.read is not None and second.read is not None:
        assert first.reading is not None, "it was read"
        assert second.reading is not None, "it was read"
        return _of_readings(first.reading, second.reading)
    if first.reading is not None or second.reading is not None:
        other = second if first.reading is not None else first
        return Difference(DifferenceWord.MIXED if other.predicted is not None else DifferenceWord.NOTHING)
    if first.predicted is not None and second.predicted is not None:
        value, spread = _less(first.predicted, second.predicted)
        if abs(value) <= _NOTHING_SHARE * max(abs(first.predicted.value), abs(second.predicted.value)):
            return Difference(DifferenceWord.NO_CHANGE, 0.0, None)
        return Difference(DifferenceWord.PREDICTED, value, spread)
    known = [cell.claim is not None for cell in (first, second)]
    return Difference(DifferenceWord.CLAIMED if all(known) else DifferenceWord.NOTHING)


def _of_readings(first: Reading, second: Reading) -> Difference:
    if first is second or (first.taken_at == second.taken_at and first.value == second.value):
        return Difference(DifferenceWord.SAME, 0.0, None)
    off = second.value - first.value
    if first.u is None or second.u is None:
        return Difference(DifferenceWord.UNKNOWN_SPREAD, off, None)
    u = _u_beside(first, second, off) if first.beside(second) else math.hypot(first.u, second.u)
    told = abs(off) > 2.0 * u * (1.0 + 1e-9)
    return Difference(DifferenceWord.DIFFERENCE if told else DifferenceWord.ALIKE, off, 2.0 * u)


def _u_beside(first: Reading, second: Reading, off: float) -> float:
    """Standard uncertainty of a difference read with one instrument (GUM F.1.2: what is common cancels).

    The fixed parts (offset, digits) count twice, the share of the reading on the difference alone.
    """
    fixed = [(reading.number("meter_floor") or 0.0) / math.sqrt(3.0) for reading in (first, second)]
    shares = [
        max((reading.u or 0.0) - part, 0.0) / abs(reading.value) if reading.value else 0.0
        for reading, part in zip((first, second), fixed, strict=True)
    ]
    return math.hypot(*fixed, max(shares) * abs(off))


def _less(first: Value, second: Value) -> tuple[float, float | None]:
    """The difference and its spread: what both rest on counts by how differently they do (GUM F.1.2)."""
    off = second.value - first.value
    if first.u is None or second.u is None:
        return off, None
    names = {*first.shares, *second.shares}
    square = sum((second.shares.get(name, 0.0) - first.shares.get(name, 0.0)) ** 2 for name in names)
    for known in (first, second):
        # What of it has no name is each one's own.
        square += max((known.u or 0.0) ** 2 - sum(share**2 for share in known.shares.values()), 0.0)
    return off, 2.0 * math.sqrt(square)
