"""What is said of a typed reading before it is kept, and what came of keeping it."""

import dataclasses
import enum
from typing import Protocol

from plinth.judge.state import State
from plinth.judge.window import Window, judge_reading
from plinth.record.giving import Giving
from plinth.record.reading import Reading
from plinth.record.request import Request
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
    KEPT = "it was written, and what comes next is current"
    # Of two that are typed beside each other.
    SECOND_NOT_UNDERSTOOD = "the second is no reading, so neither was written"
    FIRST_KEPT = "the first was written, the second was not"
    SECOND_KEPT = "the second was written, and the first stays current"


class Procedure(Protocol):
    """A test under way. Whoever gives the readings looks at ``request``, asks ``said`` and gives to ``take``."""

    @property
    def blocked(self) -> str:
        """Why nothing is taken just now; empty where it is."""

    @property
    def request(self) -> Request | None:
        """What is asked for now; None where nothing is, or only a word that something is done."""

    @property
    def subject(self) -> str:
        """What is current, as records have it; empty where there is nothing."""

    def said(self, text: str) -> Said:
        """What a text means here, before it is kept; of an empty one what was kept, or is expected."""

    def take(self, text: str, giving: Giving = ...) -> Taken:
        """Keep a reading and take the current next."""

    def answer(self, text: str, choice: int, giving: Giving = ...) -> Taken:
        """Keep a reading as the choice of that place takes it."""

    def counts(self) -> tuple[int, int]:
        """(Readings kept, readings asked for)."""


def given_by(reading: Reading, giving: Giving) -> Reading:
    """The reading as that one gave it; instrument and uncertainty as the kit has them where the giver knows neither."""
    named = giving.origin.instrument_id or reading.origin.instrument_id
    origin = dataclasses.replace(giving.origin, instrument_id=named)
    if not giving.instrument:
        return dataclasses.replace(reading, origin=origin)
    facts = {name: fact for name, fact in reading.facts.items() if name != "meter_floor"}
    state = reading.state
    if reading.low is not None or reading.high is not None:
        window = Window(reading.low, reading.high, reading.unit, "")
        state = judge_reading(reading.value, giving.u, window, reading.bound).state
    return dataclasses.replace(
        reading, origin=origin, instrument=giving.instrument, u=giving.u, facts={**facts, **giving.facts}, state=state
    )


def sentence(error: QuantityError) -> str:
    """What is wrong with a text, as a sentence."""
    words = str(error)
    return f"{words[0].upper()}{words[1:]}."


def not_understood(error: QuantityError) -> Said:
    """A text that is no reading."""
    return Said(State.UNKNOWN, "Not understood", sentence(error))
