"""What is stated or measured of each part, as short rows; what nobody stated, named once at the end."""

import dataclasses

from plinth.builds.build import Build
from plinth.builds.fields import in_sentence, part_fields
from plinth.builds.listed import LISTED
from plinth.builds.parts import Part
from plinth.builds.properties import known_of, value_at
from plinth.builds.small_part import SmallPart
from plinth.builds.stations import is_there, part_in, stations
from plinth.units.shown import shown

# Choices that are no words by themselves.
_CHOICES = {"ei": "E-I core", "class_ab": "class AB", "class_a": "class A", "class_d": "class D"}


@dataclasses.dataclass(frozen=True)
class StatedRow:
    """One thing stated of a part: what, how much, and how it is known (empty: as its maker states it)."""

    words: str
    value: str
    how: str


@dataclasses.dataclass(frozen=True)
class StatedPart:
    """A part with its station; ``missing`` what nobody stated of it."""

    station: str
    name: str
    maker: str
    rows: tuple[StatedRow, ...]
    missing: tuple[str, ...]


def stated_parts(build: Build) -> tuple[StatedPart, ...]:
    """Every part of a build along the path, each once for each place that it stands in."""
    return tuple(
        _stated(station.title, part_in(build, slot))
        for station in stations(build)
        for slot in station.slots
        if is_there(build, slot)
    ) + tuple(_small(part) for part in build.small_parts if part.fitted)


def _small(part: SmallPart) -> StatedPart:
    where = "for the build" if part.place == "build" else f"for each {part.place}"
    rows = [StatedRow("How many", f"{part.count} {where}", "")]
    if part.instead_of:
        rows.append(StatedRow("Instead of", part.instead_of, ""))
    return StatedPart("Module" if part.place == "module" else "Small part", part.name, "", tuple(rows), ())


def _stated(station: str, part: Part) -> StatedPart:
    rows, missing = [], []
    for field in part_fields(part):
        if field.path in ("name", "maker"):
            continue
        value = value_at(part, field.path)
        how = _how(part, field.path)
        if field.path in LISTED:
            if value:
                rows.append(StatedRow(field.words, LISTED[field.path][0](value), how))
        elif value is None:
            missing.append(in_sentence(field.words))
        elif value not in ("", ()):
            rows.append(StatedRow(field.words, _value(value, field.unit, per_cent=field.per_cent), how))
    return StatedPart(station, part.name, getattr(part, "maker", ""), tuple(rows), tuple(missing))


def _value(value: object, unit: str, *, per_cent: bool) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{100 * value:g} %" if per_cent else shown(value, unit)
    return _CHOICES.get(str(value), str(value).replace("_", " "))


def _how(part: Part, path: str) -> str:
    """How a property is known, where that was told: ``measured: own meter``."""
    known = known_of(part, path)
    return "" if not known else f"{known[0].how}{': ' if known[0].source else ''}{known[0].source}"
