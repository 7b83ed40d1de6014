"""What is due, in the head: how many things, and which, each a way to its step."""

import datetime as dt
from collections.abc import Sequence

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QPushButton, QWidget

from plinth.desk.labels import set_role
from plinth.desk.session import BenchSession
from plinth.guide.judging import wait_words
from plinth.session.reminders import Reminder
from plinth.units.moments import clock, day_and_clock

_EVERY_MS = 15_000
# What is due later than this is in the list, and not yet spoken of.
_SOON_S = 12 * 3600.0


class DueButton(QPushButton):
    """``chosen`` tells the reminder to go to. Hidden while nothing is due, nor soon."""

    chosen = Signal(object)

    def __init__(self, session: BenchSession, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.setMenu(QMenu(self))
        self.menu().aboutToShow.connect(self._fill)
        self._clock = QTimer(self)
        self._clock.setInterval(_EVERY_MS)
        self._clock.timeout.connect(self.refresh)
        self._clock.start()
        for signal in (session.records_changed, session.power_changed, session.build_switched):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Say what is due now, else when the next thing is."""
        words = due_words(self._session.reminders.all(), self._session.now())
        self.setText(words)
        self.setVisible(bool(words))
        set_role(self, "due" if words and words[0].isdigit() else "flat")
        self.setToolTip("Steps that fall due, of all builds (Ctrl+Shift+R)")
        self.setAccessibleName(f"{words}: what falls due")

    def _fill(self) -> None:
        menu = self.menu()
        menu.clear()
        at = self._session.now()
        for reminder in self._session.reminders.all():
            action = QAction(
                f"{_when(reminder, at)}: {self._session.build_of(reminder.build_id).name}, {reminder.words}", menu
            )
            action.triggered.connect(lambda _checked=False, reminder=reminder: self.chosen.emit(reminder))
            menu.addAction(action)


def due_words(reminders: Sequence[Reminder], at: dt.datetime) -> str:
    """``2 due``; ``due 14:20`` where the next is soon; else nothing."""
    due = sum(reminder.at <= at for reminder in reminders)
    if due:
        return f"{due} due"
    following = min((reminder.at for reminder in reminders), default=None)
    if following is None or (following - at).total_seconds() > _SOON_S:
        return ""
    return f"due {clock(following.astimezone())}"


def _when(reminder: Reminder, at: dt.datetime) -> str:
    moment = day_and_clock(reminder.at.astimezone())
    left = (reminder.at - at).total_seconds()
    return f"since {moment}" if left <= 0.0 else f"{moment}, in {wait_words(left)}"
