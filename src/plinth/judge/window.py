"""A window that a reading is expected in, and the verdict on a reading."""

import dataclasses

from plinth.judge.state import State
from plinth.units.shown import shown

CLOSE_EDGE = 0.05


@dataclasses.dataclass(frozen=True)
class Window:
    """Readings from ``low`` to ``high`` (SI ``unit``) are as expected; None leaves that side open.

    ``why`` says in one sentence how the window was computed, ``estimated`` what in it nobody stated.
    """

    low: float | None
    high: float | None
    unit: str
    why: str
    estimated: tuple[str, ...] = ()

    def words(self) -> str:
        """``31 to 42 mA``, ``above 1.00 MΩ``, ``below 60 °C``."""
        if self.low is not None and self.high is not None:
            return f"{shown(self.low, self.unit)} to {shown(self.high, self.unit)}"
        if self.low is not None:
            return f"above {shown(self.low, self.unit)}"
        assert self.high is not None, "a window is open on one side at most"
        return f"below {shown(self.high, self.unit)}"


@dataclasses.dataclass(frozen=True)
class Verdict:
    """``side`` is -1 below the window, +1 above it, 0 inside."""

    state: State
    side: int
    words: str


def judge_reading(value: float, u: float | None, window: Window) -> Verdict:
    """A reading with standard uncertainty ``u`` (None: not known) against its window.

    Over outside it; close inside but within 2 u of an edge, or where ``u`` is not known, within 5 % of the
    window's width; clear otherwise.
    """
    if window.low is not None and value < window.low:
        return Verdict(State.OVER, -1, "Below the window")
    if window.high is not None and value > window.high:
        return Verdict(State.OVER, 1, "Above the window")
    edges = [edge for edge in (window.low, window.high) if edge is not None]
    both = window.low is not None and window.high is not None
    assert edges, "a window is open on one side at most"
    width = edges[-1] - edges[0] if both else abs(edges[0])
    guard = 2.0 * u if u is not None else CLOSE_EDGE * width
    if any(abs(value - edge) < guard for edge in edges):
        return Verdict(State.CLOSE, 0, "Inside, at the edge")
    return Verdict(State.CLEAR, 0, "Inside the window")
