"""The diary as a table's model: lines are read from the workshop only where they come into sight."""

import datetime as dt
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor

from plinth.builds.build import Build
from plinth.desk.look import look
from plinth.desk.marks import state_colour
from plinth.desk.session import BenchSession
from plinth.judge.state import State
from plinth.record.diary import FINDINGS, DiaryEntry
from plinth.report.counting import why_not_counting
from plinth.report.reading_words import reading_words, sentence_of
from plinth.report.subject_words import subject_words, tells_of_repair

_KINDS = {
    "made": "Begun", "changed": "Plan", "reading": "Reading", "confirmed": "Done", "override": "Passed over",
    "sound": "Found sound", "doubt": "In doubt", "bad": "Found bad", "power_on": "Power on",
    "power_off": "Power off", "note": "Note",
}  # fmt: skip
_MARKS = {State.CLEAR: "○", State.CLOSE: "◐", State.OVER: "▶", State.UNKNOWN: "◌"}
_HEADS = ("When", "What", "", "Read", "Verdict")
# Lines read at once, and how many such pages are held.
PAGE, MOST_PAGES = 100, 40
_NONE = QModelIndex()


class DiaryLines(QAbstractTableModel):
    """One row a line of the diary of the current build."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._pages: dict[int, list[DiaryEntry]] = {}
        self._count: int = 0
        self._build: tuple[object, ...] = ()
        # The moments of lines that others correct.
        self.corrected: frozenset[dt.datetime] = frozenset()

    def take(self) -> None:
        """Take the diary anew; what is known of it stays where only lines were added."""
        now = self._session.build
        # Lines name channels and loads as they are called today.
        count, build = self._session.records.diary_size[0], (self._session.stored.id, now.channels, now.loads)
        if build == self._build and count > self._count:
            self.beginInsertRows(QModelIndex(), self._count, count - 1)
            self._pages.pop(self._count // PAGE, None)
            self._count = count
            self.endInsertRows()
        elif (build, count) != (self._build, self._count):
            self.beginResetModel()
            self._pages, self._count, self._build = {}, count, build
            self.endResetModel()

    def forget(self) -> None:
        """Colours have changed."""
        if self._count:
            self.dataChanged.emit(self.index(0, 0), self.index(self._count - 1, len(_HEADS) - 1))

    def line(self, row: int) -> DiaryEntry | None:
        """The line of a row; None where it cannot be read."""
        page = row // PAGE
        if page not in self._pages:
            if len(self._pages) >= MOST_PAGES:
                self._pages.pop(next(iter(self._pages)))
            self._pages[page] = self._session.records.diary_lines(page * PAGE, PAGE)
        lines = self._pages[page]
        return lines[row % PAGE] if row % PAGE < len(lines) else None

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = _NONE) -> int:
        return 0 if parent.isValid() else self._count

    def columnCount(self, parent: QModelIndex | QPersistentModelIndex = _NONE) -> int:
        return 0 if parent.isValid() else len(_HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return _HEADS[section]
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.AccessibleTextRole:
            return _HEADS[section] or "Words"
        return None

    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        column = index.column()
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column == 3 else Qt.AlignmentFlag.AlignLeft
            return Qt.AlignmentFlag.AlignTop | side
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.ForegroundRole):
            return None
        entry = self.line(index.row())
        if entry is None:
            return None
        if role == Qt.ItemDataRole.ForegroundRole:
            return _colour(entry, column)
        cells = cells_of(entry, self._session.build, practice=self._session.practice)
        return f"{cells[2]} (corrected below)" if column == 2 and entry.at in self.corrected else cells[column]


def cells_of(entry: DiaryEntry, build: Build, *, practice: bool = False) -> tuple[str, str, str, str, str]:
    """A line's moment, kind, words, reading and verdict, as they are shown; channels as ``build`` calls them today."""
    reading = entry.reading
    read = verdict = ""
    words = entry.words
    if reading is not None:
        read = reading_words(reading)
        verdict = f"{_MARKS[reading.state]} {reading.state}. {sentence_of(reading)}"
        words = f"{entry.words}, typed {reading.typed}"
        away = why_not_counting(reading, build, practice=practice)
        words += f" (does not count: {away})" if away and not reading.simulated else ""
    elif entry.kind in ("override", "confirmed", *FINDINGS):
        words = f"{subject_words(entry.subject, build)}{': ' if entry.words else ''}{entry.words}"
    return (
        entry.at.astimezone().strftime("%Y-%m-%d %H:%M"), _kind_words(entry), words, read, verdict,
    )  # fmt: skip


def _kind_words(entry: DiaryEntry) -> str:
    """``Reading · v2``: what it is, and of which version of the build."""
    version = f" · v{entry.version}" if entry.version and entry.kind in ("made", "changed", "reading") else ""
    kind = (
        "Repaired"
        if entry.kind == "override" and tells_of_repair(entry.subject)
        else _KINDS.get(entry.kind, entry.kind)
    )
    return f"{kind}{version}"


def _colour(entry: DiaryEntry, column: int) -> QColor | None:
    if column in (0, 1):
        return look.token("ink2")
    if column == 4 and entry.reading is not None:
        state = entry.reading.state
        return look.token("ink2" if state is State.CLEAR else state_colour(state))
    return None
