"""Parts written out and taken in again; files that are none."""

import json
from pathlib import Path

import pytest

from plinth.builds.files import BuildFileError
from plinth.builds.properties import How, Told, with_told
from plinth.builds.stock import Price, Stock
from plinth.demo import shelf
from plinth.demo.shelf import WHOLE
from plinth.shelf.files import read_items, written_csv, written_json
from plinth.shelf.item import ShelfItem

ITEMS = [ShelfItem(k, part, stock) for k, (part, stock) in enumerate(WHOLE)]


def test_all_that_is_known_of_a_part_comes_back_from_json(tmp_path: Path) -> None:
    told = with_told(shelf.RING_225, Told(field="va", how=How.MEASURED, value=212.0, source="heat run"))
    items = [*ITEMS, ShelfItem(999, told, Stock(note="mine", in_drawer=3))]
    path = tmp_path / "parts.json"
    path.write_text(json.dumps(written_json(items)), encoding="utf-8")
    assert read_items(path) == [(item.part, item.stock) for item in items]


def test_a_table_carries_every_plain_property_and_no_formula(tmp_path: Path) -> None:
    plain = [
        item for item in ITEMS
        if not getattr(item.part, "claims", ()) and not getattr(item.part, "safe_area", ()) and not item.part.told
    ]  # fmt: skip
    odd = ShelfItem(998, shelf.RING_160.model_copy(update={"name": "=2+3"}), Stock())
    path = tmp_path / "parts.csv"
    path.write_text(written_csv([*plain, odd]), encoding="utf-8")
    assert "'=2+3" in path.read_text(encoding="utf-8")
    back = read_items(path)
    assert [part for part, _ in back] == [*(item.part for item in plain), odd.part]
    for (_, stock), item in zip(back, plain, strict=False):
        assert stock.each_at(1) == item.stock.each_at(1)
        assert (stock.in_drawer, stock.due, stock.note) == (item.stock.in_drawer, item.stock.due, item.stock.note)


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("x.json", "{", "broken JSON"),
        ("x.json", "[]", "no parts in it"),
        ("x.json", '{"format": "plinth parts 1", "parts": []}', "no part"),
        ("x.json", '{"format": "plinth parts 1", "parts": [{"kind": "Cow"}]}', "found kind 'Cow'"),
        ("x.json", '{"format": "plinth parts 1", "parts": [7]}', "found kind 7"),
        ("x.json", '{"format": "plinth parts 1", "parts": [{"kind": "Load", "part": {"name": "x"}}]}', "r_ohm"),
        ("x.csv", "", "no columns kind and name"),
        ("x.csv", "kind,name\nCow,x\n", "found kind 'Cow'"),
        ("x.csv", "kind,name,r_ohm\nLoad,x,many\n", "found 'many', expected a number"),
    ],
)
def test_what_is_no_file_of_parts_is_refused_whole(tmp_path: Path, name: str, text: str, says: str) -> None:
    path = tmp_path / name
    path.write_text(text, encoding="utf-8")
    with pytest.raises(BuildFileError, match=says):
        read_items(path)


def test_prices_with_breaks() -> None:
    stock = Stock(prices=(Price(each=5.0), Price(from_count=10, each=4.0), Price(from_count=100, each=2.0)))
    assert [stock.each_at(n) for n in (0, 1, 9, 10, 99, 100, 500)] == [5.0, 5.0, 5.0, 4.0, 4.0, 2.0, 2.0]
    # Ten for the price of nine; a hundred for the price of sixty would be cheaper than sixty at four.
    assert stock.bought_for(9) == (10, 40.0)
    assert stock.bought_for(7) == (7, 35.0)
    assert stock.bought_for(60) == (100, 200.0)
    assert stock.bought_for(0) is None
    assert Stock().bought_for(3) is None
    assert Stock().each_at(1) is None
    for counts in ((2,), (1, 1), (1, 10, 5)):
        with pytest.raises(ValueError, match="rising"):
            Stock(prices=tuple(Price(from_count=n, each=1.0) for n in counts))


def test_where_a_part_is_is_said_in_words() -> None:
    stock = Stock.model_validate({"in_drawer": 2, "ordered": 4, "due": "2026-12-09"})
    assert stock.where == "2 in the drawer; 4 ordered, due 9 Dec"
    assert Stock(back_order=True).where == "back order"
    assert Stock().where == ""
