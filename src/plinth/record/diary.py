"""A line of the diary: what was done to a build, and the record it tells of."""

import dataclasses
import datetime as dt

from plinth.record.conditions import Conditions
from plinth.record.reading import CheckVerdict, Confirmation, Finding, Override, Reading, Record

# The kinds of line that tell of an inspection.
FINDINGS: dict[str, CheckVerdict] = {"sound": "sound", "doubt": "doubt", "bad": "bad"}


@dataclasses.dataclass(frozen=True)
class DiaryEntry:
    """A line of the diary; ``reading`` where it is one; ``version`` of the build it belongs to (0: not kept).

    ``kind``: made, changed, reading, confirmed, override, sound, doubt, bad, power_on, power_off, note.
    """

    at: dt.datetime
    kind: str
    subject: str
    words: str
    reading: Reading | None = None
    conditions: Conditions | None = None
    version: int = 0


@dataclasses.dataclass(frozen=True)
class Moment:
    """A line of the diary without its words: when, of which kind, about what."""

    at: dt.datetime
    kind: str
    subject: str


# A line about another line has this before that one's moment.
_OF_LINE = "line/"


def of_line(entry: DiaryEntry) -> str:
    """The subject of what is about that very line: a photo, a correction."""
    return f"{_OF_LINE}{entry.at.isoformat()}"


def corrected_line(moment: "Moment | DiaryEntry") -> dt.datetime | None:
    """The moment of the line that this one corrects; None where it corrects none."""
    if moment.kind != "note" or not moment.subject.startswith(_OF_LINE):
        return None
    return dt.datetime.fromisoformat(moment.subject.removeprefix(_OF_LINE))


def record_of(entry: DiaryEntry) -> Record | None:
    """The reading, override, confirmation or finding that a line tells of; None for any other line."""
    if entry.reading is not None:
        return entry.reading
    if entry.kind == "override":
        return Override(entry.subject, entry.words, entry.at, entry.conditions)
    if entry.kind in FINDINGS:
        return Finding(entry.subject, FINDINGS[entry.kind], entry.words, entry.at, entry.conditions)
    return Confirmation(entry.subject, entry.at, entry.conditions) if entry.kind == "confirmed" else None
