"""What a test asks for, row by row: read, expected, and how it stands; one row is current."""

from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, Qt, Signal
from PySide6.QtGui import QBrush, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
)

from plinth.bench.sheet import against
from plinth.desk.labels import plain_tip
from plinth.desk.look import look
from plinth.desk.marks import draw_state
from plinth.desk.tables import name_heads
from plinth.judge.state import State
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.report.reading_words import short_words

_STATE = Qt.ItemDataRole.UserRole + 1


class _StateDelegate(QStyledItemDelegate):
    """The mark of a state, on a light ground where its row is current."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        super().paint(painter, option, index)
        state = index.data(_STATE)
        if state:
            rect = option.rect
            radius, centre = look.px(5), QPointF(rect.center()) + QPointF(0.0, 0.5)
            if option.state & QStyle.StateFlag.State_Selected:
                painter.save()
                painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(look.token("sheet"))
                painter.drawEllipse(centre, 1.9 * radius, 1.9 * radius)
                painter.restore()
            draw_state(painter, State(state), centre, radius)


class AskedTable(QTableWidget):
    """``chosen`` the place of what is asked, when its row becomes the current one."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__(0, 4)
        self.setAccessibleName("Readings")
        self.setHorizontalHeaderLabels(["", "Read", "Expected", ""])
        name_heads(self, {0: "Asked", 3: "State"})
        self.verticalHeader().hide()
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setTabKeyNavigation(False)
        head = self.horizontalHeader()
        head.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        # Fitted once all is written: a header that follows its contents measures all of them at every word.
        for place in (1, 2, 3):
            head.setSectionResizeMode(place, QHeaderView.ResizeMode.Fixed)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.setItemDelegateForColumn(3, _StateDelegate(self))
        self.places: list[int | None] = []
        self.currentCellChanged.connect(self._row_chosen)

    def show_asked(
        self, asked: Sequence[Request], read: Sequence[Reading | None], stale: Sequence[str], at: int
    ) -> None:
        """Show what is asked with its readings; ``stale`` why an earlier one no longer counts."""
        self.blockSignals(True)
        self.setColumnWidth(3, look.px(30))
        places: list[int | None] = []
        group = ""
        for k, request in enumerate(asked):
            if request.group != group:
                places.append(None)
                group = request.group
            places.append(k)
        if len(places) != self.rowCount():
            self.setRowCount(len(places))
        self.places = places
        for row, place in enumerate(places):
            self.setRowHeight(row, look.px(24))
            if place is None:
                following = places[row + 1]
                self._heading(row, asked[following].group if following is not None else "")
            else:
                self._row(row, asked[place], read[place], stale[place])
        for column in (1, 2):
            self.resizeColumnToContents(column)
        row = self.places.index(at) if at in self.places else -1
        self.setCurrentCell(row, 0)
        self.blockSignals(False)
        item = self.item(row, 0)
        if item is not None:
            self.scrollToItem(item)

    def _heading(self, row: int, words: str) -> None:
        if self.columnSpan(row, 0) == 1:
            self.setSpan(row, 0, 1, 4)
        item = self._item(row, 0)
        item.setFlags(Qt.ItemFlag.NoItemFlags)
        item.setFont(look.font(13, bold=True))
        item.setForeground(QBrush(look.token("ink")))
        item.setToolTip("")
        item.setText(words)

    def _row(self, row: int, asked: Request, reading: Reading | None, stale: str) -> None:
        if self.columnSpan(row, 0) > 1:
            self.setSpan(row, 0, 1, 1)
        state = State.UNKNOWN if reading is None else reading.state
        cells = (
            f"  {asked.label}",
            short_words(reading) if reading is not None else "stale" if stale else "–",
            against(asked.window) or "not known",
            "",
        )
        tip = f"Read before, and does not count here: {stale}." if stale else ""
        tip = tip or (f"{asked.ask} May be left out." if asked.optional else asked.ask)
        soft = (asked.optional, False, asked.window is None, False)
        for k, text in enumerate(cells):
            item = self._item(row, k)
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
            item.setFont(look.font(13))
            item.setForeground(QBrush(look.token("ink2" if soft[k] else "pred" if k == 2 else "ink")))
            item.setText(text)
            item.setToolTip(plain_tip(tip))
        mark = self._item(row, 3)
        mark.setData(_STATE, str(state) if reading is not None or stale else None)
        mark.setData(Qt.ItemDataRole.AccessibleTextRole, "stale" if stale else str(state))

    def _item(self, row: int, column: int) -> QTableWidgetItem:
        """The item there, kept from before where there was one: making them anew costs most."""
        item = self.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            if column in (1, 2):
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.setItem(row, column, item)
        return item

    def _row_chosen(self, row: int, *_rest: int) -> None:
        if 0 <= row < len(self.places) and (place := self.places[row]) is not None:
            self.chosen.emit(place)
