"""What is known of a part, property by property: stated, measured, estimated, assumed or unknown, with its source.

The field of a part holds the value in force; ``told`` holds what was told of it, each with its source, so that a
measured value that outranks a stated one does not make it forgotten.
"""

import enum
from collections.abc import Collection
from typing import Any, Literal, TypeVar

from pydantic import BaseModel, Field

from plinth.builds.quantities import Fraction, Model, Name


class How(enum.StrEnum):
    """How a property is known, the best first."""

    MEASURED = "measured"
    STATED = "stated"
    ESTIMATED = "estimated"
    ASSUMED = "assumed"
    UNKNOWN = "unknown"

    @property
    def trusted(self) -> bool:
        """Whether somebody stands for the value: neither an estimate nor an assumption."""
        return self in (How.MEASURED, How.STATED)


_RANK = tuple(How)


class Told(Model):
    """What was told of the property at (dotted) ``field``: how it is known, its value, where from, and a note.

    ``tol`` how far the value may be off, as a relative bound; None: as the part's own tolerance says.
    """

    field: Name
    how: Literal[How.MEASURED, How.STATED, How.ESTIMATED, How.ASSUMED]
    value: float | bool | str
    tol: Fraction | None = None
    source: str = Field(default="", max_length=400)
    note: str = Field(default="", max_length=2000)


def _empty(value: object) -> bool:
    return not value


class PartModel(Model):
    """Base of all parts. ``key`` what it is known by whatever it is called; empty: by the name it was begun with."""

    name: Name
    key: str = Field(default="", max_length=120, exclude_if=_empty)
    told: tuple[Told, ...] = Field(default=(), exclude_if=_empty)

    @property
    def identity(self) -> str:
        """What records know it by; a part keeps it when it is renamed."""
        return self.key or self.name


def unused(key: str, taken: Collection[str]) -> str:
    """A key like ``key`` that nothing else is known by."""
    free, number = key, 1
    while free in taken:
        number += 1
        free = f"{key}~{number}"
    return free


PartT = TypeVar("PartT", bound=PartModel)


def value_at(part: BaseModel, path: str) -> Any:
    """The value of a (dotted) field."""
    value: object = part
    for name in path.split("."):
        value = getattr(value, name)
    return value


def known_of(part: PartModel, path: str) -> tuple[Told, ...]:
    """All that was told of a property, the best first."""
    return tuple(
        sorted((fact for fact in part.told if fact.field == path), key=lambda fact: _RANK.index(How(fact.how)))
    )


def how_known(part: PartModel, path: str) -> How:
    """How the value in force of a property is known.

    Where nothing was told, a value is stated by whoever made the part; one that is only the usual one is assumed.
    """
    known = known_of(part, path)
    if known:
        return How(known[0].how)
    value = value_at(part, path)
    if value is None:
        return How.UNKNOWN
    owner: BaseModel = part
    *steps, last = path.split(".")
    for step in steps:
        owner = getattr(owner, step)
    usual = type(owner).model_fields[last].default
    return How.ASSUMED if isinstance(usual, float) and value == usual else How.STATED


def is_stated(part: PartModel, path: str) -> bool:
    """Whether somebody stands for the value in force: it was stated or measured."""
    return how_known(part, path).trusted


def doubt_words(part: PartModel, path: str) -> str:
    """`` (assumed)`` or `` (estimated)`` behind a value that nobody stands for; empty behind any other."""
    how = how_known(part, path)
    return "" if how.trusted or how is How.UNKNOWN else f" ({how})"


def with_told(part: PartT, told: Told) -> PartT:
    """The part with this known of it: in place of what the same ``how`` told before; the best one is in force.

    Raises pydantic.ValidationError where the value cannot be.
    """
    others = tuple(fact for fact in part.told if (fact.field, fact.how) != (told.field, told.how))
    unsourced = not known_of(part, told.field) and how_known(part, told.field) is How.STATED
    if unsourced and told.how != How.STATED:
        # What stood there without a word of its source is not forgotten.
        others = (*others, Told(field=told.field, how=How.STATED, value=value_at(part, told.field)))
    return _in_force(part, told.field, (*others, told))


def without_told(part: PartT, path: str, how: How) -> PartT:
    """The part without what ``how`` told of a property; the next best is then in force, else it is unknown.

    Raises pydantic.ValidationError where it may not be unknown.
    """
    return _in_force(part, path, tuple(fact for fact in part.told if (fact.field, fact.how) != (path, how)))


def _in_force(part: PartT, path: str, told: tuple[Told, ...]) -> PartT:
    document = part.model_dump()
    document["told"] = [fact.model_dump() for fact in told]
    best = min((fact for fact in told if fact.field == path), key=lambda fact: _RANK.index(How(fact.how)), default=None)
    target = document
    *steps, last = path.split(".")
    for step in steps:
        target = target[step]
    target[last] = None if best is None else best.value
    return type(part).model_validate(document)
