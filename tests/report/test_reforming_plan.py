"""Re-forming hour by hour: start and length as typed, the end told, a page, and appointments that a calendar takes."""

import datetime as dt
import itertools
import re

import pytest

from plinth.demo.builds import REHEARSAL_ROOM
from plinth.guide.equipment import read_equipment
from plinth.guide.schools.reforming import SCHOOL
from plinth.predict.reforming import reforming
from plinth.predict.solve import idle_rail_v
from plinth.report.calendar import Appointment, calendar_text
from plinth.report.reforming_plan import appointments, plan_html, planned, summary
from plinth.units.errors import QuantityError
from tests.family import FAMILY

BEGIN = dt.datetime(2026, 11, 30, 9, 30, tzinfo=dt.UTC)


@pytest.mark.parametrize(
    ("text", "begin", "hours"),
    [
        ("re-form from 25 % over 24 h", 0.25, 24.0), ("reform from a quarter over a day", 0.25, 24.0),
        ("re-form over 2 days", None, 48.0), ("Re-forming from 115 V", 0.5, None),
        ("re-formed from 30% of the mains in 12,5 hours", 0.3, 12.5),
    ],
)  # fmt: skip
def test_start_and_length_are_understood(text: str, begin: float | None, hours: float | None) -> None:
    found = read_equipment(text, REHEARSAL_ROOM)
    assert (found.reform_from, found.reform_hours) == (begin, hours)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("re-form", "from where or how long"), ("re-form from 5 %", "10 to 80 %"), ("re-form from 220 V", "10 to 80 %"),
        ("re-form over 20 days", "1 to 168 hours"), ("re-form over 0.5 h", "1 to 168 hours"),
    ],
)  # fmt: skip
def test_what_no_can_would_stand_is_a_sentence(text: str, says: str) -> None:
    with pytest.raises(QuantityError, match=says):
        read_equipment(text, REHEARSAL_ROOM)
    with pytest.raises(QuantityError, match="no transformer"):
        read_equipment("re-form over a day", FAMILY["class AB on switcher"])


def test_the_steps_rise_evenly_from_the_start_to_the_mains_in_the_time_there_is() -> None:
    plan = reforming(REHEARSAL_ROOM, 2026, 0.25, 24.0)
    mains = REHEARSAL_ROOM.mains
    assert mains is not None
    assert [step.mains_v / mains.v_nominal_rms for step in plan.steps] == pytest.approx(
        [0.25, 0.4375, 0.625, 0.8125, 1.0]
    )
    assert plan.hours_each == pytest.approx(4.0)
    assert plan.hours_in_all == pytest.approx(24.0)
    usual = reforming(REHEARSAL_ROOM, 2026)
    assert usual.hours_in_all == pytest.approx(6.0 * usual.hours_each)
    # The last hold is the same however one came there, and no step is above it.
    assert plan.steps[-1].rail_v == usual.steps[-1].rail_v
    rails = [step.rail_v for step in plan.steps]
    assert rails == sorted(rails)


def test_the_school_asks_for_these_steps_and_says_how_long_it_takes() -> None:
    equipment = read_equipment("re-form from 25 % over 24 h", REHEARSAL_ROOM)
    steps = {
        step.key: step for step in SCHOOL.steps(REHEARSAL_ROOM, "left", idle_rail_v(REHEARSAL_ROOM), {}, equipment)
    }
    assert [key for key in steps if re.fullmatch(r"reform_\d+", key)] == [
        "reform_58", "reform_101", "reform_144", "reform_187", "reform_230",
    ]  # fmt: skip
    assert steps["reform_58"].wait_s == pytest.approx(4 * 3600.0)
    assert "24 h in all, as long as was typed" in steps["reform_fitted"].ask


def test_every_hold_follows_on_the_last_and_the_end_is_told() -> None:
    plan = reforming(REHEARSAL_ROOM, 2026, 0.25, 24.0)
    rows = planned(plan, BEGIN)
    assert len(rows) == 6
    assert rows[0].begin == BEGIN
    assert all(before.end == after.begin for before, after in itertools.pairwise(rows))
    assert rows[-1].end == BEGIN + dt.timedelta(hours=24)
    assert rows[-1].across_v is None
    assert rows[-1].mains_v == rows[-2].mains_v
    end = rows[-1].end.astimezone().strftime("%Y-%m-%d %H:%M")
    assert f"24 h in all: it ends {end}" in summary(plan, rows)
    page = plan_html(REHEARSAL_ROOM, plan, rows, BEGIN)
    for row in rows:
        for cell in row.cells:
            assert cell in page
    assert "glasses on" in page
    assert "http" not in page


def test_the_calendar_is_one_that_others_read() -> None:
    rows = planned(reforming(REHEARSAL_ROOM, 2026, 0.25, 24.0), BEGIN)
    text = calendar_text(appointments(REHEARSAL_ROOM, rows), "Re-forming", BEGIN)
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    assert "\n" not in text.replace("\r\n", "")
    whole = text.replace("\r\n ", "").split("\r\n")
    assert whole[0] == "BEGIN:VCALENDAR"
    assert whole[-2] == "END:VCALENDAR"
    assert whole.count("BEGIN:VEVENT") == whole.count("END:VEVENT") == 6
    assert [line for line in whole if line.startswith("DTSTART")][:2] == [
        "DTSTART:20261130T093000Z", "DTSTART:20261130T133000Z",
    ]  # fmt: skip
    assert [line for line in whole if line.startswith("DTEND")][-1] == "DTEND:20261201T093000Z"
    assert len({line for line in whole if line.startswith("UID")}) == 6


def test_signs_with_a_meaning_of_their_own_and_letters_of_several_bytes_come_through() -> None:
    words = "Ä" * 60 + "; one, two\\three\nfour"
    text = calendar_text([Appointment(BEGIN, BEGIN, words)], "x", BEGIN)
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    title = next(line for line in text.replace("\r\n ", "").split("\r\n") if line.startswith("SUMMARY:"))
    plain = title.removeprefix("SUMMARY:").replace("\\n", "\n").replace("\\;", ";").replace("\\,", ",")
    assert plain.replace("\\\\", "\\") == words
