"""Small parts as they are typed: what a line says, back again, and what it refuses."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.small_part import (
    MOST_SMALL_PARTS,
    Place,
    SmallPart,
    read_small_part,
    with_small_part,
)
from plinth.builds.stock import Price, Stock
from plinth.units.errors import QuantityError

WORDS = st.text(st.sampled_from("abcdefghij KLM0123456789.%µΩ-"), min_size=1, max_size=24).map(str.strip)


@pytest.mark.parametrize(
    ("text", "name", "count", "place", "before"),
    [
        ("Quiet op-amp", "Quiet op-amp", 1, "module", ""),
        ("2 x Quiet op-amp per module instead of the plain one", "Quiet op-amp", 2, "module", "the plain one"),
        ("8× Resistor 4k7 0.1 % for each channel", "Resistor 4k7 0.1 %", 8, "channel", ""),
        ("1x Case kit for the build", "Case kit", 1, "build", ""),
        ("4 pcs Socket in place of solder", "Socket", 4, "module", "solder"),
    ],
)
def test_a_line_is_read_as_it_is_spoken(text: str, name: str, count: int, place: str, before: str) -> None:
    part = read_small_part(text)
    assert (part.name, part.count, part.place, part.instead_of) == (name, count, place, before)
    assert part.fitted


def test_price_panel_drawer_and_option_stand_behind_semicolons() -> None:
    part = read_small_part("3 x Bare board; 9.50, 10: 8.20; panel 4; 2 in the drawer; option")
    assert part.stock == Stock(prices=(Price(each=9.5), Price(from_count=10, each=8.2)), panel=4, in_drawer=2)
    assert not part.fitted
    assert read_small_part("1 x Board; 6 on a panel").stock.panel == 6


@given(
    name=WORDS, count=st.integers(1, 1000), place=st.sampled_from(("module", "channel", "build")), before=WORDS,
    fitted=st.booleans(), panel=st.integers(1, 40), drawer=st.integers(0, 500), each=st.integers(0, 99_999),
)  # fmt: skip
def test_what_is_typed_back_is_the_same_part(
    name: str, count: int, place: Place, before: str, fitted: bool, panel: int, drawer: int, each: int
) -> None:
    if not name or name[0].isdigit() or not before:
        return
    prices = (Price(each=each / 100), Price(from_count=7, each=each / 200))
    stock = Stock(prices=prices, panel=panel, in_drawer=drawer)
    part = SmallPart(name=name, count=count, place=place, instead_of=before, fitted=fitted, stock=stock)
    again = read_small_part(part.typed)
    assert (again.name, again.count, again.place, again.instead_of, again.fitted) == (
        name,
        count,
        place,
        before,
        fitted,
    )
    assert (again.stock.panel, again.stock.in_drawer) == (panel, drawer)
    assert [price.each for price in again.stock.prices] == pytest.approx([p.each for p in prices], abs=0.0051)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "expected what it is"), ("2 x ", "expected what it is"), ("Op-amp; dear", "found 'dear', expected prices"),
        ("5000 x Op-amp", "found"), ("0 x Op-amp", "count: found 0, expected a number at least 1"),
        ("x" * 130, "name: found"),
    ],
)  # fmt: skip
def test_what_is_no_small_part_is_said(text: str, words: str) -> None:
    if text.startswith("5000"):
        with pytest.raises(QuantityError, match="count"):
            read_small_part(text)
        return
    with pytest.raises(QuantityError) as error:
        read_small_part(text)
    assert words in str(error.value)


def test_what_a_line_cannot_say_is_kept_and_a_new_name_keeps_its_identity() -> None:
    known = SmallPart(name="Op-amp", stock=Stock(supplier="Lane end", currency="crowns", ordered=3))
    changed = read_small_part("2 x Better op-amp; 4.10", known)
    assert (changed.stock.supplier, changed.stock.currency, changed.stock.ordered) == ("Lane end", "crowns", 3)
    assert changed.identity == "Op-amp"
    assert read_small_part("2 x Op-amp", known).key == ""


def test_a_name_stands_once_and_a_list_has_an_end() -> None:
    parts = tuple(SmallPart(name=f"Part {k}") for k in range(MOST_SMALL_PARTS))
    with pytest.raises(QuantityError, match="twice"):
        with_small_part(parts[:3], None, SmallPart(name="part 1"))
    with pytest.raises(QuantityError, match="at most 60"):
        with_small_part(parts, None, SmallPart(name="One more"))
    assert with_small_part(parts[:2], 1, SmallPart(name="part 1", count=4))[1].count == 4
