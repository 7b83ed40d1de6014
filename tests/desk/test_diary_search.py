"""The search in the Diary's page: over all builds, with the keyboard, and on to the line."""

import datetime as dt
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from plinth.desk.diary.found_lines import FoundLines
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session import diary_search
from tests.desk.driver import type_in

AT = dt.datetime(2026, 12, 1, 9, 0, tzinfo=dt.UTC)


@pytest.fixture
def found(window: PlinthWindow) -> FoundLines:
    window.show_stage("diary")
    return window.diary.found


def search(found: FoundLines, text: str, qtbot: QtBot) -> list[str]:
    type_in(found.field, text, enter=False)
    qtbot.waitUntil(lambda: "Still reading" not in found.said.text())
    cells = [found.table.item(row, 2) for row in range(found.table.rowCount())]
    return [cell.text().strip() for cell in cells if cell is not None]


def test_lines_of_all_builds_are_found_and_one_is_gone_to_by_keys(
    found: FoundLines, session: BenchSession, window: PlinthWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(diary_search, "LINES_AT_A_TIME", 7)
    here, other = session.stored.id, session.builds[1].id
    moments = (AT + dt.timedelta(minutes=k) for k in range(1000))
    monkeypatch.setattr(session, "now", lambda: next(moments))
    session.records.note("note", "sparrow in the rafters")
    session.switch(other)
    session.records.note("note", "another sparrow, in the yard")
    session.switch(here)
    assert search(found, "sparrow", qtbot) == ["another sparrow, in the yard", "sparrow in the rafters"]
    assert "2 lines with all of it" in found.said.text()
    QTest.keyClick(found.field, Qt.Key.Key_Down)
    assert found.table.hasFocus()
    found.field.setFocus()
    QTest.keyClick(found.field, Qt.Key.Key_Return)
    assert session.stored.id == other
    row = window.diary.table.currentIndex().row()
    line = window.diary.lines.line(row)
    assert line is not None
    assert line.words == "another sparrow, in the yard"
    assert found.field.text() == ""
    assert not found.isVisible()


def test_what_is_kept_while_one_searches_is_found_too(found: FoundLines, session: BenchSession, qtbot: QtBot) -> None:
    assert search(found, "heron", qtbot) == []
    assert found.said.text() == "No line."
    session.records.note("note", "a heron on the roof")
    qtbot.waitUntil(lambda: found.table.rowCount() == 1)
    QTest.keyClick(found.field, Qt.Key.Key_Escape)
    assert found.field.text() == ""
    assert not found.isVisible()


def test_a_channel_that_is_called_otherwise_is_found_by_its_new_name(
    found: FoundLines, session: BenchSession, qtbot: QtBot, tmp_path: Path
) -> None:
    assert search(found, "left output", qtbot) == search(found, "output left", qtbot)
    before = search(found, "clip over", qtbot)
    assert search(found, "over clip", qtbot) == before
