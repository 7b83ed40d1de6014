"""Times to be at the bench as a calendar file (iCalendar, RFC 5545), which any calendar takes in."""

import dataclasses
import datetime as dt
from collections.abc import Sequence

from plinth.release import VERSION

_LONGEST = 75


@dataclasses.dataclass(frozen=True)
class Appointment:
    """From when to when, what is done, and further words."""

    begin: dt.datetime
    end: dt.datetime
    title: str
    words: str = ""


def calendar_text(appointments: Sequence[Appointment], name: str, at: dt.datetime) -> str:
    """All appointments as one file, each with a reminder at its beginning; ``at`` when it is written."""
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", f"PRODID:-//Plinth//Plinth {VERSION}//EN", f"X-WR-CALNAME:{_text(name)}"]
    for number, each in enumerate(appointments, 1):
        lines += [
            "BEGIN:VEVENT", f"UID:{_moment(at)}-{number}@plinth", f"DTSTAMP:{_moment(at)}",
            f"DTSTART:{_moment(each.begin)}", f"DTEND:{_moment(each.end)}", f"SUMMARY:{_text(each.title)}",
            f"DESCRIPTION:{_text(each.words)}", "BEGIN:VALARM", "ACTION:DISPLAY", f"DESCRIPTION:{_text(each.title)}",
            "TRIGGER:PT0S", "END:VALARM", "END:VEVENT",
        ]  # fmt: skip
    return "".join(f"{_folded(line)}\r\n" for line in [*lines, "END:VCALENDAR"])


def _moment(at: dt.datetime) -> str:
    return at.astimezone(dt.UTC).strftime("%Y%m%dT%H%M%SZ")


def _text(words: str) -> str:
    for sign, written in (("\\", "\\\\"), (";", "\\;"), (",", "\\,"), ("\r\n", "\\n"), ("\n", "\\n")):
        words = words.replace(sign, written)
    return words


def _folded(line: str) -> str:
    """A line in pieces of at most 75 octets, none of them within a letter."""
    pieces: list[str] = []
    piece = ""
    for letter in line:
        if len((piece + letter).encode()) > _LONGEST - bool(pieces):
            pieces.append(piece)
            piece = ""
        piece += letter
    return "\r\n ".join([*pieces, piece])
