"""What is typed along the shelf as a part of its own: ``2x18 160VA``, ``10m 50V``, ``8R2 100W``.

Its figures are stated by whoever types them; the rest is that of the plain part next to it, and assumed.
"""

import math
import re
from collections.abc import Mapping, Sequence

import pydantic

from plinth.builds.modules import MODULE_KINDS
from plinth.builds.parts import Load, Part
from plinth.builds.properties import How, PartModel, PartT, Told, value_at
from plinth.builds.supply_parts import BenchPair, MainsSwitcher, Reservoir, Transformer
from plinth.shelf.columns import MEANT, SIZE
from plinth.shelf.query import LONGEST, number_of, scaled, tokens
from plinth.shelf.usual_series import usual_series
from plinth.units.prefixes import PREFIXES

Value = float | str
SOURCE = "as typed"
# Figures that are computed of others, and what is stated in their place.
_STATED_AS = {"p_carried_w": "p_rated_w", "to_air_k_per_w": "r_k_per_w"}
_WOUND = {1: "one", 2: "two"}
_CORES = {"toroid": "toroid", "toroidal": "toroid", "ring": "toroid", "ei": "ei"}
# So many cans in a bag: one a rail, or so many a rail.
_CANS = re.compile(r"(?P<count>[2-8])\s*[x×*]\s*(?P<rest>\d+(?:[.,]\d+)?\s*[uµμmn]F?(?![\w]).*)", re.IGNORECASE)
# What is taken from the part that is fitted, as far as the series has it.
_OF_THE_FITTED = ("va", "v_primary_rms", "v_rated", "p_rated_w")
# How much less a figure counts that nobody typed, where the plain part next to it is looked for.
_UNTYPED = 0.05


def as_typed(text: str, kinds: Sequence[type[Part]], fitted: Part | None = None) -> tuple[Part, ...]:
    """The parts that a text may mean, of the kind that is ``fitted``; none where it states no figure, or asks for some.

    Two where a count of cans is typed: so many rails with one each, or so many on each rail.
    """
    if any(each in MODULE_KINDS for each in kinds):
        # A board is more than its rail and its amperes.
        return ()
    kind: type[Part] = next((each for each in kinds if type(fitted) is each), kinds[0])
    text = " ".join(text[:LONGEST].split())
    cans = _CANS.fullmatch(text) if kind is Reservoir else None
    if cans is not None:
        each, count = _part_of(cans["rest"], Reservoir, fitted, text), int(cans["count"])
        if each is None:
            return ()
        # A bag of four is two on each of two rails, or four on each.
        ways = ((count // 2, count % 2 == 0), (count, True))
        parts = [_with_values(each, {"c_f": n * each.c_f}, f"{text}, {n} a rail") for n, whole in ways if whole]
        return tuple(part for part in parts if part is not None)
    part = _part_of(text, kind, fitted, text)
    return () if part is None else (part,)


def _part_of(text: str, kind: type[PartT], fitted: Part | None, name: str) -> PartT | None:
    values = _values_in(text, kind)
    if not _tells_its_size(values, kind):
        return None
    base = _nearest(values, kind, fitted)
    return None if base is None else _with_values(base, values, name)


def _tells_its_size(values: Mapping[str, Value], kind: type[PartModel]) -> bool:
    """Whether it is said which part it is: 200 VA alone asks for so much or more, of whichever volts."""
    meant = next((units for of, units in MEANT.items() if of is kind), {})
    sizes = {_STATED_AS.get(path, path) for path, how in meant.values() if how == SIZE}
    figures = {path for path, value in values.items() if isinstance(value, float)}
    return bool(figures & sizes if sizes else figures)


def _values_in(text: str, kind: type[PartModel]) -> dict[str, Value]:
    """What a text states of a kind, by property; empty where it asks for a range, or for what the kind has not."""
    values: dict[str, Value] = {}
    for match in tokens(text):
        stated = _stated(match, kind)
        if stated is None:
            return {}
        values |= stated
    return values


def _stated(match: re.Match[str], kind: type[PartModel]) -> dict[str, Value] | None:
    """What a word of it states; None where it states nothing, but asks."""
    part = match.groupdict()
    if part["high"] is not None or part["high2"] is not None or part["op"]:
        return None
    if part["two"] is not None:
        volts = number_of(part["low2"])
        if kind is Transformer:
            return {"secondaries": _WOUND[int(part["two"])], "v_secondary_rms": volts}
        if kind in (MainsSwitcher, BenchPair):
            return {"rails": "dual" if part["two"] == "2" else "single", "v_rail": volts}
        return None
    if part["tap"] is not None:
        alike = number_of(part["tap"]) == number_of(part["tap2"])
        tapped: dict[str, Value] = {"secondaries": "centre_tap", "v_secondary_rms": number_of(part["tap"])}
        return tapped if kind is Transformer and alike else None
    if part["infix"] is not None:
        number, letter, rest = re.split(r"([RkM])", part["infix"])
        return _figure(kind, "ohm", float(f"{number}.{rest}") * PREFIXES["" if letter == "R" else letter])
    if part["low"] is not None:
        if not part["unit"]:
            return None
        factor, unit = scaled(part["unit"], tuple(of for of in MEANT if of is kind))
        return _figure(kind, unit, number_of(part["low"]) * factor)
    word = (part["word"] or "").lower()
    if word[:1].isdigit():
        # A figure that is not understood is no name.
        return None
    # Whatever else is said is what it is called.
    return {"core": _CORES[word]} if kind is Transformer and word in _CORES else {}


def _figure(kind: type[PartModel], unit: str, value: float) -> dict[str, Value] | None:
    meant = next((units for of, units in MEANT.items() if of is kind), {})
    if unit not in meant or value <= 0.0:
        return None
    path, _ = meant[unit]
    return {_STATED_AS.get(path, path): value}


def _nearest(values: Mapping[str, Value], kind: type[PartT], fitted: Part | None) -> PartT | None:
    """The plain part of the series that is next to what was typed, and in the rest next to what is fitted."""
    rest = {}
    if fitted is not None and type(fitted) is kind:
        rest = {path: value_at(fitted, path) for path in _OF_THE_FITTED if hasattr(fitted, path)}

    def apart(part: PartT) -> float:
        typed = sum(_times(value_at(part, path), value) for path, value in values.items() if isinstance(value, float))
        return typed + _UNTYPED * sum(_times(value_at(part, path), value) for path, value in rest.items())

    return min((part for part, _ in usual_series() if isinstance(part, kind)), key=apart, default=None)


def _times(here: object, there: object) -> float:
    """How far two figures are apart, by ratio; as for a hundred times where one of them is not known."""
    if not isinstance(here, int | float) or not isinstance(there, int | float) or min(here, there) <= 0.0:
        return math.log(100.0)
    return abs(math.log(here / there))


def _with_values(base: PartT, values: Mapping[str, Value], name: str) -> PartT | None:
    """The part with these of its properties stated; None where they cannot be together."""
    stated = {path for path, value in values.items() if isinstance(value, float)}
    told = [fact.model_dump() for fact in base.told if fact.field not in stated]
    told += [
        Told(field=path, how=How.STATED, value=values[path], source=SOURCE).model_dump() for path in sorted(stated)
    ]
    document = base.model_dump() | dict(values) | {"name": name[:120], "told": told}
    if isinstance(base, Load) and "p_rated_w" not in values:
        # How much it bears is not guessed: a load that nobody rated is not known to bear anything.
        document["p_rated_w"] = None
        document["told"] = [fact for fact in told if fact["field"] != "p_rated_w"]
    try:
        return type(base).model_validate(document)
    except pydantic.ValidationError:
        return None


def is_alike(part: Part, other: Part) -> bool:
    """Whether another part is of the kind and of the figures that were typed of this one."""
    typed = [fact.field for fact in part.told if fact.source == SOURCE]
    words = [path for path in ("secondaries", "rails", "core") if hasattr(part, path)]
    return (
        type(part) is type(other)
        and all(_times(value_at(part, path), value_at(other, path)) < 0.01 for path in typed)
        and all(value_at(part, path) == value_at(other, path) for path in words)
    )
