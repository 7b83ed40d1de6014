"""Ask for one number with its unit."""

from collections.abc import Callable

from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label


class ValueDialog(Dialog):
    """Accepted once ``keep`` has kept what is typed; it says what is wrong otherwise (an empty text: kept)."""

    def __init__(self, parent: QWidget, title: str, ask_words: str, proposed: str, keep: Callable[[str], str]) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._keep = keep
        self.field, self.said = QLineEdit(proposed), label("", "over", wrap=True)
        self.field.setAccessibleName(title)
        self.field.setMaxLength(60)
        self.field.setMinimumWidth(320)
        self.field.selectAll()
        self.field.returnPressed.connect(self.take)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        for widget in (label(title, "title"), label(ask_words, "soft", wrap=True), self.field, self.said):
            box.addWidget(widget)
        box.addLayout(answer_row(self, "Keep", self.take))

    def take(self) -> None:
        """Keep what is typed, or say what is wrong with it; it stays in the field."""
        wrong = self._keep(self.field.text().strip())
        self.said.setText(wrong)
        if wrong:
            self.field.selectAll()
        else:
            self.accept()
