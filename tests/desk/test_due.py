"""What falls due: soak and dwell, in the head, over a restart, of any build."""

import datetime as dt
from pathlib import Path

import pytest
from PySide6.QtGui import QAction
from pytestqt.qtbot import QtBot

from plinth.desk.due_button import due_words
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.guide.progress import Stand
from plinth.record.clock import now
from plinth.record.reading import Confirmation, Override
from plinth.session.reminders import Reminder
from plinth.workshop.store import open_workshop
from tests.desk.inspected import inspect_all

AT = dt.datetime(2026, 11, 3, 8, 0, tzinfo=dt.UTC)


class Clock:
    """A present that a test moves on."""

    def __init__(self) -> None:
        self.at = AT

    def __call__(self) -> dt.datetime:
        return self.at

    def move(self, seconds: float) -> None:
        self.at += dt.timedelta(seconds=seconds)


@pytest.fixture
def clock(session: BenchSession) -> Clock:
    session.now = set_clock = Clock()
    return set_clock


def again(session: BenchSession, tmp_path: Path) -> BenchSession:
    copy = tmp_path / "again.plinth"
    copy.write_bytes(session.workshop.path.read_bytes())
    return BenchSession(open_workshop(copy), threaded=False, clock=session.now)


def switch(session: BenchSession, name: str) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == name))


def test_words_say_how_many_and_when() -> None:
    def at(hours: float) -> Reminder:
        return Reminder(1, "left", "Left: soak", AT + dt.timedelta(hours=hours))

    assert due_words([], AT) == ""
    assert due_words([at(30.0)], AT) == ""
    assert due_words([at(30.0), at(2.0)], AT) == f"due {(AT + dt.timedelta(hours=2)).astimezone():%H:%M}"
    assert due_words([at(-1.0), at(0.0), at(1.0)], AT) == "2 due"


def test_the_demo_s_soak_is_due_and_leads_to_its_step(window: PlinthWindow, session: BenchSession) -> None:
    assert window.head.due.text() == "1 due"
    switch(session, "Foyer")
    # Known although another build is current.
    assert window.head.due.text() == "1 due"
    window.head.due.menu().aboutToShow.emit()
    (action,) = [one for one in window.head.due.menu().actions() if isinstance(one, QAction)]
    assert "Stage pair, Left: soak, output DC after 24 h" in action.text()
    assert action.text().startswith("since ")
    action.trigger()
    assert session.build.name == "Stage pair"
    step = window.power_up.question.step
    assert step is not None
    assert step.key == "soak_24h"
    assert "Due since" in window.power_up.question.held.text()
    session.records.keep(Override(step.subject, "played on tour", now(), dict(step.conditions)))
    assert [one.words for one in session.reminders.all()] == ["Left: soak, output DC after 7 days"]


def test_a_dwell_of_hours_goes_on_over_a_restart(
    window: PlinthWindow, session: BenchSession, clock: Clock, tmp_path: Path
) -> None:
    switch(session, "Rehearsal room")
    inspect_all(session)
    session.bring_up.choose_school("reforming")
    window.show_stage("power_up")
    question = window.power_up.question
    channel = session.build.channels[0]
    for stand in session.bring_up.stands(channel):
        if stand.step.window is not None:
            break
        session.records.keep(Confirmation(stand.step.subject, clock.at, dict(stand.step.conditions)))
    window.power_up.to_due()
    step = question.step
    assert step is not None
    assert step.key.startswith("reform_")
    assert step.wait_s >= 900.0
    question.switch_on()
    assert "until" in question.wait.text()
    until = clock.at + dt.timedelta(seconds=step.wait_s)
    assert [one.at for one in session.reminders.all() if one.build_id == session.stored.id] == [until]
    clock.move(0.4 * step.wait_s)
    later = again(session, tmp_path)
    other = PlinthWindow(later)
    mine = [one for one in later.reminders.all() if one.build_id == later.power.live.build_id]  # type: ignore[union-attr]
    assert [one.at for one in mine] == [until]
    other.go_to_due(mine[0])
    assert other.power_up.question.step is not None
    assert other.power_up.question.step.key == step.key
    assert other.power_up.procedure.watch_left_s == pytest.approx(0.6 * step.wait_s, abs=1.0)
    # Two readings on the way, then the one that counts.
    assert step.window is not None
    high = step.window.high or 0.0
    for share in (2.0, 1.2):
        other.power_up.question.field.setText(f"{share * high:.4f} V")
        other.power_up.question.enter()
        clock.move(0.2 * step.wait_s)
    assert other.power_up.over_time.isVisibleTo(other)
    assert "Falls by" in other.power_up.over_time.words.text()
    clock.move(0.3 * step.wait_s)
    other.head.due.refresh()
    assert "due" in other.head.due.text()
    other.power_up.to_due()
    due_now = other.power_up.procedure.stand
    assert due_now is not None
    other.power_up.procedure.watch_left_s = later.power.watch_left_s(due_now)
    other.power_up.question.field.setText(f"{0.97 * high:.4f} V")
    other.power_up.question.enter()
    stands = {one.step.key: one for one in later.bring_up.stands(later.build.channels[0])}
    assert stands[step.key].stand is Stand.DONE
    later.power.switch_off()
    assert all(one.build_id != later.stored.id for one in later.reminders.all())
    other.close()
    later.close()


def test_a_reading_while_it_settles_is_noted_and_one_that_stays_is_a_fault(
    window: PlinthWindow, session: BenchSession, clock: Clock, qtbot: QtBot
) -> None:
    switch(session, "Foyer")
    inspect_all(session)
    window.show_stage("power_up")
    channel, question = session.build.channels[0], window.power_up.question
    for stand in session.bring_up.stands(channel):
        if stand.step.key == "low_dc":
            break
        session.records.keep(Override(stand.step.subject, "for this test", clock.at, dict(stand.step.conditions)))
    window.power_up.to_due()
    assert question.step is not None
    assert question.step.key == "low_dc"
    question.switch_on()
    clock.move(1.0)
    question.field.setText("13.5 V")
    assert question.note_button.isVisible()
    question.enter()
    assert "Watch on" in question.understood.text()
    assert session.bring_up.causes(channel) is None, "a transient is no fault"
    # Called settled all the same, while the time still runs: it is due again, and nothing burns down the list.
    question.field.setText("16 V")
    question.keep()
    assert question.step.key == "low_dc"
    assert "while it still settled" in question.held.text()
    assert session.bring_up.causes(channel) is None
    clock.move(question.step.wait_s)
    question.procedure.watch_left_s = 0.0
    question.show_wait()
    question.field.setText("16 V")
    question.enter()
    assert session.bring_up.causes(channel) is not None
    question.field.setText("12 mV")
    question.enter()
    assert session.bring_up.causes(channel) is None
    assert question.step.key == "full_current"
