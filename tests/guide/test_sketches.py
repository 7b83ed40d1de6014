"""Sketches beside checks: drawn for the very build, saying in words what they show."""

import pytest

from plinth.builds.stations import part_in, with_part
from plinth.demo.builds import REHEARSAL_ROOM, STAGE_PAIR
from plinth.drawing.sketch import HEIGHT, WIDTH, Box, Disc, Line, Sketch, Words
from plinth.guide.inspection.checks import checks_of
from plinth.guide.inspection.sketches import sketch_of
from tests.family import DEMO, FAMILY, FEW


def said(sketch: Sketch) -> str:
    words = [mark.text for mark in sketch.marks if isinstance(mark, Words)]
    return " | ".join([*words, *(" ".join(mark.words) for mark in sketch.marks if isinstance(mark, Box))])


@pytest.mark.parametrize("name", [*DEMO, *FEW])
def test_every_sketch_lies_on_its_sheet_and_belongs_to_a_check(name: str) -> None:
    build = (DEMO | FAMILY)[name]
    sketches = [found for check in checks_of(build) if (found := sketch_of(check.key, build)) is not None]
    assert sketches
    for sketch in sketches:
        assert sketch.words.endswith(".")
        for mark in sketch.marks:
            match mark:
                case Line():
                    at = [(mark.x1, mark.y1), (mark.x2, mark.y2)]
                case Box():
                    at = [(mark.x, mark.y), (mark.x + mark.w, mark.y + mark.h)]
                case Disc() | Words():
                    at = [(mark.x, mark.y)]
            assert all(0.0 <= x <= WIDTH and 0.0 <= y <= HEIGHT for x, y in at), mark


def live_to(sketch: Sketch) -> float:
    return max(mark.x2 for mark in sketch.marks if isinstance(mark, Line) and mark.role == "over")


def test_what_stays_live_is_as_this_build_is_wired() -> None:
    good = sketch_of("nothing_bare", STAGE_PAIR)
    wrong = sketch_of(
        "nothing_bare",
        STAGE_PAIR.model_copy(update={"hookup": STAGE_PAIR.hookup.model_copy(update={"switch_in": "neutral"})}),
    )
    assert good is not None
    assert wrong is not None
    assert live_to(good) < live_to(wrong)
    assert "dead" in said(good)
    assert "dead" not in said(wrong)
    assert "Fix it before the plug goes in" in said(wrong)
    assert f"{STAGE_PAIR.entry.fuse_kind} {STAGE_PAIR.entry.fuse_a_rms:g} A" in said(good)


def test_primaries_join_for_the_mains_of_the_build() -> None:
    high = sketch_of("primary", REHEARSAL_ROOM)
    assert high is not None
    assert "in series" in said(high)
    assert REHEARSAL_ROOM.mains is not None
    low = sketch_of(
        "primary",
        REHEARSAL_ROOM.model_copy(update={"mains": REHEARSAL_ROOM.mains.model_copy(update={"v_nominal_rms": 120.0})}),
    )
    assert low is not None
    assert "in parallel" in said(low)
    assert "120 V" in said(low)


def test_the_can_of_the_minus_rail_stands_the_other_way_round() -> None:
    both, one = sketch_of("polarity", STAGE_PAIR), sketch_of("polarity", FAMILY["chips on one rail, bridged on linear"])
    assert both is not None
    assert one is not None
    assert said(both).count("stripe") == 2
    assert said(one).count("stripe") == 1
    assert "− rail" in said(both)
    assert "− rail" not in said(one)


def test_a_gap_under_the_device_is_drawn_as_wide_as_it_is() -> None:
    sink = part_in(STAGE_PAIR, "sink").model_copy(update={"air_gap_m": 4e-4, "a_device_m2": 3e-4})
    lifted = sketch_of("spacers", with_part(STAGE_PAIR, "sink", sink, changed=True))
    flat = sketch_of("spacers", STAGE_PAIR)
    assert lifted is not None
    assert flat is not None
    assert "400 µm of air" in said(lifted)
    assert "of air" not in said(flat)
    assert sketch_of("strain_relief", STAGE_PAIR) is None
