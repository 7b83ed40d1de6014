"""What a typed reading may have meant, as buttons under its field: one press, or Tab and Enter, takes it."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from plinth.desk.labels import button, clear, column


class ReadingChoices(QWidget):
    """``chosen`` the text that says which was meant. Hidden while nothing is to be chosen."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.texts: tuple[str, ...] = ()
        self._rows = column(spacing=4)
        self.setLayout(self._rows)
        self.hide()

    def take_focus(self) -> None:
        """Lead to the first of them, where there is one."""
        first = self._rows.itemAt(0)
        choice = None if first is None else first.widget()
        if choice is not None:
            choice.setFocus()

    def offer(self, texts: Sequence[str], lead: str = "It says ") -> None:
        """Offer these in place of what was offered before, each behind ``lead``."""
        if tuple(texts) == self.texts:
            return
        self.texts = tuple(texts)
        clear(self._rows)
        for text in self.texts:
            choice = button(f"{lead}{text}", "flat")
            choice.setAutoDefault(True)
            choice.clicked.connect(lambda _checked=False, text=text: self.chosen.emit(text))
            self._rows.addWidget(choice)
        self.setVisible(bool(self.texts))
