"""An amplifier that somebody else built, from what can be read on it."""

import math

import pytest

from plinth.builds.build import Build
from plinth.builds.properties import How, how_known
from plinth.builds.supplies import LinearSupply, SwitcherSupply
from plinth.builds.taken_in import TakenIn
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.solve import idle_rail_v
from plinth.shelf.found_amplifier import FIRST_YEAR, USUAL_NAME, found_build, read_found, read_year
from plinth.units.errors import QuantityError
from tests.sample_builds import linear

BOTH = ("left", "right")


def taken(text: str, *, year: int | None = None, complaint: str = "", name: str = "") -> Build:
    about = TakenIn(complaint=complaint, year=year)
    return found_build(read_found(text), about, name=name, channels=BOTH, mains_v=230.0)


@pytest.mark.parametrize(
    ("text", "volts"),
    [
        ("rails 42 V", 42.0),
        ("rails: ±42V", 42.0),
        ("±37,5 V", 37.5),
        ("+-38V", 38.0),
        ("+/-38 V", 38.0),
        ("+42 V / -42 V", 42.0),
        ("rails +42 -42", 42.0),
        ("Rail of 55 V", 55.0),
    ],
)
def test_volts_marked_on_the_board_are_its_rails(text: str, volts: float) -> None:
    build = taken(text)
    assert build.module.v_rail_nominal == volts
    assert how_known(build.module, "v_rail_nominal") is How.STATED
    # What feeds it is sized to it, and is a guess.
    assert idle_rail_v(build) == pytest.approx(volts, rel=0.10)
    assert how_known(linear(build).transformer, "v_secondary_rms") is How.ASSUMED
    assert how_known(build.module, "v_rail_max") is How.ASSUMED


def test_a_transformer_that_can_be_read_makes_the_rails() -> None:
    build = taken("2x30 225VA, 2x10m 50V, rails 42 V")
    assert linear(build).transformer.v_secondary_rms == 30.0
    assert how_known(linear(build).transformer, "v_secondary_rms") is How.STATED
    assert (linear(build).reservoir.c_f, linear(build).reservoir.v_rated) == (10e-3, 50.0)
    assert build.module.v_rail_nominal == 42.0
    # 30 V rms at full load, a few per cent more at rest, less two diodes.
    assert math.sqrt(2.0) * 30.0 - 2.0 < idle_rail_v(build) < math.sqrt(2.0) * 30.0 * 1.15
    alone = taken("35-0-35 300VA, T 3.15A")
    assert alone.entry.fuse_a_rms == 3.15
    assert how_known(alone.module, "v_rail_nominal") is How.ASSUMED


def test_where_only_the_cans_tell_the_rails_are_guessed_from_their_volts() -> None:
    build = taken("2x6800u 80V")
    assert build.module.v_rail_nominal == 60.0
    assert how_known(build.module, "v_rail_nominal") is How.ASSUMED
    assert linear(build).reservoir.v_rated == 80.0
    assert idle_rail_v(build) < 80.0


def test_watts_on_the_back_a_switcher_and_a_named_board_go_together() -> None:
    watts = taken("60 W 8R")
    assert watts.load.r_ohm == 8.0
    switcher = taken("switcher 2x36V 500W", year=2012)
    assert isinstance(switcher.supply, SwitcherSupply)
    assert switcher.supply.switcher.v_rail == 36.0
    board = taken("2 boards class AB 60W 8R, rails 42 V")
    assert board.module.v_rail_nominal == 42.0
    assert [claim.power_w for claim in board.module.claims] == [60.0]
    # What the board says of its own rail is not overruled by what stands beside it.
    own = taken("2 boards class AB 35V, rails 42 V")
    assert own.module.v_rail_nominal == 35.0


def test_it_keeps_what_is_said_of_it_and_cans_are_taken_to_be_as_old() -> None:
    build = taken("rails 42 V", year=1987, complaint="left is silent, hums.", name="  From the attic ")
    assert build.name == "From the attic"
    assert build.taken_in == TakenIn(complaint="left is silent, hums.", year=1987)
    assert build.taken_in.words == "Said of it: left is silent, hums. Made in 1987."
    supply = build.supply
    assert isinstance(supply, LinearSupply)
    assert supply.reservoir.year == 1987
    assert how_known(supply.reservoir, "year") is How.ASSUMED
    assert "Said of it: left is silent, hums. Made in 1987. Read on it: rails marked ±42 V." in build.note
    assert Build.model_validate_json(build.model_dump_json(exclude_none=True)) == build
    plain = taken("rails 42 V")
    assert plain.name == USUAL_NAME
    assert linear(plain).reservoir.year is None
    assert plain.taken_in is not None
    assert plain.taken_in.words == "Nobody says what is wrong with it."


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "found nothing"),
        ("hello", "found 'hello'"),
        ("8R2 100W", "nothing that tells its rails"),
        ("T 2A", "nothing that tells its rails"),
        ("10m", "nothing that tells its rails"),
        ("rails 42 V, rails 43 V", "the rails twice"),
        ("rails 420 V", "expected 8 to 200 V"),
        ("rails 3 V", "expected 8 to 200 V"),
        ("2x30 225VA, 2x25 160VA", "expected one supply"),
    ],
)
def test_what_does_not_help_is_said(text: str, says: str) -> None:
    with pytest.raises(QuantityError, match=says):
        read_found(text)


def test_parts_that_cannot_stand_together_are_said() -> None:
    with pytest.raises(PhysicsError, match="cannot join"):
        taken("1x30 225VA, rails 42 V")


def test_a_year_is_one_or_nothing() -> None:
    assert [read_year(text, 2026) for text in ("", " ", "1987", " about 1994 ", "2026", str(FIRST_YEAR))] == [
        None, None, 1987, 1994, 2026, FIRST_YEAR,
    ]  # fmt: skip
    for text in ("1887", "2027", "87", "198x", "19877"):
        with pytest.raises(QuantityError, match=f"expected one from {FIRST_YEAR} to 2026, or nothing"):
            read_year(text, 2026)
