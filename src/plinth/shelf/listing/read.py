"""A listing as properties of one kind of part, and what in it contradicts itself."""

import dataclasses
import math
import re
from collections.abc import Sequence

from plinth.builds.listed import read_claims
from plinth.builds.modules import ClassABModule, ClassDModule, PowerClaim
from plinth.builds.parts import Part
from plinth.builds.supply_parts import Reservoir, Transformer
from plinth.judge.claimed_power import most_power
from plinth.physics.stages.levels import rms_for_power
from plinth.shelf.listing import vocabulary as v
from plinth.shelf.listing.part_words import CLASS_D, MODULE, RESERVOIR, SINGLE_RAIL, TRANSFORMER
from plinth.shelf.listing.powers import claims_of, powers
from plinth.shelf.listing.words import LONGEST, ListedValue, find
from plinth.units.shown import shown

# What tells a kind, in five languages. A class or a bridge tells more than that it is a module.
KINDS: dict[type[Part], tuple[str, ...]] = {
    Transformer: (
        "transform", "trasform", "toroid", "trafo", "transfo", "ringkern", "torique", r"\d\s*k?va\b",
    ),
    Reservoir: (
        "capacitor", "electrolytic", "condens", "kondensator", "elko", "chimique", "elettrolit", "electrol",
        r"\d\s*[uµμm]?fd?\b", r"\besr\b",
    ),
    ClassDModule: (
        rf"{v.CLASS}[- ]?d\b", rf"{v.CLASS}[- ]?d\b", v.FULL_BRIDGE, v.HALF_BRIDGE, v.SWITCHING, "digital amp",
    ),
    ClassABModule: (
        "ampli", "module?", "modulo", "módulo", "board", rf"{v.CLASS}[- ]?ab\b", r"\bchip\b", "endstufe", "verstärker",
        r"\d\s*w(?:atts?)?\b", r"±\s*\d+\s*v", r"\d\s*mv\b", v.GAIN, v.QUIESCENT, v.SENSITIVITY, v.OFFSET,
        v.RESPONSE, v.SLEW, v.LOAD,
    ),
}  # fmt: skip
_PATTERNS = {Transformer: TRANSFORMER, Reservoir: RESERVOIR, ClassDModule: CLASS_D, ClassABModule: MODULE}
# Facts of a listing that are no property of a part: they serve to hold it against itself.
FACTS = frozenset({"amperes", "thd_percent", "thd_without_load", "pmpo", "class", "claim"})
# The most of its supply's power that a class can turn into output, a sine at clip.
MOST_EFFICIENT = {"A": 0.5, "AB": math.pi / 4.0}


@dataclasses.dataclass(frozen=True)
class Listing:
    """``found`` with the words each came from; ``several`` properties that are said in more than one way."""

    kind: type[Part]
    found: tuple[ListedValue, ...]
    contradictions: tuple[str, ...]

    @property
    def properties(self) -> tuple[ListedValue, ...]:
        """What can become a property of the part, one each: where a thing is said in two ways, both to choose from."""
        first: dict[str, ListedValue] = {}
        for fact in self.found:
            if fact.path not in FACTS:
                first[fact.path] = _joined(first[fact.path], fact) if fact.path in first else fact
        return tuple(first.values())

    @property
    def claims(self) -> tuple[PowerClaim, ...]:
        """Listed powers, each with its load and what defines it."""
        return _claims(self.found)


def _joined(first: ListedValue, other: ListedValue) -> ListedValue:
    """A property that is said in two ways: it is asked which is meant."""
    values = [value for fact in (first, other) for value in (fact.choices or (fact.value,))]
    numbers = tuple(dict.fromkeys(value for value in values if isinstance(value, float)))
    words = f"{first.words} / {other.words}"
    return dataclasses.replace(first, words=words, choices=numbers if len(numbers) > 1 else first.choices)


def guess_kind(text: str) -> type[Part] | None:
    """The kind of part that a text is most likely about; None where nothing tells."""
    counts = {
        kind: sum(len(re.findall(word, text[:LONGEST], re.IGNORECASE)) for word in words)
        for kind, words in KINDS.items()
    }
    if counts[ClassDModule]:
        # What is said of any module is said of this one.
        counts[ClassDModule] += counts[ClassABModule]
    best = max(counts, key=lambda kind: counts[kind])
    return best if counts[best] else None


def read_listing(text: str, kind: type[Part]) -> Listing:
    """What a listing says of a part of this kind. Never fails: of a text that says nothing, nothing is found."""
    values = tuple(find(text, _PATTERNS[kind]))
    if kind in (ClassDModule, ClassABModule):
        values = _with_powers(text, kind, values)
    check = {Transformer: _transformer, Reservoir: _nothing}.get(kind, _module)
    return Listing(kind, values, (*_said_twice(values), *check(values)))


def _with_powers(text: str, kind: type[Part], values: tuple[ListedValue, ...]) -> tuple[ListedValue, ...]:
    """What is found with the powers, and rails without a sign where there is one supply."""
    listed = powers(text)
    both = [*values, *claims_of(listed)]
    single = kind is ClassDModule or re.search(v.SINGLE, text, re.IGNORECASE) is not None
    if single and not any(fact.path.startswith("v_rail") for fact in values):
        both += find(text, SINGLE_RAIL, [fact.span for fact in listed])
    return tuple(sorted(both, key=lambda fact: fact.place))


def _claims(values: Sequence[ListedValue]) -> tuple[PowerClaim, ...]:
    return tuple(claim for fact in values if fact.path == "claim" for claim in read_claims(str(fact.value)))


def _value(values: Sequence[ListedValue], path: str) -> float | None:
    fact = next((fact for fact in values if fact.path == path), None)
    return None if fact is None or isinstance(fact.value, str) else fact.value


def _said_twice(values: Sequence[ListedValue]) -> list[str]:
    said = []
    for path in dict.fromkeys(fact.path for fact in values if fact.path not in FACTS):
        ways = [fact for fact in values if fact.path == path]
        if len(ways) > 1:
            said.append(f"Said in {len(ways)} ways: {' / '.join(way.words for way in ways)}. Choose which is meant.")
    return said


def _nothing(_found: Sequence[ListedValue]) -> list[str]:
    return []


def _transformer(values: Sequence[ListedValue]) -> list[str]:
    va, volts, amperes = (_value(values, path) for path in ("va", "v_secondary_rms", "amperes"))
    halves = 2 if any(fact.path == "secondaries" for fact in values) else 1
    if va is None or volts is None or amperes is None:
        return []
    product = halves * volts * amperes
    if abs(product / va - 1.0) <= 0.05:
        return []
    return [
        f"{va:g} VA, but {amperes:g} A at {halves} × {volts:g} V is {product:.0f} VA: take the smaller until measured."
    ]


def _module(values: Sequence[ListedValue]) -> list[str]:
    said: list[str] = []
    nominal, maximum = _value(values, "v_rail_nominal"), _value(values, "v_rail_max")
    gain, sensitivity = _value(values, "gain"), _value(values, "sensitivity_v_rms")
    rail = maximum if maximum is not None else nominal
    claims = _claims(values)
    bridged = any((fact.path, fact.value) == ("bridge", "full") for fact in values)
    for claim in claims:
        watts, ohms, own = claim.power_w, claim.r_load_ohm, claim.v_rail_v or rail
        if own is not None and watts > (possible := most_power(own, ohms, claim.definition)).power_w * (1.0 + 1e-9):
            said.append(
                f"{watts:g} W into {ohms:g} Ω is not possible on the {'' if bridged else '±'}{own:g} V that the "
                f"listing allows: {possible.arithmetic} at most, with nothing lost."
            )
    if gain is not None and sensitivity is not None and claims:
        watts, ohms = claims[0].power_w, claims[0].r_load_ohm
        needed = rms_for_power(watts, ohms)
        if abs(sensitivity * gain / needed - 1.0) > 0.12:
            said.append(
                f"{shown(sensitivity, 'V')} times a gain of {gain:g} is {shown(sensitivity * gain, 'V')}, and "
                f"{watts:g} W into {ohms:g} Ω is {shown(needed, 'V')}: one of the three is not so."
            )
    quiescent, mv, ohm = (_value(values, p) for p in ("i_quiescent_stated_a", "bias.listed_mv", "bias.r_listed_ohm"))
    if quiescent is not None and mv is not None and ohm:
        by_bias = mv / 1000.0 / ohm
        if abs(by_bias / quiescent - 1.0) > 0.1:
            said.append(
                f"{mv:g} mV across {ohm:g} Ω is {shown(by_bias, 'A')}, and the listing says {shown(quiescent, 'A')} of "
                "quiescent current: another resistor is meant."
            )
    classes = [str(fact.value) for fact in values if fact.path == "class"]
    efficiency = _value(values, "efficiency")
    limit = MOST_EFFICIENT.get(classes[0]) if classes else None
    if limit is not None and efficiency is not None and efficiency > limit:
        said.append(
            f"{100.0 * efficiency:.0f} % is more than class {classes[0]} can turn into sound: {100.0 * limit:.1f} %."
        )
    said.extend(
        f"“{fact.value}”: a distortion without the load it was taken into tells little: measure it."
        for fact in values
        if fact.path == "thd_without_load"
    )
    if any(fact.path == "pmpo" for fact in values):
        said.append("Music power is a sum over channels and moments, not what a channel gives for good: leave it out.")
    return said
