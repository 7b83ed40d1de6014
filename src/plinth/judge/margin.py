"""A margin: a value against its limit."""

import dataclasses
import math

from plinth.judge.state import State
from plinth.predict.figure import Figure

CLOSE_SHARE = 0.90
LIMIT_SLACK = 1e-9


@dataclasses.dataclass(frozen=True)
class Margin:
    """``value`` against ``limit`` (in the figure's unit); ``floor`` True where it must stay above.

    ``sentence`` says why, ``fix`` what to change; ``limit_words`` what the limit is. ``said`` of a thing that is
    one way or another instead of a figure: which way.
    """

    key: str
    label: str
    station: str
    figure: Figure | None
    limit: float | None
    unit: str
    floor: bool
    limit_words: str
    state: State
    sentence: str
    fix: str
    said: str = ""

    @property
    def room(self) -> float:
        """Distance to the limit in the unit, positive on the good side; NaN if unknown."""
        if self.figure is None or self.limit is None or not self.figure.known:
            return math.nan
        return self.figure.value - self.limit if self.floor else self.limit - self.figure.value

    @property
    def room_percent(self) -> float:
        """Distance to the limit in per cent of it."""
        return 100.0 * self.room / self.limit if self.limit else math.nan


def state_against(figure: Figure | None, limit: float | None, floor: bool) -> State:
    """Over past the limit; close where the 95 % band reaches it or 90 % of it is used; else clear."""
    if figure is None or limit is None or not figure.known:
        return State.UNKNOWN
    # A value on its limit is not past it because of its last binary digit.
    slack = LIMIT_SLACK * abs(limit)
    if floor:
        if figure.value < limit - slack:
            return State.OVER
        return State.CLOSE if figure.low < limit or figure.value * CLOSE_SHARE < limit else State.CLEAR
    if figure.value > limit + slack:
        return State.OVER
    return State.CLOSE if figure.high > limit or figure.value > CLOSE_SHARE * limit else State.CLEAR
