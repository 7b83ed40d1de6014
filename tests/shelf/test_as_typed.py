"""What is typed along the shelf as a part of its own: its figures stated, the rest assumed, nothing where it asks."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plinth.builds.build import Build
from plinth.builds.parts import HeatSink, Load, Part
from plinth.builds.properties import How, how_known, value_at
from plinth.builds.stations import part_in, stations
from plinth.builds.supply_parts import BenchPair, MainsSwitcher, Rectifier, Reservoir, Transformer
from plinth.session.beginning import first_build
from plinth.shelf.as_typed import as_typed, is_alike
from plinth.shelf.item import ShelfItem
from plinth.shelf.query import read_query
from plinth.shelf.slots import KINDS, joined
from plinth.shelf.usual_series import usual_series
from tests.family import FAMILY

BUILD = first_build()


def typed(text: str, slot: str) -> tuple[Part, ...]:
    return as_typed(text, KINDS[slot], part_in(BUILD, slot))


@pytest.mark.parametrize(
    ("slot", "text", "stated"),
    [
        ("supply.transformer", "2x18 160VA", {"v_secondary_rms": 18.0, "va": 160.0, "secondaries": "two"}),
        ("supply.transformer", "1x24V 80VA", {"v_secondary_rms": 24.0, "va": 80.0, "secondaries": "one"}),
        ("supply.transformer", "19-0-19 200VA", {"v_secondary_rms": 19.0, "va": 200.0, "secondaries": "centre_tap"}),
        ("supply.transformer", "EI 2×21,5 V 140 VA", {"v_secondary_rms": 21.5, "va": 140.0, "core": "ei"}),
        ("supply.reservoir", "12m 50V", {"c_f": 12e-3, "v_rated": 50.0}),
        ("supply.reservoir", "6800u 63V", {"c_f": 6.8e-3, "v_rated": 63.0}),
        ("supply.rectifier", "35A", {"i_rated_a": 35.0}),
        ("load", "8R2 100W", {"r_ohm": 8.2, "p_rated_w": 100.0}),
        ("load", "4 ohm 50W", {"r_ohm": 4.0, "p_rated_w": 50.0}),
        ("sink", "0.4 K/W", {"r_k_per_w": 0.4}),
        ("entry", "1.6A", {"fuse_a_rms": 1.6}),
        ("protection", "4s 1.5V", {"mute_s": 4.0, "dc_threshold_v": 1.5}),
    ],
)
def test_it_is_what_was_typed_and_the_rest_is_assumed(slot: str, text: str, stated: dict[str, object]) -> None:
    (part,) = typed(text, slot)
    assert part.name == text
    for path, value in stated.items():
        assert (
            value_at(part, path) == pytest.approx(value) if isinstance(value, float) else value_at(part, path) == value
        )
    figures = {path for path, value in stated.items() if isinstance(value, float)}
    assert {fact.field for fact in part.told if fact.how is How.STATED} == figures
    assert all(how_known(part, path) is How.STATED for path in figures)
    assert {fact.how for fact in part.told if fact.field not in figures} <= {How.ASSUMED}
    with_it = joined(BUILD, slot, part)
    assert isinstance(with_it, Build) == (stated.get("secondaries") != "one"), with_it


@pytest.mark.parametrize(
    ("slot", "text"),
    [
        ("supply.transformer", ">=160VA 2x22..28"), ("supply.transformer", "2x18..22 160VA"),
        ("supply.transformer", "18-0-20 160VA"), ("supply.transformer", "toroid"), ("supply.transformer", "drawer"),
        ("supply.transformer", ""), ("supply.transformer", "<60"), ("supply.transformer", "160"),
        ("supply.transformer", "0VA"), ("supply.transformer", "2x18 3 K/W"), ("load", "2x8"), ("hookup", "230V"),
        ("module", "60W"), ("module", "30V 8A"), ("supply.reservoir", "9x10000u 50V"), ("supply.reservoir", "63V"),
        ("supply.transformer", "200VA"), ("load", "100W"),
    ],
)  # fmt: skip
def test_what_asks_or_states_no_figure_of_the_kind_is_no_part(slot: str, text: str) -> None:
    assert typed(text, slot) == ()


@pytest.mark.parametrize(("text", "a_rail"), [("2x10000u 50V", (10e-3, 20e-3)), ("4x4700u 63V", (9.4e-3, 18.8e-3)),
                                              ("3 x 10m 50V", (30e-3,))])  # fmt: skip
def test_a_bag_of_cans_is_shared_out_in_each_way_that_there_is(text: str, a_rail: tuple[float, ...]) -> None:
    parts = typed(text, "supply.reservoir")
    assert [part.c_f for part in parts if isinstance(part, Reservoir)] == pytest.approx(list(a_rail))
    assert len({part.name for part in parts}) == len(parts)
    assert all("a rail" in part.name for part in parts)
    # Looked for are the cans themselves, however many.
    can = Reservoir(name="x", maker="–", c_f=10e-3, v_rated=50)
    assert read_query(text, KINDS["supply.reservoir"]).met(ShelfItem(1, can)) == ("10" in text and "50V" in text)


def test_what_nobody_typed_comes_from_what_is_fitted() -> None:
    (part,) = typed("2x19", "supply.transformer")
    assert isinstance(part, Transformer)
    # The volt-amperes and the wall of the one that is fitted, and they are assumed.
    assert (part.va, part.v_primary_rms) == (160.0, 230.0)
    assert how_known(part, "va") is How.ASSUMED
    (small,) = as_typed("2x19", (Transformer,))
    assert isinstance(small, Transformer)
    other = Transformer(name="x", maker="–", core="toroid", secondaries="two", va=500, v_primary_rms=120,
                        v_secondary_rms=40)  # fmt: skip
    (large,) = as_typed("2x41", (Transformer,), other)
    assert isinstance(large, Transformer)
    assert (large.va, large.v_primary_rms) == (500.0, 120.0)


def test_it_is_of_the_kind_that_is_fitted() -> None:
    pair = BenchPair(name="x", rails="dual", v_rail=30, i_limit_a=3)
    (bench,) = as_typed("2x24V 5A", KINDS["supply.source"], pair)
    assert isinstance(bench, BenchPair)
    assert (bench.rails, bench.v_rail, bench.i_limit_a) == ("dual", 24.0, 5.0)
    switcher = next(part for part, _ in usual_series() if isinstance(part, MainsSwitcher))
    (other,) = as_typed("2x42V 400W", KINDS["supply.switcher"], switcher)
    assert isinstance(other, MainsSwitcher)
    assert (other.v_rail, other.p_continuous_w) == (42.0, 400.0)


def test_what_lies_there_already_is_not_offered_again() -> None:
    shelf = [part for part, _ in usual_series()]
    (same,) = typed("2x18 160VA", "supply.transformer")
    # The plain one for this wall, and that for the other: what was typed says nothing of the wall.
    alike = [part for part in shelf if is_alike(same, part)]
    assert {part.v_secondary_rms for part in alike if isinstance(part, Transformer)} == {18.0}
    (new,) = typed("2x19 160VA", "supply.transformer")
    assert not any(is_alike(new, part) for part in shelf)
    (bridge,) = typed("35A", "supply.rectifier")
    assert all(isinstance(part, Rectifier) for part in shelf if is_alike(bridge, part))
    load = next(part for part in shelf if isinstance(part, Load) and part.p_rated_w == 100)
    (typed_load,) = typed("2 ohm 100W", "load")
    assert is_alike(typed_load, load)
    sink = HeatSink(name="x", r_k_per_w=0.4, t_limit_c=60)
    (typed_sink,) = typed("0.4 K/W", "sink")
    assert is_alike(typed_sink, sink)
    assert not is_alike(typed_sink, sink.model_copy(update={"r_k_per_w": 0.42}))


@settings(max_examples=150)
@given(text=st.text(alphabet="0123456789.,x-RVAWmuFH K/Wohm<>… ", max_size=24))
def test_whatever_is_typed_is_a_part_or_none(text: str) -> None:
    for build in (BUILD, *list(FAMILY.values())[::20]):
        for slot in (slot for at in stations(build) for slot in at.slots if slot in KINDS):
            for part in as_typed(text, KINDS[slot], part_in(build, slot)):
                assert any(fact.how is How.STATED for fact in part.told)
                assert type(part) in KINDS[slot]
