"""What is typed into the shelf's one field, and which parts it finds."""

import dataclasses

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.parts import Entry, HeatSink, Load, Part
from plinth.builds.properties import How
from plinth.builds.supply_parts import Rectifier, Reservoir, Transformer
from plinth.demo.shelf import WHOLE
from plinth.shelf.columns import COLUMNS, MEANT
from plinth.shelf.item import ShelfItem
from plinth.shelf.query import read_query

ITEMS = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]


def found(text: str, *kinds: type[Part]) -> dict[str, ShelfItem]:
    query = read_query(text, kinds)
    return {item.part.name: item for item in ITEMS if type(item.part) in kinds and query.met(item)}


def every(*kinds: type[Part]) -> list[ShelfItem]:
    return [item for item in ITEMS if type(item.part) in kinds]


def va(item: ShelfItem) -> float:
    assert isinstance(item.part, Transformer)
    return item.part.va


def test_the_sketch_s_search() -> None:
    rows = found(">=160VA 2x22..28 <60", Transformer)
    expected = {
        item.part.name
        for item in every(Transformer)
        if isinstance(item.part, Transformer)
        and item.part.va >= 160
        and item.part.halves == 2
        and 22 <= item.part.v_secondary_rms <= 28
        and (item.stock.prices[0].each if item.stock.prices else 1e9) < 60
    }
    assert set(rows) == expected
    assert 5 < len(rows) < 20
    words = read_query(">=160VA 2x22..28 <60", (Transformer,)).words
    assert words == "rating 160 VA or more · two halves of 22.0 V to 28.0 V · price below 60"


@pytest.mark.parametrize("text", ["10m 63V", "10 mF 63 V", "10000u 63V", "10m,63V".replace(",", " ")])
def test_a_size_is_about_as_asked_and_a_rating_at_least(text: str) -> None:
    rows = found(text, Reservoir)
    assert "Can 10m/63" in rows
    assert "Can 10m/80" in rows
    assert "Can 10m/50" not in rows
    assert "Can 15m/63" not in rows


@pytest.mark.parametrize(("text", "name"), [("4R 100W", "Wire 4"), ("3R98", "Wire 4"), ("8,05 ohm", "Wire 8")])
def test_ohms_as_they_are_spoken(text: str, name: str) -> None:
    assert name in found(text, Load)
    assert "Dummy 16" not in found(text, Load)


def test_limits_hold_to_the_last_digit_and_no_further() -> None:
    at = [name for name, item in found(">=160VA", Transformer).items() if va(item) == 160]
    assert at
    assert not [item for item in found(">160VA", Transformer).values() if va(item) <= 160]
    assert [item for item in found("<=160VA", Transformer).values() if va(item) == 160]
    assert not [item for item in found("<160VA", Transformer).values() if va(item) >= 160]
    # A factor of ten would find others.
    assert found(">=1600VA", Transformer) == {}


def test_words_are_looked_for_and_a_few_are_ours() -> None:
    assert all("ring" in name.lower() for name in found("ring", Transformer))
    assert "Theatre dimmer iron" in found("dimmer rack", Transformer), "in notes too"
    assert all(item.stock.in_drawer for item in found("drawer", Transformer).values())
    assert all(item.stock.ordered for item in found("ordered", *MEANT).values())
    assert found("xyzzy", Transformer) == {}
    assert set(found("25-0-25", Transformer)) <= {"Stack 180/25", "Theatre dimmer iron"}
    assert "Stack 180/25" in found("25-0-25", Transformer)
    assert "Cool bridge 10" in found("schottky 8A", Rectifier)
    assert "Inlet, T 2 A" in found("2A", Entry)
    assert "Comb 200" in found("0.65K/W", HeatSink)


def test_an_empty_text_finds_all_and_a_number_alone_is_looked_for_by_name() -> None:
    assert len(found("   ", Transformer)) == len(every(Transformer))
    assert "Ring 225" in found("225", Transformer)
    assert found("50V", ClassABModule, ClassAModule, ClassDModule)
    # Volts without a word for it are secondaries where a transformer is looked for, else a price.
    assert "two" not in read_query("22..28", (Transformer,)).words
    assert "secondary" in read_query("22..28", (Transformer,)).words
    assert "price" in read_query("22..28", (Reservoir,)).words


@given(st.text(max_size=60), st.sampled_from(sorted(MEANT, key=lambda kind: kind.__name__)))
def test_whatever_is_typed_is_understood_somehow(text: str, kind: type[Part]) -> None:
    query = read_query(text, (kind,))
    assert isinstance(query.words, str)
    for item in every(kind)[:4]:
        assert query.met(item) in (True, False)


def test_every_kind_has_columns_that_can_be_shown_and_sorted() -> None:
    for item in ITEMS:
        for column in COLUMNS[type(item.part)]:
            assert column.text(item.part)
            assert isinstance(column.key(item.part), float | str)
    assert {type(item.part) for item in ITEMS} == set(MEANT) == set(COLUMNS)


def test_the_shelf_is_large_and_its_names_differ() -> None:
    assert len(ITEMS) >= 150
    names = [(type(item.part), item.part.name) for item in ITEMS]
    assert len(set(names)) == len(names)
    generic = [item for item in ITEMS if item.stock.note.startswith("generic")]
    assert len(generic) >= 5
    for item in generic:
        assert any(told.how == How.ASSUMED for told in item.part.told)


def test_a_query_says_nothing_of_an_item_it_cannot_know() -> None:
    item = next(one for one in ITEMS if one.stock.each_at(1) is None)
    assert not read_query("<1000", (type(item.part),)).met(item), "a price that nobody states is not below anything"
    free = dataclasses.replace(item, stock=item.stock.model_copy(update={"note": "a gift"}))
    assert read_query("gift", (type(item.part),)).met(free)
