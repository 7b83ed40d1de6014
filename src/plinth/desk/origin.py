"""Where a figure comes from: formula, source, inputs and what each adds to the uncertainty."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QListWidget,
    QListWidgetItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.predict.figure import Figure
from plinth.units.shown import shown, shown_with_spread


class OriginDialog(Dialog):
    """All figures of the prediction at the left, the chosen one's origin at the right."""

    def __init__(self, parent: QWidget, figures: dict[str, Figure], name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Where a figure comes from")
        look.size(self, 900, 520)
        self._figures = figures
        self.list = QListWidget()
        self.list.setAccessibleName("Figures")
        self.list.setFixedWidth(look.px(290))
        self.title, self.value = label("", "title"), label("", "pred_figure")
        self.formula, self.source = label("", wrap=True), label("", "soft", wrap=True)
        self.estimated = label("", "caution", wrap=True)
        self.table = QTableWidget(0, 4)
        self.table.setAccessibleName("Inputs and what they add")
        self.table.setHorizontalHeaderLabels(["Input", "Value", "±", "Adds ±"])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        close = button("Close  Esc")
        close.clicked.connect(self.accept)
        right = column(
            self.title, self.value, label("Computed as", "small"), self.formula, label("Source", "small"), self.source,
            self.estimated, label("Inputs; all spreads are about 95 %", "small"), self.table,
        )  # fmt: skip
        foot = QHBoxLayout()
        foot.addStretch()
        foot.addWidget(close)
        right.addLayout(foot)
        both = QHBoxLayout()
        both.addWidget(self.list)
        both.addSpacing(look.px(16))
        both.addLayout(right, 1)
        box = QVBoxLayout(self)
        box.addLayout(both)
        for figure in figures.values():
            item = QListWidgetItem(figure.label)
            item.setData(Qt.ItemDataRole.UserRole, figure.name)
            self.list.addItem(item)
            if figure.name == name:
                self.list.setCurrentItem(item)
        self.list.currentItemChanged.connect(lambda now, _before: self._show(now.data(Qt.ItemDataRole.UserRole)))
        first = self.list.currentItem() or self.list.item(0)
        self.list.setCurrentItem(first)
        self._show(first.data(Qt.ItemDataRole.UserRole))
        self.list.setFocus()

    def _show(self, name: str) -> None:
        figure = self._figures[name]
        self.title.setText(figure.label)
        self.value.setText(shown_with_spread(figure.value, figure.spread, figure.unit))
        self.formula.setText(figure.origin.formula)
        self.source.setText(figure.origin.source)
        words = "Rests on estimates: " + ", ".join(figure.estimated) + ". State them in the part to narrow the band."
        self.estimated.setText(words)
        self.estimated.setVisible(bool(figure.estimated))
        rows = figure.contributions
        self.table.setRowCount(len(rows))
        for r, row in enumerate(rows):
            adds = shown(2.0 * abs(row.u_figure), figure.unit, 2)
            cells = (
                row.label + (", estimated" if row.estimated else ""),
                shown(row.value, row.unit),
                shown(2.0 * row.u_input, row.unit, 2),
                adds,
            )
            for c, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if c:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(r, c, item)
        for c in (1, 2, 3):
            self.table.resizeColumnToContents(c)
