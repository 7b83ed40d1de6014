"""Keys of one's own: which may be, kept between starts, and none of ours that a desktop or a screen reader takes."""

import json

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from plinth.desk import key_bindings, preferences
from plinth.desk.commands import Command
from plinth.desk.finder import Finder
from plinth.desk.key_dialog import KeyDialog
from plinth.desk.own_keys import IN_FIELDS, TAKEN, portable, sound_keys, taken_by, why_not
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow
from tests.desk.driver import sees

CONTROL, ALT, SHIFT, NONE = (
    Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.NoModifier,
)  # fmt: skip


def command(window: PlinthWindow, key: str) -> Command:
    return next(each for each in window.commands if each.key == key)


def test_no_key_of_ours_is_taken_by_a_desktop_or_twice_by_ourselves(window: PlinthWindow) -> None:
    keys = [portable(QKeySequence(each.keys)) for each in window.commands if each.keys]
    assert len(set(keys)) == len(keys)
    assert [each for each in keys if each in TAKEN] == []
    # What a field does with its keys it goes on doing: fields ask for them first.
    assert [each for each in keys if each in IN_FIELDS] == []
    for each in (*TAKEN, *IN_FIELDS):
        assert portable(QKeySequence(each)) == each, "as Qt writes it"


@pytest.mark.parametrize(
    ("keys", "says"),
    [
        ("", "Found no key"),
        ("J", "else it could not be typed"),
        ("Shift+J", "else it could not be typed"),
        ("Ctrl+Alt+L", "locks the screen"),
        ("Ctrl+C", "copies in a field"),
        ("Meta+J", "belongs to the desktop"),
        ("Ctrl+Ins", "copies in a field"),
        ("Shift+F4", ""),
        ("Ctrl+Alt+J", ""),
        ("Ctrl+K", "leads to “find a command” already"),
        ("Ctrl+M", "leads to this action already"),
        ("Ctrl+J, Ctrl+K", "Found no key"),
    ],
)
def test_which_keys_may_be(window: PlinthWindow, keys: str, says: str) -> None:
    problem = why_not(keys, command(window, "map"), window.commands, {})
    assert (says in problem) if says else problem == ""
    assert "Ctrl+Alt+J" in why_not("Ctrl+Alt+J", command(window, "map"), window.commands, {"bill": "Ctrl+Alt+J"})
    assert taken_by("Ctrl+Alt+J") == ""
    assert "screen readers" in taken_by("Ctrl+Shift+CapsLock")


def changed(
    window: PlinthWindow, monkeypatch: pytest.MonkeyPatch, key: str, presses: list[tuple[Qt.Key, Qt.KeyboardModifier]]
) -> str:
    """Ask for keys of an action, press these, and Enter; what was said."""
    said = ""

    def ask(dialog: KeyDialog) -> bool:
        nonlocal said
        # As while it is asked: keys of the window behind lead nowhere.
        dialog.setModal(True)
        dialog.show()
        for pressed, held in presses:
            QTest.keyClick(dialog, pressed, held)
        said = dialog.said.text()
        QTest.keyClick(dialog, Qt.Key.Key_Return)
        accepted = dialog.result() == KeyDialog.DialogCode.Accepted
        dialog.reject()
        return accepted

    monkeypatch.setattr(key_bindings, "ask", ask)
    window.keys.change(window, command(window, key))
    return said


def test_a_key_of_one_s_own_leads_there_beside_ours_and_is_remembered(
    window: PlinthWindow, session: BenchSession, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    assert (
        changed(window, monkeypatch, "stage.diary", [(Qt.Key.Key_Control, NONE), (Qt.Key.Key_J, CONTROL | ALT)]) == ""
    )
    assert window.keys.own == {"stage.diary": "Ctrl+Alt+J"}
    window.activateWindow()
    with qtbot.waitActive(window, timeout=60_000):
        window.activateWindow()
    QTest.keyClick(window, Qt.Key.Key_J, CONTROL | ALT)
    assert window.stage == "diary"
    QTest.keyClick(window, Qt.Key.Key_1, CONTROL)
    assert window.stage == "plan"
    assert preferences.load_checked()[0]["keys"] == {"stage.diary": "Ctrl+Alt+J"}
    # Another action cannot have it; the first may change its own, and what it was leads nowhere then.
    assert "leads to “go to Diary” already" in changed(window, monkeypatch, "bill", [(Qt.Key.Key_J, CONTROL | ALT)])
    assert window.keys.own == {"stage.diary": "Ctrl+Alt+J"}
    assert changed(window, monkeypatch, "stage.diary", [(Qt.Key.Key_F4, SHIFT)]) == ""
    QTest.keyClick(window, Qt.Key.Key_J, CONTROL | ALT)
    assert window.stage == "plan"
    QTest.keyClick(window, Qt.Key.Key_F4, SHIFT)
    assert window.stage == "diary"
    # A second window, as after a restart.
    again = PlinthWindow(session)
    qtbot.addWidget(again)
    assert again.keys.own == {"stage.diary": "Shift+F4"}


def test_keys_are_changed_and_taken_away_in_the_finder(
    window: PlinthWindow, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    finder = Finder(window, window.commands, window.keys.own, window.keys.change)
    qtbot.addWidget(finder)
    finder.show()
    assert any("F2 a key of your own" in words for words in sees(finder))
    finder.field.setText("map of clip")

    def ask(dialog: KeyDialog) -> bool:
        dialog.show()
        QTest.keyClick(dialog, Qt.Key.Key_Space, CONTROL | ALT)
        assert dialog.said.text() == ""
        assert dialog.pressed.text() == "Ctrl+Alt+Space"
        QTest.keyClick(dialog, Qt.Key.Key_Return)
        return True

    monkeypatch.setattr(key_bindings, "ask", ask)
    QTest.keyClick(finder.field, Qt.Key.Key_F2)
    assert "Ctrl+M, Ctrl+Alt+Space" in finder.list.currentItem().text()

    def away(dialog: KeyDialog) -> bool:
        dialog.show()
        assert dialog.away.isVisible()
        dialog.away.click()
        return True

    monkeypatch.setattr(key_bindings, "ask", away)
    QTest.keyClick(finder.field, Qt.Key.Key_F2)
    assert window.keys.own == {}
    assert "Ctrl+Alt+Space" not in finder.list.currentItem().text()
    QApplication.processEvents()


def test_what_was_remembered_is_taken_as_far_as_it_still_may_be(window: PlinthWindow) -> None:
    kept = {"map": "Ctrl+Alt+J", "gone": "Ctrl+Alt+G", "bill": "Ctrl+K", "find_me": "ctrl+alt+j", "curve": "nonsense"}
    assert sound_keys(kept, window.commands) == {"map": "Ctrl+Alt+J"}


@pytest.mark.parametrize("kept", [[1], {"map": 3}, "x", {"map": "x" * 90}])
def test_damaged_keys_are_set_aside_with_a_sentence(kept: object) -> None:
    preferences.save_tour_offered()
    path = preferences.settings_file()
    path.write_text(json.dumps({"dark": True, "keys": kept}))
    sound, words = preferences.load_checked()
    assert sound == {"dark": True}
    assert "keys" in words
