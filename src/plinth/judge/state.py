"""The four states that anything judged can have."""

import enum


class State(enum.StrEnum):
    """Clear of its limit, close to it, over it, or not known. Unknown is never taken for clear."""

    CLEAR = "clear"
    CLOSE = "close"
    OVER = "over"
    UNKNOWN = "unknown"


_LOUDNESS = {State.OVER: 3, State.CLOSE: 2, State.UNKNOWN: 1, State.CLEAR: 0}


def worst(states: list[State]) -> State:
    """The state to show for several: over, else close, else unknown, else clear; unknown for none."""
    return max(states, key=_LOUDNESS.__getitem__, default=State.UNKNOWN)
