"""The time line of a diary: hours under power against plain sums, whatever was written down of them."""

import datetime as dt
import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinth.record.diary import DiaryEntry, Moment, corrected_line, of_line
from plinth.report.time_line import Stretch, merged, time_line

T0 = dt.datetime(2026, 3, 1, 8, 0, tzinfo=dt.UTC)


def at(minutes: float) -> dt.datetime:
    return T0 + dt.timedelta(minutes=minutes)


def moment(minutes: float, kind: str, subject: str = "power/left") -> Moment:
    return Moment(at(minutes), kind, subject)


def test_hours_are_those_between_on_and_off() -> None:
    moments = [
        moment(0, "made", "build"), moment(10, "power_on"), moment(25, "reading", "bringup/left/bias"),
        moment(100, "power_off"), moment(200, "power_on"), moment(230, "power_off"), moment(300, "note", "note"),
    ]  # fmt: skip
    line = time_line(moments, at(10_000))
    assert line is not None
    assert line.under_power_s == 60.0 * (90 + 30)
    assert line.sentence == "Under power 2.0 h in 2 goes."
    assert (line.first, line.last) == (at(0), at(300))
    assert [(mark.what, mark.line) for mark in line.marks] == [("changed", 0), ("reading", 2), ("note", 6)]


def test_two_channels_at_once_are_one_time_under_power() -> None:
    moments = [
        moment(0, "power_on"), moment(5, "power_on", "power/right"), moment(20, "power_off"),
        moment(50, "power_off", "power/right"),
    ]  # fmt: skip
    line = time_line(moments, at(60))
    assert line is not None
    assert len(line.stretches) == 2
    assert line.under_power_s == 60.0 * 50
    assert line.sentence == "Under power 50 min in 1 go."


def test_what_is_on_now_counts_up_to_now() -> None:
    line = time_line([moment(0, "power_on"), moment(3, "reading", "x")], at(42))
    assert line is not None
    assert line.under_power_s == 60.0 * 42
    assert line.last == at(42)
    # A clock that was set back makes no time less than nothing.
    back = time_line([moment(0, "power_on")], at(-10))
    assert back is not None
    assert back.under_power_s == 0.0


def test_an_end_that_was_never_written_down_is_at_least_the_last_line_before_the_next_start() -> None:
    moments = [moment(0, "power_on"), moment(30, "reading", "x"), moment(500, "power_on"), moment(510, "power_off")]
    line = time_line(moments, at(1000))
    assert line is not None
    assert line.under_power_s == 60.0 * (30 + 10)
    assert "at least" in line.sentence


@pytest.mark.parametrize("moments", [[], [moment(0, "made", "build")]])
def test_a_diary_without_power_has_none(moments: list[Moment]) -> None:
    line = time_line(moments, at(1))
    assert (line is None) == (not moments)
    if line is not None:
        assert line.sentence == "No time under power is written down."


@given(st.lists(st.tuples(st.integers(0, 500), st.integers(0, 80)), max_size=12))
def test_merged_stretches_cover_the_same_minutes(spans: list[tuple[int, int]]) -> None:
    stretches = [Stretch(at(begin), at(begin + length), known=True) for begin, length in spans]
    minutes = {minute for begin, length in spans for minute in range(begin, begin + length)}
    whole = merged(stretches)
    assert sum((each.end - each.begin).total_seconds() for each in whole) == 60.0 * len(minutes)
    assert all(one.end < two.begin for one, two in itertools.pairwise(whole))


def test_a_correction_names_the_moment_of_its_line() -> None:
    entry = DiaryEntry(at(7), "reading", "bringup/left/bias", "x")
    assert corrected_line(Moment(at(9), "note", of_line(entry))) == at(7)
    assert corrected_line(Moment(at(9), "note", "note")) is None
    assert corrected_line(entry) is None
