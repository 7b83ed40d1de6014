"""Watts into every load from every source, claimed, predicted and read: one page."""

import dataclasses
from collections.abc import Sequence

from plinth.bench.clip_cell import ClipCell, claim_of, clip_cell, clip_places, further_cells
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.judge.state import worst
from plinth.physics.numbers.errors import PhysicsError
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.units.shown import shown, shown_with_spread

NONE = "–"


@dataclasses.dataclass(frozen=True)
class SourceCell:
    """One load from one source: predicted watts with spread (a dash where it cannot run so), and what was read.

    ``read`` of each channel its name and watts; ``state`` the worst verdict of them, empty where nothing was read.
    """

    predicted: str
    read: tuple[tuple[str, str], ...] = ()
    state: str = ""


@dataclasses.dataclass(frozen=True)
class LoadRow:
    """One load, and who plays; ``claimed`` by the listing, a cell for each source."""

    load: str
    who: str
    claimed: str
    cells: tuple[SourceCell, ...]


@dataclasses.dataclass(frozen=True)
class PowerTable:
    """``sources`` in the order of their rails; ``readings`` those that stand in its cells."""

    sources: tuple[str, ...]
    rows: tuple[LoadRow, ...]
    readings: tuple[Reading, ...]


def power_table(
    build: Build, situation: Situation, book: RecordBook, own_sources_v: Sequence[float] = ()
) -> PowerTable:
    """Every dummy load, one channel and all of them, from the source as it is and from the own ones.

    Where there are none: from the source as low and as high as it may be.
    """
    channel = build.channels[0]
    near: list[ClipCell] = []
    for who, load in clip_places(build):
        try:
            near.append(clip_cell(build, channel, situation, who, load))
        except PhysicsError:
            continue
    cells = [*near, *further_cells(tuple(near), build, situation, own_sources_v)]
    rails = {cell.source: cell.prediction["rail_no_load_v"].value for cell in cells}
    sources = tuple(sorted(rails, key=lambda source: rails[source]))
    held: list[Reading] = []
    rows = []
    for who, load in clip_places(build):
        row = {cell.source: cell for cell in cells if (cell.driven, cell.load) == (who, load)}
        claim = next((claim_of(cell) for cell in row.values()), None)
        rows.append(
            LoadRow(
                f"{load.r_ohm:g} Ω", "one channel" if who == "one" else "all channels",
                NONE if claim is None else shown(claim.power_w, "W"),
                tuple(_cell(row.get(source), build, book, held) for source in sources),
            )
        )  # fmt: skip
    return PowerTable(sources, tuple(rows), tuple(held))


def _cell(cell: ClipCell | None, build: Build, book: RecordBook, held: list[Reading]) -> SourceCell:
    if cell is None:
        return SourceCell("cannot run so")
    read, states = [], []
    for channel in build.channels:
        own = dataclasses.replace(cell, channel=channel)
        record = book.counting(own.subject, own.conditions)
        if isinstance(record, Reading):
            held.append(record)
            read.append((channel, _watts(record)))
            states.append(record.state)
    state = str(worst(states)) if states else ""
    return SourceCell(shown_with_spread(cell.power.value, cell.power.spread, "W"), tuple(read), state)


def _watts(reading: Reading) -> str:
    number = shown(reading.value, "W") if reading.u is None else shown_with_spread(reading.value, 2.0 * reading.u, "W")
    return f"{reading.bound.sign}{number}"
