"""Every figure of the sides on one ruler each: claim, prediction, reading; the difference with its word."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableWidget, QTableWidgetItem

from plinth.decide.cell import Cell
from plinth.decide.difference import Difference
from plinth.decide.side import LETTERS
from plinth.decide.side_by_side import FigureRow
from plinth.desk.labels import plain_tip
from plinth.desk.look import look
from plinth.desk.marks import draw_reading
from plinth.units.shown import MINUS, shown, shown_with_spread

_ROW = Qt.ItemDataRole.UserRole
_Index = QModelIndex | QPersistentModelIndex


class FigureTable(QTableWidget):
    """A row a figure; each is told in words to who does not see it."""

    def __init__(self) -> None:
        super().__init__(0, 4)
        self.setHorizontalHeaderLabels(["Figure", "On one ruler", "Values", "Difference"])
        self.setAccessibleName("Figures side by side")
        self.verticalHeader().hide()
        self.setShowGrid(False)
        self.setWordWrap(True)
        self.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.setTabKeyNavigation(False)
        self.setItemDelegateForColumn(1, _RulerDelegate(self))
        header = self.horizontalHeader()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for place, mode in enumerate(
            (QHeaderView.ResizeMode.Interactive, QHeaderView.ResizeMode.Stretch,
             QHeaderView.ResizeMode.ResizeToContents, QHeaderView.ResizeMode.ResizeToContents)
        ):  # fmt: skip
            header.setSectionResizeMode(place, mode)
        look.follow(self._fit)
        self._fit()

    def _fit(self) -> None:
        # At large text the ruler keeps a width of its own, and the table is scrolled.
        large = look.scale >= 1.3
        mode = QHeaderView.ResizeMode.Interactive if large else QHeaderView.ResizeMode.Stretch
        self.horizontalHeader().setSectionResizeMode(1, mode)
        self.setColumnWidth(0, look.column(150 if large else 180))
        if large:
            self.setColumnWidth(1, look.px(110))

    def show_rows(self, rows: tuple[FigureRow, ...], pair: tuple[int, int]) -> None:
        """Show these rows; the difference is that of the sides at these places."""
        self.setRowCount(len(rows))
        self.setHorizontalHeaderItem(3, QTableWidgetItem(f"From {LETTERS[pair[0]]} to {LETTERS[pair[1]]}"))
        for place, row in enumerate(rows):
            name = QTableWidgetItem(row.label)
            ruler = QTableWidgetItem()
            ruler.setData(_ROW, row)
            values = QTableWidgetItem(
                "\n".join(f"{LETTERS[k]}  {_short(cell, row.unit)}" for k, cell in enumerate(row.cells))
            )
            told = QTableWidgetItem(difference_words(row.difference, row.unit).replace(": ", ":\n"))
            for column, item in enumerate((name, ruler, values, told)):
                item.setData(Qt.ItemDataRole.AccessibleTextRole, row_words(row))
                item.setToolTip(plain_tip(row_words(row)))
                item.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
                self.setItem(place, column, item)
            self.setRowHeight(place, look.px(max(19 * len(row.cells), 38) + 12))


def difference_words(difference: Difference, unit: str) -> str:
    """The difference with its sign and spread, and the word for it."""
    if not difference.value:
        return difference.word.value
    size = abs(difference.value)
    number = shown(size, unit) if not difference.spread else shown_with_spread(size, difference.spread, unit)
    sign = MINUS if difference.value < 0.0 else "+"
    return f"{sign}{number}\n{difference.word.value}"


def _short(cell: Cell, unit: str) -> str:
    """What is best known of it: read, else predicted, else claimed."""
    read = cell.read
    if read is not None:
        return shown(read.value, unit)
    if cell.reading is not None:
        return f"{cell.reading.bound.sign}{shown(cell.reading.value, unit)}"
    if cell.predicted is not None:
        return f"~ {shown(cell.predicted.value, unit)}"
    return f"“{shown(cell.claim, unit)}”" if cell.claim is not None else "–"


def row_words(row: FigureRow) -> str:
    """All of a row in words."""
    parts = [row.label]
    for letter, cell in zip(LETTERS, row.cells, strict=False):
        told = []
        if cell.claim is not None:
            told.append(f"claimed {shown(cell.claim, row.unit)}")
        if cell.predicted is not None:
            spread = cell.predicted.spread
            value = cell.predicted.value
            told.append(f"predicted {shown_with_spread(value, spread, row.unit) if spread else shown(value, row.unit)}")
        if cell.read is not None:
            spread = cell.read.spread
            value = cell.read.value
            how = (
                shown_with_spread(value, spread, row.unit) if spread else f"{shown(value, row.unit)}, accuracy unknown"
            )
            told.append(f"read {how}")
        elif cell.why:
            told.append(f"read before and not counted: {cell.why}")
        parts.append(f"{letter}: {', '.join(told) or 'nothing known'}")
    parts.append(difference_words(row.difference, row.unit).replace("\n", ", "))
    return ". ".join(part for part in parts if part)


class _RulerDelegate(QStyledItemDelegate):
    """Tracks under each other on one scale: a stroke claims, a bar is predicted, a disc was read."""

    def sizeHint(self, _option: QStyleOptionViewItem, _index: _Index) -> QSize:
        return QSize(look.px(120), look.px(40))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: _Index) -> None:
        row = index.data(_ROW)
        super().paint(painter, option, index)
        if not isinstance(row, FigureRow):
            return
        rect = QRectF(option.rect).adjusted(look.px(18), look.px(6), -look.px(12), -look.px(6))
        low, high = row.scale
        step = rect.height() / max(len(row.cells), 1)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(11))
        for place, cell in enumerate(row.cells):
            y = rect.top() + (place + 0.5) * step
            painter.setPen(look.token("ink2"))
            at = QRectF(rect.left() - look.px(16), y - 0.5 * step, look.px(14), step)
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, LETTERS[place])
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.token("rule"))
            painter.drawRect(QRectF(rect.left(), y - look.px(2), rect.width(), look.px(4)))
            self._draw(painter, cell, (rect.left(), rect.width()), (low, high), y)
        painter.restore()

    @staticmethod
    def _draw(
        painter: QPainter, cell: Cell, span: tuple[float, float], scale: tuple[float, float], y: float
    ) -> None:  # fmt: skip
        def at(value: float) -> float:
            return span[0] + span[1] * (value - scale[0]) / (scale[1] - scale[0])

        if cell.predicted is not None:
            spread = cell.predicted.spread or 0.0
            left, right = at(cell.predicted.value - spread), at(cell.predicted.value + spread)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.token("pred"))
            painter.drawRect(QRectF(left, y - look.px(3), max(right - left, look.px(2)), look.px(6)))
        if cell.claim is not None:
            painter.setPen(QPen(look.token("claim"), look.px(3)))
            painter.drawLine(QPointF(at(cell.claim), y - look.px(7)), QPointF(at(cell.claim), y + look.px(7)))
        if cell.read is not None:
            simulated = cell.reading is not None and cell.reading.simulated
            draw_reading(painter, QPointF(at(cell.read.value), y), look.px(5), simulated=simulated)
