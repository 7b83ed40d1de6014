"""A reading that was taken and is kept, and a step passed over without one."""

import dataclasses
import datetime as dt

from plinth.judge.state import State


@dataclasses.dataclass(frozen=True)
class Reading:
    """What was typed (or taken), how it was understood, and the verdict of that moment.

    ``subject`` says what was read (``bringup/left/bias``, ``clip/left/one/Dummy 4``), ``value`` in SI ``unit``,
    ``u`` its standard uncertainty (None: the instrument's accuracy is not known), ``low``/``high`` the window
    or band it was held against. ``simulated`` readings come from a stand-in and never count as measured.
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
    sentence: str
    low: float | None = None
    high: float | None = None
    simulated: bool = False


@dataclasses.dataclass(frozen=True)
class Override:
    """A step passed over: the reason, in the words of whoever did it."""

    subject: str
    reason: str
    at: dt.datetime


@dataclasses.dataclass(frozen=True)
class Confirmation:
    """A step that asks for no figure, done."""

    subject: str
    at: dt.datetime


Record = Reading | Override | Confirmation


def latest(records: list[Record]) -> dict[str, Record]:
    """The last record of each subject, in the order given."""
    found: dict[str, Record] = {}
    for record in records:
        found[record.subject] = record
    return found
