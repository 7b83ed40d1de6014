"""The demo's data files: what stands in them is what its models make of them, and nothing else."""

import tomllib

import pydantic
import pytest

from plinth.builds.fields import part_fields
from plinth.builds.properties import How, known_of, value_at
from plinth.demo import data_files, shelf
from plinth.demo.builds import BUILDS, STAGE_PAIR
from plinth.demo.data_files import document, entries


def test_each_file_is_read_in_its_order_with_its_stock() -> None:
    for name in shelf.FILES:
        found, read = document(f"shelf/{name}.toml")["part"], entries(f"shelf/{name}.toml")
        assert [(one["kind"], one["name"]) for one in found] == [(type(part).__name__, part.name) for part, _ in read]
        for one, (_, stock) in zip(found, read, strict=True):
            asked = one.get("stock", {})
            assert [price.each for price in stock.prices] == [price["each"] for price in asked.get("prices", [])]
            assert stock.in_drawer == asked.get("in_drawer", 0)
            assert stock.currency == ("crowns" if stock.prices else "")
    names = [(type(part), part.name) for part, _ in shelf.WHOLE]
    assert len(names) == len(set(names)) > 200


def test_every_number_of_a_generic_part_is_marked_but_what_is_said_to_be_stated() -> None:
    for one, (part, stock) in zip(document("shelf/generics.toml")["part"], entries("shelf/generics.toml"), strict=True):
        stated = set(one.get("usual_but", ()))
        assert one.get("usual") or stated
        for field in part_fields(part):
            if field.number and value_at(part, field.path) is not None:
                how = [known.how for known in known_of(part, field.path)]
                assert (how == [How.ASSUMED]) == (field.path not in stated), (part.name, field.path)
        assert stock.note.startswith("generic")
        assert stock.prices == ()


def test_a_part_that_is_not_as_its_kind_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    for text, error in (
        ('[[part]]\nkind = "Load"\nname = "No ohms"\n', pydantic.ValidationError),
        ('[[part]]\nkind = "Load"\nname = "Odd"\nr_ohm = 8\nr_ohms = 8\n', pydantic.ValidationError),
        ('[[part]]\nkind = "Spoon"\nname = "Silver"\n', KeyError),
    ):
        monkeypatch.setattr(data_files, "document", lambda _name, text=text: tomllib.loads(text))
        with pytest.raises(error):
            entries("shelf/odd.toml")


def test_builds_are_made_of_the_parts_that_lie_on_the_shelf() -> None:
    on_shelf = [part for part, _ in shelf.WHOLE]
    for build in BUILDS:
        assert build.module in on_shelf, build.name
        assert build.supply.source_part in on_shelf, build.name
        assert build.supply.reservoir in on_shelf, build.name
        assert all(load in on_shelf for load in build.loads), build.name
    assert STAGE_PAIR.module is not shelf.STAGEHAND_60
    assert STAGE_PAIR.module == shelf.STAGEHAND_60
