"""The Diary page: everything that happened to this build, in order; notes in; report and readings out."""

from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QColor, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.marks import state_colour
from plinth.desk.session import BenchSession
from plinth.judge.state import State
from plinth.report.csv_table import readings_csv
from plinth.report.html import ReportInput, reading_words, render_report
from plinth.workshop.store import DiaryEntry, now

_KINDS = {
    "made": "Begun", "changed": "Plan", "reading": "Reading", "confirmed": "Done", "override": "Passed over",
    "power_on": "Power on", "power_off": "Power off", "note": "Note",
}  # fmt: skip
_MARKS = {State.CLEAR: "○", State.CLOSE: "◐", State.OVER: "▶", State.UNKNOWN: "◌"}


class DiaryPage(QWidget):
    """See the module."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self._stale = True
        self.title, self.count = label("", "title"), label("", "soft")
        self.table = QTableWidget(0, 5)
        self.table.setAccessibleName("Diary")
        self.table.setHorizontalHeaderLabels(["When", "What", "", "Read", "Verdict"])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setWordWrap(True)
        self.table.setShowGrid(False)
        header = self.table.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(4, QHeaderView.ResizeMode.Stretch)
        self.note = QLineEdit()
        self.note.setPlaceholderText("A note: what was heard, changed, borrowed, advised")
        self.note.setAccessibleName("Note for the diary")
        self.note.returnPressed.connect(self.keep_note)
        self.note_button = button("Write it down  ⏎")
        self.note_button.clicked.connect(self.keep_note)
        self.report_button = button("Report as HTML …", tip="One file with everything in it")
        self.csv_button = button("Readings as CSV …")
        self.report_button.clicked.connect(self.ask_report)
        self.csv_button.clicked.connect(self.ask_csv)
        self.said = label("", "soft", wrap=True)
        head = QHBoxLayout()
        for widget in (self.title, self.count):
            head.addWidget(widget)
        head.addStretch()
        head.addWidget(self.report_button)
        head.addWidget(self.csv_button)
        foot = QHBoxLayout()
        foot.addWidget(self.note, 1)
        foot.addWidget(self.note_button)
        box = column(spacing=8, margins=(18, 12, 18, 12))
        box.addLayout(head)
        box.addWidget(self.said)
        box.addWidget(self.table, 1)
        box.addLayout(foot)
        self.setLayout(box)
        self.said.hide()
        session.records_changed.connect(self.refresh)
        session.build_switched.connect(self.refresh)
        session.predicted.connect(self._show_exports)
        look.changed.connect(self._restyle)
        self.refresh()

    def refresh(self) -> None:
        """Show the whole diary, the latest at the end and in view; out of sight, only remember to."""
        self._stale = not self.isVisible()
        if self._stale:
            return
        diary = self._session.diary
        self.title.setText(self._session.build.name)
        readings = sum(entry.reading is not None for entry in diary)
        self.count.setText(f"{len(diary)} lines, {readings} readings")
        self.table.setRowCount(len(diary))
        for row, entry in enumerate(diary):
            self._show_row(row, entry)
        self._fit_rows()
        self._show_exports()

    def _restyle(self) -> None:
        self.refresh()
        # The new font reaches the table only with the style sheet, after this.
        QTimer.singleShot(0, self._fit_rows)

    def _show_exports(self) -> None:
        self.report_button.setEnabled(self._session.prediction is not None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._fit_rows)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self.refresh()
        # Heights depend on the widths, which are only known once the page is laid out.
        QTimer.singleShot(0, self._fit_rows)

    def _fit_rows(self) -> None:
        for column_index in (0, 1, 3):
            self.table.resizeColumnToContents(column_index)
        self.table.resizeRowsToContents()
        self.table.scrollToBottom()

    def _show_row(self, row: int, entry: DiaryEntry) -> None:
        reading = entry.reading
        read = verdict = ""
        colour = QColor(look.token("ink2"))
        if reading is not None:
            read = reading_words(reading)
            verdict = f"{_MARKS[reading.state]} {reading.state}. {reading.sentence}"
            colour = look.token("ink2" if reading.state is State.CLEAR else state_colour(reading.state))
        words = f"{entry.words}, typed {reading.typed}" if reading is not None else entry.words
        if entry.kind in ("override", "confirmed"):
            words = f"{_step_words(entry.subject)}: {entry.words}"
        cells = (
            entry.at.astimezone().strftime("%Y-%m-%d %H:%M"),
            _KINDS.get(entry.kind, entry.kind),
            words,
            read,
            verdict,
        )
        for c, text in enumerate(cells):
            item = QTableWidgetItem(text)
            item.setTextAlignment(
                Qt.AlignmentFlag.AlignTop | (Qt.AlignmentFlag.AlignRight if c == 3 else Qt.AlignmentFlag.AlignLeft)
            )
            if c in (0, 1):
                item.setForeground(look.token("ink2"))
            if c == 4:
                item.setForeground(colour)
            item.setToolTip(text)
            self.table.setItem(row, c, item)

    def keep_note(self) -> None:
        """Write the note down; it stays in the field unless it was kept."""
        words = self.note.text().strip()
        if words and self._session.note("note", words):
            self.note.clear()

    def ask_report(self) -> None:
        """Ask where to and write the report."""
        name, _ = QFileDialog.getSaveFileName(self, "Report", f"{self._file_name()}.html", "HTML page (*.html)")
        if name:
            self.save_report(Path(name))

    def ask_csv(self) -> None:
        """Ask where to and write the readings."""
        name, _ = QFileDialog.getSaveFileName(self, "Readings", f"{self._file_name()}.csv", "CSV table (*.csv)")
        if name:
            self.save_csv(Path(name))

    def save_report(self, path: Path) -> bool:
        """Write the report; False (and a sentence) where it could not be."""
        prediction = self._session.prediction
        if prediction is None:
            self._say("No report: this build cannot run, so there is nothing predicted to hold readings against.")
            return False
        given = ReportInput(prediction, self._session.diary, now(), self._session.demo)
        return self._write(path, render_report(given))

    def save_csv(self, path: Path) -> bool:
        """Write the readings; False (and a sentence) where they could not be."""
        return self._write(path, readings_csv([e.reading for e in self._session.diary if e.reading is not None]))

    def _write(self, path: Path, text: str) -> bool:
        try:
            path.write_text(text, encoding="utf-8")
        except OSError as error:
            self._say(f"{path} could not be written ({error.strerror}). Choose another folder.")
            return False
        self._say(f"Written: {path}")
        return True

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.show()

    def _file_name(self) -> str:
        return self._session.build.name.lower().replace(" ", "-").replace("/", "-")


def _step_words(subject: str) -> str:
    _, channel, *rest = [*subject.split("/"), "", ""]
    return f"{channel.capitalize()}, {rest[0].replace('_', ' ')}"
