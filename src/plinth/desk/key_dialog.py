"""A key of one's own for an action: press it, Enter keeps it."""

from collections.abc import Callable

from PySide6.QtCore import QKeyCombination, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QVBoxLayout, QWidget

from plinth.desk.commands import Command
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, button, label
from plinth.desk.own_keys import portable

_HELD = {Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_AltGr, Qt.Key.Key_Meta, Qt.Key.Key_CapsLock}


class KeyDialog(Dialog):
    """``keys`` those pressed last; ``why_not`` says why they may not be. Accepted with none, the own ones are gone."""

    grows = True

    def __init__(self, parent: QWidget, command: Command, own: str, why_not: Callable[[str], str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("A key of your own")
        self._why_not, self.keys = why_not, own
        self.pressed, self.said = label("", "question"), label("", "over", wrap=True)
        self.pressed.setAccessibleName("Keys pressed")
        self.said.setMinimumWidth(360)
        self.away = button("None of my own", "flat")
        self.away.clicked.connect(self.take_away)
        self.away.setVisible(bool(own))
        box = QVBoxLayout(self)
        box.setSpacing(10)
        stays = f" {command.keys} stays." if command.keys else ""
        box.addWidget(label(f"{command.group}: {command.title}", "title", wrap=True))
        box.addWidget(label(f"Press the keys that are to lead there as well.{stays}", "soft", wrap=True))
        box.addWidget(self.pressed)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep", self.take))
        box.addWidget(self.away, 0, Qt.AlignmentFlag.AlignLeft)
        for push in self.findChildren(QWidget):
            # Tab and Space are pressed like any other here.
            push.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._show()

    def _show(self) -> None:
        self.pressed.setText(self.keys or "…")
        self.said.setText("")

    def take(self) -> None:
        """Keep what was pressed, where it may be."""
        problem = self._why_not(self.keys)
        self.said.setText(problem)
        if not problem:
            self.accept()

    def take_away(self) -> None:
        """No key of one's own any more."""
        self.keys = ""
        self.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        key = Qt.Key(event.key())
        if plain and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif plain and key == Qt.Key.Key_Escape:
            self.reject()
        elif key not in _HELD:
            held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
            self.keys = portable(QKeySequence(QKeyCombination(held, key)))
            self._show()
            self.said.setText(self._why_not(self.keys))
