"""Loads on the rails for the supply alone: how a typed list is read, what they draw."""

import pytest

from plinth.builds.build import Build
from plinth.builds.files import BuildFileError, parse_build
from plinth.builds.rail_load import RailLoad, rail_loads_text, read_rail_loads
from plinth.units.errors import QuantityError
from tests.family import DEMO

STAGE_PAIR = DEMO["Stage pair"]


@pytest.mark.parametrize(
    ("typed", "loads"),
    [
        ("820 ohm, 1.5 A", ((820.0, None), (None, 1.5))),
        ("1,5 A; 820R", ((820.0, None), (None, 1.5))),
        ("8R2 400mA", ((8.2, None), (None, 0.4))),
        ("4k7, 10 Ω, 10 ohm", ((4700.0, None), (10.0, None))),
        ("2 kohm, 0.2 A, 50 mA", ((2000.0, None), (None, 0.05), (None, 0.2))),
        ("  ", ()),
    ],
)
def test_a_list_is_read_as_it_is_spoken(typed: str, loads: tuple[tuple[float | None, float | None], ...]) -> None:
    read = read_rail_loads(typed)
    assert tuple((load.r_ohm, load.i_a) for load in read) == loads
    assert read_rail_loads(rail_loads_text(read)) == read


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("820", "with their unit"),
        ("40 V", "with their unit"),
        ("0.4 ohm", "expected 500 mΩ to 100 kΩ"),
        ("300 A", "expected 1.00 mA to 200 A"),
        ("pears", "with their unit"),
        ("1 ohm, 2 ohm, 3 ohm, 4 ohm, 5 ohm, 6 ohm, 7 ohm", "found 7 loads, expected at most 6"),
    ],
)
def test_what_is_no_load_is_explained(typed: str, words: str) -> None:
    with pytest.raises(QuantityError, match=words):
        read_rail_loads(typed)


def test_what_a_load_draws_and_heats() -> None:
    resistor, current = RailLoad(r_ohm=820.0), RailLoad(i_a=1.5)
    assert (resistor.words, current.words, RailLoad(r_ohm=2200.0).words, RailLoad(i_a=0.3).words) == (
        "820 Ω", "1.5 A", "2.2 kΩ", "300 mA",
    )  # fmt: skip
    assert resistor.amperes(41.0) == pytest.approx(0.05)
    assert resistor.watts(41.0) == pytest.approx(2.05)
    assert current.amperes(41.0) == 1.5
    assert current.watts(41.0) == pytest.approx(61.5)
    assert resistor.key != current.key


def test_a_build_keeps_its_loads_in_its_file_and_is_as_before_without() -> None:
    build = STAGE_PAIR.model_copy(update={"rail_loads": read_rail_loads("47 ohm, 300 mA")})
    assert parse_build(build.model_dump_json(), "x.json") == build
    assert "rail_loads" not in STAGE_PAIR.model_dump()
    assert Build.model_validate(STAGE_PAIR.model_dump()) == STAGE_PAIR


@pytest.mark.parametrize("load", ['{"r_ohm": 8, "i_a": 1}', "{}", '{"r_ohm": 0.1}', '{"i_a": "much"}'])
def test_a_load_in_a_file_that_is_none_is_refused(load: str) -> None:
    text = STAGE_PAIR.model_dump_json().replace('"loads":', f'"rail_loads":[{load}],"loads":', 1)
    with pytest.raises(BuildFileError, match="rail"):
        parse_build(text, "x.json")
