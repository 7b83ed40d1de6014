"""What would tell most next: the reading whose difference stands out most of its meter, or one change at a time."""

import dataclasses
import math
from collections.abc import Callable, Sequence

from plinth.builds.instruments import Role
from plinth.decide.changes import Changes
from plinth.decide.difference import DifferenceWord
from plinth.decide.side import LETTERS
from plinth.decide.side_by_side import FigureRow, SideBySide
from plinth.units.shown import shown

# Standard uncertainty of a value read in a role, in its unit; None where nobody states the accuracy.
UncertaintyOf = Callable[[Role, float], float | None]
# A difference so many uncertainties large can be told apart.
TOLD = 2.0


@dataclasses.dataclass(frozen=True)
class NextReading:
    """``row`` the figure, ``places`` of which sides it is to be read, the ``expected`` difference.

    ``stands_out`` how many times that is the standard uncertainty of the difference of two readings of it.
    """

    row: FigureRow
    places: tuple[int, ...]
    expected: float
    stands_out: float

    @property
    def sentence(self) -> str:
        """What to read, and what it would tell."""
        whom = " and ".join(LETTERS[place] for place in self.places)
        size = shown(abs(self.expected), self.row.unit)
        label = f"{self.row.label[:1].lower()}{self.row.label[1:]}"
        told = (
            f"the {size} between them would stand {self.stands_out:.0f} times over what the meter is unsure of"
            if self.stands_out >= TOLD
            else f"even so the {size} between them would hardly stand out of what the meter is unsure of"
        )
        return f"Would tell most: {label}, read of {whom}; {told}."


def next_reading(shown_sides: SideBySide, can_read: Sequence[bool], u_of: UncertaintyOf) -> NextReading | None:
    """Of the pair that is looked at: what is not read of both yet, would differ most for its meter, and can be read.

    ``can_read`` says of each side whether it stands on the bench: an older version is gone.
    """
    candidates = [
        reading
        for row in shown_sides.rows
        if row.difference.word in (DifferenceWord.MIXED, DifferenceWord.PREDICTED)
        and (reading := _reading(row, shown_sides.pair, can_read, u_of)) is not None
    ]
    return max(candidates, key=lambda reading: reading.stands_out, default=None)


def _reading(
    row: FigureRow, pair: tuple[int, int], can_read: Sequence[bool], u_of: UncertaintyOf
) -> NextReading | None:
    if row.role is None:
        return None
    first, second = (row.cells[place] for place in pair)
    places = tuple(place for place in pair if row.cells[place].read is None)
    if first.best is None or second.best is None or not places or not all(can_read[place] for place in places):
        return None
    expected = second.best.value - first.best.value
    # One that is read already tells what its meter is unsure of.
    read = [value.u for value in (first.read, second.read) if value is not None and value.u is not None]
    u = read[0] if read else u_of(row.role, max(abs(first.best.value), abs(second.best.value)))
    if u is None or u <= 0.0 or expected == 0.0:
        return None
    return NextReading(row, places, expected, abs(expected) / (math.sqrt(2.0) * u))


def next_change(changes: Changes | None, shown_sides: SideBySide) -> str:
    """Where several things were changed at once: which to take back alone, and what to read then; empty else."""
    if changes is None:
        return ""
    things = list(dict.fromkeys(thing.partition(":")[0] for thing, _, _ in changes.changed))
    if len(things) < 2:
        return ""
    told = next((row for row in shown_sides.rows if row.differs and row.role is not None), None)
    read = "" if told is None else f", and read {told.label[:1].lower()}{told.label[1:]} again"
    return f"To tell them apart, take back {things[0].lower()} alone{read}."
