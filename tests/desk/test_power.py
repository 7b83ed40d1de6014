"""Power that is on is seen everywhere, and stop is one key away everywhere."""

import datetime as dt
import itertools

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.desk.window import PlinthWindow
from plinth.guide.bleeding import board_bleed_down
from plinth.guide.progress import StepStand
from plinth.judge.state import State
from plinth.record.clock import now
from plinth.record.reading import Override
from plinth.report.reading_words import sentence_of
from plinth.units.shown import shown
from plinth.workshop.store import open_workshop
from tests.desk.driver import STAGE_KEYS

AT = dt.datetime(2026, 10, 11, tzinfo=dt.UTC)


def _before_low_current(stand: StepStand) -> bool:
    return stand.step.key != "low_current"


def switch_on_right(window: PlinthWindow) -> None:
    session = window.session
    for stand in itertools.takewhile(_before_low_current, session.bring_up.stands("right")):
        session.records.keep(Override(stand.step.subject, "for this test", AT, stand.step.conditions))
    window.power_up.channels.choose("right")
    window.show_stage("power_up")
    assert window.power_up.question.step is not None
    assert window.power_up.question.step.key == "low_current"
    window.power_up.question.on_button.click()
    assert session.power.live is not None


def test_the_bar_stays_in_every_stage_and_for_every_build(window: PlinthWindow, session: BenchSession) -> None:
    switch_on_right(window)
    for stage in STAGE_KEYS:
        window.show_stage(stage)
        assert window.stop_bar.isVisible()
    session.switch(2)
    assert window.stop_bar.isVisible()
    assert window.stop_bar.words.text() == "Power is on: Stage pair, right"
    window.show_stage("plan")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert session.power.live is None
    assert "until below 5 V" in window.stop_bar.words.text()
    assert [e.kind for e in session.workshop.diary(1)][-1] == "power_off"
    assert "power_off" not in [e.kind for e in session.workshop.diary(2)]


def test_the_count_down_is_the_computed_discharge(window: PlinthWindow, session: BenchSession) -> None:
    switch_on_right(window)
    bleed = board_bleed_down(session.build.module, 35.0)
    assert shown(2 * 35.0, "V", 2) in window.stop_bar.detail.text()
    assert f"{bleed.seconds:.0f} s" in window.stop_bar.detail.text()
    session.power.switch_off()
    window.stop_bar.away_button.click()
    assert not window.stop_bar.isVisible()


def test_one_channel_s_power_is_not_taken_for_another_s(window: PlinthWindow, session: BenchSession) -> None:
    switch_on_right(window)
    window.power_up.channels.choose("left")
    before = list(itertools.takewhile(_before_low_current, session.bring_up.stands("left")))
    window.power_up.steps.list.setCurrentRow(len(before))
    question = window.power_up.question
    assert question.step is not None
    assert question.step.key == "low_current"
    assert not question.on_button.isEnabled()
    assert not question.field.isEnabled()
    assert "on for Stage pair, right" in question.held.text()


def test_closing_with_power_on_is_asked_about_once(window: PlinthWindow, session: BenchSession) -> None:
    switch_on_right(window)
    assert not window.close()
    assert "Press Stop" in window.trouble.text()
    session.power.switch_off()
    assert window.close()


def test_power_left_on_by_a_kill_is_found_again(window: PlinthWindow, session: BenchSession) -> None:
    switch_on_right(window)
    path = session.workshop.path
    session.workshop.close()
    again = BenchSession(open_workshop(path), threaded=False)
    assert again.power.live is not None
    assert again.power.live.found
    other = PlinthWindow(again)
    assert "It was on when Plinth was closed" in other.stop_bar.detail.text()
    again.power.switch_off()
    other.close()
    assert other.session.power.live is None
    # Its file was taken from it: it may close with what it still believes to be live.
    window.close_anyway = True


def test_watching_begins_anew_at_each_step_and_a_hasty_reading_says_so(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun = now()
    monkeypatch.setattr(session, "now", lambda: begun)
    switch_on_right(window)
    question = window.power_up.question
    question.field.setText("13")
    question.keep()
    assert question.step is not None
    assert question.step.key == "low_dc"
    assert question.wait.text() == "Watch 10 s"
    question.field.setText("-6 mV")
    question.keep()
    hasty = session.records.reading("bringup/right/low_dc")
    assert hasty is not None
    assert "of the watching time left" in sentence_of(hasty)
    assert hasty.state is State.CLEAR
    for _ in range(20):
        question.tick()
    session.power.switch_off()


def test_the_time_to_watch_goes_on_while_one_looks_elsewhere_and_over_a_restart(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.show_stage("power_up")
    window.power_up.channels.choose("right")
    stands = session.bring_up.stands("right")
    step = next(one.step for one in stands if one.step.key == "low_dc")
    for one in stands[: [s.step.key for s in stands].index("low_current")]:
        session.records.keep(Override(one.step.subject, "for this test", now(), dict(one.step.conditions)))
    begun = now()
    monkeypatch.setattr(session, "now", lambda: begun)
    session.power.switch_on("right", "on")
    due_now = next(one for one in session.bring_up.stands("right") if one.step.key == "low_current")
    session.records.keep(Override(due_now.step.subject, "for this test", begun, dict(due_now.step.conditions)))
    stand = next(one for one in session.bring_up.stands("right") if one.step.key == "low_dc")
    assert step.wait_s == 10.0
    for passed, left in ((0, 10.0), (4, 6.0), (10, 0.0), (500, 0.0)):
        monkeypatch.setattr(session, "now", lambda passed=passed: begun + dt.timedelta(seconds=passed))
        assert session.power.watch_left_s(stand) == left
    # The same for whoever opens the workshop anew, and nothing is watched once it is off.
    copy = session.workshop.path.with_name("again.plinth")
    copy.write_bytes(session.workshop.path.read_bytes())
    again = BenchSession(open_workshop(copy), threaded=False, clock=lambda: begun + dt.timedelta(seconds=4))
    assert again.power.live is not None
    assert again.power.live.found
    assert (
        again.power.watch_left_s(next(one for one in again.bring_up.stands("right") if one.step.key == "low_dc")) == 6.0
    )
    again.close()
    session.power.switch_off()
    assert session.power.watch_left_s(stand) == 0.0


def test_volts_typed_bare_where_millivolts_are_asked_for_are_asked_about(
    window: PlinthWindow, session: BenchSession
) -> None:
    switch_on_right(window)
    question = window.power_up.question
    assert question.unit.text() == "mA"
    question.field.setText("13")
    question.keep()
    assert question.step is not None
    assert question.step.key == "low_dc"
    assert question.unit.text() == "mV"
    question.field.setText("19.2")
    assert question.said.verdict.text() == "Which unit?"
    assert [one.text() for one in question.choices.findChildren(QPushButton) if not one.isHidden()] == [
        "It says 19.2 mV", "It says 19.2 V"
    ]  # fmt: skip
    for keep in (question.keep, question.enter, question.note_on_the_way):
        keep()
        assert session.records.reading("bringup/right/low_dc") is None
        assert question.field.text() == "19.2"
    # More than the rails have is doubted, also on the way: kept only when it is said once more.
    question.field.setText("70 V")
    question.enter()
    assert "more than there can be here" in question.understood.text()
    assert not session.records.readings_of(["course/right/low_dc"])
    question.field.setText("19.2")
    for _ in range(20):
        question.tick()
    volts = next(one for one in question.choices.findChildren(QPushButton) if one.text() == "It says 19.2 V")
    volts.click()
    kept = session.records.reading("bringup/right/low_dc")
    assert kept is not None
    assert kept.value == pytest.approx(19.2)
    assert kept.state is State.OVER
    assert question.step.key == "low_dc"
    assert question.choices.isHidden()
    session.power.switch_off()


def test_what_only_a_board_set_before_shows_asks_which_board_this_is(
    window: PlinthWindow, session: BenchSession
) -> None:
    switch_on_right(window)
    question = window.power_up.question
    assert question.step is not None
    assert question.step.window is not None
    usual, high = question.step.window.usual_high, question.step.window.high
    assert usual is not None
    assert high is not None
    typed = f"{500.0 * (usual + high):.1f} mA"
    question.field.setText(typed)
    assert question.said.verdict.text() == "Set before, or at its least?"
    offered = [one for one in question.choices.findChildren(QPushButton) if not one.isHidden()]
    assert [one.text() for one in offered] == [f"{typed}, set before", f"{typed}, trimmer at its least"]
    question.keep()
    assert session.records.reading("bringup/right/low_current") is None
    assert question.field.text() == typed
    # A trimmer at its least leaves no such current: outside, and not said to be the trimmer.
    offered[1].click()
    kept = session.records.reading("bringup/right/low_current")
    assert kept is not None
    assert kept.state is State.OVER
    assert question.step.key == "low_current"
    ranked = session.bring_up.causes("right")
    assert ranked is not None
    assert "set before" not in [one.fault.key for one in ranked.ranked]
    # Nobody is held to what was said: it is read again, and said otherwise.
    question.field.setText(f"{typed}, set before")
    question.enter()
    kept = session.records.reading("bringup/right/low_current")
    assert kept is not None
    assert kept.state is State.CLOSE
    assert session.bring_up.causes("right") is None
    assert question.step.key == "low_dc"
    session.power.switch_off()


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_whatever_a_step_offers_fits_its_column(window: PlinthWindow, session: BenchSession, scale: float) -> None:
    window.show_stage("power_up")
    look.set(scale=scale)
    look.settle()
    page = window.power_up
    page.channels.choose("right")
    question = page.question
    for one in (
        question.on_button,
        question.keep_button,
        question.in_words.pass_button,
        question.in_words.repaired_button,
    ):
        one.show()
    area = next(one for one in page.findChildren(SideArea) if one.isAncestorOf(question))
    for _ in range(3):
        QApplication.processEvents()
    assert question.minimumSizeHint().width() <= area.viewport().width()
    assert question.in_words.repaired_button.isVisible()
