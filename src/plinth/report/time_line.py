"""A build's diary along time: when it was under power and for how long, when it was changed, read, looked at."""

import dataclasses
import datetime as dt
from collections.abc import Sequence

from plinth.record.diary import FINDINGS, Moment

# What is marked, by the kind of line.
_MARKED = {"made": "changed", "changed": "changed", "reading": "reading", "note": "note"} | dict.fromkeys(
    FINDINGS, "inspected"
)


@dataclasses.dataclass(frozen=True)
class Stretch:
    """Something of the build was under power from ``begin`` to ``end``; ``known`` whether its end was written down."""

    begin: dt.datetime
    end: dt.datetime
    known: bool


@dataclasses.dataclass(frozen=True)
class TimeMark:
    """``what`` happened (changed, reading, inspected, note) at a line of the diary, counted from 0."""

    at: dt.datetime
    what: str
    line: int


@dataclasses.dataclass(frozen=True)
class TimeLine:
    """From the first line to the last (or to now, while power is on)."""

    first: dt.datetime
    last: dt.datetime
    stretches: tuple[Stretch, ...]
    marks: tuple[TimeMark, ...]

    @property
    def under_power_s(self) -> float:
        """Seconds in which anything of the build was under power, each once."""
        return sum((stretch.end - stretch.begin).total_seconds() for stretch in merged(self.stretches))

    @property
    def sentence(self) -> str:
        """How long it was under power, and in how many goes."""
        goes = merged(self.stretches)
        if not goes:
            return "No time under power is written down."
        seconds, unsure = self.under_power_s, any(not stretch.known for stretch in self.stretches)
        hours = f"{seconds / 3600.0:.1f} h" if seconds >= 3600.0 else f"{seconds / 60.0:.0f} min"
        least = ", at least: the end of some was not written down" if unsure else ""
        return f"Under power {hours} in {len(goes)} {'go' if len(goes) == 1 else 'goes'}{least}."


def time_line(moments: Sequence[Moment], now: dt.datetime) -> TimeLine | None:
    """The time line of a diary; None of an empty one.

    What was switched on is on until it is switched off; where that was not written down, until the last line before it
    was switched on again. What is on now is on until ``now``.
    """
    if not moments:
        return None
    stretches: list[Stretch] = []
    on: dict[str, dt.datetime] = {}
    before = moments[0].at
    for moment in moments:
        if moment.kind == "power_on":
            if moment.subject in on:
                begin = on[moment.subject]
                stretches.append(Stretch(begin, max(begin, min(before, moment.at)), known=False))
            on[moment.subject] = moment.at
        elif moment.kind == "power_off" and moment.subject in on:
            begin = on.pop(moment.subject)
            stretches.append(Stretch(begin, max(begin, moment.at), known=True))
        before = moment.at
    stretches += [Stretch(begin, max(begin, now), known=True) for begin in on.values()]
    marks = [
        TimeMark(moment.at, _MARKED[moment.kind], line)
        for line, moment in enumerate(moments)
        if moment.kind in _MARKED
    ]  # fmt: skip
    times = [moment.at for moment in moments] + [stretch.end for stretch in stretches]
    return TimeLine(min(times), max(times), tuple(sorted(stretches, key=lambda each: each.begin)), tuple(marks))


def merged(stretches: Sequence[Stretch]) -> tuple[Stretch, ...]:
    """Stretches that meet or overlap as one: two channels at once are one time under power."""
    whole: list[Stretch] = []
    for stretch in sorted(stretches, key=lambda each: each.begin):
        if whole and stretch.begin <= whole[-1].end:
            last = whole[-1]
            whole[-1] = Stretch(last.begin, max(last.end, stretch.end), known=last.known and stretch.known)
        else:
            whole.append(stretch)
    return tuple(whole)
