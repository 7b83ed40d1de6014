"""Ask for the name of a build."""

from collections.abc import Callable, Collection

from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label


class NameDialog(Dialog):
    """``name`` after it was accepted; a name that is taken, empty, or that ``keep`` could not keep is not."""

    def __init__(
        self, parent: QWidget, title: str, proposed: str, taken: Collection[str], keep: Callable[[str], bool]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._keep = keep
        self._taken = {name.strip().lower() for name in taken}
        self.field, self.said = QLineEdit(proposed), label("", "over", wrap=True)
        self.field.setAccessibleName("Name of the build")
        self.field.setMaxLength(120)
        self.field.setMinimumWidth(320)
        self.field.selectAll()
        self.field.returnPressed.connect(self.take)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        for widget in (label(title, "title"), self.field, self.said):
            box.addWidget(widget)
        box.addLayout(answer_row(self, "Make it", self.take))

    @property
    def name(self) -> str:
        """The name typed."""
        return self.field.text().strip()

    def take(self) -> None:
        """Accept a usable name, else say what is wrong with it."""
        if not self.name:
            self.said.setText("Found no name, expected one that you will know it by.")
        elif self.name.lower() in self._taken:
            self.said.setText(f"Found {self.name!r}, which this workshop has already: add a word to it.")
        elif self._keep(self.name):
            self.accept()
