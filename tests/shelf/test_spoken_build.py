"""A build from what one has, as it is spoken: what is said is stated and in it, the rest is assumed and sized to it."""

import dataclasses
import math

import pytest

from plinth.builds.build import Build
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule, Module
from plinth.builds.parts import Load
from plinth.builds.properties import How, how_known, known_of, value_at
from plinth.builds.situation import Situation
from plinth.builds.stations import is_there, part_in, stations
from plinth.builds.supply_parts import MainsSwitcher, Transformer
from plinth.demo.shelf import RING_225, STAGEHAND_60
from plinth.judge.rules import judge
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import solve
from plinth.session.claims import claims_of
from plinth.shelf.spoken_build import build_of, read_spoken
from plinth.shelf.usual_series import is_usual, usual_boards
from plinth.units.errors import QuantityError
from tests.sample_builds import linear

BOTH = ("left", "right")
WHAT_ONE_HAS = "2x18 160VA, 2 chips 60W 8R 25V, 2x10m 50V, 8R2 100W"


def made(text: str, channels: tuple[str, ...] = BOTH, mains_v: float = 230.0) -> Build:
    return build_of(read_spoken(text), channels, mains_v)


def test_what_is_said_is_in_it_and_stated() -> None:
    build = made(WHAT_ONE_HAS)
    transformer, module = linear(build).transformer, build.module
    assert (transformer.v_secondary_rms, transformer.va, transformer.secondaries) == (18.0, 160.0, "two")
    assert isinstance(module, ClassABModule)
    assert (module.v_rail_nominal, build.channels) == (25.0, BOTH)
    assert [(claim.power_w, claim.r_load_ohm, claim.v_rail_v) for claim in module.claims] == [(60.0, 8.0, 25.0)]
    assert build.supply.reservoir.c_f == pytest.approx(10e-3)
    assert build.supply.reservoir.v_rated == 50.0
    assert (build.load.r_ohm, build.load.p_rated_w) == (8.2, 100.0)
    for part, path in ((transformer, "va"), (transformer, "v_secondary_rms"), (module, "v_rail_nominal"),
                       (build.supply.reservoir, "c_f"), (build.load, "r_ohm")):  # fmt: skip
        assert how_known(part, path) is How.STATED, path
    # Nobody said what they are like inside.
    assert how_known(module, "r_junction_sink_k_per_w") is How.ASSUMED
    assert is_usual(build.sink)
    assert WHAT_ONE_HAS not in build.note
    assert "Begun with supply: two windings, rating 160 VA" in build.note


def test_a_board_stands_a_fifth_more_than_the_rail_it_is_sold_for() -> None:
    """What is not said of it is that of the plain one; only as far as the rail that is said does not fit into that."""
    module = read_spoken("2 boards 52V").module
    assert isinstance(module, ClassABModule)
    plain = {board.name: board for board in usual_boards()["AB"]}
    assert (module.v_rail_min, module.v_rail_nominal) == (plain["Class AB board, 100 W"].v_rail_min, 52.0)
    assert module.v_rail_max == max(62.4, plain["Class AB board, 100 W"].v_rail_max)
    high = read_spoken("2 boards 90V").module
    assert isinstance(high, ClassABModule)
    assert high.v_rail_max == pytest.approx(108.0)
    low = read_spoken("2 boards 20V").module
    assert isinstance(low, ClassABModule)
    assert low.v_rail_min == pytest.approx(12.0)


@pytest.mark.parametrize(("watts", "name"), [(25, "30 W"), (55, "60 W"), (110, "100 W"), (300, "200 W")])
def test_a_board_called_by_its_watts_is_like_the_plain_one_next_to_it(watts: int, name: str) -> None:
    module = read_spoken(f"2 boards {watts}W").module
    plain = next(board for board in usual_boards()["AB"] if board.name.endswith(name))
    assert module == plain.model_copy(update={"name": f"2 boards {watts}W"})


def test_an_impossible_claim_of_it_is_judged_at_once() -> None:
    """Sixty watts into eight ohm want 31 V of peak, which 25 V rails have not: without a field filled in."""
    build = made(WHAT_ONE_HAS)
    assert math.sqrt(2.0 * 60.0 * 8.0) > 25.0
    judged = next(claim for claim in claims_of(build, Situation(), lambda _share: True) if "60 W" in claim.words)
    assert judged.possible.state is State.OVER


@pytest.mark.parametrize(
    ("text", "kind", "channels", "bridged"),
    [
        ("2x18 160VA, 2 chips 50W 8R 25V", ClassABModule, BOTH, False),
        ("2x25 225VA, 2 class AB boards 100W 8R 40V", ClassABModule, BOTH, False),
        ("2x18 300VA, stereo class A 20W", ClassAModule, BOTH, False),
        ("2x30 300VA, 2 class D modules 150W 4R", ClassDModule, BOTH, False),
        ("mono class D full bridge 150W 4R 36V", ClassDModule, ("mono",), False),
        ("2x18 200VA, 4 chips 25V bridged", ClassABModule, BOTH, True),
        ("2x18 200VA, 2 chips 25V bridged", ClassABModule, ("mono",), True),
        ("2x18 200VA, stereo chips 25V bridged", ClassABModule, BOTH, True),
        ("18-0-18 120VA, 1 chip", ClassABModule, ("mono",), False),
        ("2x36V 400W switcher, 2 modules class D 150W 4R", ClassDModule, BOTH, False),
        ("2x25 500VA, 4 boards class AB 60W 8R", ClassABModule, tuple(f"channel {k}" for k in range(1, 5)), False),
        ("30W 8R class D, 15m 50V", ClassDModule, BOTH, False),
        ("60 W 4R, 0.3 K/W", ClassABModule, BOTH, False),
    ],
)
def test_each_kind_of_stage_and_supply_is_understood(
    text: str, kind: type[Module], channels: tuple[str, ...], bridged: bool
) -> None:
    build = made(text)
    assert isinstance(build.module, kind)
    assert build.channels == channels
    assert (build.wiring == "bridged") == bridged
    assert isinstance(build.supply.source_part, MainsSwitcher) == ("switcher" in text)
    figures = solve(build).figures
    assert figures["clip_worst_power_w"].value > 1.0
    # What is only assumed is sized to what is said: nothing of it is over, but what was said itself.
    said = {"claims", "module_rail_maximum", "fuse_current", "transformer_va", "sink_heat", "load_resistance"}
    assert {margin.key for margin in judge(solve(build)) if margin.state is State.OVER} <= said


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("soup", "expected a part such as"), ("2x18 160VA, 2x20 200VA", "expected one supply"),
        ("10m 50V", "neither watts into ohms"), ("2x18 160VA, 3 K", "found '3 K'"), (" , ", "found nothing"),
        ("8R2, 4R 50W", "expected one load"), ("2x18 200VA, 3 chips bridged", "an even number"),
        ("2 chips, 2 boards", "expected one module"),
        ("1x24 160VA, 2 chips", "wants two rails"),
    ],
)  # fmt: skip
def test_what_does_not_go_is_said(text: str, words: str) -> None:
    with pytest.raises((QuantityError, PhysicsError), match=words):
        made(text)


def test_the_rest_is_sized_to_what_is_said() -> None:
    low, high = made("2x12 80VA, 10m, 8R"), made("2x50 500VA, 10m, 8R")
    for build in (low, high):
        reservoir = build.supply.reservoir
        assert solve(build)["rail_no_load_high_v"].high < reservoir.v_rated
        assert how_known(reservoir, "v_rated") is How.ASSUMED
    assert low.supply.reservoir.v_rated < high.supply.reservoir.v_rated
    # How much a load bears is not guessed.
    assert isinstance(high.load, Load)
    assert high.load.p_rated_w is None


def test_the_primary_is_for_the_wall_there_is() -> None:
    build = made("2x18 160VA", mains_v=120.0)
    assert linear(build).transformer.v_primary_rms == 120.0
    assert build.mains is not None
    assert build.mains.v_nominal_rms == 120.0


def test_a_primary_that_is_stated_stays_and_is_judged() -> None:
    """A toroid for 230 V on a wall of 120 V is not another toroid: half the rails, and a limit that says so."""
    spoken = dataclasses.replace(read_spoken("10m 50V"), source=RING_225)
    build = build_of(spoken, BOTH, 120.0)
    assert linear(build).transformer == RING_225
    assert build.mains is not None
    assert build.mains.v_nominal_rms == 120.0


@pytest.mark.parametrize("text", [WHAT_ONE_HAS, "2 boards 90V", "2 boards 20V", "2x18 160VA", "2x10m 50V, 2x25 300VA"])
def test_what_is_told_of_each_part_is_what_is_in_it(text: str) -> None:
    """A guess that was sized to what is said is told as it is now: else it would come back with the next change."""
    build = made(text, mains_v=120.0)
    for slot in (slot for at in stations(build) for slot in at.slots if is_there(build, slot)):
        part = part_in(build, slot)
        for path in {fact.field for fact in part.told}:
            assert value_at(part, path) == known_of(part, path)[0].value, (part.name, path)


def test_boards_of_the_shelf_are_called_by_their_name() -> None:
    spoken = read_spoken("2x25 225VA, 2 stagehand 60, 4R", (STAGEHAND_60,))
    assert spoken.module == STAGEHAND_60
    build = build_of(spoken, BOTH, 230.0)
    assert (build.module, build.load.r_ohm) == (STAGEHAND_60, 4.0)


def test_decimal_commas_and_semicolons_part_what_they_should() -> None:
    spoken = read_spoken("2x21,5V 140 VA; 6,8m 63V; 8,2 ohm 50W")
    assert isinstance(spoken.source, Transformer)
    assert spoken.source.v_secondary_rms == 21.5
    assert [slot for slot, _ in spoken.parts] == ["supply.reservoir", "load"]
    assert "capacitance per rail 6.8 mF" in spoken.words


def test_every_part_it_has_is_there_once() -> None:
    build = made(WHAT_ONE_HAS)
    fitted = [part_in(build, slot) for at in stations(build) for slot in at.slots if is_there(build, slot)]
    assert len({part.name for part in fitted}) == len(fitted)
