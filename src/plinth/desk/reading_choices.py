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
        self._texts: tuple[str, ...] = ()
        self._rows = column(spacing=4)
        self.setLayout(self._rows)
        self.hide()

    def offer(self, texts: Sequence[str], lead: str = "It says ") -> None:
        """Offer these in place of what was offered before, each behind ``lead``."""
        if tuple(texts) == self._texts:
            return
        self._texts = tuple(texts)
        clear(self._rows)
        for text in self._texts:
            choice = button(f"{lead}{text}", "flat")
            choice.setAutoDefault(True)
            choice.clicked.connect(lambda _checked=False, text=text: self.chosen.emit(text))
            self._rows.addWidget(choice)
        self.setVisible(bool(self._texts))
