"""The eight stations of the power path, and which part of a build stands in each."""

import dataclasses
from typing import Any, cast

from plinth.builds.build import Build
from plinth.builds.parts import Part
from plinth.builds.properties import unused
from plinth.builds.station import Station
from plinth.builds.supplies import kind_with

STATIONS = (
    Station("wall", "Wall", ("mains",)),
    Station("entry", "Entry", ("entry", "trigger")),
    Station("transformer", "Transformer", ("supply.transformer",)),
    Station("reservoir", "Rectifier, reservoir", ("supply.reservoir", "supply.rectifier")),
    Station("rails", "Rails", ("hookup",)),
    Station("module", "Module", ("module", "sink", "insulator", "preamplifier", "volume")),
    Station("protection", "Protection", ("protection", "relay_supply")),
    Station("load", "Load", ("load", "cable")),
)

_EXTRAS = ("supply.reservoir_minus", "supply.smoothing")
_INPUT_SLOTS = tuple(f"supply.input_supply.{part}" for part in ("transformer", "rectifier", "reservoir", "regulator"))


def station(build: Build, key: str) -> Station:
    """The station of that key in this build; KeyError if there is none."""
    by_key = {place.key: place for place in (*STATIONS, *build.supply.stations)}[key]
    if key == "reservoir":
        extras = tuple(slot for slot in _EXTRAS if _at(build, slot) is not None)
        return dataclasses.replace(by_key, slots=by_key.slots + extras)
    if key == "rails" and build.supply.input_supply is not None:
        return dataclasses.replace(by_key, slots=(*_INPUT_SLOTS, *by_key.slots))
    return by_key


def stations(build: Build) -> tuple[Station, ...]:
    """All eight stations of this build, wall to load."""
    return tuple(station(build, place.key) for place in STATIONS)


def part_in(build: Build, slot: str) -> Part:
    """The part in a slot such as ``supply.transformer`` or ``load``."""
    return cast("Part", _at(build, slot))  # a slot names a part by construction


def is_there(build: Build, slot: str) -> bool:
    """Whether something stands in a slot, or only the word that nothing does."""
    return bool(getattr(part_in(build, slot), "fitted", True))


def _at(build: Build, slot: str) -> object:
    held: object = build
    for name in slot.split("."):
        held = getattr(held, name)
    return held


def with_part(build: Build, slot: str, part: Part, *, changed: bool = False) -> Build:
    """The build with another part in ``slot``, validated anew. Raises pydantic.ValidationError.

    ``changed``: it is the same thing, of which other things are stated.

    A transformer of another winding kind takes a rectifier arrangement with it that fits: two secondaries
    keep either, a centre tap or a single winding goes to one bridge. A part of another kind of supply (a switcher in
    the transformer's place) brings that kind of supply, with the reservoir that was there.
    """
    document = build.model_dump()
    supply = document["supply"]
    brought = _supply_brought_by(part, supply)
    if slot.startswith("supply.") and slot.count(".") == 1 and brought is not None:
        document["supply"] = supply = brought
    else:
        target = document
        *path, last = slot.split(".")
        for name in path:
            target = target[name]
        target[last] = part.model_dump()
    if slot == "load" and document["loads"]:
        _follow_load(document, build.load.model_dump(), changed=changed)
    if slot != "supply.rectifier" and supply["kind"] == "linear" and supply["transformer"]["secondaries"] != "two":
        supply["rectifier"]["bridges"] = "one"
    return Build.model_validate(document)


def _follow_load(document: dict[str, Any], before: dict[str, Any], *, changed: bool) -> None:
    """The dummy loads of the build hold the one in the station: ``changed`` in place, else put beside the others."""
    after, loads = document["load"], list(document["loads"])
    known = [_identity(load) for load in loads]
    place = _identity(before if changed else after)
    if not changed and place in known and loads[known.index(place)]["name"] != after["name"]:
        # What was renamed since keeps its records; this is another thing.
        document["load"] = after = after | {"key": unused(place, known)}
        place = after["key"]
    if place in known:
        loads[known.index(place)] = after
    else:
        loads.append(after)
    document["loads"] = loads


def _identity(part: dict[str, Any]) -> str:
    return str(part.get("key") or part["name"])


def _supply_brought_by(part: Part, supply: dict[str, Any]) -> dict[str, Any] | None:
    """The supply that a part makes by itself, where it is of another kind than the one there."""
    kind = kind_with(part)
    if kind is None or not kind.comes_with_source or kind.key() == supply["kind"]:
        return None
    return kind.document_with(part.model_dump(), supply)
