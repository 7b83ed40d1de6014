"""Enter in a choice of a dialog does what the button with its sign says, once."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QDialog
from pytestqt.qtbot import QtBot

from plinth.builds.makeup import Makeup
from plinth.demo.shelf import RING_225
from plinth.desk.part_form import PartForm
from plinth.desk.plan.makeup_form import MakeupForm
from plinth.desk.requirement_dialog import RequirementDialog
from plinth.desk.session import BenchSession
from plinth.desk.window import PlinthWindow


def pressed_in_a_choice(dialog: QDialog, qtbot: QtBot) -> str:
    """Enter in its first real choice, moved on by one; what stood there then."""
    qtbot.addWidget(dialog)
    dialog.show()
    choice = next(one for one in dialog.findChildren(QComboBox) if one.count() > 1)
    choice.setFocus()
    qtbot.keyClick(choice, Qt.Key.Key_Down)
    picked = choice.currentText()
    qtbot.keyClick(choice, Qt.Key.Key_Return)
    return picked


def test_enter_in_a_choice_keeps_a_part(window: PlinthWindow, qtbot: QtBot) -> None:
    form = PartForm(window, RING_225)
    pressed_in_a_choice(form, qtbot)
    assert form.result() == QDialog.DialogCode.Accepted
    assert form.part != RING_225


@pytest.mark.parametrize("wrong", ["", "These do not go together."])
def test_enter_in_a_choice_keeps_how_a_build_is_made(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot, wrong: str
) -> None:
    taken: list[Makeup] = []

    def keep(made: Makeup) -> str:
        taken.append(made)
        return wrong

    form = MakeupForm(window, session, keep)
    picked = pressed_in_a_choice(form, qtbot)
    assert picked.startswith("two modules")
    assert [one.bridged for one in taken] == [True]
    assert form.isVisible() is bool(wrong)
    assert form.said.text() == wrong


def test_enter_in_a_choice_of_a_requirement_says_what_is_missing(
    window: PlinthWindow, session: BenchSession, qtbot: QtBot
) -> None:
    dialog = RequirementDialog(window, session)
    dialog.requirement.setText("a trombone")
    pressed_in_a_choice(dialog, qtbot)
    assert dialog.isVisible()
    assert dialog.said.text()
