"""Tables to read: heads, rows of words, one row current."""

from collections.abc import Collection, Mapping, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from plinth.desk.labels import plain_tip


class ReadingTable(QTableWidget):
    """A table that is read; ``space`` tells of the key, for what can be done with the current row."""

    space = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space:
            self.space.emit()
        else:
            super().keyPressEvent(event)


def name_heads(table: QTableWidget, names: Mapping[int, str]) -> None:
    """What heads without a word are called, by column, for whoever does not see what stands below them."""
    for place, name in names.items():
        head = table.horizontalHeaderItem(place)
        if head is not None:
            head.setData(Qt.ItemDataRole.AccessibleTextRole, name)


def reading_table(heads: Sequence[str], name: str, *, widest: int) -> ReadingTable:
    """An empty table; ``name`` for who does not see it, ``widest`` the column that takes what room is left."""
    table = ReadingTable(0, len(heads))
    table.setHorizontalHeaderLabels(list(heads))
    table.verticalHeader().hide()
    table.setShowGrid(False)
    table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
    table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
    table.setTabKeyNavigation(False)
    table.setAccessibleName(name)
    header = table.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    header.setSectionResizeMode(widest, QHeaderView.ResizeMode.Stretch)
    return table


def fill(table: QTableWidget, rows: Sequence[Sequence[str]], right: Collection[int] = ()) -> None:
    """Show these rows; columns of ``right`` hold numbers and stand at their right edge."""
    table.setRowCount(len(rows))
    for r, row in enumerate(rows):
        for c, text in enumerate(row):
            # A little air, as cells have none of their own.
            cell = QTableWidgetItem(f"{text}  ")
            cell.setToolTip(plain_tip(text))
            side = Qt.AlignmentFlag.AlignRight if c in right else Qt.AlignmentFlag.AlignLeft
            cell.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
            table.setItem(r, c, cell)
    for c in right:
        head = table.horizontalHeaderItem(c)
        if head is not None:
            head.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
