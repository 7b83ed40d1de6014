"""Labels and rules in the roles that the style sheet knows."""

import html
from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QSignalBlocker, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QComboBox,
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)


def label(text: str = "", role: str = "", *, wrap: bool = False) -> QLabel:
    """A label; ``role`` as in the style sheet. Text is always plain, whoever typed it."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    if role:
        made.setProperty("role", role)
    made.setWordWrap(wrap)
    return made


def plain_tip(text: str) -> str:
    """A tool tip as it was typed: Qt would take what looks like markup for markup, in whatever somebody typed."""
    return f"<span>{html.escape(text)}</span>" if "<" in text or "&" in text else text


def set_role(widget: QWidget, role: str) -> None:
    """Give a widget another role and restyle it."""
    if widget.property("role") == role:
        return
    widget.setProperty("role", role)
    widget.style().unpolish(widget)
    widget.style().polish(widget)


class _Button(QPushButton):
    """Enter presses the button that has the focus, as Space does; Qt leaves that to the default one of a dialog."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and plain and not event.isAutoRepeat():
            self.click()
        else:
            super().keyPressEvent(event)


def button(text: str, role: str = "", *, tip: str = "") -> QPushButton:
    """A push button; ``role`` as in the style sheet."""
    made = _Button(text)
    made.setAutoDefault(False)
    if role:
        made.setProperty("role", role)
    if tip:
        made.setToolTip(plain_tip(tip))
    return made


def on_chosen(push: QAbstractButton, call: Callable[[], object]) -> None:
    """``call`` when one of several is pressed, or checked by a screen reader's own way, which presses nothing."""
    waiting = [False]

    def pressed() -> None:
        waiting[0] = False
        call()

    def toggled(on: bool) -> None:
        waiting[0] = on
        if on:
            # A press checks first, and tells of itself right after.
            QTimer.singleShot(0, push, not_pressed)

    def not_pressed() -> None:
        if waiting[0]:
            pressed()

    push.clicked.connect(lambda _checked=False: pressed())
    push.toggled.connect(toggled)


def check(push: QAbstractButton, on: bool = True) -> None:
    """Show which of several is chosen, without choosing it."""
    quiet = QSignalBlocker(push)
    push.setChecked(on)
    quiet.unblock()


class _EnterTakes(QObject):
    """Enter in a choice does what the button with its sign says; a field of text has its own way to."""

    def __init__(self, dialog: QDialog, take: Callable[[], None]) -> None:
        super().__init__(dialog)
        self._dialog, self._take = dialog, take

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        enter = isinstance(event, QKeyEvent) and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if not enter or event.type() != QEvent.Type.KeyPress:
            return False
        if not isinstance(self._dialog.focusWidget(), QComboBox):
            return False
        self._take()
        return True


def answer_row(dialog: QDialog, words: str, take: Callable[[], None]) -> QHBoxLayout:
    """The foot of a dialog: one dark button that takes the answer, one that leaves everything as it was."""
    ok, cancel = button(f"{words}  ⏎", "main"), button("Cancel  Esc", "flat")
    ok.clicked.connect(take)
    cancel.clicked.connect(dialog.reject)
    dialog.installEventFilter(_EnterTakes(dialog, take))
    row = QHBoxLayout()
    row.addWidget(ok)
    row.addWidget(cancel)
    row.addStretch()
    return row


def rule() -> QFrame:
    """A hairline."""
    line = QFrame()
    line.setFixedHeight(1)
    line.setProperty("role", "rule")
    return line


def column(*widgets: QWidget, spacing: int = 8, margins: tuple[int, int, int, int] = (0, 0, 0, 0)) -> QVBoxLayout:
    """A vertical layout of ``widgets``."""
    box = QVBoxLayout()
    box.setSpacing(spacing)
    box.setContentsMargins(*margins)
    for widget in widgets:
        box.addWidget(widget)
    return box


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and delete it, once whoever called is done with it."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            put_away(widget)


def put_away(widget: QWidget) -> None:
    """Delete a widget later. It keeps its parent until then: without one it would be a window of its own."""
    widget.hide()
    widget.deleteLater()
