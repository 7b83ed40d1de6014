"""What is said of one claim of a listing: possible, consistent with the others, reached in this build."""

import dataclasses

from plinth.judge.state import State


@dataclasses.dataclass(frozen=True)
class ClaimState:
    """``state`` clear: yes; close: only just, or with a word to it; over: no; unknown: it cannot be told."""

    state: State
    sentence: str


@dataclasses.dataclass(frozen=True)
class JudgedClaim:
    """``words`` the claim, ``part`` whose it is."""

    words: str
    part: str
    possible: ClaimState
    consistent: ClaimState
    here: ClaimState


def yes(sentence: str) -> ClaimState:
    """It is so."""
    return ClaimState(State.CLEAR, sentence)


def no(sentence: str) -> ClaimState:
    """It is not so."""
    return ClaimState(State.OVER, sentence)


def unsure(sentence: str) -> ClaimState:
    """It cannot be told."""
    return ClaimState(State.UNKNOWN, sentence)


def near(sentence: str) -> ClaimState:
    """Only just, or with a word to it."""
    return ClaimState(State.CLOSE, sentence)


ALONE = unsure("No other claim of this listing bears on it.")
