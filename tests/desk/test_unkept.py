"""What is typed and not kept waits at its place through a change of step, of cell and of build, and nowhere else."""

from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from plinth.desk.measure.clipping_table import ClipTest
from plinth.desk.measure.response_curve import ResponseTest
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.desk.window import PlinthWindow
from tests.desk.inspected import inspect_all


def other_build(session: BenchSession, name: str) -> None:
    session.switch(next(one.id for one in session.workshop.builds() if one.build.name == name))


def test_texts_wait_at_their_place(qtbot: QtBot) -> None:
    fields = QLineEdit(), QLineEdit()
    for one in fields:
        qtbot.addWidget(one)
    unkept = UnkeptText(*fields)
    assert unkept.at("a")
    fields[0].setText("26.4pp")
    assert not unkept.at("a")
    assert fields[0].text() == "26.4pp"
    assert unkept.at("b")
    assert [one.text() for one in fields] == ["", ""]
    fields[1].setText("142 W")
    unkept.at("a")
    assert [one.text() for one in fields] == ["26.4pp", ""]
    # What was kept is cleared by whoever keeps it, and does not wait.
    fields[0].clear()
    unkept.at("b")
    assert [one.text() for one in fields] == ["", "142 W"]
    unkept.at("a")
    assert [one.text() for one in fields] == ["", ""]


def test_a_reading_at_a_step_of_first_power_waits_for_its_build(window: PlinthWindow, session: BenchSession) -> None:
    names = session.build.name, "Foyer"
    for name in (*names[1:], names[0]):
        other_build(session, name)
        inspect_all(session)
    window.show_stage("power_up")
    question = window.power_up.question
    question.field.setText("33.5 mV")
    question.reason.setText("read elsewhere")
    other_build(session, names[1])
    assert (question.field.text(), question.reason.text()) == ("", "")
    question.field.setText("7")
    other_build(session, names[0])
    assert (question.field.text(), question.reason.text()) == ("33.5 mV", "read elsewhere")
    other_build(session, names[1])
    assert question.field.text() == "7"


def test_a_frequency_of_one_s_own_and_what_is_typed_stay_with_their_build(
    window: PlinthWindow, session: BenchSession
) -> None:
    first = session.build.name
    window.show_stage("measure")
    page = window.measure
    page.show_named("Response")
    curve = page.test
    assert isinstance(curve, ResponseTest)
    curve.own.setText("25 kHz")
    curve.add_frequency()
    assert 25e3 in curve.frequencies
    curve.field.setText("2.71 rms")
    curve.run_field.setText("treble up")
    other_build(session, "Foyer")
    assert 25e3 not in curve.frequencies
    assert curve.f_hz in curve.frequencies
    assert (curve.field.text(), curve.run_field.text()) == ("", "")
    other_build(session, first)
    assert 25e3 in curve.frequencies
    curve.procedure.choose(curve.frequencies.index(25e3))
    assert (curve.field.text(), curve.run_field.text()) == ("2.71 rms", "treble up")


def test_a_level_at_a_cell_and_a_reading_of_a_sheet_wait_too(window: PlinthWindow, session: BenchSession) -> None:
    first = session.build.name
    window.show_stage("measure")
    page = window.measure
    page.show_named("Clipping power")
    table = page.test
    assert isinstance(table, ClipTest)
    table.field.setText("24.2pp")
    table.draw.field.setText("99 W")
    here = table.subject
    page.show_named("Gain, match")
    sheet = page.sheet("Gain, match")
    sheet.field.setText("0.091")
    other_build(session, "Foyer")
    assert sheet.field.text() == ""
    page.show_named("Clipping power")
    assert (table.field.text(), table.draw.field.text()) == ("", "")
    other_build(session, first)
    page.show_named("Clipping power")
    place = next(k for k, cell in enumerate(table.procedure.cells) if cell.subject == here)
    table.choose(place)
    assert (table.field.text(), table.draw.field.text()) == ("24.2pp", "99 W")
