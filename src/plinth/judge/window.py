"""A window that a reading is expected in, and the verdict on a reading."""

import dataclasses
import math

from plinth.judge.state import State
from plinth.physics.mains.lamp import glow
from plinth.units.bounds import Bound
from plinth.units.shown import shown

CLOSE_EDGE = 0.05


@dataclasses.dataclass(frozen=True)
class Window:
    """Readings from ``low`` to ``high`` (SI ``unit``) are as expected; None leaves that side open.

    ``why`` says in one sentence how the window was computed, ``estimated`` what in it nobody stated. Above
    ``usual_high`` (or below ``usual_low``) a reading is still inside, but ``beyond_usual`` (``below_usual``) says what
    is then not as it should be. In kelvin it is a filament's, and is said as an eye sees it.
    """

    low: float | None
    high: float | None
    unit: str
    why: str
    estimated: tuple[str, ...] = ()
    usual_high: float | None = None
    beyond_usual: str = ""
    usual_low: float | None = None
    below_usual: str = ""

    def words(self) -> str:
        """``31 to 42 mA``, ``above 1.00 MΩ``, ``below 60 °C``, ``dark to orange``."""
        if self.unit == "K":
            seen = [glow(self.low or 0.0), glow(math.inf if self.high is None else self.high)]
            return seen[0] if seen[0] == seen[-1] else f"{seen[0]} to {seen[-1]}"
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


# What "about" adds to a reading: a tenth either way, taken as a rectangular bound.
ABOUT_SHARE = 0.10
# Windows are computed: a reading on an edge is not outside because of its last binary digit.
EDGE = 1e-9


def judge_reading(value: float, u: float | None, window: Window, bound: Bound = Bound.NONE) -> Verdict:
    """A reading with standard uncertainty ``u`` (None: not known) against its window.

    Over outside it; close inside but within 2 u of an edge, or where ``u`` is not known, within 5 % of the window's
    width; clear otherwise. A bound is judged as far as it tells: unknown where the reading may lie on either side.
    """
    low = None if window.low is None else window.low - EDGE * abs(window.low)
    high = None if window.high is None else window.high + EDGE * abs(window.high)
    if bound.one_sided:
        return _judge_bound(value, low, high, bound)
    if low is not None and value < low:
        return Verdict(State.OVER, -1, "Below the window")
    if high is not None and value > high:
        return Verdict(State.OVER, 1, "Above the window")
    edges = [edge for edge in (low, high) if edge is not None]
    assert edges, "a window is open on one side at most"
    width = edges[-1] - edges[0] if len(edges) == 2 else abs(edges[0])
    if bound is Bound.ABOUT:
        u = math.hypot(u or 0.0, ABOUT_SHARE * abs(value) / math.sqrt(3.0))
    guard = 2.0 * u if u is not None else CLOSE_EDGE * width
    if window.usual_high is not None and value > window.usual_high:
        return Verdict(State.CLOSE, 0, "Inside the window, but more than usual")
    if window.usual_low is not None and value < window.usual_low:
        return Verdict(State.CLOSE, 0, "Inside the window, but less than usual")
    if any(abs(value - edge) < guard for edge in edges):
        return Verdict(State.CLOSE, 0, "Inside, at the edge")
    return Verdict(State.CLEAR, 0, "Inside the window")


def _judge_bound(value: float, low: float | None, high: float | None, bound: Bound) -> Verdict:
    above = bound is Bound.ABOVE
    if not above and low is not None and low <= 0.0:
        # What is below a value inside lies inside where the window goes down to nothing, or to as much of its opposite.
        low = None
    far, near = (high, low) if above else (low, high)
    side = 1 if above else -1
    if far is not None and (value >= far if above else value <= far):
        return Verdict(State.OVER, side, "Above the window" if above else "Below the window")
    if far is None and near is not None and (value >= near if above else value <= near):
        return Verdict(State.CLEAR, 0, "Inside the window")
    return Verdict(State.UNKNOWN, 0, "Not told by a bound: read it on another range")
