"""The draw of the supply in a clipping cell: typed beside the level, with what follows of efficiency and heat."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.desk.labels import label
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.session.procedure.taking import Said


class DrawField(QWidget):
    """May stay empty. ``said`` tells what a draw means; ``entered`` when Enter is pressed in it."""

    entered = Signal()

    def __init__(self, said: Callable[[str], Said]) -> None:
        super().__init__()
        self._said = said
        self.name = label("Draw, if read", "soft")
        self.field = QLineEdit()
        self.field.setAccessibleName("Draw of the supply")
        self.field.textChanged.connect(self.show_said)
        self.field.returnPressed.connect(self.entered)
        self.mark, self.words = StateMark(), label("", "soft", wrap=True)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self.name, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.field, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.mark, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.words, 1)
        look.changed.connect(self._fit)
        self._fit()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(130))

    def show_example(self, example: str) -> None:
        """What may be typed."""
        self.field.setPlaceholderText(example)

    @property
    def empty(self) -> bool:
        """Whether nothing is typed."""
        return not self.field.text().strip()

    def show_said(self) -> None:
        """Say what is typed, or what was kept: of another cell, or beside another level."""
        said = self._said(self.field.text())
        self.mark.set_state(said.state)
        self.words.setText(said.words)
