"""What a lamp in series shows: held against the lamp's own balance, against full mains, and against larger lamps."""

import itertools
import math

import pytest

from plinth.builds.build import Build
from plinth.demo.builds import FOYER, MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR, STREET_BOX
from plinth.physics.mains.lamp import RATED_K, ROOM_K
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.lamp_outlook import LAMPS_W, lamp_outlook, one_channel, why_no_lamp
from tests.family import FAMILY
from tests.turns import in_turn

LINEAR = {name: build for name, build in FAMILY.items() if not why_no_lamp(build)}


@pytest.mark.parametrize("build", [STAGE_PAIR, REHEARSAL_ROOM, FOYER], ids=lambda build: build.name)
def test_the_filament_loses_what_it_gets(build: Build) -> None:
    outlook = lamp_outlook(build)
    for rest in (outlook.least, outlook.whole, outlook.alone):
        assert rest.t_k is not None
        assert rest.lamp_v is not None
        r = outlook.mains_v_rms**2 / outlook.lamp_w * (rest.t_k / RATED_K) ** 1.2
        radiated = outlook.lamp_w * (rest.t_k**4 - ROOM_K**4) / (RATED_K**4 - ROOM_K**4)
        assert rest.lamp_v**2 / r == pytest.approx(radiated, rel=0.01, abs=1e-4 * outlook.lamp_w)
    short = outlook.shorted
    assert outlook.shorted_a == pytest.approx(
        math.sqrt(outlook.lamp_w * (short.t_k / RATED_K) ** 4 / (short.v_rms / outlook.shorted_a)), rel=0.01
    )
    # A short leaves nearly all of the mains on the lamp.
    assert 0.75 * outlook.mains_v_rms < short.v_rms <= outlook.mains_v_rms
    assert 0.85 * outlook.lamp_w / outlook.mains_v_rms < outlook.shorted_a < 1.02 * outlook.lamp_w / outlook.mains_v_rms


@pytest.mark.parametrize("name", in_turn(LINEAR, 10))
def test_rails_order_themselves_as_they_must(name: str) -> None:
    outlook = lamp_outlook(LINEAR[name])
    assert 0.0 < outlook.whole.rail_v <= outlook.least.rail_v + 1e-3
    assert outlook.least.rail_v < outlook.full.rail_v
    assert outlook.least.rail_v <= outlook.alone.rail_v
    assert outlook.full.rail_v <= outlook.full_alone.rail_v + 1e-6
    # Little draws, so the lamp drops next to nothing; the input stages of a supply that has some are always there.
    inputs = LINEAR[name].supply.model_dump().get("input_supply") is not None
    assert outlook.alone.rail_v == pytest.approx(outlook.full_alone.rail_v, rel=0.15 if inputs else 0.06)
    assert outlook.alone.glow in (("dark", "a dull red") if inputs else ("dark",))
    assert outlook.shorted.t_k > max(outlook.whole.t_k or 0.0, outlook.least.t_k or 0.0)
    for rest in (outlook.alone, outlook.least, outlook.full):
        assert 0.0 < rest.u_rail_v < 0.25 * rest.rail_v


def test_the_smallest_lamp_behind_which_the_board_works_is_taken() -> None:
    for build in (STAGE_PAIR, REHEARSAL_ROOM, FOYER):
        outlook = lamp_outlook(build)
        place = LAMPS_W.index(outlook.lamp_w)
        assert outlook.least.rail_v >= build.module.v_rail_min
        assert outlook.least.awake
        assert outlook.whole.awake
        assert (outlook.whole.t_k or 0.0) < 0.8 * outlook.shorted.t_k
        if place:
            smaller = lamp_outlook(build, LAMPS_W[place - 1])
            assert min(smaller.least.rail_v, smaller.whole.rail_v) < 1.15 * build.module.v_rail_min
            assert f"Behind {LAMPS_W[place - 1]:g} W" in outlook.why
    # A class A board draws so much that a small lamp would light up as with a short.
    assert lamp_outlook(FOYER).lamp_w > lamp_outlook(REHEARSAL_ROOM).lamp_w


def test_a_larger_lamp_gives_more_rail_stays_darker_and_lets_more_into_a_short() -> None:
    found = [lamp_outlook(STAGE_PAIR, watts) for watts in (60.0, 100.0, 200.0)]
    for less, more in itertools.pairwise(found):
        assert more.least.rail_v > less.least.rail_v
        assert (more.least.t_k or 0.0) < (less.least.t_k or 0.0)
        assert more.shorted_a > 1.5 * less.shorted_a


def test_class_a_glows_when_all_is_well() -> None:
    outlook = lamp_outlook(FOYER)
    assert outlook.whole.glow != "dark"
    assert (outlook.whole.t_k or 0.0) > (lamp_outlook(REHEARSAL_ROOM).whole.t_k or 0.0)


def test_one_channel_s_board_is_on_it_however_many_there_are() -> None:
    more = REHEARSAL_ROOM.model_copy(update={"channels": ("a", "b", "c", "d"), "channel_keys": ()})
    assert one_channel(more).channels == ("a",)
    assert lamp_outlook(more).least.rail_v == pytest.approx(lamp_outlook(REHEARSAL_ROOM).least.rail_v, rel=1e-6)


@pytest.mark.parametrize("build", [MARKET_BOX, STREET_BOX], ids=lambda build: build.name)
def test_where_no_lamp_serves_it_says_why(build: Build) -> None:
    assert "transformer" in why_no_lamp(build)
    with pytest.raises(PhysicsError, match="hunt behind it"):
        lamp_outlook(build)


def test_drivers_draw_on_where_the_trimmer_is_at_its_least() -> None:
    def drop(driver_a: float) -> float:
        module = STAGE_PAIR.module.model_copy(update={"i_driver_a": driver_a})
        outlook = lamp_outlook(STAGE_PAIR.model_copy(update={"module": module}), 100.0)
        return outlook.full_alone.rail_v - outlook.least.rail_v

    # Nearly all of the current is the drivers' own, so the trimmer hardly matters.
    assert drop(0.2) > 2.5 * drop(0.02)
