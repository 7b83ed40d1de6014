"""What is called otherwise keeps its readings: channels, loads, modules, renamed in the window after the fact."""

import dataclasses

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from plinth.builds.fields import with_values
from plinth.builds.makeup import makeup_of
from plinth.builds.stations import part_in
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.record.subject import Kind, read_subject
from tests.turns import in_turn


def rename_channels(session: BenchSession, *names: str) -> None:
    assert session.plan.remake(dataclasses.replace(makeup_of(session.build), channels=names)) == ""


def diary_words(window: PlinthWindow) -> str:
    lines = window.diary.lines
    lines.take()
    return "\n".join(str(lines.index(row, 2).data()) for row in range(lines.rowCount()))


def test_a_renamed_channel_stays_brought_up_and_measured(window: PlinthWindow, session: BenchSession) -> None:
    assert session.bring_up.brought_up("left")
    before = len(list(session.records.book))
    rename_channels(session, "wolf", "right")
    assert session.bring_up.brought_up("wolf")
    assert len(list(session.records.book)) == before
    window.show_stage("measure")
    window.measure.channels.choose("wolf")
    assert (
        sum(
            session.records.reading(cell.subject, cell.conditions) is not None
            for cell in window.measure.clip.procedure.cells
        )
        == 2
    )
    of_it = [
        one.step for one in session.bring_up.stands("wolf") if one.step.about.what not in ("mains_known", "jumper")
    ]
    assert all(step.title.startswith(("Wolf: ", "Supply of wolf: ")) for step in of_it)
    # Undone, it is called as before; read again under the new name, it is the same thing.
    session.plan.undo()
    assert session.bring_up.brought_up("left")
    assert {read_subject(one).channel for one in session.records.book if read_subject(one).kind is Kind.CLIP} == {
        "left"
    }


def test_power_follows_a_channel_that_is_renamed_while_it_is_on(
    qtbot: QtBot, window: PlinthWindow, session: BenchSession
) -> None:
    window.show_stage("power_up")
    window.power_up.channels.choose("right")
    question = window.power_up.question
    for typed in (">20M", "4k1", "38k", "12k", "0R33"):
        question.field.setText(typed)
        question.keep()
    qtbot.mouseClick(question.keep_button, Qt.MouseButton.LeftButton)
    # No thermometer: left out with Enter.
    question.keep()
    question.switch_on()
    assert session.power.live is not None
    assert "Stage pair, right" in window.stop_bar.words.text()
    rename_channels(session, "left", "wolf/2")
    assert "Stage pair, wolf/2" in session.power.words
    window.stop_bar.refresh()
    assert "wolf/2" in window.stop_bar.words.text()
    window.power_up.channels.choose("wolf/2")
    assert question.field.isEnabled()
    # Found again after a kill, as it is called by then.
    found = session.power.find_power()
    assert found is not None
    assert session.build.channel_of(found.channel) == "wolf/2"
    session.power.switch_off()


@pytest.mark.parametrize("name", in_turn(["4/8 one", "My 4 Ω"], 2))
def test_a_renamed_load_keeps_its_readings(window: PlinthWindow, session: BenchSession, name: str) -> None:
    load = next(one for one in session.build.loads if one.name == "Dummy 4")
    session.plan.swap("load", load)
    window.show_stage("measure")
    before = session.records.reading("clip/left/one/Dummy 4")
    assert before is not None
    session.plan.restate("load", with_values(part_in(session.build, "load"), {"name": name}))
    cell = next(one for one in window.measure.clip.procedure.cells if one.load.name == name and one.driven == "one")
    assert session.records.reading(cell.subject, cell.conditions) == before
    # The dummy of the old name, from the shelf, is another one: it has no readings of its own.
    session.plan.swap("load", load)
    cells = {one.load.identity: one for one in window.measure.clip.procedure.cells if one.driven == "one"}
    assert len(cells) == len(session.build.loads)
    assert session.records.reading(cells[session.build.load.identity].subject) is None
    assert session.records.reading(cells["Dummy 4"].subject) == before


def test_a_renamed_module_is_the_same_board(session: BenchSession) -> None:
    session.plan.restate("module", with_values(session.build.module, {"name": "Stagehand, repaired"}))
    assert session.bring_up.brought_up("left")
    session.plan.fit_another("module")
    assert not session.bring_up.brought_up("left")


def test_what_is_no_longer_there_is_kept_and_said(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("diary")
    assert "no channel of this build" not in diary_words(window)
    count = session.records.diary_size[0]
    rename_channels(session, "right")
    words = diary_words(window)
    assert "left is no channel of this build now" in words
    assert session.records.diary_size[0] == count + 1
    session.plan.undo()
    assert "no channel of this build" not in diary_words(window)
    assert session.bring_up.brought_up("left")
