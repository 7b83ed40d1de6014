"""Variants of a build beside each other: differences first; one more is kept, or one adopted with its reason."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLineEdit, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.runner import words_of
from plinth.shelf.compare import Compared


class VariantsDialog(Dialog):
    """Variants in columns, what differs in rows."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session, self.found = session, Compared((), ())
        self._sides = session.variants.sides()
        self.setWindowTitle(f"Variants: {session.build.name}")
        look.size(self, 980, 640)
        self.only = QCheckBox("Only what differs")
        self.only.setChecked(True)
        self.only.toggled.connect(lambda _on: self._show())
        self.rows = reading_table(["", "this build"], "What differs between the variants", widest=0)
        self.said, self.count = label("", "over", wrap=True), label("Comparing …", "soft", wrap=True)
        self.said.hide()
        self.name, self.reason, self.which = QLineEdit(), QLineEdit(), QComboBox()
        self.name.setPlaceholderText("name of a further variant")
        self.name.setAccessibleName("Name of a further variant")
        self.reason.setPlaceholderText("why: it stands in the diary")
        self.reason.setAccessibleName("Why it is adopted")
        self.which.setAccessibleName("Which one is adopted")
        self.keep_button, self.adopt_button = button("Keep as a variant"), button("Adopt")
        close = button("Close  Esc")
        self.keep_button.clicked.connect(self.keep)
        self.adopt_button.clicked.connect(self.adopt)
        self.name.returnPressed.connect(self.keep)
        self.reason.returnPressed.connect(self.adopt)
        close.clicked.connect(self.reject)
        head = QHBoxLayout()
        head.addWidget(self.count, 1)
        head.addWidget(self.only)
        keep = QHBoxLayout()
        keep.addWidget(self.name, 1)
        keep.addWidget(self.keep_button)
        adopt = QHBoxLayout()
        adopt.addWidget(label("Adopt", "soft"))
        adopt.addWidget(self.which)
        adopt.addWidget(self.reason, 1)
        adopt.addWidget(self.adopt_button)
        adopt.addWidget(close)
        box = column(spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(head)
        box.addWidget(self.rows, 1)
        box.addWidget(self.said)
        box.addLayout(keep)
        box.addLayout(adopt)
        self.setLayout(box)
        self.refresh()

    def refresh(self) -> None:
        """Compare anew."""
        self._sides = self._session.variants.sides()
        self.which.clear()
        self.which.addItems([name for name, _, _ in self._sides[1:]])
        for widget in (self.which, self.reason, self.adopt_button):
            widget.setEnabled(len(self._sides) > 1)
        self._session.jobs.ask("compare", self._session.variants.comparing(), self._take, self._failed, long=True)

    def _failed(self, error: Exception) -> None:
        self.count.setText(f"{error}." if isinstance(error, PhysicsError) else words_of(error))

    def _take(self, answer: object) -> None:
        assert isinstance(answer, Compared)
        self.found = answer
        self._show()

    def _show(self) -> None:
        rows = self.found.differences if self.only.isChecked() else self.found.rows
        heads = ["", *self.found.names]
        self.rows.setColumnCount(len(heads))
        self.rows.setHorizontalHeaderLabels(heads)
        fill(self.rows, [(row.words, *row.values) for row in rows])
        for r, row in enumerate(rows):
            cell = self.rows.item(r, 0)
            if cell is not None:
                font = QFont(cell.font())
                font.setBold(row.differs and not row.predicted)
                cell.setFont(font)
                cell.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
        others = len(self.found.names) - 1
        self.count.setText(
            f"{len(self.found.differences)} things differ; what is predicted follows the parts."
            if others
            else "No variant yet: change or try something, then keep it under a name of its own."
        )

    def _say(self, sentence: str) -> None:
        self.said.setText(sentence)
        self.said.setVisible(bool(sentence))

    def keep(self) -> None:
        """Keep the build as it is looked at now as a variant."""
        sentence = self._session.variants.keep_variant(self.name.text())
        self._say(sentence)
        if not sentence:
            self.name.clear()
            self.refresh()

    def adopt(self) -> None:
        """Make this build so, with the reason."""
        if len(self._sides) < 2:
            return
        sentence = self._session.variants.adopt(self._sides[1 + self.which.currentIndex()], self.reason.text())
        self._say(sentence)
        if not sentence:
            self.accept()

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._session.jobs.cancel("compare")
        super().done(answer)
