"""What is connected on this bench: each instrument by its name, its address, its map, and where its leads are."""

import dataclasses
from typing import Any

from plinth.instruments.command_map import CommandMap
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.record.probe import Point

# Where the leads of each of these are, unless somebody says otherwise.
USUAL_POINTS: dict[InstrumentKind, tuple[Point, ...]] = {
    InstrumentKind.GENERATOR: (Point.INPUT,), InstrumentKind.DIGITISER: (Point.OUTPUT,),
    InstrumentKind.MULTIMETER: (Point.OUTPUT,), InstrumentKind.DC_SUPPLY: (Point.SUPPLY,),
    InstrumentKind.AC_SOURCE: (Point.WALL,), InstrumentKind.POWER_METER: (Point.WALL,),
    InstrumentKind.LOAD: (Point.OUTPUT,), InstrumentKind.THERMOMETER: (Point.SINK,),
}  # fmt: skip


@dataclasses.dataclass(frozen=True)
class Connected:
    """One instrument. ``name`` on this bench, ``identity`` as it says itself; ``channel`` whose (its key), if any's.

    Its leads are at ``points``: at several only where it switches between them itself.
    """

    name: str
    address: str
    own: CommandMap
    identity: str
    points: tuple[Point, ...]
    channel: str = ""

    @property
    def simulated(self) -> bool:
        """Whether a stand-in answers: what it gives is never a measurement."""
        return self.own.simulated

    def is_a(self, kind: InstrumentKind) -> bool:
        """Whether it is of that kind, among others."""
        return kind in self.own.kinds

    def can(self, action: Action) -> bool:
        """Whether its map knows that."""
        return self.own.can(action)

    @property
    def title(self) -> str:
        """Its name for a reading: what it says that it is, without what nobody reads."""
        return f"{self.own.name} ({self.name})"

    @property
    def instrument_id(self) -> str:
        """The very one, for what two readings share."""
        return f"{self.identity} {self.name}"[:64]

    def as_kept(self) -> dict[str, Any]:
        """What the workshop keeps of it."""
        return {
            "name": self.name, "address": self.address, "map": self.own.name, "identity": self.identity,
            "points": [str(point) for point in self.points], "channel": self.channel,
        }  # fmt: skip


@dataclasses.dataclass(frozen=True)
class Bench:
    """All that is connected."""

    instruments: tuple[Connected, ...] = ()

    @property
    def simulated(self) -> bool:
        """Whether any of it is a stand-in."""
        return any(each.simulated for each in self.instruments)

    def of_kind(self, kind: InstrumentKind) -> tuple[Connected, ...]:
        """Those of a kind."""
        return tuple(each for each in self.instruments if each.is_a(kind))

    def at(self, kind: InstrumentKind, point: Point, channel: str) -> Connected | None:
        """The first of a kind with its leads at that point (of that channel, where each has one of its own)."""
        for each in self.of_kind(kind):
            if point in each.points and (not point.of_channel or each.channel in (channel, "")):
                return each
        return None
