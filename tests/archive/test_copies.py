"""A line of another copy as one of this: what is older than one's own record of a thing never takes its place."""

import datetime as dt

import pytest

from plinth.archive.copies import taken_over
from plinth.guide.progress import repaired_subject
from plinth.judge.state import State
from plinth.record.diary import DiaryEntry, record_of
from plinth.record.reading import Reading

AT = dt.datetime(2026, 5, 1, 9, 0, tzinfo=dt.UTC)
BIAS = "bringup/left/bias"


def at(hours: int) -> dt.datetime:
    return AT + dt.timedelta(hours=hours)


def bias(hours: int, subject: str = BIAS) -> DiaryEntry:
    reading = Reading(
        subject, "the bias", "33", 0.033, "V", u=None, instrument="m", taken_at=at(hours), state=State.CLEAR
    )
    return DiaryEntry(at(hours), "reading", subject, "the bias", reading, {})


def found(hours: int, kind: str) -> DiaryEntry:
    return DiaryEntry(at(hours), kind, "inspect/cans", "")


@pytest.mark.parametrize("hours", [0, 4, 5])
def test_what_is_not_newer_than_one_s_own_record_counts_for_nothing(hours: int) -> None:
    line = taken_over(bias(hours), [bias(5)])
    assert record_of(line) is None
    assert line.words == "In the other copy, earlier: the bias, 33"
    # One that was found sound before it was found bad here does not make it sound again.
    assert record_of(taken_over(found(hours, "sound"), [found(5, "bad")])) is None


def test_what_is_newer_or_of_another_thing_counts() -> None:
    assert record_of(taken_over(bias(6), [bias(5)])) == bias(6).reading
    assert record_of(taken_over(bias(4), [bias(5, "bringup/right/bias")])) == bias(4).reading
    assert record_of(taken_over(bias(4), [DiaryEntry(at(5), "note", BIAS, "a note is no record")])) == bias(4).reading
    assert record_of(taken_over(bias(4))) == bias(4).reading


def test_what_was_read_before_a_repair_here_counts_for_nothing() -> None:
    repair = DiaryEntry(at(5), "override", repaired_subject("left"), "output pair renewed")
    assert record_of(taken_over(bias(4), [repair])) is None
    assert record_of(taken_over(bias(6), [repair])) == bias(6).reading
    assert record_of(taken_over(bias(4, "bringup/right/bias"), [repair])) is not None


@pytest.mark.parametrize("kind", ["made", "changed", "power_on", "power_off"])
def test_what_was_done_there_was_not_done_here(kind: str) -> None:
    line = taken_over(DiaryEntry(AT, kind, "power/left", "words"))
    assert (line.kind, line.subject) == ("note", "note")
    assert line.words.startswith("In the other copy, ")
