"""Which of its healthy states a board was in while a reading was taken: its trimmer at the least, or set before.

A reading that only a board with its bias set shows is either that, or a board that draws too much. Whoever took it
knows which, and is asked; what is said stands in what was typed, and narrows the window to that state.
"""

import dataclasses
import re
from typing import Literal

from plinth.guide.step import Step
from plinth.judge.window import Window
from plinth.record.reading import Reading
from plinth.units.errors import AmbiguousError
from plinth.units.shown import shown

TrimmerState = Literal["", "least", "set"]
# The fact of a reading that keeps it.
FACT = "trimmer"
SAID: dict[TrimmerState, str] = {"least": "trimmer at its least", "set": "set before"}
_TYPED = re.compile(
    r"[\s,;]*(?:(?P<least>(?:trimmer\s+)?at\s+(?:its\s+)?least)|(?P<set>set\s+before))\s*$", re.IGNORECASE
)


def parted(typed: str) -> tuple[str, TrimmerState]:
    """What was typed without the state at its end, and that state: ``38.2 V, set before``."""
    match = _TYPED.search(typed)
    if match is None:
        return typed, ""
    return typed[: match.start()], "least" if match["least"] else "set"


def beside_usual(window: Window, value: float) -> bool:
    """Whether a value lies inside a window, and only in that of a board that was set before."""
    if window.low is not None and value < window.low:
        return False
    if window.high is not None and value > window.high:
        return False
    below = window.usual_low is not None and value < window.usual_low
    return below or (window.usual_high is not None and value > window.usual_high)


def window_with(window: Window, state: TrimmerState) -> Window:
    """The window of a board whose trimmer is at its least, where that is said; else that of every healthy state."""
    if state != "least":
        return window
    return dataclasses.replace(
        window,
        low=window.low if window.usual_low is None else window.usual_low,
        high=window.high if window.usual_high is None else window.usual_high,
        usual_low=None, usual_high=None, below_usual="", beyond_usual="",
    )  # fmt: skip


def state_of(reading: Reading) -> TrimmerState:
    """The state that was said with a reading; empty where none was."""
    said = reading.word(FACT)
    return "least" if said == "least" else "set" if said == "set" else ""


def step_as_read(step: Step, reading: Reading) -> Step:
    """The step with the window of the state that was said with a reading of it."""
    state = state_of(reading)
    if step.window is None or not state:
        return step
    return step.asking(window=window_with(step.window, state))


def ask_which(step: Step, typed: str, value: float) -> None:
    """Ask in which state the board was. Raises AmbiguousError, whose ``texts`` are what to type instead."""
    assert step.window is not None, f"{step.key} asks for no figure"
    plain = " ".join(typed.split())
    side = "less" if step.window.usual_low is not None and value < step.window.usual_low else "more"
    raise AmbiguousError(
        f"{shown(value, step.unit)} is {side} than a board shows with its trimmer at its least, and healthy on one "
        "whose bias was set before. Which is this one? Set before: go on, and turn it down first. Trimmer at its "
        f"least: it draws too much. Type {plain}, {SAID['set']} or {plain}, {SAID['least']}",
        (value,),
        tuple(f"{plain}, {SAID[state]}" for state in ("set", "least")),
        asks="Set before, or at its least?",
        lead="",
    )
