"""Where a figure comes from: formula, source, limits, inputs with how each is known, and what would narrow it."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.tables import fill, reading_table
from plinth.predict.figure import Figure
from plinth.session.explaining import Explained, InputKnown
from plinth.units.shown import shown, shown_with_spread

HEADS = ("Input", "Value", "±", "Adds ±", "Since", "Known")


class OriginDialog(Dialog):
    """All figures of a prediction at the left, the chosen one's origin at the right; ``test_wanted`` by one key."""

    def guide_place(self) -> str:
        item = self.list.currentItem()
        return "figures" if item is None else f"figures#{item.data(Qt.ItemDataRole.UserRole)}"

    def __init__(
        self, parent: QWidget, figures: dict[str, Figure], name: str, explain: Callable[[str], Explained]
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Where a figure comes from")
        look.size(self, 1020, 600)
        self._explain = explain
        self.explained: Explained | None = None
        self.test_wanted = ""
        self.list = QListWidget()
        self.list.setAccessibleName("Figures")
        self.list.setFixedWidth(look.px(230))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.title, self.value = label("", "title"), label("", "pred_figure")
        self.formula, self.source = label("", wrap=True), label("", "soft", wrap=True)
        self.limits, self.narrows = label("", "soft", wrap=True), label("", wrap=True)
        self.estimated = label("", "caution", wrap=True)
        self.table = reading_table(HEADS, "Inputs and what they add", widest=5)
        self.test_button, close = button("To that test  Ctrl+⏎"), button("Close  Esc")
        self.test_button.clicked.connect(self.to_test)
        close.clicked.connect(self.accept)
        right = column(
            self.title, self.value, label("Computed as", "small"), self.formula, label("Source", "small"), self.source,
            label("What is not in it", "small"), self.limits, self.estimated,
            label("Inputs; all spreads are about 95 %", "small"), self.table, self.narrows,
        )  # fmt: skip
        foot = QHBoxLayout()
        foot.addWidget(self.test_button)
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
        explained = self.explained = self._explain(name)
        figure = explained.figure
        self.title.setText(figure.label)
        self.value.setText(shown_with_spread(figure.value, figure.spread, figure.unit))
        self.formula.setText(explained.formula)
        self.source.setText(figure.origin.source)
        self.limits.setText(explained.limits)
        words = "Rests on estimates: " + ", ".join(figure.estimated) + ". State or measure them to narrow the band."
        self.estimated.setText(words)
        self.estimated.setVisible(bool(figure.estimated))
        fill(self.table, [_cells(known, figure.unit) for known in explained.inputs], (1, 2, 3))
        narrowing = explained.narrowing
        self.narrows.setText("" if narrowing is None else narrowing.words)
        self.narrows.setVisible(narrowing is not None)
        self.test_button.setVisible(narrowing is not None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.to_test()
        else:
            super().keyPressEvent(event)

    def to_test(self) -> None:
        """Close, and go to the test that would narrow the figure most."""
        if self.explained is not None and self.explained.narrowing is not None:
            self.test_wanted = self.explained.narrowing.test
            self.accept()


def _cells(known: InputKnown, unit: str) -> tuple[str, ...]:
    row = known.row
    return (
        row.label, shown(row.value, row.unit),
        shown(2.0 * row.u_input, row.unit, 2), shown(2.0 * abs(row.u_figure), unit, 2), known.since, known.known,
    )  # fmt: skip
