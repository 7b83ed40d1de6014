"""Copies in the window: one a day by itself, one whenever it is wanted, one taken out and opened."""

import datetime as dt
from pathlib import Path

import pytest
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from plinth.desk.backups_dialog import BackupsDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.opening import opened
from tests.desk.driver import press, sees


def run(window: PlinthWindow, key: str) -> None:
    window.run_command(next(command for command in window.commands if command.key == key))


def test_the_copy_of_today_is_made_once_and_listed(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, qtbot: QtBot
) -> None:
    session.backups.begin(tmp_path / "copies")
    session.backups.begin(tmp_path / "copies")
    (copy,) = session.backups.all()
    assert copy.day == session.now().date()
    dialog = BackupsDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.list.count() == 1
    words = " ".join(sees(dialog))
    assert "1 copy," in words
    assert str(tmp_path / "copies") in words
    session.records.note("note", "after the copy")
    dialog.take(tmp_path / "taken.plinth")
    assert dialog.said.text() == "Taken out as taken.plinth: open it with Ctrl+Shift+W."
    dialog.take(tmp_path / "taken.plinth")
    assert "choose another name" in dialog.said.text()
    other = opened(tmp_path / "taken.plinth")
    words_kept = [line.words for line in other.diary(other.builds()[0].id)]
    other.close()
    assert "after the copy" not in words_kept
    assert len(words_kept) == len(session.records.diary_lines()) - 1


def test_a_new_day_makes_a_new_copy(session: BenchSession, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    session.backups.begin(tmp_path)
    tomorrow = session.now() + dt.timedelta(days=1)
    monkeypatch.setattr(session, "now", lambda: tomorrow)
    session.backups.begin(tmp_path)
    assert len(session.backups.all()) == 2


def test_a_copy_is_saved_beside_and_this_workshop_stays_open(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    monkeypatch.setattr(window, "say", said.append)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_given, **_named: (str(tmp_path / "c.plinth"), ""))
    run(window, "save_copy")
    assert said == [f"Saved as {tmp_path / 'c.plinth'}. This workshop stays open."]
    assert session.records.note("note", "still here")
    before = (tmp_path / "c.plinth").read_bytes()
    run(window, "save_copy")
    assert "choose another name" in said[-1]
    assert (tmp_path / "c.plinth").read_bytes() == before


def test_without_copies_there_is_nothing_to_take_out(window: PlinthWindow, session: BenchSession, qtbot: QtBot) -> None:
    dialog = BackupsDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    assert not dialog.take_button.isEnabled()
    assert "0 copies" in " ".join(sees(dialog))


def test_a_copy_that_cannot_be_made_is_told(session: BenchSession, tmp_path: Path) -> None:
    told: list[str] = []
    session.trouble.connect(told.append)
    blocked = tmp_path / "file"
    blocked.write_text("no folder")
    session.backups.begin(blocked)
    assert told
    assert "The copy of today was not made" in told[0]


def test_it_is_pressed_by_its_button(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.backups.begin(tmp_path / "copies")
    dialog = BackupsDialog(window, session)
    qtbot.addWidget(dialog)
    dialog.show()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_given, **_named: (str(tmp_path / "t.plinth"), ""))
    press(dialog.take_button)
    assert (tmp_path / "t.plinth").is_file()


def test_an_archive_goes_out_and_begins_a_workshop_again(
    window: PlinthWindow, session: BenchSession, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    monkeypatch.setattr(window, "say", said.append)
    for key, name in (("archive", "all.zip"), ("archive_build", "one.zip")):
        monkeypatch.setattr(
            QFileDialog, "getSaveFileName", lambda *_given, name=name, **_named: (str(tmp_path / name), "")
        )
        run(window, key)
        assert f"Archive written to {tmp_path / name}" in said[-1]
    for name, builds in (("all", len(session.builds)), ("one", 1)):
        chosen, to = str(tmp_path / f"{name}.zip"), str(tmp_path / f"{name}.plinth")
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_given, chosen=chosen, **_named: (chosen, ""))
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_given, to=to, **_named: (to, ""))
        run(window, "archive_in")
        assert f"{name}.plinth holds {builds} builds" in said[-1]
        again = opened(Path(to))
        assert [stored.build for stored in again.builds()] == (
            [stored.build for stored in session.builds] if name == "all" else [session.build]
        )
        again.close()
    # Once more to the same place: nothing is written over.
    run(window, "archive_in")
    assert "choose another name" in said[-1]
    (tmp_path / "bad.zip").write_text("no archive")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_given, **_named: (str(tmp_path / "bad.zip"), ""))
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *_given, **_named: (str(tmp_path / "new.plinth"), "")
    )  # fmt: skip
    run(window, "archive_in")
    assert said[-1].startswith("Nothing was taken in")
    assert not (tmp_path / "new.plinth").exists()
    # An archive is never written over a workshop.
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *_given, **_named: (str(session.workshop.path), "")
    )  # fmt: skip
    run(window, "archive")
    assert "could not be written" in said[-1]
    assert session.records.note("note", "still whole")
