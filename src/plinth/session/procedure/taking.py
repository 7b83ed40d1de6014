"""What is said of a typed reading before it is kept, and what came of keeping it."""

import dataclasses
import enum
from typing import Protocol

from plinth.judge.state import State
from plinth.units.errors import QuantityError


@dataclasses.dataclass(frozen=True)
class Said:
    """How a typed text is taken: ``state`` and ``words``, what it stands ``against``.

    ``choices`` not empty: it may mean several things, and is kept only once one of them is chosen.
    """

    state: State
    words: str
    against: str = ""
    choices: tuple[str, ...] = ()


class Taken(enum.Enum):
    """What came of a text that was to be kept."""

    NOTHING = "nothing was typed"
    HELD = "readings are held back"
    NOT_UNDERSTOOD = "it is no reading"
    ASKED = "it may mean several things"
    NOT_KEPT = "it could not be written"
    KEPT = "it was written, and what comes next is in hand"
    # Of two that are typed beside each other.
    SECOND_NOT_UNDERSTOOD = "the second is no reading, so neither was written"
    FIRST_KEPT = "the first was written, the second was not"
    SECOND_KEPT = "the second was written, and the first stays in hand"


class Procedure(Protocol):
    """A test under way. Whoever gives the readings, a field or a script, asks ``said`` and gives to ``take``."""

    blocked: str

    @property
    def subject(self) -> str:
        """What is in hand, as records have it; empty where there is nothing."""

    def said(self, text: str) -> Said:
        """What a text means here, before it is kept; of an empty one what was kept, or is expected."""

    def take(self, text: str) -> Taken:
        """Keep a reading and take the next in hand."""

    def counts(self) -> tuple[int, int]:
        """(Readings kept, readings asked for)."""


def sentence(error: QuantityError) -> str:
    """What is wrong with a text, as a sentence."""
    words = str(error)
    return f"{words[0].upper()}{words[1:]}."


def not_understood(error: QuantityError) -> Said:
    """A text that is no reading."""
    return Said(State.UNKNOWN, "Not understood", sentence(error))
