"""The search in the diaries of all builds: a field, and what was found under it; Enter goes to the line."""

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHeaderView, QLineEdit, QTableWidget, QWidget

from plinth.desk.labels import column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.session.diary_search import DiaryHit, WorkshopError

_MOST = 200


class _Field(QLineEdit):
    """Down goes to what was found, Escape empties it."""

    down, emptied = Signal(), Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Down:
            self.down.emit()
        elif event.key() == Qt.Key.Key_Escape and self.text():
            self.clear()
            self.emptied.emit()
        else:
            super().keyPressEvent(event)


class FoundLines(QWidget):
    """``chosen`` the build and the line that is gone to. Hidden while nothing is searched for."""

    chosen = Signal(int, int)

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.hits: tuple[DiaryHit, ...] = ()
        self.field = _Field()
        self.field.setPlaceholderText("Search all builds")
        self.field.setToolTip(
            'Words, numbers, units, dates, outcomes: bias 33 mV, over, 2026-10; "two words" beside each other'
        )
        self.field.setAccessibleName("Search the diaries of all builds")
        self.field.setClearButtonEnabled(True)
        self.field.textChanged.connect(lambda _text: self._search())
        self.field.returnPressed.connect(lambda: self._go(max(self.table.currentRow(), 0)))
        self.field.down.connect(self._to_table)
        self.said = label("", "soft")
        self.table: QTableWidget = reading_table(["When", "Build", "What"], "Lines found", widest=2)
        self.table.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.table.cellActivated.connect(lambda row, _column: self._go(row))
        self.table.cellClicked.connect(lambda row, _column: self._go(row))
        self._growing = QTimer(self)
        self._growing.setInterval(0)
        self._growing.timeout.connect(self._grow)
        self.setLayout(column(self.said, self.table, spacing=4))
        session.records_changed.connect(self._again)
        session.build_switched.connect(self._again)
        self.hide()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.table.setMinimumHeight(look.px(200))

    def _again(self) -> None:
        if self.field.text().strip():
            self._growing.start()

    def _search(self) -> None:
        wanted = bool(self.field.text().strip())
        self.setVisible(wanted)
        if wanted:
            self._growing.start()
            self._show()

    def _grow(self) -> None:
        """Take in some lines more, between two events of the window."""
        try:
            more = self._session.diary_search.grow()
        except WorkshopError as error:
            self._growing.stop()
            self.said.setText(str(error))
            return
        if not more:
            self._growing.stop()
            self._show()

    def _show(self) -> None:
        text = self.field.text().strip()
        if not text:
            return
        self.hits = self._session.diary_search.find(text, _MOST)
        name_of = self._session.diary_search.name_of
        fill(self.table, [(hit.at, name_of(hit.build_id), hit.words) for hit in self.hits])
        if self.hits:
            self.table.setCurrentCell(0, 0)
        many = f"the newest {_MOST}" if len(self.hits) == _MOST else f"{len(self.hits)}"
        lines = "line" if len(self.hits) == 1 else "lines"
        still = " Still reading …" if self._growing.isActive() else ""
        told = f"{many} {lines} with all of it. Enter goes there." if self.hits else "No line."
        self.said.setText(f"{told}{still}")

    def _to_table(self) -> None:
        if self.hits:
            self.table.setFocus()
            self.table.setCurrentCell(0, 0)

    def _go(self, row: int) -> None:
        if row < len(self.hits):
            hit = self.hits[row]
            self.field.clear()
            self.chosen.emit(hit.build_id, hit.line)
