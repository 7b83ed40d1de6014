"""A reading that is watched until it rests: what the readings on the way say of where it ends, and when."""

import dataclasses
import datetime as dt
from collections.abc import Sequence

import numpy as np

from plinth.guide.judging import wait_words
from plinth.guide.step import Step, Watch
from plinth.physics.numbers.approach import Approach, approach
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.record.subject import Kind, Subject
from plinth.units.bounds import Bound
from plinth.units.moments import clock
from plinth.units.shown import shown, shown_with_spread

# Readings belong to one run where they were taken since the same switching on.
_SAME_RUN_S = 2.0
# A fit tells its end where it knows it to this share of the way it has come or of what counts as at rest.
_KNOWN_SHARE = 0.35
# What a meter of unknown accuracy may be off, as a share of the reading.
_UNKNOWN_METER = 0.01


@dataclasses.dataclass(frozen=True)
class WatchedPoint:
    """A reading at ``t_s`` after switching on."""

    t_s: float
    reading: Reading


@dataclasses.dataclass(frozen=True)
class Watched:
    """The readings of the last run, the fit through them (None before there are two), and what that says."""

    points: tuple[WatchedPoint, ...]
    fit: Approach | None
    words: str
    left_s: float | None

    @property
    def rests(self) -> bool:
        """Whether it has come to rest, as far as its readings say."""
        return self.left_s == 0.0


def on_the_way(step: Step) -> str:
    """The subject of the readings on the way of a step: they never settle it."""
    return Subject(Kind.COURSE, step.about.channel, step.about.what).text


def noted(step: Step, reading: Reading) -> Reading:
    """A reading of a step as one on the way."""
    return dataclasses.replace(reading, subject=on_the_way(step))


def run_of(step: Step, book: RecordBook) -> tuple[WatchedPoint, ...]:
    """The readings of a step and on its way, of the last run under power, in order of time."""
    readings = [
        reading
        for subject in (on_the_way(step), step.subject)
        for reading in book.series(subject, step.conditions)
        if reading.bound is Bound.NONE and reading.number("since_on_s") is not None
    ]
    if not readings:
        return ()
    readings.sort(key=lambda reading: reading.taken_at)
    begun = _switched_on(readings[-1])
    return tuple(
        WatchedPoint(float(reading.number("since_on_s") or 0.0), reading)
        for reading in readings
        if abs((_switched_on(reading) - begun).total_seconds()) <= _SAME_RUN_S
    )


def _switched_on(reading: Reading) -> dt.datetime:
    return reading.taken_at - dt.timedelta(seconds=reading.number("since_on_s") or 0.0)


def watched(step: Step, book: RecordBook) -> Watched | None:
    """What the readings of a step say so far; None for a step that is not watched, or was not read yet."""
    watch, points = step.watch, run_of(step, book)
    if watch is None or not points:
        return None
    t = np.array([point.t_s for point in points])
    if len(points) < 2 or float(np.ptp(t)) < 0.05 * watch.tau_s:
        return Watched(points, None, _single(step, watch, points), None)
    y = np.array([point.reading.value for point in points])
    # What is the same in all readings of one meter moves the end with them and tells no course.
    us = [
        point.reading.u if point.reading.u is not None else _UNKNOWN_METER * abs(point.reading.value)
        for point in points
    ]
    u = max(watch.jitter * max(us), 0.1 * watch.within)
    fit = approach(t, y, u, watch.tau_s, watch.tau_spread)
    known = fit.u_end <= max(_KNOWN_SHARE * max(abs(fit.off), float(np.ptp(y))), watch.within)
    if not known:
        return Watched(points, None, f"{_trend(step, points)} Where it ends cannot be told yet.", None)
    left = fit.left_s(watch.within)
    whole_u = float(np.hypot(fit.u_end, max(us)))
    end = shown_with_spread(fit.end, 2.0 * whole_u, step.unit)
    if left == 0.0:
        words = f"At rest: {end}."
    else:
        words = f"{_trend(step, points)} It comes to rest at {end}, in about {wait_words(left)}."
    return Watched(points, fit, f"{words}{_hot_day(watch, step, fit.end, whole_u)}", left)


def _single(step: Step, watch: Watch, points: Sequence[WatchedPoint]) -> str:
    last = points[-1]
    again = max(0.5 * watch.tau_s, 5.0)
    value = shown(last.reading.value, step.unit)
    return f"{value} at {wait_words(last.t_s)}. Read again in {wait_words(again)} to see its course."


def _trend(step: Step, points: Sequence[WatchedPoint]) -> str:
    first, last = points[0], points[-1]
    per_s = (last.reading.value - first.reading.value) / (last.t_s - first.t_s)
    word = "Rises" if per_s > 0.0 else "Falls"
    slow = last.t_s - first.t_s > 90.0
    rate = f"{shown(abs(per_s) * (60.0 if slow else 1.0), step.unit, 2)} a {'minute' if slow else 'second'}"
    return f"{word} by {rate}." if per_s else "Has not moved."


def _hot_day(watch: Watch, step: Step, end: float, u_end: float) -> str:
    if watch.hotter_by is None or watch.limit is None:
        return ""
    hot = end + watch.hotter_by
    state = "over" if hot > watch.limit else "close to" if hot + 2.0 * u_end > watch.limit else "below"
    return (
        f" {watch.hot_words} it is {shown_with_spread(hot, 2.0 * u_end, step.unit)}, {state} the limit of "
        f"{shown(watch.limit, step.unit)}."
    )


# From so long on it is also said until when.
_LONG_S = 900.0


def watch_words(seconds: float, at: dt.datetime) -> str:
    """How long a reading is still to be watched from ``at`` on; empty where no time is left."""
    if seconds <= 0.0:
        return ""
    if seconds < _LONG_S:
        return f"Watch {wait_words(seconds)}"
    until = (at + dt.timedelta(seconds=seconds)).astimezone()
    return f"Watch {wait_words(seconds)}, until {clock(until)}"
