"""Sketches and plots as SVG in given colours, for pages that stand by themselves."""

import itertools
import math
from collections.abc import Mapping, Sequence
from html import escape

import numpy as np

from plinth.drawing.series import Series
from plinth.drawing.sketch import Box, Disc, Line, Mark, Sketch, Words

Colours = Mapping[str, str]
FONT = "B612"
PLOT_WIDTH, PLOT_HEIGHT = 640.0, 240.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 48.0, 84.0, 12.0, 34.0
# A curve of more points is thinned to the least and the most of each stretch.
_MOST_POINTS = 400
_SIDES = {"left": "start", "middle": "middle", "right": "end"}
LINE_PX = 14.0


def sketch_svg(sketch: Sketch, colours: Colours) -> str:
    """A sketch; ``colours`` by the names of its roles, and ``sheet``."""
    marks = "\n".join(_mark(mark, colours) for mark in sketch.marks)
    return _page(sketch.width, sketch.height, sketch.words, marks, colours)


def plot_svg(
    series: Sequence[Series], colours: Colours, *, words: str, x_label: str, y_label: str, x_scale: float = 1.0
) -> str:  # fmt: skip
    """Curves over one axis each way; ``x_scale`` from what ``x`` is in to what the axis counts in.

    ``words`` say the same without seeing it. Raises ValueError where there is nothing to draw.
    """
    drawn = [curve for curve in series if len(curve.x)]
    if not drawn:
        raise ValueError("found no curve, expected one or more: a plot of nothing is no plot")
    x0, x1 = _span(np.concatenate([curve.x * x_scale for curve in drawn]), 0.0)
    y0, y1 = _span(np.concatenate([curve.y for curve in drawn]), 0.08)
    right, low = PLOT_WIDTH - _RIGHT, PLOT_HEIGHT - _BOTTOM

    def across(x: float) -> float:
        return _LEFT + (x - x0) / (x1 - x0) * (right - _LEFT)

    def up(y: float) -> float:
        return _TOP + (y1 - y) / (y1 - y0) * (low - _TOP)

    parts = []
    for tick in _ticks(y0, y1):
        parts.append(_line(Line(_LEFT, up(tick), right, up(tick), "rule", 1.0), colours))
        parts.append(_text(_LEFT - 6.0, up(tick), _number(tick), colours["ink2"], "end"))
    parts += [_text(across(tick), low + 12.0, _number(tick), colours["ink2"], "middle") for tick in _ticks(x0, x1)]
    parts.append(_text(right, PLOT_HEIGHT - 7.0, x_label, colours["ink2"], "end"))
    parts.append(_text(4.0, PLOT_HEIGHT - 7.0, y_label, colours["ink2"], "start"))
    taken: list[float] = []
    for curve in drawn:
        x, y = thinned(curve.x * x_scale, curve.y)
        points = " ".join(f"{across(a):.1f},{up(b):.1f}" for a, b in zip(x, y, strict=True))
        colour = colours[curve.role]
        parts.append(f'<polyline points="{points}" fill="none" stroke="{colour}" stroke-width="1.8"/>')
        at = up(float(y[-1]))
        while any(abs(at - other) < LINE_PX for other in taken):
            at += LINE_PX
        taken.append(at)
        parts.append(_text(right + 6.0, at, curve.name, colour, "start"))
    return _page(PLOT_WIDTH, PLOT_HEIGHT, words, "\n".join(parts), colours)


def thinned(x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A curve with no more points than can be seen: of each stretch the least and the most, in their order."""
    if len(x) <= _MOST_POINTS:
        return x, y
    edges = np.linspace(0, len(x), _MOST_POINTS // 2 + 1).astype(int)
    keep = {0, len(x) - 1}
    for begin, end in itertools.pairwise(edges):
        keep |= {begin + int(np.argmin(y[begin:end])), begin + int(np.argmax(y[begin:end]))}
    order = sorted(keep)
    return x[order], y[order]


def _span(values: np.ndarray, room: float) -> tuple[float, float]:
    low, high = float(np.min(values)), float(np.max(values))
    beside = room * (high - low) or (1.0 if high == low else 0.0)
    return low - beside, high + beside


def _ticks(low: float, high: float, about: int = 5) -> list[float]:
    raw = (high - low) / about
    scale = 10.0 ** math.floor(math.log10(raw))
    step = next(factor * scale for factor in (1.0, 2.0, 2.5, 5.0, 10.0) if factor * scale >= raw * (1.0 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    return [step * k for k in range(first, math.floor(high / step + 1e-9) + 1)]


def _number(value: float) -> str:
    return f"{value:.4g}".replace("-", "−")


def _page(width: float, height: float, words: str, body: str, colours: Colours) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" font-family="{FONT}" '
        f'font-size="12" role="img">\n<title>{escape(words)}</title>\n'
        f'<rect width="{width:g}" height="{height:g}" fill="{colours["sheet"]}"/>\n{body}\n</svg>\n'
    )


def _mark(mark: Mark, colours: Colours) -> str:
    match mark:
        case Line():
            return _line(mark, colours)
        case Box():
            fill = colours[mark.fill or "sheet"]
            box = (
                f'<rect x="{mark.x:g}" y="{mark.y:g}" width="{mark.w:g}" height="{mark.h:g}" rx="3" fill="{fill}" '
                f'stroke="{colours[mark.role]}" stroke-width="1.5"/>'
            )
            first = mark.y + mark.h / 2.0 - LINE_PX / 2.0 * (len(mark.words) - 1)
            lines = [
                _text(mark.x + mark.w / 2.0, first + LINE_PX * k, words, colours["ink"], "middle")
                for k, words in enumerate(mark.words)
            ]
            return "\n".join([box, *lines])
        case Disc():
            fill = colours["sheet" if mark.open else mark.role]
            return (
                f'<circle cx="{mark.x:g}" cy="{mark.y:g}" r="{mark.r:g}" fill="{fill}" '
                f'stroke="{colours[mark.role]}" stroke-width="2"/>'
            )
        case Words():
            return _text(mark.x, mark.y, mark.text, colours[mark.role], _SIDES[mark.anchor], bold=mark.bold)


def _line(line: Line, colours: Colours) -> str:
    return (
        f'<line x1="{line.x1:.4g}" y1="{line.y1:.4g}" x2="{line.x2:.4g}" y2="{line.y2:.4g}" '
        f'stroke="{colours[line.role]}" stroke-width="{line.thick:g}"/>'
    )


def _text(x: float, y: float, text: str, colour: str, anchor: str, *, bold: bool = False) -> str:
    weight = ' font-weight="bold"' if bold else ""
    # The middle of its line stands at y: a third of its height below it is its foot.
    return f'<text x="{x:.1f}" y="{y + 4.0:.1f}" fill="{colour}" text-anchor="{anchor}"{weight}>{escape(text)}</text>'
