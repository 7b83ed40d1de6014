"""What a sketch is made of: lines, boxes, discs and words on a sheet, of 540 by 220 where nothing else is said."""

import dataclasses
from typing import Literal

WIDTH, HEIGHT = 540.0, 220.0

# The colour tokens of the desk, by what they mean: danger for what stays live or must not be.
SketchRole = Literal["ink", "ink2", "plus", "minus", "zero", "pred", "over", "rule", "sunk"]
Anchor = Literal["left", "middle", "right"]


@dataclasses.dataclass(frozen=True)
class Line:
    """From (x1, y1) to (x2, y2); ``thick`` in the sheet's units."""

    x1: float
    y1: float
    x2: float
    y2: float
    role: SketchRole = "ink"
    thick: float = 2.0


@dataclasses.dataclass(frozen=True)
class Box:
    """A rectangle, filled with ``fill`` (None: the sheet), its ``words`` in the middle, one a line."""

    x: float
    y: float
    w: float
    h: float
    words: tuple[str, ...] = ()
    role: SketchRole = "ink"
    fill: SketchRole | None = None


@dataclasses.dataclass(frozen=True)
class Disc:
    """A terminal or a joint."""

    x: float
    y: float
    r: float = 4.0
    role: SketchRole = "ink"
    open: bool = False


@dataclasses.dataclass(frozen=True)
class Words:
    """Text whose middle line stands at ``y``."""

    x: float
    y: float
    text: str
    role: SketchRole = "ink2"
    anchor: Anchor = "middle"
    bold: bool = False


Mark = Line | Box | Disc | Words


@dataclasses.dataclass(frozen=True)
class Sketch:
    """``marks`` from back to front on a sheet of ``width`` by ``height``; ``words`` say the same without seeing it."""

    marks: tuple[Mark, ...]
    words: str
    width: float = WIDTH
    height: float = HEIGHT
