"""Up to four sides under each other: one row a figure, the difference of two of them with its word."""

import dataclasses
from collections.abc import Callable, Sequence
from functools import partial

from plinth.bench.sheet import Graph
from plinth.builds.instruments import Role
from plinth.decide.cell import Cell
from plinth.decide.difference import Difference, DifferenceWord, difference_of
from plinth.decide.gather import Entry, gather
from plinth.decide.overlays import overlays_of
from plinth.decide.side import MOST_SIDES, Side
from plinth.physics.numbers.errors import PhysicsError

_NOTHING = Cell()
_ALIKE = (DifferenceWord.SAME, DifferenceWord.NO_CHANGE, DifferenceWord.NOTHING, DifferenceWord.ALIKE)


@dataclasses.dataclass(frozen=True)
class FigureRow:
    """One figure of all sides; ``difference`` of the pair that is looked at (the second less the first).

    ``role`` who reads it (None: nobody does), ``subject`` what its readings are of.
    """

    key: str
    label: str
    unit: str
    cells: tuple[Cell, ...]
    difference: Difference
    role: Role | None = None
    subject: str = ""

    @property
    def scale(self) -> tuple[float, float]:
        """Ends of one ruler that holds every side."""
        ends = [end for cell in self.cells for end in cell.ends]
        if not ends:
            return 0.0, 1.0
        low, high = min(ends), max(ends)
        room = 0.12 * (high - low) or 0.1 * abs(high) or 1.0
        return low - room, high + room

    @property
    def differs(self) -> bool:
        """Whether a difference can be told of it, sure or predicted."""
        if self.difference.word in (
            DifferenceWord.SAME,
            DifferenceWord.NO_CHANGE,
            DifferenceWord.NOTHING,
            DifferenceWord.ALIKE,
        ):
            return False
        return self.difference.value not in (None, 0.0)


@dataclasses.dataclass(frozen=True)
class SideBySide:
    """``sides`` as they stand; ``pair`` the two whose difference is told; ``problems`` of those that cannot run.

    ``overlays`` what is laid over each other, by title; empty curves where nothing is known of it.
    """

    sides: tuple[Side, ...]
    rows: tuple[FigureRow, ...]
    pair: tuple[int, int]
    problems: tuple[str, ...] = ()
    overlays: tuple[Graph, ...] = ()


def side_by_side(
    sides: Sequence[Side], pair: tuple[int, int] | None = None, go_on: Callable[[float], bool] = lambda _share: True
) -> SideBySide:
    """Every figure of two to four sides, those first whose difference is surest and largest.

    A side that cannot run stands there without figures. Raises ValueError for other counts, PhysicsError where
    ``go_on``, told the share done, says no.
    """
    if not 2 <= len(sides) <= MOST_SIDES:
        raise ValueError(f"found {len(sides)} to be held side by side, expected 2 to {MOST_SIDES}")
    pair = pair or (len(sides) - 2, len(sides) - 1)
    gathered: list[dict[str, Entry]] = []
    problems = []
    for place, side in enumerate(sides):
        try:
            entries = gather(side, partial(_part, go_on, place, len(sides)))
        except PhysicsError as error:
            if not go_on((place + 1) / len(sides)):
                raise
            entries = ()
            problems.append(f"{side.name} cannot run: {error}.")
        gathered.append({entry.key: entry for entry in entries})
    keys = dict.fromkeys(key for entries in gathered for key in entries)
    rows = [_row(key, gathered, pair) for key in keys]
    rows.sort(key=lambda row: row.difference.rank)
    return SideBySide(tuple(sides), tuple(rows), pair, tuple(problems), overlays_of(tuple(sides)))


def _part(go_on: Callable[[float], bool], place: int, count: int, share: float) -> bool:
    """Whether to go on at a share of one of so many."""
    return go_on((place + share) / count)


def _row(key: str, gathered: Sequence[dict[str, Entry]], pair: tuple[int, int]) -> FigureRow:
    first = next(entries[key] for entries in gathered if key in entries)
    cells = tuple(entries[key].cell if key in entries else _NOTHING for entries in gathered)
    return FigureRow(
        key, first.label, first.unit, cells=cells, difference=difference_of(cells[pair[0]], cells[pair[1]]),
        role=first.role, subject=first.subject,
    )  # fmt: skip
