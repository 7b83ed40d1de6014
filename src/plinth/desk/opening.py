"""Opening a workshop, and the way on where it cannot be opened."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QVBoxLayout

from plinth.desk import preferences
from plinth.desk.asking import ask
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.session.opening import DamagedWorkshopError, Workshop, WorkshopError, make_demo, opened, salvaged_words


class CannotOpen(Dialog):
    """Says what is wrong and offers ways on; ``choice`` is ``again``, ``other``, ``demo`` or ``quit``."""

    def __init__(self, error: WorkshopError) -> None:
        super().__init__()
        self.setWindowTitle("Plinth: this workshop was not opened")
        self.choice = "quit"
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.setSpacing(10)
        box.addWidget(label("This workshop was not opened", "title"))
        words = label(str(error), "ask", wrap=True)
        words.setMinimumWidth(look.px(520))
        box.addWidget(words)
        self.buttons = {}
        ways = {
            "again": "Try again", "save": "Save what is whole as a new workshop …", "other": "Choose another file …",
            "demo": "Open the demo workshop", "quit": "Close",
        }  # fmt: skip
        if not isinstance(error, DamagedWorkshopError):
            del ways["save"]
        for key, text in ways.items():
            push = button(text, "row")
            push.clicked.connect(lambda _checked=False, key=key: self._take(key))
            self.buttons[key] = push
            box.addWidget(push)

    def _take(self, choice: str) -> None:
        self.choice = choice
        self.accept()


class OpeningQuestion(Dialog):
    """Says what came of something; Enter or Esc goes on."""

    def __init__(self, sentence: str) -> None:
        super().__init__()
        self.setWindowTitle("Plinth")
        self.sentence = sentence
        words, close = label(sentence, "ask", wrap=True), button("Go on  ⏎", "main")
        words.setMinimumWidth(look.px(520))
        close.clicked.connect(self.accept)
        close.setDefault(True)
        box = QVBoxLayout(self)
        box.setContentsMargins(24, 20, 24, 20)
        box.addWidget(words)
        box.addWidget(close)


def demo_workshop() -> Workshop:
    """A fresh demo under a name of its own: an earlier copy may hold what somebody typed."""
    return make_demo(preferences.folder())


def open_or_ask(path: Path, trouble: WorkshopError | None = None) -> Workshop | None:
    """The workshop in ``path``, or what the user chooses instead; None to close. ``trouble`` it is known to have."""
    while True:
        try:
            if trouble is not None:
                raise trouble
            return opened(path)
        except WorkshopError as error:
            trouble = None
            dialog = CannotOpen(error)
            ask(dialog)
            if dialog.choice == "quit":
                return None
            if dialog.choice == "demo":
                return demo_workshop()
            if dialog.choice == "save":
                path = _save_whole(path)
            if dialog.choice == "other":
                name, _ = QFileDialog.getOpenFileName(
                    None, "Open a workshop", str(path.parent), "Plinth workshop (*.plinth)"
                )
                path = Path(name) if name else path


def _save_whole(damaged: Path) -> Path:
    """Ask where to and save what is whole; the new file, or the damaged one where nothing came of it."""
    proposed = str(damaged.with_name(f"{damaged.stem}-saved.plinth"))
    name, _ = QFileDialog.getSaveFileName(
        None, "Save what is whole as a new workshop", proposed, "Plinth workshop (*.plinth)"
    )
    if not name:
        return damaged
    done, words = salvaged_words(damaged, Path(name))
    ask(OpeningQuestion(words))
    return Path(name) if done else damaged
