"""Searching a shelf by words and numbers in one field: ``>=160VA 2x22..28 <60``, ``10m 63V``, ``4R 100W``, ``drawer``.

A number with a unit means the property that this unit has of the kind looked for; one without a unit, after < or >,
the price. Whatever is neither a number nor a word of ours is looked for in names, makers and notes. Nothing is refused:
what was understood is told, piece by piece.
"""

import dataclasses
import re
from collections.abc import Callable, Iterator, Sequence

from plinth.builds.fields import WORDS, in_sentence
from plinth.builds.parts import Part
from plinth.builds.properties import value_at
from plinth.builds.short_words import short_words
from plinth.builds.supply_parts import Reservoir, Transformer
from plinth.shelf.columns import COMPUTED, MEANT, RATING
from plinth.shelf.item import ShelfItem
from plinth.units.prefixes import PREFIXES, table_of
from plinth.units.shown import shown

LONGEST = 200
# About as asked: what is sold as one size differs by so much.
ABOUT = 0.10
_EDGE = 1e-9


@dataclasses.dataclass(frozen=True)
class Condition:
    """One thing asked for: in words, and whether an item meets it."""

    words: str
    met: Callable[[ShelfItem], bool]


@dataclasses.dataclass(frozen=True)
class Query:
    """All that is asked for, together."""

    conditions: tuple[Condition, ...]

    def met(self, item: ShelfItem) -> bool:
        """Whether an item meets all of it."""
        return all(condition.met(item) for condition in self.conditions)

    @property
    def words(self) -> str:
        """How it was understood."""
        return " · ".join(condition.words for condition in self.conditions)


_NUM = r"\d+(?:[.,]\d+)?"
_UNIT = r"(?:[pnuµμmkM]?(?:VA|Ah|Hz|V|A|W|F|H|ohm|Ω|R)|K/W|°C|C\b|s|[num])(?![\w/])"
_TOKEN = re.compile(
    rf"""\s*(?:
      (?P<two>[12])\s*[x×*]\s*(?P<low2>{_NUM})(?:\s*(?:\.\.|…)\s*(?P<high2>{_NUM}))?\s*V?(?![\w.])
    | (?P<tap>{_NUM})\s*-\s*0\s*-\s*(?P<tap2>{_NUM})\s*V?(?![\w.])
    | (?P<infix>\d+[RkM]\d+)(?![\w.])
    | (?P<op>>=|<=|≥|≤|>|<)?\s*(?P<low>{_NUM})(?:\s*(?:\.\.|…)\s*(?P<high>{_NUM}))?\s*(?P<unit>{_UNIT})?(?![\w.,])
    | (?P<word>\S+)
    )""",
    re.VERBOSE,
)
_COUNT_OF_CANS = re.compile(rf"\b[2-8]\s*[x×*]\s*(?={_NUM}\s*[uµμmn]F?(?![\w]))", re.IGNORECASE)
_PREFIXES = table_of("pnuµμmkM")
_PLAIN = {"R": "ohm", "Ω": "ohm", "C": "°C"}


def read_query(text: str, kinds: Sequence[type[Part]]) -> Query:
    """What a text asks of parts of these kinds. Never fails: what is no number and no word of ours is looked for."""
    text = " ".join(text[:LONGEST].split())
    if Reservoir in kinds:
        # Two cans of 10 mF are looked for as such cans, however they will be shared out.
        text = _COUNT_OF_CANS.sub("", text)
    conditions = (_condition(match, kinds) for match in tokens(text))
    return Query(tuple(condition for condition in conditions if condition is not None))


def tokens(text: str) -> Iterator[re.Match[str]]:
    """The words and numbers of a text that is typed along the shelf, one after the other."""
    at = 0
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            break
        at = max(match.end(), at + 1)
        yield match


def _condition(match: re.Match[str], kinds: Sequence[type[Part]]) -> Condition | None:
    part = match.groupdict()
    if part["two"] is not None:
        return _windings(int(part["two"]), number_of(part["low2"]), number_of(part["high2"] or part["low2"]))
    if part["tap"] is not None:
        return _tap(number_of(part["tap"]))
    if part["infix"] is not None:
        number, letter, rest = re.split(r"([RkM])", part["infix"])
        factor = PREFIXES["" if letter == "R" else letter]
        return _quantity("", float(f"{number}.{rest}") * factor, None, "ohm", kinds) or _text(part["infix"])
    if part["low"] is not None:
        return _numbers(part, kinds) or _text(match.group().strip())
    word = part["word"] or ""
    return _WORDS.get(word.lower()) or _text(word)


def _numbers(part: dict[str, str | None], kinds: Sequence[type[Part]]) -> Condition | None:
    low, high = number_of(part["low"] or ""), None if part["high"] is None else number_of(part["high"])
    op, unit = part["op"] or "", part["unit"] or ""
    if not unit:
        if high is not None and not op and Transformer in kinds:
            return _quantity(op, low, high, "V", kinds)
        return _price(op, low, high) if op or high is not None else None
    factor, unit = scaled(unit, kinds)
    return _quantity(op, low * factor, None if high is None else high * factor, unit, kinds)


def scaled(unit: str, kinds: Sequence[type[Part]]) -> tuple[float, str]:
    """The factor of a unit's prefix, and the unit without it; ``10m`` of what holds a charge is millifarads."""
    if unit in ("n", "u", "m") and any("F" in MEANT[kind] for kind in kinds):
        return _PREFIXES[unit], "F"
    known = {name for kind in kinds for name in MEANT[kind]} | {"ohm", "R", "Ω", "C"}
    if unit in known or unit[:1] not in _PREFIXES or len(unit) == 1:
        return 1.0, _PLAIN.get(unit, unit)
    return _PREFIXES[unit[0]], _PLAIN.get(unit[1:], unit[1:])


def _quantity(op: str, low: float, high: float | None, unit: str, kinds: Sequence[type[Part]]) -> Condition | None:
    means = {kind: MEANT[kind][unit] for kind in kinds if unit in MEANT[kind]}
    if not means:
        return None
    path, how = next(iter(means.values()))
    least, maximum = _bounds(op, low, high, how == RATING)
    name = COMPUTED.get(path) or in_sentence(WORDS[path])

    def met(item: ShelfItem) -> bool:
        here = means.get(type(item.part))
        value = None if here is None else value_at(item.part, here[0])
        return value is not None and least <= value <= maximum

    return Condition(f"{name} {_span(op, low, high, how == RATING, unit)}", met)


def _bounds(op: str, low: float, high: float | None, rating: bool) -> tuple[float, float]:
    slack = _EDGE * abs(low)
    if high is not None:
        return min(low, high) - slack, max(low, high) + _EDGE * abs(high)
    match op:
        case ">=" | "≥" | ">":
            return low - slack if op != ">" else low + slack, float("inf")
        case "<=" | "≤" | "<":
            return float("-inf"), low + slack if op != "<" else low - slack
    return (low - slack, float("inf")) if rating else (low * (1.0 - ABOUT), low * (1.0 + ABOUT))


def _span(op: str, low: float, high: float | None, rating: bool, unit: str) -> str:
    def said(value: float) -> str:
        return shown(value, unit) if unit in ("V", "A", "W", "F", "H", "ohm", "s") else f"{value:g} {unit}".strip()

    if high is not None:
        return f"{said(low)} to {said(high)}"
    words = {
        ">=": "{} or more",
        "≥": "{} or more",
        ">": "above {}",
        "<=": "{} or less",
        "≤": "{} or less",
        "<": "below {}",
    }
    return words.get(op, "{} or more" if rating else "about {}").format(said(low))


def _price(op: str, low: float, high: float | None) -> Condition:
    least, maximum = _bounds(op, low, high, rating=False)

    def met(item: ShelfItem) -> bool:
        each = item.stock.each_at(1)
        return each is not None and least <= each <= maximum

    return Condition(f"price {_span(op, low, high, False, '')}", met)


def _windings(count: int, low: float, high: float) -> Condition:
    upper = high if high != low else None
    least, maximum = _bounds("", low, upper, rating=False)

    def met(item: ShelfItem) -> bool:
        part = item.part
        return isinstance(part, Transformer) and part.halves == count and least <= part.v_secondary_rms <= maximum

    name = "two halves" if count == 2 else "one winding"
    return Condition(f"{name} of {_span('', low, upper, False, 'V')}", met)


def _tap(volts: float) -> Condition:
    def met(item: ShelfItem) -> bool:
        part = item.part
        about = abs(getattr(part, "v_secondary_rms", 0.0) - volts) <= ABOUT * volts
        return isinstance(part, Transformer) and part.secondaries == "centre_tap" and about

    return Condition(f"centre tap of about {volts:g} V a half", met)


def _text(word: str) -> Condition:
    wanted = word.lower()

    def met(item: ShelfItem) -> bool:
        return wanted in searched_text(item)

    return Condition(f"“{word}” in name or note", met)


def searched_text(item: ShelfItem) -> str:
    """All words that an item is found by, in small letters."""
    part = item.part
    words = [short_words(part), getattr(part, "maker", ""), item.stock.supplier, item.stock.note]
    words += [
        str(getattr(part, name, "")).replace("_", " ")
        for name in ("core", "secondaries", "topology", "diode", "bridge")
    ]
    words += [f"{fact.source} {fact.note}" for fact in part.told]
    words += [f"{paper.name} {paper.note} {paper.words}" for paper in item.papers]
    return " ".join(words).lower()


_WORDS: dict[str, Condition] = {
    "drawer": Condition("in the drawer", lambda item: item.stock.in_drawer > 0),
    "ordered": Condition("ordered", lambda item: item.stock.ordered > 0),
    "priced": Condition("with a price", lambda item: bool(item.stock.prices)),
}


def number_of(text: str) -> float:
    """A number with a point or a comma."""
    return float(text.replace(",", "."))
