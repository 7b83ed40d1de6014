"""The eight stations of the power path, and which part of a build stands in each."""

import dataclasses
from typing import cast

from plinth.builds.build import Build
from plinth.builds.parts import Part


@dataclasses.dataclass(frozen=True)
class Station:
    """``key`` in code and file, ``title`` on the screen, ``slots`` the parts that stand there."""

    key: str
    title: str
    slots: tuple[str, ...]


STATIONS = (
    Station("wall", "Wall", ("mains",)),
    Station("entry", "Entry", ("entry",)),
    Station("transformer", "Transformer", ("supply.transformer",)),
    Station("reservoir", "Rectifier, reservoir", ("supply.reservoir", "supply.rectifier")),
    Station("rails", "Rails", ()),
    Station("module", "Module", ("module", "sink")),
    Station("protection", "Protection", ("protection",)),
    Station("load", "Load", ("load",)),
)


def station(key: str) -> Station:
    """The station of that key; KeyError if there is none."""
    return next(s for s in STATIONS if s.key == key)


def part_in(build: Build, slot: str) -> Part:
    """The part in a slot such as ``supply.transformer`` or ``load``."""
    found: object = build
    for name in slot.split("."):
        found = getattr(found, name)
    return cast("Part", found)  # a slot names a part by construction


def with_part(build: Build, slot: str, part: Part) -> Build:
    """The build with another part in ``slot``, validated anew. Raises pydantic.ValidationError.

    A transformer of another winding kind takes a rectifier arrangement with it that fits: two secondaries
    keep either, a centre tap goes to one bridge.
    """
    document = build.model_dump()
    target = document
    *path, last = slot.split(".")
    for name in path:
        target = target[name]
    target[last] = part.model_dump()
    supply = document["supply"]
    if (
        slot == "supply.transformer"
        and supply["transformer"]["secondaries"] == "centre_tap"
        and supply["rectifier"]["bridges"] == "two"
    ):
        supply["rectifier"]["bridges"] = "one"
    return Build.model_validate(document)
