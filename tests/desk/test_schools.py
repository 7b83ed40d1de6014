"""Choosing how a build gets its first power: lamp, bench supply, variable transformer, in the real window."""

from pathlib import Path
from typing import Any

import pytest
from pypdf import PdfReader
from PySide6.QtCore import QDate, QDateTime, Qt, QTime
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from plinth.demo import shelf
from plinth.desk.power_up.glow_view import SEEN_K, GlowView, brightness, filament_colour
from plinth.desk.power_up.reforming_dialog import ReformingDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.guide.progress import Stand
from plinth.guide.schools import series_lamp
from plinth.guide.step import Glow
from plinth.predict.lamp_outlook import lamp_outlook
from plinth.record.clock import now
from plinth.record.reading import Confirmation, Override
from plinth.shelf.papers import pdf_words
from plinth.workshop.store import open_workshop
from tests.desk.driver import press, sees
from tests.desk.inspected import inspect_all


def switch(session: BenchSession, name: str) -> None:
    session.switch(next(one.id for one in session.builds if one.build.name == name))


def choose(window: PlinthWindow, words: str) -> None:
    combo = window.power_up.school
    row = next(k for k in range(combo.count()) if combo.itemText(k).startswith(words))
    combo.setCurrentIndex(row)
    combo.activated.emit(row)


def test_a_build_is_brought_up_behind_a_lamp(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    switch(session, "Rehearsal room")
    inspect_all(session)
    window.show_stage("power_up")
    page, question = window.power_up, window.power_up.question
    choose(window, "Lamp in series")
    assert session.bring_up.school is series_lamp.SCHOOL
    outlook = lamp_outlook(session.build)
    assert question.title.text() == "Build: before the first mains"
    assert "Mains kills" in page.caution.text()
    question.keep()
    assert question.title.text() == f"Build: a lamp of {outlook.lamp_w:g} W in series"
    assert outlook.why in question.ask.text()
    question.keep()
    assert question.title.text() == "Supply: alone behind the lamp"
    assert page.glows.isVisible()
    assert f"{outlook.lamp_w:g} W" in page.steps.list.item(1).toolTip()
    question.switch_on()
    assert window.stop_bar.isVisible()
    assert session.power.words.endswith("supply")
    assert "end to end" in window.stop_bar.detail.text()
    # A rail missing is outside; it holds what follows.
    question.field.setText("0.4")
    question.keep()
    assert "its winding, diode or fuse" in question.understood.text()
    question.field.setText(f"{outlook.alone.rail_v:.1f}")
    question.keep()
    assert question.title.text() == "Supply: the lamp, nothing connected"
    question.field.setText("blue")
    question.keep()
    assert "expected what the eye sees" in question.understood.text()
    question.field.setText("bright")
    question.keep()
    assert "Off at once" in question.understood.text()
    assert page.behind.off.isVisible()
    question.field.setText("dark")
    question.keep()
    assert "discharged" in question.title.text()
    assert "press Stop first" in question.held.text()
    session.power.switch_off()
    question.field.setText("0.3")
    question.keep()
    assert "tab to heat sink" in question.title.text()


def test_the_school_is_kept_and_of_each_build(window: PlinthWindow, session: BenchSession) -> None:
    switch(session, "Foyer")
    window.show_stage("power_up")
    choose(window, "Variable transformer")
    assert session.bring_up.school.key == "variable_transformer"
    switch(session, "Stage pair")
    assert session.bring_up.school.key == "limited_supply"
    again = BenchSession(open_workshop_copy(session), threaded=False)
    switch(again, "Foyer")
    assert again.bring_up.school.key == "variable_transformer"
    assert len(again.bring_up.stands(again.build.channels[0])) > 8
    again.close()


def open_workshop_copy(session: BenchSession):  # type: ignore[no-untyped-def]
    copy = session.workshop.path.with_name("copy.plinth")
    copy.write_bytes(session.workshop.path.read_bytes())
    return open_workshop(copy)


def test_a_school_that_does_not_serve_says_why_and_changes_nothing(window: PlinthWindow, session: BenchSession) -> None:
    switch(session, "Market box")
    window.show_stage("power_up")
    choose(window, "Lamp in series")
    assert session.bring_up.school.key == "limited_supply"
    assert "hunt behind it" in window.power_up.problem.text()
    assert window.power_up.school.currentText().startswith("Current-limited")


def test_another_transformer_changes_what_is_to_be_expected(window: PlinthWindow, session: BenchSession) -> None:
    switch(session, "Rehearsal room")
    session.bring_up.choose_school("series_lamp")
    before = {one.step.key: one.step for one in session.bring_up.stands(session.build.channels[0])}
    assert session.build.supply.kind == "linear"
    part = session.build.supply.transformer
    session.plan.restate("supply.transformer", part.model_copy(update={"v_secondary_rms": 0.9 * part.v_secondary_rms}))
    after = {one.step.key: one.step for one in session.bring_up.stands(session.build.channels[0])}
    then, now = before["lamp_alone_rail"].window, after["lamp_alone_rail"].window
    assert then is not None
    assert now is not None
    assert (now.high or 0.0) == pytest.approx(0.9 * (then.high or 0.0), rel=0.03)


def test_a_filament_is_drawn_in_the_colour_of_its_temperature(qtbot: QtBot) -> None:
    assert brightness(SEEN_K - 1.0) == 0.0
    shares = [brightness(t) for t in (900.0, 1200.0, 1800.0, 2400.0)]
    assert shares == sorted(shares)
    reds = [filament_colour(t).hueF() for t in (900.0, 1500.0, 2400.0)]
    assert reds == sorted(reds), "the cooler the redder"
    view = GlowView()
    qtbot.addWidget(view)
    view.resize(300, 140)
    lights = []
    for t in (400.0, 1300.0, 2500.0):
        view.show_glows((Glow("lamp", t),))
        image = QImage(view.size(), QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.black)
        view.render(image, renderFlags=QWidget.RenderFlag.DrawChildren)
        lights.append(image.pixelColor(150, int(1.65 * 0.22 * 140) - 12).valueF())
    assert lights[0] < lights[1] < lights[2]


def test_a_reading_outside_leads_to_what_may_be_behind_it(window: PlinthWindow, session: BenchSession) -> None:
    switch(session, "Rehearsal room")
    inspect_all(session)
    session.bring_up.choose_school("series_lamp")
    window.show_stage("power_up")
    page, question = window.power_up, window.power_up.question
    question.keep()
    question.keep()
    assert page.behind.isHidden()
    question.switch_on()
    question.field.setText("13.1")
    question.keep()
    assert page.behind.isVisible()
    words = sees(page.behind)
    assert "the primary is set for twice these mains" in words
    # A rail far above leads to off at once, and to no further step under power.
    question.field.setText("55.4")
    question.keep()
    assert "more than there can be here" in question.understood.text()
    question.keep()
    assert page.behind.off.isVisible()
    assert "the primary is set for half of these mains" in sees(page.behind)
    # A reading inside again takes all of it away.
    question.field.setText(f"{lamp_outlook(session.build).alone.rail_v:.1f}")
    question.keep()
    assert page.behind.isHidden()


@pytest.mark.parametrize("ending", ["pdf", "html"])
def test_the_card_for_the_bench_is_written(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, ending: str
) -> None:
    switch(session, "Foyer")
    session.bring_up.choose_school("series_lamp")
    window.show_stage("power_up")
    path = tmp_path / f"card.{ending}"
    window.power_up.save_card(path)
    assert window.power_up.said.text() == f"Written: {path}."
    words = pdf_words(path.read_bytes()) if ending == "pdf" else path.read_text(encoding="utf-8")
    for one in session.bring_up.stands(session.build.channels[0]):
        assert one.step.title.partition(": ")[2][1:12] in words
    if ending == "pdf":
        # Few pages, as one takes to the bench; every instruction stands on them.
        assert len(PdfReader(path).pages) <= 3
    window.power_up.save_card(tmp_path / "none" / f"card.{ending}")
    assert "could not be written" in window.power_up.said.text()


def test_what_is_kept_of_one_channel_leaves_the_other_where_it_stands(session: BenchSession) -> None:
    switch(session, "Stage pair")
    left, right = session.bring_up.stands("left"), session.bring_up.stands("right")
    step = right[0].step
    session.records.keep(Override(step.subject, "for this test", now(), dict(step.conditions)))
    assert session.bring_up.stands("left") is left
    assert session.bring_up.stands("right")[0].stand is Stand.PASSED_OVER
    # What both ask for, once for the whole build, moves both.
    session.bring_up.choose_school("series_lamp")
    lamp = next(one.step for one in session.bring_up.stands("left") if one.step.key == "lamp_fitted")
    known = session.bring_up.stands("left")[0].step
    assert [session.bring_up.stands(channel)[1].stand for channel in ("left", "right")] == [Stand.DUE, Stand.DUE]
    session.records.keep(Confirmation(lamp.subject, now(), dict(lamp.conditions)))
    assert [session.bring_up.stands(channel)[1].stand for channel in ("left", "right")] == [Stand.DONE, Stand.DONE]
    session.records.keep(Confirmation(known.subject, now(), dict(known.conditions)))
    assert [session.bring_up.stands(channel)[0].stand for channel in ("left", "right")] == [Stand.DONE, Stand.DONE]


def test_a_part_that_is_only_tried_asks_for_no_steps(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch
) -> None:
    switch(session, "Rehearsal room")
    session.bring_up.choose_school("series_lamp")
    before = session.bring_up.stands(session.build.channels[0])
    assert before
    asked: list[str] = []
    ask = session.jobs.ask

    def watched(name: str, *given: Any, **more: Any) -> Any:
        asked.append(name)
        return ask(name, *given, **more)

    monkeypatch.setattr(session.jobs, "ask", watched)
    assert session.plan.try_part("supply.transformer", shelf.RING_160) == ""
    assert session.bring_up.stands(session.build.channels[0]) == ()
    assert "once this part is taken" in session.bring_up.waits
    assert "school" not in asked
    session.plan.leave_trial()
    assert session.bring_up.stands(session.build.channels[0]) == before
    assert session.bring_up.waits == ""


def test_equipment_is_typed_kept_and_leads_to_its_steps(window: PlinthWindow, session: BenchSession) -> None:
    switch(session, "Rehearsal room")
    window.show_stage("power_up")
    page = window.power_up
    choose(window, "Lamp in series")
    before = [one.step.key for one in session.bring_up.stands(session.build.channels[0])]
    page.equipment.setText("a candle")
    page.equipment.returnPressed.emit()
    assert "expected a lamp" in page.equipment_said.text()
    assert page.equipment.text() == "a candle"
    assert [one.step.key for one in session.bring_up.stands(session.build.channels[0])] == before
    page.equipment.setText("100 W; 2x18 V 10 VA")
    page.equipment.returnPressed.emit()
    assert page.equipment_said.text() == "lamp of 100 W; small transformer 2 × 18 V, 10 VA"
    found = [one.step for one in session.bring_up.stands(session.build.channels[0])]
    assert "small_rail" in [step.key for step in found]
    assert any("100 W" in step.title for step in found)
    again = BenchSession(open_workshop_copy(session), threaded=False)
    switch(again, "Rehearsal room")
    assert again.bring_up.equipment.lamp_w == 100.0
    again.close()
    # A supply without a transformer has nothing in whose place it goes; what was typed of another build stays there.
    switch(session, "Market box")
    assert page.equipment.text() == ""
    assert session.bring_up.set_equipment("2x18 V 10 VA") != ""
    assert session.bring_up.equipment_text == ""


def test_the_re_forming_is_told_hour_by_hour_and_written_for_a_calendar(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = next(stored for stored in session.stored_builds if stored.build.supply.transformer is not None)
    session.switch(here.id)
    window.show_stage("power_up")
    page = window.power_up
    assert not page.reforming_button.isVisibleTo(page)
    assert session.bring_up.choose_school("reforming")
    page.refresh()
    assert page.reforming_button.isVisibleTo(page)
    page.equipment.setText("re-form from 25 % over 12 h")
    page.take_equipment()
    shown: list[ReformingDialog] = []
    monkeypatch.setattr("plinth.desk.power_up.page.ask", shown.append)
    press(page.reforming_button)
    dialog = shown[0]
    dialog.begin.setDateTime(QDateTime(QDate(2026, 12, 5), QTime(8, 0)))
    assert "12 h in all: it ends 2026-12-05 20:00" in dialog.ends.text()
    assert dialog.rows.rowCount() == 6
    dialog.write(tmp_path / "plan.ics")
    text = (tmp_path / "plan.ics").read_text()
    assert text.count("BEGIN:VEVENT") == 6
    for name in ("plan.html", "plan.pdf"):
        dialog.write(tmp_path / name)
        assert f"Written: {tmp_path / name}" in dialog.said.text()
        assert (tmp_path / name).stat().st_size > 500
    # A workshop is never written over, whatever its ending says.
    dialog.write(session.workshop.path)
    assert "Written" not in dialog.said.text()
    dialog.close()
