"""Two captures of one thing, figure by figure: a difference, not told apart, or cannot be told at this length."""

import math
from dataclasses import dataclass

from plinth.captures.capture import CaptureError
from plinth.captures.figure import Analysis, CaptureFigure

DIFFERENCE, ALIKE, UNKNOWN = "a difference", "not told apart", "cannot be told at this length"
# A spread of more than this says nothing of alike or not: of decibels, of degrees, else a share of the value.
_TOO_WIDE = {"dB": 3.0, "deg": 30.0}
_TOO_WIDE_SHARE = 0.2
# What any capture has says nothing of what was recorded; a phase of a harmonic depends on where the record begins.
_LEFT_OUT = frozenset({"rows", "rows_used", "missing", "sample_rate_hz"})


@dataclass(frozen=True)
class FigureDifference:
    """One figure of both: ``difference`` is the first less the second, with its spread (about 95 %)."""

    channel: str
    first: CaptureFigure
    second: CaptureFigure
    difference: float
    spread: float

    @property
    def word(self) -> str:
        """What is to be said of it."""
        wide = _TOO_WIDE.get(self.first.unit, _TOO_WIDE_SHARE * max(abs(self.first.value), abs(self.second.value)))
        if abs(self.difference) > self.spread:
            return DIFFERENCE
        return UNKNOWN if self.spread > wide else ALIKE


def compared(first: Analysis, second: Analysis) -> tuple[FigureDifference, ...]:
    """Every figure that both have, in the order of the first; channels are paired by their places.

    Spreads are those of noise, length and steps: what the recorder's own calibration is off by is the same in both if
    nothing was changed between them. Raises CaptureError where they are of two kinds, or hold no figure in common.
    """
    if first.kind != second.kind:
        raise CaptureError(
            f"found one read as {first.kind} and one as {second.kind}, expected two of one kind: choose what they show"
        )
    rows = []
    for mine, its in zip(first.channels, second.channels, strict=False):
        for figure in mine.figures:
            if figure.name in _LEFT_OUT or figure.name not in its or its[figure.name].unit != figure.unit:
                continue
            other = its[figure.name]
            off = figure.value - other.value
            if figure.unit == "deg":
                # Round the circle the short way.
                off = (off + 180.0) % 360.0 - 180.0
            rows.append(
                FigureDifference(mine.name, figure, other, off, math.hypot(figure.spread, other.spread))
            )  # fmt: skip
    if not rows:
        raise CaptureError("found no figure that both have in one unit: state the scale of both alike")
    return tuple(rows)
