"""The steps of a bring-up with their stand: what is done, due, held."""

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QWidget

from plinth.desk.labels import column, label, plain_tip
from plinth.guide.progress import Stand, StepStand
from plinth.record.reading import Reading
from plinth.units.shown import shown

_SIGNS = {Stand.DONE: "●", Stand.PASSED_OVER: "◐", Stand.OUTSIDE: "▶", Stand.DUE: "○", Stand.HELD: "·"}


class StepList(QWidget):
    """``chosen`` tells the index of the step to show."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.title = label("", "title")
        self.list = _List()
        self.list.setAccessibleName("Steps")
        self.list.setProperty("role", "steps")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.currentRowChanged.connect(lambda row: self.chosen.emit(row) if row >= 0 else None)
        box = column(self.title, spacing=6)
        box.addWidget(self.list, 1)
        self.setLayout(box)

    def show_stands(self, stands: tuple[StepStand, ...], current: int) -> None:
        """Show all steps, ``current`` chosen."""
        # Filling and emptying a list moves its current row: nobody chose that.
        quiet = QSignalBlocker(self.list)
        if self.list.count() != len(stands):
            self.list.clear()
            for _ in stands:
                self.list.addItem(QListWidgetItem())
        for row, stand in enumerate(stands):
            item = self.list.item(row)
            aside = ""
            if isinstance(stand.record, Reading):
                aside = f"   {stand.record.bound.sign}{shown(stand.record.value, stand.record.unit)}"
            word = {Stand.PASSED_OVER: "   passed over", Stand.OUTSIDE: aside + ", out"}.get(stand.stand, aside)
            short = stand.step.asks.title
            item.setText(f"{_SIGNS[stand.stand]}  {short[0].upper()}{short[1:]}{word}")
            item.setToolTip(plain_tip(f"{stand.step.title}: {stand.stand}. {stand.why}".strip()))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{stand.step.title}, {stand.stand}{word}")
        self.list.setCurrentRow(current)
        quiet.unblock()


class _List(QListWidget):
    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Return belongs to the question, which the page hands it to.
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.ignore()
        else:
            super().keyPressEvent(event)
