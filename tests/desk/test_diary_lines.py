"""A line of the diary in the window: corrected by another, gone from to where it came from, found along time."""

import datetime as dt
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from plinth.bench.every_sheet import SHEETS
from plinth.builds.supply_parts import Transformer
from plinth.captures.options import Options
from plinth.desk.diary.page import DiaryPage
from plinth.desk.session import BenchSession
from plinth.desk.shelf.papers_dialog import PapersDialog
from plinth.desk.subject_place import stage_of
from plinth.desk.subject_place import test_of as name_of_test
from plinth.desk.window import PlinthWindow
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import KeptCapture
from plinth.record.subject import Kind, Subject, read_subject
from plinth.session.capture_view import view_of
from plinth.session.captures import CaptureOf
from tests.desk.driver import press, type_in


@pytest.fixture
def page(window: PlinthWindow) -> DiaryPage:
    window.show_stage("diary")
    return window.diary


def line_about(session: BenchSession, subject: str) -> int:
    return max(line for line, entry in enumerate(session.records.diary_lines()) if entry.subject == subject)


def test_a_correction_is_a_line_of_its_own_and_leads_back(page: DiaryPage, session: BenchSession) -> None:
    before = session.records.diary_lines()
    line = line_about(session, "bringup/left/air")
    assert page.line_actions.isHidden()
    page.go_to(session.stored.id, line)
    assert not page.line_actions.isHidden()
    # Nothing typed, nothing kept.
    press(page.line_actions.keep_button)
    assert session.records.diary_lines() == before
    type_in(page.line_actions.field, "the thermometer lay in the sun")
    after = session.records.diary_lines()
    assert after[:-1] == before
    assert "“Left: the air at the bench”: the thermometer lay in the sun" in after[-1].words
    assert page.line_actions.field.text() == ""
    assert str(page.lines.index(line, 2).data()).endswith("(corrected below)")
    assert not str(page.lines.index(line + 1, 2).data()).endswith("(corrected below)")
    # The reading itself counts as before.
    assert session.records.reading("bringup/left/air") == before[line].reading
    page.go_to(session.stored.id, len(after) - 1)
    assert page.line_actions.go_button.text() == "The line it corrects"
    press(page.line_actions.go_button)
    assert page.table.currentIndex().row() == line


@pytest.mark.parametrize(
    ("subject", "stage", "test"),
    [
        ("bringup/left/air", "power_up", ""), ("clip/left/one/Dummy 8", "measure", "Clipping power"),
        ("part/reservoir_c/1", "inspect", ""),
    ],
)  # fmt: skip
def test_a_line_leads_to_where_it_came_from(
    page: DiaryPage, window: PlinthWindow, session: BenchSession, subject: str, stage: str, test: str
) -> None:
    window.power_up.channels.choose("right")
    page.go_to(session.stored.id, line_about(session, subject))
    QTest.keyClick(page.table, Qt.Key.Key_Return)
    assert window.stage == stage
    if test:
        chosen = window.measure.tests.checkedButton()
        assert chosen is not None
        assert chosen.text().startswith(test)
        assert window.measure.channels.channel == "left"
    elif stage == "power_up":
        assert window.power_up.channels.channel == "left"


def test_a_note_came_from_nowhere(page: DiaryPage, session: BenchSession, window: PlinthWindow) -> None:
    session.records.note("note", "only said")
    page.go_to(session.stored.id, len(session.records.diary_lines()) - 1)
    assert not page.line_actions.go_button.isEnabled()
    page.line_actions.go()
    assert window.stage == "diary"


def test_every_kind_of_record_has_its_place() -> None:
    for kind in Kind:
        assert (stage_of(Subject(kind, "left", "x")) is None) == (kind in (Kind.OTHER, Kind.MEASURE))
    assert {name_of_test(read_subject(f"test/left/{kind.key}:x")) for kind in SHEETS} == {kind.name for kind in SHEETS}
    assert name_of_test(read_subject("response/left/1000")) == "Response"


def test_marks_along_time_lead_to_their_lines(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    first = session.records.diary_lines()[0].at
    for day in (2, 5):
        for kind, hours in (("power_on", 0), ("power_off", 3)):
            moment = first + dt.timedelta(days=day, hours=hours)
            session.records.keep_entry(session.stored.id, DiaryEntry(moment, kind, "power/left", ""))
    window.show_stage("diary")
    strip = window.diary.time_strip
    assert strip.line is not None
    assert "Under power 6.0 h in 2 goes." in strip.accessibleName()
    mark = strip.mark_at(strip._x(first))  # noqa: SLF001
    assert mark is not None
    assert (mark.what, mark.line) == ("changed", 0)
    with qtbot.waitSignal(strip.chosen) as chosen:
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(strip._x(first)), 12))  # noqa: SLF001
    assert chosen.args == [0]
    assert window.diary.table.currentIndex().row() == 0
    # Where nothing is near, nothing is meant.
    assert strip.mark_at(-500.0) is None


def test_from_a_step_one_key_leads_to_its_line_and_back(window: PlinthWindow, session: BenchSession) -> None:
    window.show_stage("power_up")
    window.power_up.channels.choose("left")
    procedure = window.power_up.under_way
    assert procedure is not None
    subject = procedure.subject
    session.records.keep_entry(session.stored.id, DiaryEntry(session.now(), "note", subject, "about this very step"))
    session.records.note("note", "something later")
    window.run_command(next(command for command in window.commands if command.key == "diary_line"))
    assert window.stage == "diary"
    chosen = window.diary.lines.line(window.diary.table.currentIndex().row())
    assert chosen is not None
    assert chosen.words == "about this very step"
    press(window.diary.line_actions.go_button)
    assert window.stage == "power_up"
    # Where nothing is asked, the diary comes up at its end.
    window.show_stage("plan")
    window.run_command(next(command for command in window.commands if command.key == "diary_line"))
    assert window.stage == "diary"


def test_a_line_about_a_capture_shows_it_again(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    t = np.arange(48_000) / 48_000.0
    soundfile.write(tmp_path / "tone.wav", 0.5 * np.sin(2.0 * np.pi * 1000.0 * t), 48_000)
    kept: list[KeptCapture | None] = []
    session.captures.keep(view_of(tmp_path / "tone.wav", Options()), CaptureOf("note"), kept.append)
    qtbot.waitUntil(lambda: bool(kept))
    window.show_stage("diary")
    page = window.diary
    page.go_to(session.stored.id, len(session.records.diary_lines()) - 1)
    assert page.line_actions.go_button.text() == "The capture …"
    shown: list[KeptCapture] = []
    monkeypatch.setattr(window.measure, "show_kept_capture", shown.append)
    press(page.line_actions.go_button)
    assert shown == kept
    # Taken off, the line stays, and leads nowhere.
    assert kept[0] is not None
    assert session.captures.remove(kept[0])
    window.show_stage("diary")
    page.table.clearSelection()
    page.line_actions.show_entry(session.records.diary_lines()[-1])
    assert not page.line_actions.go_button.isEnabled()


def test_a_paper_of_a_part_of_the_build_stands_in_its_diary_and_leads_to_it(
    window: PlinthWindow, page: DiaryPage, session: BenchSession, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    fitted = next(line.part for line in session.shelf.bill().lines if isinstance(line.part, Transformer))
    items = session.shelf.items([Transformer])
    item = next(item for item in items if item.part.identity == fitted.identity)
    other = next(item for item in items if item.part.identity != fitted.identity)
    for name in ("first.txt", "regulation.txt", "elsewhere.txt"):
        (tmp_path / name).write_text(f"{name}: 9 % at full load")
    before = len(session.records.diary_lines())
    assert session.shelf.add_paper(other, tmp_path / "elsewhere.txt") == ""
    assert len(session.records.diary_lines()) == before
    assert session.shelf.add_paper(item, tmp_path / "first.txt") == ""
    assert session.shelf.add_paper(item, tmp_path / "regulation.txt") == ""
    lines = session.records.diary_lines()[before:]
    assert [fitted.name in line.words for line in lines] == [True, True]
    assert [line.words.split(": ")[-1] for line in lines] == ["first.txt.", "regulation.txt."]

    shown: list[PapersDialog] = []
    monkeypatch.setattr("plinth.desk.window.ask", shown.append)
    page.go_to(session.stored.id, before)
    assert page.line_actions.go_button.text() == "The paper …"
    page.line_actions.go()
    assert shown[0].paper is not None
    assert shown[0].paper.name == "first.txt"
    page.go_to(session.stored.id, before + 1)
    page.line_actions.go()
    assert shown[1].paper is not None
    assert shown[1].paper.name == "regulation.txt"
    # Taken off, its line stays and leads nowhere; taken back, to it again.
    assert session.shelf.remove_paper(shown[1].paper)
    page.line_actions.show_entry(lines[1])
    assert not page.line_actions.go_button.isEnabled()
    assert session.shelf.undo()
    page.line_actions.show_entry(lines[1])
    assert page.line_actions.go_button.isEnabled()
    for dialog in shown:
        dialog.close()
