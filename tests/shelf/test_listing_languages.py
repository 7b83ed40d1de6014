"""A hundred and fifty invented listings in five languages: what of them is read, and what is read that they do not say.

Wanted: 95 % of the facts, in every language, and none wrong without a question.
"""

import math
import sys

import pytest

from plinth.builds.modules import ClassABModule, ClassDModule
from plinth.builds.parts import Part
from plinth.shelf.listing.numbers import meanings, possible
from plinth.shelf.listing.powers import powers
from plinth.shelf.listing.read import FACTS, Listing, guess_kind, read_listing
from tests.shelf.listing_texts import TEXTS, Facts

DEFINED = {0.01: "thd_1", 0.1: "thd_10"}


def said_of(listing: Listing) -> Facts:
    """What a listing was read to say, as the facts are written."""
    found: Facts = {one.path: list(one.choices) or one.value for one in listing.properties}
    rails = next((list(one.choices) for one in listing.found if one.path == "claim" and one.choices), None)
    if rails:
        found["claim_rail"] = rails
    return found


def same(value: object, wanted: object) -> bool:
    if isinstance(wanted, list):
        return isinstance(value, list) and value == pytest.approx(wanted)
    if isinstance(wanted, str) or not isinstance(value, float | int):
        return value == wanted
    return math.isclose(value, float(wanted), rel_tol=2e-3)  # type: ignore[arg-type]


def compared(kind: type[Part], text: str, facts: Facts) -> tuple[int, list[str], list[str]]:
    """How many facts are read, which are missed, and what is read that is not said and not asked."""
    listing = read_listing(text, kind)
    found = said_of(listing)
    wanted = {key: value for key, value in facts.items() if key != "claims"}
    right = [key for key in wanted if key in found and same(found[key], wanted[key])]
    missed = [f"{key} of {text!r}: {found.get(key)}" for key in wanted if key not in right]
    wrong = [
        f"{key} of {text!r}: {value}"
        for key, value in found.items()
        if key not in FACTS and not isinstance(value, list) and not (key in wanted and same(value, wanted[key]))
    ]
    claims = {(one.power_w, one.r_load_ohm, one.definition) for one in listing.claims}
    listed = {(float(w), float(r), DEFINED[more[0]] if more else "unstated") for w, r, *more in facts.get("claims", ())}
    missed += [f"{one} of {text!r}: {claims}" for one in listed - claims]
    wrong += [f"{one} of {text!r}" for one in claims - listed]
    return len(right) + len(listed & claims), missed, wrong


@pytest.mark.parametrize("language", TEXTS)
def test_facts_of_a_language_are_read_and_none_is_wrong_without_a_question(language: str) -> None:
    results = [compared(*one) for one in TEXTS[language]]
    read = sum(count for count, _, _ in results)
    missed = [one for _, some, _ in results for one in some]
    wrong = [one for _, _, some in results for one in some]
    sys.stdout.write(f"{language}: {read} of {read + len(missed)} facts, {len(wrong)} wrong\n")
    assert wrong == []
    assert read >= 0.95 * (read + len(missed)), missed


@pytest.mark.parametrize("language", TEXTS)
def test_the_kind_of_part_is_told_from_its_words(language: str) -> None:
    """A board whose class nobody says is one of class AB until it is chosen otherwise."""
    module = frozenset({ClassABModule, ClassDModule})
    for kind, text, _ in TEXTS[language]:
        guessed = guess_kind(text)
        assert guessed is kind or {guessed, kind} == module, text


def test_there_are_a_hundred_and_fifty() -> None:
    assert [len(texts) for texts in TEXTS.values()] == [30] * 5
    assert len({text for texts in TEXTS.values() for _, text, _ in texts}) == 150


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("22.000", (22.0, 22000.0)), ("6,800", (6.8, 6800.0)), ("10 000", (10000.0, 0.0)), ("8,5", (8.5,)),
        ("1.234.567", (1234567.0,)), ("1.234,5", (1234.5,)), ("1,234.5", (1234.5,)), ("0.033", (0.033,)),
        ("4700", (4700.0,)), ("12'500", (12500.0, 500.0)),
    ],
)  # fmt: skip
def test_a_separator_means_what_it_can(text: str, values: tuple[float, ...]) -> None:
    assert meanings(text) == values


def test_what_a_part_cannot_be_is_not_meant_and_what_it_could_be_both_is_asked() -> None:
    assert possible("22.000", "c_f", 1e-6) == (0.022,)
    assert possible("0.000", "c_f", 1e-6) == ()
    assert possible("1.000", "gain") == ()
    # A clock of 1.500 kHz is one and a half megahertz; a rail of 12.000 V is twelve.
    assert possible("1.500", "f_switching_hz", 1e3) == (1.5e6,)
    assert possible("12.000", "v_rail_max") == (12.0,)
    assert possible("1.200", "power_w") == (1.2, 1200.0)


@pytest.mark.parametrize(
    ("text", "pairs"),
    [
        ("60/100 W into 8/4 ohm", [(60, 8), (100, 4)]),
        ("8 ohm 50W, 4 ohm 90W", [(50, 8), (90, 4)]),
        ("50W 8 ohm, 90W 4 ohm", [(50, 8), (90, 4)]),
        ("THD 0.01 % (30 W, 8 ohm), 55 W into 8 ohm", []),
        ("55 W into 8 ohm, THD 0.01 % at 30 W", [(55, 8)]),
        ("40 W (4-8 ohm)", []),
    ],
)
def test_watts_and_ohms_find_each_other(text: str, pairs: list[tuple[int, int]]) -> None:
    assert [(one.watts, one.ohms) for one in powers(text)] == pairs
