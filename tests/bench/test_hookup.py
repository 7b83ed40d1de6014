"""The wiring drawn for each test: for the very build, inside its sheet, and never a clip to a live output."""

import pytest

from plinth.bench.hookup import HEIGHT, WIDTH, hookup
from plinth.builds.parts import Load
from plinth.drawing.sketch import Box, Disc, Line, Words
from tests.family import DEMO, FAMILY, FEW

ANY = {**{name: FAMILY[name] for name in FEW}, **DEMO}
TESTS = ("rails", "gain", "clip", "response", "impedance", "square", "protection", "mains", "hum", "heat")


@pytest.mark.parametrize("name", ANY)
@pytest.mark.parametrize("test", TESTS)
def test_it_is_drawn_inside_its_sheet_for_every_kind(test: str, name: str) -> None:
    build = ANY[name]
    sketch = hookup(test, build, build.channels[0])
    assert (sketch.width, sketch.height) == (WIDTH, HEIGHT)
    assert sketch.words.endswith(".")
    for mark in sketch.marks:
        match mark:
            case Line():
                xs, ys = [mark.x1, mark.x2], [mark.y1, mark.y2]
            case Box():
                xs, ys = [mark.x, mark.x + mark.w], [mark.y, mark.y + mark.h]
            case Disc() | Words():
                xs, ys = [mark.x], [mark.y]
        assert all(0 <= x <= WIDTH for x in xs)
        assert all(0 <= y <= HEIGHT for y in ys)


@pytest.mark.parametrize("name", ANY)
def test_at_a_bridge_no_clip_is_drawn_to_an_output(name: str) -> None:
    build = ANY[name]
    for test in ("gain", "clip", "response", "impedance", "square", "hum"):
        sketch = hookup(test, build, build.channels[0])
        said = [mark.text for mark in sketch.marks if isinstance(mark, Words)]
        if build.both_outputs_live:
            assert "both live: no clip at either" in said
            assert not any(isinstance(mark, Line) and mark.role == "zero" and mark.x1 > 150 for mark in sketch.marks)
            assert "no clip" in sketch.words
        else:
            assert "clip to 0 V only" in said
            assert "both live: no clip at either" not in said


def test_single_rails_have_no_minus_and_no_build_without_mains_has_a_wall() -> None:
    for build in ANY.values():
        rails = hookup("rails", build, build.channels[0])
        assert any(getattr(mark, "role", "") == "minus" for mark in rails.marks) != build.supply.single_rail
        boxes = [word for mark in hookup("mains", build, "left").marks if isinstance(mark, Box) for word in mark.words]
        assert ("wall" in boxes) == (build.mains is not None)


def test_the_load_and_a_long_name_are_shown_as_they_fit() -> None:
    build = DEMO["Stage pair"].model_copy(update={"load": Load(name="Big", r_ohm=2.05), "loads": ()})
    boxes = [mark.words for mark in hookup("clip", build, "left").marks if isinstance(mark, Box)]
    assert ("2.05 Ω",) in boxes
    named = build.model_copy(update={"channels": ("balcony, far left", "right")})
    boxes = [mark.words for mark in hookup("clip", named, "balcony, far left").marks if isinstance(mark, Box)]
    assert ("balcony,…", "module") in boxes
