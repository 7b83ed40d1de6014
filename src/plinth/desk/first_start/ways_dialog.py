"""Four ways to begin on one page: parts, a wish, something broken, the demo. A digit, or the arrows and Enter."""

from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, label
from plinth.desk.look import look

Way = Literal["parts", "wish", "broken", "demo"]
WAYS: dict[Way, tuple[str, str]] = {
    "parts": (
        "I have parts",
        "A transformer, boards, cans: type what lies on the bench, and the rest is sized around it.",
    ),
    "wish": (
        "I have a wish",
        "So many watts into so many ohms: parts of usual values are put together until they give it.",
    ),
    "broken": (
        "I have one that is broken",
        "Or old, or of somebody else: begin with what can be read on it. Inspection comes first.",
    ),
    "demo": (
        "Show me the demo",
        "A workshop of invented parts and builds with their history, to try everything on.",
    ),
}


class WaysDialog(Dialog):
    """``way`` the one chosen; None where it was left, and all stays as it is."""

    grows = True

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Plinth: how to begin")
        self.way: Way | None = None
        self.buttons: dict[Way, QPushButton] = {}
        box = QVBoxLayout(self)
        box.setContentsMargins(28, 22, 28, 20)
        box.setSpacing(2)
        box.addWidget(label("How do you begin?", "title"))
        for place, (way, (title, words)) in enumerate(WAYS.items(), 1):
            push = button(f"{place}   {title}", "row")
            push.setAccessibleName(f"{title}. {words}")
            push.clicked.connect(lambda _checked=False, way=way: self.take(way))
            said = label(words, "soft", wrap=True)
            said.setMinimumWidth(look.px(640))
            said.setContentsMargins(look.px(26), 0, 0, look.px(8))
            self.buttons[way] = push
            box.addSpacing(6)
            box.addWidget(push)
            box.addWidget(said)
        box.addSpacing(8)
        leave = button("Later: begin with plain parts, and change them  Esc", "flat")
        leave.clicked.connect(self.reject)
        box.addWidget(leave, 0, Qt.AlignmentFlag.AlignLeft)
        self.buttons["parts"].setFocus()

    def take(self, way: Way) -> None:
        """Begin so."""
        self.way = way
        self.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways, key = tuple(WAYS), event.key()
        focused = next((place for place, way in enumerate(ways) if self.focusWidget() is self.buttons[way]), None)
        if event.text() in ("1", "2", "3", "4"):
            self.take(ways[int(event.text()) - 1])
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            step = 1 if key == Qt.Key.Key_Down else -1
            self.buttons[ways[((focused or 0) + step) % len(ways)]].setFocus()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and focused is not None:
            self.take(ways[focused])
        else:
            super().keyPressEvent(event)
