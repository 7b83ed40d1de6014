"""The shelf as a table's model: rows of what was found, columns of parts, stock, and what the build becomes."""

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QFont

from plinth.desk.look import look
from plinth.desk.margin_shown import margin_words
from plinth.session.shelf_look import COSTS, DRAWER, MARGIN, PART, RAIL, ShelfHead, ShelfLook
from plinth.shelf.consequence import Consequence
from plinth.shelf.item import ShelfItem
from plinth.units.shown import shown, shown_with_spread

_NONE = QModelIndex()
WAITS = "…"


class ShelfRows(QAbstractTableModel):
    """One row a part. ``look`` decides which, in which order."""

    def __init__(self, shelf: ShelfLook) -> None:
        super().__init__()
        self._shelf = shelf
        self.heads: tuple[ShelfHead, ...] = ()
        self.items: tuple[ShelfItem, ...] = ()

    def take(self) -> None:
        """Take rows and columns anew."""
        self.beginResetModel()
        self.items = self._shelf.rows
        self.heads = self._shelf.heads if self._shelf.slot else ()
        self.endResetModel()

    def came(self, rows: list[int]) -> None:
        """What the build becomes is known for these rows."""
        last = len(self.heads) - 1
        for row in rows:
            self.dataChanged.emit(self.index(row, 0), self.index(row, last))

    def restyle(self) -> None:
        """Colours have changed."""
        if self.items:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.items) - 1, len(self.heads) - 1))

    def consequence(self, row: int) -> Consequence | None:
        """What the build becomes in a row; None while it is computed."""
        return self._shelf.consequence_of(self.items[row])

    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = _NONE) -> int:
        return 0 if parent.isValid() else len(self.items)

    def columnCount(self, parent: QModelIndex | QPersistentModelIndex = _NONE) -> int:
        return 0 if parent.isValid() else len(self.heads)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is not Qt.Orientation.Horizontal or section >= len(self.heads):
            return None
        head = self.heads[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return head.words
        if role == Qt.ItemDataRole.ForegroundRole and head.of_build:
            return look.token("pred")
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{head.words}: what the build becomes" if head.of_build else head.words
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._alignment(head)
        return None

    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        item, head = self.items[index.row()], self.heads[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._alignment(head)
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            words = self.text(item, head)
            consequence = self._shelf.consequence_of(item)
            tip = (
                consequence.margin.sentence
                if head.key == MARGIN and consequence is not None and consequence.margin is not None
                else ""
            )
            return f"{words}. {tip}" if role == Qt.ItemDataRole.ToolTipRole and tip else words
        if role == Qt.ItemDataRole.ForegroundRole:
            return self._colour(item, head)
        if (
            role == Qt.ItemDataRole.FontRole
            and (head.of_build or item.part == self._shelf.fitted)
            and head.key != MARGIN
        ):
            return QFont(look.font(13, bold=True))
        return None

    def text(self, item: ShelfItem, head: ShelfHead) -> str:
        """A cell's words."""
        match head.key:
            case _ if head.key == PART:
                fitted = "   fitted" if item.part == self._shelf.fitted else ""
                return f"{item.part.name}{fitted}{'   hidden' if item.stock.hidden else ''}"
            case _ if head.key == COSTS:
                each = item.stock.each_at(1)
                return "–" if each is None else f"{each:.2f}"
            case _ if head.key == DRAWER:
                return _drawer(item)
            case _ if head.of_build:
                return self._of_build(item, head)
        return self._shelf.own_text(item, head.key)

    def _of_build(self, item: ShelfItem, head: ShelfHead) -> str:
        consequence = self._shelf.consequence_of(item)
        if consequence is None:
            return WAITS
        if consequence.why_not:
            return consequence.why_not if head.key == MARGIN else ""
        if head.key == RAIL:
            return "–" if consequence.rail is None else f"{self._sign}{shown(consequence.rail.value, 'V')}"
        if head.key == MARGIN:
            return (
                "nothing to judge"
                if consequence.margin is None
                else f"{consequence.margin.label}: {margin_words(consequence.margin)}"
            )
        power = consequence.powers.get(head.key)
        if power is None or not power.known:
            return "–"
        return shown_with_spread(power.value, power.spread, "W")

    @property
    def _sign(self) -> str:
        return self._shelf.sign

    def _colour(self, item: ShelfItem, head: ShelfHead) -> QColor | None:
        consequence = self._shelf.consequence_of(item)
        if consequence is not None and consequence.why_not:
            return look.token("ink2")
        if head.of_build and head.key != MARGIN:
            return look.token("pred")
        return look.token("ink2") if head.key == DRAWER and not item.stock.in_drawer else None

    def _alignment(self, head: ShelfHead) -> Qt.AlignmentFlag:
        left = head.key in (PART, MARGIN)
        side = Qt.AlignmentFlag.AlignLeft if left else Qt.AlignmentFlag.AlignRight
        return side | Qt.AlignmentFlag.AlignVCenter


def _drawer(item: ShelfItem) -> str:
    stock = item.stock
    if not item.is_kept:
        return "typed"
    if stock.in_drawer:
        return f"{stock.in_drawer}"
    if stock.due is not None:
        return f"due {stock.due.day} {stock.due:%b}"
    return "back order" if stock.back_order else "–"
