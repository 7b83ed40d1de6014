"""Small parts of a build: op-amps exchanged, resistors, bare boards, kits; each typed in a line, with its price."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.builds.small_part import EXPECTED, SmallPart
from plinth.desk.asking import ask
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.shelf.stock_form import StockForm
from plinth.desk.tables import fill, reading_table
from plinth.shelf.bill import bill_of, table

HEADS = ("Small part", "each", "instead of", "in the build", "to buy", "costs", "remark")


class SmallPartsDialog(Dialog):
    """The list, and one line below it: with no row chosen it adds, else it changes that row."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle(f"Small parts: {session.build.name}")
        look.size(self, 860, 520)
        self.rows = reading_table(HEADS, "Small parts", widest=0)
        self.rows.space.connect(self.take_or_leave)
        self.rows.itemSelectionChanged.connect(self._show_chosen)
        self.line = QLineEdit()
        self.line.setAccessibleName("A small part, as spoken")
        self.line.setPlaceholderText(EXPECTED)
        self.line.setMaxLength(300)
        self.line.returnPressed.connect(self.keep)
        self.does, self.said = label("", "soft", wrap=True), label("", "over", wrap=True)
        self.another = button("Another one", tip="Empty the line and add one more")
        self.option = button("Taken, or not  Space", tip="An option that is not taken stays in the list, unpaid")
        self.stock = button("Price and drawer …")
        self.out = button("Take off  Del", tip="Take the chosen one off the list; undo brings it back")
        close = button("Close  Esc")
        for push, act in (
            (self.another, self.begin_another), (self.option, self.take_or_leave), (self.stock, self.ask_stock),
            (self.out, self.drop), (close, self.reject),
        ):  # fmt: skip
            push.clicked.connect(act)
        foot = QHBoxLayout()
        for push in (self.another, self.option, self.stock, self.out):
            foot.addWidget(push)
        foot.addStretch()
        foot.addWidget(close)
        box = column(
            label("Small parts of this build", "title"),
            label(
                "What no station holds: an op-amp in another's place, resistors, a bare board, a kit. They stand in "
                "the bill and in each version. One that stands in the place of another in the modules makes them other "
                "modules: what was read of them before does not count for them.", "soft", wrap=True,
            ),
            spacing=8, margins=(16, 14, 16, 14),
        )  # fmt: skip
        box.addWidget(self.rows, 1)
        box.addWidget(self.does)
        box.addWidget(self.line)
        box.addWidget(self.said)
        box.addLayout(foot)
        self.setLayout(box)
        self.refresh()
        self.line.setFocus()

    @property
    def parts(self) -> tuple[SmallPart, ...]:
        """Those of the build as it is kept."""
        return self._session.plan_kept.build.small_parts

    @property
    def chosen(self) -> int | None:
        """The row that is chosen; None where the line adds one."""
        rows = self.rows.selectionModel().selectedRows()
        return rows[0].row() if rows and rows[0].row() < len(self.parts) else None

    def refresh(self, choose: int | None = None) -> None:
        """The list as it is now, and which of it is chosen."""
        build = self._session.plan_kept.build
        bill = bill_of(build, ())
        # Small parts are the last lines of a bill.
        lines = table(bill)[len(bill.lines) - len(self.parts) :]
        cells = []
        for part, (_, _, count, _, _, bought, cost, remark) in zip(self.parts, lines, strict=True):
            each = f"{part.count} for {'the build' if part.place == 'build' else f'each {part.place}'}"
            cells.append((part.name, each, part.instead_of or "–", count, bought, cost, remark))
        self.rows.blockSignals(True)
        fill(self.rows, cells, (3, 4, 5))
        self.rows.clearSelection()
        if choose is not None and choose < len(cells):
            self.rows.selectRow(choose)
        self.rows.blockSignals(False)
        self._show_chosen()

    def _show_chosen(self) -> None:
        chosen = self.chosen
        self.line.setText("" if chosen is None else self.parts[chosen].typed)
        self.does.setText(
            "Enter adds what is typed here." if chosen is None
            else f"Enter changes {self.parts[chosen].name}; “Another one” begins one more."
        )  # fmt: skip
        for push in (self.another, self.option, self.stock, self.out):
            push.setEnabled(chosen is not None)

    def begin_another(self) -> None:
        """Nothing is chosen: the line adds."""
        self.rows.clearSelection()
        self._show_chosen()
        self.line.setFocus()

    def keep(self) -> None:
        """Add or change what is typed; it stays in the line where it cannot be kept."""
        wrong = self._session.plan.take_small_part(self.chosen, self.line.text())
        self.said.setText(wrong)
        if not wrong:
            self.refresh()
            self.line.setFocus()

    def take_or_leave(self) -> None:
        """An option is taken, or not any more."""
        chosen = self.chosen
        if chosen is not None:
            self._session.plan.choose_small_part(chosen, fitted=not self.parts[chosen].fitted)
            self.refresh(chosen)

    def ask_stock(self) -> None:
        """All that is known of its price and where it is."""
        chosen = self.chosen
        if chosen is None:
            return
        form = StockForm(self, self.parts[chosen].name, self.parts[chosen].stock)
        if ask(form):
            self._session.plan.restock_small_part(chosen, form.stock)
            self.refresh(chosen)

    def drop(self) -> None:
        """Take it off the list."""
        chosen = self.chosen
        if chosen is not None:
            self._session.plan.drop_small_part(chosen)
            self.refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Del takes the chosen one off; in the line it deletes a letter."""
        if event.key() == Qt.Key.Key_Delete and self.rows.hasFocus():
            self.drop()
            return
        super().keyPressEvent(event)
