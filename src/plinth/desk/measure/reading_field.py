"""The field in which a test's reading is typed, what is said of it, and what it may have meant as buttons."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from plinth.desk.labels import button, column, label, put_away
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.session.procedure.taking import Said, Taken


class ReadingField(QWidget):
    """``entered`` when the text is to be kept, ``answered`` with the place of the choice that it is to be kept as.

    ``typed`` at every change of the text. ``below``: there is room for more under the button that keeps it.
    """

    entered = Signal()
    answered = Signal(int)
    typed = Signal()

    def __init__(self, name: str, keep_words: str, example: str = "", *, across: bool = False) -> None:
        super().__init__()
        self.field = QLineEdit()
        self.field.setProperty("role", "reading")
        self.field.setAccessibleName(name)
        self.field.setPlaceholderText(example)
        self.field.textChanged.connect(self.typed)
        self.field.returnPressed.connect(self.entered)
        self.keep_button = button(keep_words, "main")
        self.keep_button.clicked.connect(self.entered)
        self.mark, self.understood = StateMark(), label("", "name", wrap=True)
        self.against = label("", "soft", wrap=True)
        self.choices: list[QWidget] = []
        self._across = across
        self._rows = QWidget()
        self._choice_rows = QBoxLayout(
            QBoxLayout.Direction.LeftToRight if across else QBoxLayout.Direction.TopToBottom, self._rows
        )
        self._choice_rows.setContentsMargins(0, 2, 0, 0)
        self._choice_rows.setSpacing(4)
        self._rows.hide()
        top = QHBoxLayout()
        top.addWidget(self.mark)
        top.addWidget(self.understood, 1)
        beside = column(spacing=2)
        beside.addLayout(top)
        beside.addWidget(self.against)
        beside.addWidget(self._rows)
        beside.addStretch()
        self.below: QVBoxLayout = column(self.field, self.keep_button, spacing=6)
        self.below.addStretch()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(16)
        row.addLayout(self.below)
        row.addLayout(beside, 1)
        look.follow(self._fit)
        self._fit()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(220))

    def block(self, why: str) -> None:
        """Take no reading while there is a reason; empty lets them through."""
        self.field.setEnabled(not why)
        self.keep_button.setEnabled(not why)

    def show_said(self, said: Said) -> None:
        """Say how the text is taken, and offer what it may have meant."""
        self.mark.set_state(said.state)
        self.understood.setText(said.words)
        self.against.setText(said.against)
        self.against.setVisible(bool(said.against))
        for old in self.choices:
            self._choice_rows.removeWidget(old)
            put_away(old)
        self.choices = []
        for place, words in enumerate(said.choices):
            choice = button(f"{place + 1}  {words}")
            choice.setShortcut(f"Alt+{place + 1}")
            if not self._across:
                choice.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            choice.clicked.connect(partial(self._answer, place))
            self._choice_rows.addWidget(choice)
            self.choices.append(choice)
        self._rows.setVisible(bool(self.choices))

    def _answer(self, place: int, _checked: bool = False) -> None:
        self.answered.emit(place)

    def follow_up(self, taken: Taken) -> None:
        """Go on after a text was given: to the next, or to the choices where it is asked."""
        if taken is Taken.ASKED and self.choices:
            self.choices[0].setFocus()
        if taken is Taken.KEPT:
            self.field.setFocus()
