"""Copies in the window: one a day by itself, one whenever it is wanted, one taken out and opened."""

import dataclasses
import datetime as dt
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from plinth.desk.archive_dialog import APART, LEAVE, MERGE, ArchiveDialog
from plinth.desk.backups_dialog import BackupsDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from plinth.session.archives import ArchiveLook
from plinth.session.core import PlanState
from plinth.session.opening import opened
from plinth.session.session import Session
from tests.demo_copy import demo_copy
from tests.desk.driver import press, sees
from tests.session.running import AtOnce

HOUR = dt.timedelta(hours=1)


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

    def separate(dialog: ArchiveDialog) -> int:
        press(dialog.own_button)
        return 1

    monkeypatch.setattr(ArchiveDialog, "exec", separate)
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


@pytest.fixture
def from_a_friend(tmp_path: Path) -> Path:
    """An archive of a copy of the same workshop in which somebody went on: a reading, a note, a photo, a change."""
    (tmp_path / "friend").mkdir()
    other = Session(demo_copy(tmp_path / "friend"), AtOnce())
    other.records.note("note", "the friend's fuse was 3.15 A")
    build = other.build
    louder = build.model_copy(update={"module": build.module.model_copy(update={"gain": 1.1 * build.module.gain})})
    other.plan.change(PlanState(louder, other.situation), "gain raised", "gain raised")
    last = next(entry.reading for entry in reversed(other.records.diary_lines()) if entry.reading is not None)
    later = dataclasses.replace(last, typed="27 V", value=last.value * 1.02, taken_at=last.taken_at + HOUR)
    assert other.records.keep(later)
    other.workshop.add_photo(other.current, "note", last.taken_at, name="fuse.png", content=b"o", scaled=b"s")
    told: list[str] = []
    other.archives.write(tmp_path / "friend.zip", lambda words, _done: told.append(words), only_current=False)
    other.close()
    assert "written" in told[0]
    return tmp_path / "friend.zip"


def test_another_copy_of_a_build_is_merged_by_hand(
    window: PlinthWindow, session: BenchSession, from_a_friend: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.records.note("note", "only here")
    before = session.records.diary_lines()
    build = session.build
    said: list[str] = []
    monkeypatch.setattr(window, "say", said.append)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_given, **_named: (str(from_a_friend), ""))

    def merge(dialog: ArchiveDialog) -> int:
        dialog.show()
        words = " ".join(sees(dialog))
        assert "3 lines only in the archive, 1 only here" in words
        assert "1 photos only there" in words
        assert "The builds differ" in words
        # What is the same already is left out, what has more is merged, unless somebody says otherwise.
        assert [way.currentText() for way in dialog.ways] == [MERGE] + [LEAVE] * (len(session.builds) - 1)
        dialog.lines.setCurrentCell(0, 3)
        QTest.keyClick(dialog.lines, Qt.Key.Key_Space)
        dialog.ways[1].setCurrentText(APART)
        press(dialog.take_button)
        return 1

    monkeypatch.setattr(ArchiveDialog, "exec", merge)
    run(window, "archive_in")
    assert said[-1].startswith("Merged 1, taken in 1 builds and 0 parts.")
    assert "is there already" in said[-1]
    after = session.records.diary_lines()
    # Nothing that was here is touched, and the build stays as it is.
    assert after[: len(before)] == before
    assert session.build == build
    words = [entry.words for entry in after[len(before) :]]
    assert "the friend's fuse was 3.15 A" not in words
    assert words[0] == "In the other copy, changed: gain raised"
    assert words[-1] == "Taken over from another copy: 2 lines of diary, 1 photos, 0 captures."
    assert after[-2].reading is not None
    assert after[-2].reading.typed == "27 V"
    assert session.records.reading(after[-2].subject) == after[-2].reading
    assert [photo.name for photo in session.workshop.photos(session.current)] == ["fuse.png"]
    # A second time nothing is left to be taken but what was not wanted.
    looks: list[ArchiveLook | None] = []
    session.archives.look(from_a_friend, lambda look, _words: looks.append(look))
    assert looks[0] is not None
    first = looks[0].copies[0]
    assert [entry.words for entry in first.only_there] == ["the friend's fuse was 3.15 A", "gain raised"]
    assert first.photos_there == ()


def test_an_archive_of_another_kind_may_only_begin_one_of_its_own(
    window: PlinthWindow, session: BenchSession, from_a_friend: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.workshop.set_setting("workshop", {})
    looks: list[ArchiveLook | None] = []
    session.archives.look(from_a_friend, lambda look, _words: looks.append(look))
    assert looks[0] is not None
    assert "the invented demo" in looks[0].refused
    assert str(session.workshop.path.name) in looks[0].refused
    dialog = ArchiveDialog(window, looks[0])
    assert not dialog.take_button.isEnabled()
    assert dialog.own_button.isEnabled()
    said: list[str] = []
    session.archives.add(looks[0], dialog.chosen(), lambda words, _done: said.append(words))
    assert said[0].startswith("Nothing was taken in")
    dialog.deleteLater()
    (tmp_path / "bad.zip").write_text("no archive")
    why: list[str] = []
    session.archives.look(tmp_path / "bad.zip", lambda _look, words: why.append(words))
    assert why[0].startswith("Nothing was taken in")
