"""What can be done with a line of the diary: correct it by a line of its own, go to where it came from."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.desk.labels import button
from plinth.desk.session import BenchSession
from plinth.desk.subject_place import stage_of
from plinth.record.diary import DiaryEntry, corrected_line
from plinth.record.subject import read_subject


class LineActions(QWidget):
    """``line_wanted`` the moment of another line that is to be shown."""

    line_wanted = Signal(object)

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._entry: DiaryEntry | None = None
        self.go_button = button("Where it came from", tip="The step, test or check it was read at; Enter in the table")
        self.go_button.clicked.connect(self.go)
        self.field = QLineEdit()
        self.field.setPlaceholderText("A correction to this line: it is added, the line stays")
        self.field.setAccessibleName("Correction to this line")
        self.field.returnPressed.connect(self.keep)
        self.keep_button = button("Correct it  ⏎")
        self.keep_button.clicked.connect(self.keep)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.go_button)
        box.addWidget(self.field, 1)
        box.addWidget(self.keep_button)
        self.hide()

    def show_entry(self, entry: DiaryEntry | None) -> None:
        """The line that is chosen."""
        if entry != self._entry:
            self.field.clear()
        self._entry = entry
        self.setVisible(entry is not None)
        if entry is not None:
            corrects = corrected_line(entry) is not None
            captured = self._session.captures.told_of(entry.subject) is not None
            paper = self._session.shelf.paper_of(entry.subject) is not None
            self.go_button.setText(
                "The line it corrects" if corrects
                else "The capture …" if captured
                else "The paper …" if paper
                else "Where it came from"
            )  # fmt: skip
            placed = stage_of(read_subject(entry.subject)) is not None
            self.go_button.setEnabled(corrects or captured or paper or placed)

    def go(self) -> None:
        """To the page that a line came from, or to the line that it corrects."""
        if self._entry is None or not self.go_button.isEnabled():
            return
        corrected = corrected_line(self._entry)
        if corrected is not None:
            self.line_wanted.emit(corrected)
        else:
            self._session.subject_wanted.emit(self._entry.subject)

    def keep(self) -> None:
        """Add the correction as a line of its own; it stays in the field unless it was kept."""
        words = self.field.text().strip()
        if self._entry is not None and words and self._session.records.correct(self._entry, words):
            self.field.clear()
