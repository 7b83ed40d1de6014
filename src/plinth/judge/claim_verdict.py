"""What is said of one claim of a listing: possible, consistent with the others, reached in this build."""

import dataclasses

from plinth.judge.state import State


@dataclasses.dataclass(frozen=True)
class Verdict:
    """``state`` clear: yes; close: only just, or with a word to it; over: no; unknown: it cannot be told."""

    state: State
    sentence: str


@dataclasses.dataclass(frozen=True)
class JudgedClaim:
    """``words`` the claim, ``part`` whose it is."""

    words: str
    part: str
    possible: Verdict
    consistent: Verdict
    here: Verdict


def yes(sentence: str) -> Verdict:
    """It is so."""
    return Verdict(State.CLEAR, sentence)


def no(sentence: str) -> Verdict:
    """It is not so."""
    return Verdict(State.OVER, sentence)


def unsure(sentence: str) -> Verdict:
    """It cannot be told."""
    return Verdict(State.UNKNOWN, sentence)


def near(sentence: str) -> Verdict:
    """Only just, or with a word to it."""
    return Verdict(State.CLOSE, sentence)


ALONE = unsure("No other claim of this listing bears on it.")
