"""Another lamp, a small transformer: what is typed is understood, and windows go by the equipment there is."""

import math

import pytest

from plinth.builds.build import Build
from plinth.demo.builds import MARKET_BOX, REHEARSAL_ROOM, STAGE_PAIR
from plinth.guide.equipment import NOTHING, Equipment, on_small, read_equipment
from plinth.guide.school import School
from plinth.guide.schools.every_school import SCHOOLS
from plinth.guide.schools.series_lamp import SCHOOL as LAMP
from plinth.physics.mains.transformer import estimate_regulation
from plinth.physics.rails.reforming import held_v
from plinth.predict.lamp_outlook import lamp_outlook
from plinth.predict.solve import idle_rail_v
from plinth.predict.unloaded_supply import own_rails
from plinth.units.errors import QuantityError
from tests.family import FAMILY


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("60 W", "lamp of 60 W"), ("lamp 100w", "lamp of 100 W"), ("", ""),
        ("2x18 V 10 VA", "small transformer 2 × 18 V, 10 VA"), ("2*18V 10VA", "small transformer 2 × 18 V, 10 VA"),
        ("40W; 2x15 6va", "lamp of 40 W; small transformer 2 × 15 V, 6 VA"),
    ],
)  # fmt: skip
def test_what_is_typed_is_understood(text: str, words: str) -> None:
    assert read_equipment(text, STAGE_PAIR).words == words


@pytest.mark.parametrize(
    ("text", "build", "words"),
    [
        ("a candle", STAGE_PAIR, "expected a lamp"), ("3000 W", STAGE_PAIR, "expected 5 to 500 W"),
        ("18-0-15 5VA", REHEARSAL_ROOM, "two equal halves"), ("15 V 5 VA", STAGE_PAIR, "found"),
        ("18-0-18 5VA", STAGE_PAIR, "two bridges"), ("2x18 V 10 VA", MARKET_BOX, "no transformer in whose place"),
        ("2x18 V 10 VA", FAMILY["chips on one rail, bridged on linear"], "found"),
    ],
)  # fmt: skip
def test_what_does_not_go_is_refused_in_words(text: str, build: Build, words: str) -> None:
    with pytest.raises(QuantityError, match=words):
        read_equipment(text, build)


def test_a_small_transformer_stands_far_above_its_label() -> None:
    equipment = read_equipment("2x18 V 10 VA", STAGE_PAIR)
    assert equipment.small is not None
    rails = own_rails(on_small(STAGE_PAIR, equipment.small), board=False)
    regulation, _ = estimate_regulation(10.0, "ei")
    assert regulation > 0.25
    # The crest without load less two diodes, held down by the bleeder behind the small one's many ohms.
    r_half = regulation * 18.0 / (10.0 / 36.0)
    crest = math.sqrt(2.0) * 18.0 * (1.0 + regulation) - 1.4
    expected = held_v(crest, r_half, STAGE_PAIR.supply.reservoir.r_bleeder_ohm, 0.0)
    assert rails.low_v == pytest.approx(expected, rel=0.04)
    assert rails.low_v > 1.15 * math.sqrt(2.0) * 18.0
    # Nobody states its regulation: the spread says so.
    assert rails.u_v > 0.03 * rails.low_v


@pytest.mark.parametrize("school", SCHOOLS, ids=lambda school: school.key)
def test_the_small_one_comes_before_any_other_mains(school: School) -> None:
    equipment = read_equipment("2x18 V 10 VA", STAGE_PAIR)
    idle = idle_rail_v(STAGE_PAIR)
    steps = school.steps(STAGE_PAIR, "left", idle, {}, equipment)
    keys = [one.key for one in steps]
    first = next(k for k, one in enumerate(steps) if one.power and "Mains" in one.caution)
    assert keys[first] == "small_rail"
    assert keys.index("mains_known") < first < keys.index("small_discharged")
    without = [one.key for one in school.steps(STAGE_PAIR, "left", idle, {}, NOTHING)]
    assert [key for key in keys if not key.startswith("small_")] == without
    assert len(set(keys)) == len(keys)


def test_another_lamp_has_windows_of_its_own() -> None:
    idle = idle_rail_v(REHEARSAL_ROOM)
    chosen = lamp_outlook(REHEARSAL_ROOM).lamp_w
    other = 2.5 * chosen
    steps = {one.key: one for one in LAMP.steps(REHEARSAL_ROOM, "left", idle, {}, Equipment(lamp_w=other))}
    assert f"{other:g} W" in steps["lamp_fitted"].title
    assert "the one you have" in steps["lamp_fitted"].ask
    usual = {one.key: one for one in LAMP.steps(REHEARSAL_ROOM, "left", idle, {})}
    # The larger lamp takes less of the rails, and is a condition of what is read behind it.
    larger, smaller = steps["lamp_rail"].window, usual["lamp_rail"].window
    assert larger is not None
    assert smaller is not None
    assert (larger.low or 0.0) > (smaller.low or 0.0)
    assert steps["lamp_rail"].conditions["lamp_w"] == other
