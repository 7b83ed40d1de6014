"""A row of a test in which a builder types a list of his own: sources, loads; kept by the current build."""

from abc import abstractmethod

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.desk.labels import button, column, label
from plinth.desk.session import BenchSession


class TypedListRow(QWidget):
    """``taken`` once a list is kept: from now on it stands. A list that is none stays typed, with a sentence."""

    taken = Signal()

    def __init__(self, session: BenchSession, title: str, accessible: str, key: str, tip: str) -> None:
        super().__init__()
        self._session = session
        self._shown: tuple[int, str] | None = None
        self._waiting: dict[int, str] = {}
        self.field = QLineEdit()
        self.field.setAccessibleName(accessible)
        self.field.returnPressed.connect(self.keep)
        self.keep_button = button(f"{key}  ⏎", tip=tip)
        self.keep_button.clicked.connect(self.keep)
        self.said = label("", "over", wrap=True)
        self.said.hide()
        row = QHBoxLayout()
        row.addWidget(label(title, "soft"))
        row.addWidget(self.field, 1)
        row.addWidget(self.keep_button)
        box = column(spacing=4)
        box.addLayout(row)
        box.addWidget(self.said)
        self.setLayout(box)

    @abstractmethod
    def kept_text(self) -> str:
        """The list of the current build, as it is typed."""

    @abstractmethod
    def take(self, text: str) -> str:
        """Keep a typed list; a sentence where it is none, or was not kept."""

    @abstractmethod
    def examples(self) -> tuple[str, str]:
        """What could stand in the field for the current build, and what it means."""

    def hold(self, held: bool) -> None:
        """While readings are held the list takes no focus by itself: no reading is to be typed into it."""
        self.field.setFocusPolicy(Qt.FocusPolicy.ClickFocus if held else Qt.FocusPolicy.StrongFocus)

    def show_list(self) -> None:
        """That of the current build; what somebody is typing stays while it is the same."""
        example, meaning = self.examples()
        self.field.setPlaceholderText(example)
        self.field.setToolTip(meaning)
        shown = (self._session.stored.id, self.kept_text())
        if shown == self._shown:
            return
        waiting: str | None = None
        if self._shown is None or self._shown[0] != shown[0]:
            # What is typed and not entered waits with its own build.
            if self._shown is not None and self.field.text() != self._shown[1]:
                self._waiting[self._shown[0]] = self.field.text()
            waiting = self._waiting.pop(shown[0], None)
        self._shown = shown
        self.field.setText(shown[1] if waiting is None else waiting)
        self.said.hide()

    def keep(self) -> None:
        """Keep the list."""
        sentence = self.take(self.field.text())
        self.said.setText(sentence)
        self.said.setVisible(bool(sentence))
        if not sentence:
            self._shown = None
            self.show_list()
            self.taken.emit()
