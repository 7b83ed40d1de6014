"""What ships as data: parts with their stock, builds, instruments, each read and held to its model."""

import importlib.resources
import tomllib
from typing import Any

from plinth.builds.build import Build
from plinth.builds.fields import part_fields
from plinth.builds.files import parse_build
from plinth.builds.parts import PART_KINDS, Part
from plinth.builds.properties import How, Told, value_at
from plinth.builds.stock import Stock

Entry = tuple[Part, Stock]
_FOLDER = importlib.resources.files("plinth.demo") / "data"
_GENERIC = "generic: no maker, usual values"


def document(name: str) -> dict[str, Any]:
    """A TOML file of the demo's. Raises FileNotFoundError, tomllib.TOMLDecodeError."""
    return tomllib.loads((_FOLDER / name).read_text(encoding="utf-8"))


def build(name: str) -> Build:
    """A build of the demo's, as files of builds are. Raises BuildFileError where it is none."""
    return parse_build((_FOLDER / "builds" / f"{name}.json").read_text(encoding="utf-8"), name)


def entries(name: str) -> tuple[Entry, ...]:
    """Parts in the order of their file, each with its stock; ``currency`` at its head is that of all prices.

    A part with ``usual = true`` has usual values, each marked as assumed; ``usual_but`` names the fields that are not.
    Raises KeyError for a kind that there is not, pydantic.ValidationError for a part that is not as its kind is.
    """
    whole = document(name)
    return tuple(_entry(dict(entry), str(whole.get("currency", ""))) for entry in whole["part"])


def _entry(table: dict[str, Any], currency: str) -> Entry:
    kind, stock = table.pop("kind"), table.pop("stock", {})
    usual, stated = table.pop("usual", False), table.pop("usual_but", ())
    part: Part = PART_KINDS[kind].model_validate(table)
    if usual or stated:
        part, stock = _all_assumed(part, stated), {"note": _GENERIC, "placeholder": True, **stock}
    if "prices" in stock:
        stock = {"currency": currency, **stock}
    return part, Stock.model_validate(stock)


def _all_assumed(part: Part, stated: list[str]) -> Part:
    """The part with every number but ``stated`` marked as the usual one."""
    facts = tuple(
        Told(field=field.path, how=How.ASSUMED, value=value_at(part, field.path), source="usual for its kind")
        for field in part_fields(part)
        if field.number and field.path not in stated and value_at(part, field.path) is not None
    )
    return part.model_copy(update={"told": facts})
