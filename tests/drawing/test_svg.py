"""Plots and sketches as SVG: read back from the text, each curve lies where its numbers are."""

import re
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from plinth.drawing.series import Series
from plinth.drawing.sketch import Box, Disc, Line, Sketch, Words
from plinth.drawing.svg import PLOT_HEIGHT, PLOT_WIDTH, plot_svg, sketch_svg, thinned

COLOURS = dict.fromkeys(("ink", "ink2", "plus", "minus", "zero", "pred", "over", "rule", "sunk", "sheet"), "#123456")
SVG = "{http://www.w3.org/2000/svg}"


def parts(svg: str, tag: str) -> list[ET.Element]:
    return list(ET.fromstring(svg).iter(f"{SVG}{tag}"))


def ticks(svg: str, anchor: str) -> list[tuple[float, float, float]]:
    """Number, x and y of each tick of an axis."""
    found = []
    for text in parts(svg, "text"):
        words = (text.text or "").replace("−", "-")
        if text.get("text-anchor") == anchor and re.fullmatch(r"-?[\d.]+", words):
            found.append((float(words), float(text.get("x", "")), float(text.get("y", ""))))
    return found


def test_a_curve_lies_where_its_numbers_are_by_its_own_ticks() -> None:
    x = np.linspace(0.0, 0.02, 81)
    y = 30.0 * np.sin(2.0 * np.pi * 50.0 * x)
    svg = plot_svg([Series("wave", x, y, "plus", "V")], COLOURS, words="A wave", x_label="ms", y_label="V", x_scale=1e3)
    (line,) = parts(svg, "polyline")
    points = np.array([[float(part) for part in pair.split(",")] for pair in line.get("points", "").split()])
    across, up = ticks(svg, "middle"), ticks(svg, "end")
    assert len(across) >= 3
    assert len(up) >= 3
    to_x = np.polyfit([tick[1] for tick in across], [tick[0] for tick in across], 1)
    to_y = np.polyfit([tick[2] - 4.0 for tick in up], [tick[0] for tick in up], 1)
    assert np.polyval(to_x, points[:, 0]) == pytest.approx(1e3 * x, abs=0.01)
    assert np.polyval(to_y, points[:, 1]) == pytest.approx(y, abs=0.05)
    assert points.min() >= 0.0
    assert points[:, 0].max() <= PLOT_WIDTH
    assert points[:, 1].max() <= PLOT_HEIGHT
    assert [title.text for title in parts(svg, "title")] == ["A wave"]


def test_names_of_curves_that_end_together_do_not_lie_over_each_other() -> None:
    x = np.array([0.0, 1.0])
    curves = [Series(name, x, np.array([k, 1.0]), "ink", "V") for k, name in enumerate(("first", "second", "third"))]
    svg = plot_svg(curves, COLOURS, words="Three", x_label="s", y_label="V")
    at = sorted(float(text.get("y", "")) for text in parts(svg, "text") if text.text in ("first", "second", "third"))
    assert np.diff(at).min() >= 13.9


def test_a_long_curve_keeps_its_least_and_its_most() -> None:
    x = np.linspace(0.0, 1.0, 50_001)
    y = np.sin(300.0 * x)
    y[31_777], y[7] = 9.0, -8.0
    thin_x, thin_y = thinned(x, y)
    assert len(thin_x) <= 402
    assert (thin_y.max(), thin_y.min()) == (9.0, -8.0)
    assert np.all(np.diff(thin_x) > 0.0)
    assert (thin_x[0], thin_x[-1]) == (0.0, 1.0)


def test_a_level_line_and_a_single_point_can_be_drawn_and_nothing_cannot() -> None:
    level = plot_svg(
        [Series("level", np.array([0.0, 1.0]), np.array([5.0, 5.0]), "ink", "V")], COLOURS, words="Level", x_label="s",
        y_label="V",
    )  # fmt: skip
    assert ticks(level, "end")
    with pytest.raises(ValueError, match="found no curve"):
        plot_svg([], COLOURS, words="Nothing", x_label="s", y_label="V")


def test_every_mark_of_a_sketch_is_drawn_and_its_words_are_safe() -> None:
    sketch = Sketch(
        (Line(1, 2, 3, 4), Box(10, 20, 100, 40, ("two", "lines")), Disc(5, 6), Words(7, 8, "a < b & c", bold=True)),
        "All < of them",
    )
    svg = sketch_svg(sketch, COLOURS)
    assert len(parts(svg, "line")) == 1
    assert len(parts(svg, "circle")) == 1
    texts = {text.text: text for text in parts(svg, "text")}
    assert set(texts) == {"two", "lines", "a < b & c"}
    middle = [float(texts[words].get("y", "")) - 4.0 for words in ("two", "lines")]
    # Both lines together stand in the middle of their box.
    assert sum(middle) / 2.0 == pytest.approx(40.0)
    assert texts["a < b & c"].get("font-weight") == "bold"
