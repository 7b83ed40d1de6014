"""Opening a workshop, and the way on where it cannot be opened."""

from pathlib import Path

from PySide6.QtWidgets import QDialog, QFileDialog, QVBoxLayout

from plinth.demo.workshop import make_demo
from plinth.desk import preferences
from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.workshop.errors import WorkshopError
from plinth.workshop.store import Workshop, open_workshop


class CannotOpen(QDialog):
    """Says what is wrong and offers ways on; ``choice`` is ``again``, ``other``, ``demo`` or ``quit``."""

    def __init__(self, error: WorkshopError) -> None:
        super().__init__()
        self.setWindowTitle("Plinth: this workshop was not opened")
        self.setStyleSheet(look.style_sheet())
        self.choice = "quit"
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(10)
        box.addWidget(label("This workshop was not opened", "title"))
        words = label(str(error), "ask", wrap=True)
        words.setMinimumWidth(look.px(520))
        box.addWidget(words)
        self.buttons = {}
        for key, text in (
            ("again", "Try again"), ("other", "Choose another file …"), ("demo", "Open the demo workshop"),
            ("quit", "Close"),
        ):  # fmt: skip
            one = button(text, "row")
            one.clicked.connect(lambda _checked=False, key=key: self._take(key))
            self.buttons[key] = one
            box.addWidget(one)

    def _take(self, choice: str) -> None:
        self.choice = choice
        self.accept()


def demo_workshop() -> Workshop:
    """A fresh demo under a name of its own: an earlier copy may hold what somebody typed."""
    return make_demo(preferences.folder())


def open_or_ask(path: Path) -> Workshop | None:
    """The workshop in ``path``, or what the user chooses instead; None to close."""
    while True:
        try:
            return open_workshop(path)
        except WorkshopError as error:
            dialog = CannotOpen(error)
            dialog.exec()
            if dialog.choice == "quit":
                return None
            if dialog.choice == "demo":
                return demo_workshop()
            if dialog.choice == "other":
                name, _ = QFileDialog.getOpenFileName(
                    None, "Open a workshop", str(path.parent), "Plinth workshop (*.plinth)"
                )
                path = Path(name) if name else path
