"""Stages register themselves: one line more is a stage more, everywhere."""

from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from plinth.desk.session import BenchSession
from plinth.desk.stage_page import StagePage
from plinth.desk.stages import STAGES, Stage
from plinth.desk.window import PlinthWindow


class Fifth(StagePage):
    """A page that counts how often it came up."""

    def __init__(self, _session: BenchSession) -> None:
        super().__init__()
        self.field, self.came_up = QLineEdit(self), 0

    def come_up(self) -> None:
        self.came_up += 1
        self.field.setFocus()


def test_a_stage_more_is_one_line_more(session: BenchSession, qtbot: QtBot) -> None:
    more = (*STAGES, Stage("seventh", "Seventh", Fifth, lambda one: f"{len(one.builds)} builds"))
    window = PlinthWindow(session, more)
    qtbot.addWidget(window)
    window.show()
    assert window.head.stages.button(6).text() == f"Seventh  {len(session.builds)} builds"
    command = next(one for one in window.commands if one.title == "go to Seventh")
    assert command.keys == "Ctrl+7"
    window.run_command(command)
    page = window.page("seventh")
    assert isinstance(page, Fifth)
    assert page.came_up == 1
    assert page.isVisible()
