"""A reading that was taken and is kept, a step done or passed over without a reading, what an inspection found.

Facts only: the sentence about a reading is made when it is shown, by whoever knows its test or step.
"""

import dataclasses
import datetime as dt
import math
from collections.abc import Iterable, Mapping
from typing import Literal

from plinth.judge.state import State
from plinth.record.conditions import Conditions
from plinth.record.origin import BY_HAND, Giver, ReadingOrigin
from plinth.units.bounds import Bound


@dataclasses.dataclass(frozen=True)
class Reading:
    """What was typed (or taken), how it was understood, and the state of that moment.

    ``subject`` says what was read (``bringup/left/bias``, ``clip/left/one/Dummy 4``), ``value`` in SI ``unit``,
    ``u`` its standard uncertainty (None: the instrument's accuracy is not known), ``low``/``high`` the window
    or band it was held against. ``bound``: the value is only a bound (``>100``, ``OL``, ``about 30``).
    ``conditions`` those it was taken under (None: not kept). ``facts`` what else its sentence rests on, by name (the
    form of a level, a listing's claim), ``said`` the sentence itself where a file of before kept that in their place.
    ``origin`` who gave it: what a stand-in simulated never counts as measured. Raises ValueError for a value or an
    uncertainty that is no finite number.
    """

    subject: str
    label: str
    typed: str
    value: float
    unit: str
    u: float | None
    instrument: str
    taken_at: dt.datetime
    state: State
    low: float | None = None
    high: float | None = None
    origin: ReadingOrigin = BY_HAND
    bound: Bound = Bound.NONE
    conditions: Conditions | None = None
    facts: Mapping[str, float | str] = dataclasses.field(default_factory=dict)
    said: str = ""

    @property
    def simulated(self) -> bool:
        """Whether a stand-in gave it."""
        return self.origin.giver is Giver.SIMULATED

    def beside(self, other: "Reading") -> bool:
        """Whether both were read with the same instrument, by its identity where both know it, else by its name."""
        mine, its = self.origin.instrument_id, other.origin.instrument_id
        return mine == its if mine and its else self.instrument == other.instrument

    def number(self, name: str) -> float | None:
        """A fact that is a number; None where it is not there."""
        fact = self.facts.get(name)
        return None if fact is None or isinstance(fact, str) else float(fact)

    def word(self, name: str) -> str:
        """A fact that is a word; empty where it is not there."""
        return str(self.facts.get(name, ""))

    def __post_init__(self) -> None:
        if not math.isfinite(self.value) or (self.u is not None and not math.isfinite(self.u)):
            raise ValueError(f"found a reading of {self.value:g} ±{self.u}, expected finite numbers: read it again")


@dataclasses.dataclass(frozen=True)
class Override:
    """A step passed over: the reason, in the words of whoever did it."""

    subject: str
    reason: str
    at: dt.datetime
    conditions: Conditions | None = None


@dataclasses.dataclass(frozen=True)
class Confirmation:
    """A step that asks for no figure, done."""

    subject: str
    at: dt.datetime
    conditions: Conditions | None = None


CheckVerdict = Literal["sound", "doubt", "bad"]


@dataclasses.dataclass(frozen=True)
class Finding:
    """What was found at a check of the inspection, in the words of whoever looked; ``sound`` needs none."""

    subject: str
    verdict: CheckVerdict
    words: str
    at: dt.datetime
    conditions: Conditions | None = None


Record = Reading | Override | Confirmation | Finding


def latest(records: Iterable[Record]) -> dict[str, Record]:
    """The last record of each subject, in the order given."""
    newest: dict[str, Record] = {}
    for record in records:
        newest[record.subject] = record
    return newest
