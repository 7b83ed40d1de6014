"""How a row of the shelf is painted: a hairline below, the current one framed, the tightest margin as a ruler."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from plinth.desk.look import look
from plinth.desk.margin_shown import ruler_content, short_margin_words
from plinth.desk.marks import draw_state
from plinth.desk.ruler import paint_ruler
from plinth.desk.shelf.rows import ShelfRows
from plinth.judge.margin import Margin
from plinth.session.shelf_look import MARGIN

ROW_PX = 40


class ShelfCells(QStyledItemDelegate):
    """Paints the cells of ``rows``."""

    def __init__(self, rows: ShelfRows) -> None:
        super().__init__()
        self._rows = rows

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        size = super().sizeHint(option, index)
        return QSize(size.width(), look.px(ROW_PX))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        self.initStyleOption(option, index)
        rect = QRectF(option.rect)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.fillRect(rect, look.token("sheet" if chosen else "paper"))
        head = self._rows.heads[index.column()]
        consequence = self._rows.consequence(index.row())
        inside = rect.adjusted(look.px(8), 0, -look.px(8), 0)
        if head.key == MARGIN and consequence is not None and consequence.margin is not None:
            self._margin(painter, inside, consequence.margin)
        else:
            self._text(painter, inside, index)
        self._lines(painter, rect, index, chosen=chosen)
        painter.restore()

    def _text(self, painter: QPainter, rect: QRectF, index: QModelIndex | QPersistentModelIndex) -> None:
        font = index.data(Qt.ItemDataRole.FontRole) or look.font(13)
        painter.setFont(font)
        painter.setPen(index.data(Qt.ItemDataRole.ForegroundRole) or look.token("ink"))
        words = painter.fontMetrics().elidedText(
            str(index.data() or ""), Qt.TextElideMode.ElideRight, int(rect.width())
        )
        painter.drawText(rect, int(index.data(Qt.ItemDataRole.TextAlignmentRole)), words)

    def _margin(self, painter: QPainter, rect: QRectF, margin: Margin) -> None:
        radius = look.px(6)
        draw_state(painter, margin.state, QPointF(rect.left() + radius, rect.center().y()), radius)
        inner = rect.adjusted(look.px(22), look.px(4), 0, -look.px(4))
        top = QRectF(inner.left(), inner.top(), inner.width(), inner.height() * 0.55)
        painter.setFont(look.font(12))
        painter.setPen(look.token("ink"))
        value = short_margin_words(margin)
        metrics = painter.fontMetrics()
        width = min(metrics.horizontalAdvance(value), int(0.62 * top.width()))
        label = metrics.elidedText(margin.label, Qt.TextElideMode.ElideRight, int(top.width()) - width - look.px(8))
        painter.drawText(top, int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter), label)
        value = metrics.elidedText(value, Qt.TextElideMode.ElideRight, width + 2)
        painter.drawText(top, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter), value)
        bar = QRectF(inner.left(), top.bottom(), inner.width(), inner.bottom() - top.bottom())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_ruler(painter, bar, ruler_content(margin))

    def _lines(
        self, painter: QPainter, rect: QRectF, index: QModelIndex | QPersistentModelIndex, *, chosen: bool
    ) -> None:
        painter.setPen(QPen(look.token("rule"), 1))
        painter.drawLine(rect.bottomLeft() - QPointF(0, 1), rect.bottomRight() - QPointF(0, 1))
        if not chosen:
            return
        painter.setPen(QPen(look.token("ink"), 2))
        painter.drawLine(rect.topLeft() + QPointF(0, 1), rect.topRight() + QPointF(0, 1))
        painter.drawLine(rect.bottomLeft() - QPointF(0, 1), rect.bottomRight() - QPointF(0, 1))
        if index.column() == 0:
            painter.drawLine(rect.topLeft() + QPointF(1, 0), rect.bottomLeft() + QPointF(1, 0))
        if index.column() == len(self._rows.heads) - 1:
            painter.drawLine(rect.topRight() - QPointF(1, 0), rect.bottomRight() - QPointF(1, 0))
