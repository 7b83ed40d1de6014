"""The shelf: every row is this build with that part in it. Arrows try it in the band, Enter takes it, Esc leaves."""

from pathlib import Path

from PySide6.QtCore import QItemSelectionModel, QModelIndex, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetrics, QHideEvent, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QWidget,
)

from plinth.builds.parts import Part
from plinth.builds.stations import station
from plinth.desk.asking import ask
from plinth.desk.choice_row import ChoiceRow
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.shelf.cells import ROW_PX, ShelfCells
from plinth.desk.shelf.details import Details
from plinth.desk.shelf.rows import ShelfRows
from plinth.session.shelf_look import COSTS, DRAWER, MARGIN, PART, RAIL, VALUE, ShelfLook
from plinth.shelf.find import slots_around
from plinth.shelf.item import ShelfItem
from plinth.shelf.slots import WORDS, slots_of

# Widest columns, the least that a margin's ruler needs, and how many rows are measured for that.
MOST_PX, LEAST_MARGIN_PX, MOST_MEASURED = {PART: 178}, 150, 40
HINT = "Each row is this build with that part in it. Arrows try it in the band, Enter takes it, Esc leaves."


class ShelfTable(QTableView):
    """``entered`` on Return in it: a Return that led here from the search is not meant."""

    entered = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
            event.accept()
        else:
            super().keyPressEvent(event)


class ShelfView(QWidget):
    """``left`` when one goes back to the plan."""

    left = Signal()

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._slots: dict[str, str] = {}
        self.look = ShelfLook(session, self._take_rows, self._came)
        self.rows = ShelfRows(self.look)
        self.title = label("", "title")
        self.slots = ChoiceRow("", "Parts for", letters=60)
        self.search = QLineEdit()
        self.search.setPlaceholderText(">=160VA 2x22..28 <60   10m 63V   4R 100W   drawer")
        self.search.setAccessibleName("Search the shelf by words and numbers")
        self.search.textChanged.connect(lambda text: self.look.search(text))
        self.search.returnPressed.connect(self.to_rows)
        self.fits, self.most = (
            _toggle("fits", "Only what can join"),
            _toggle("most for the money", "Watts for the money"),
        )
        self.room = _toggle("most room", "Most room at the tightest margin first")
        self.every = _toggle("hidden too", "What is hidden as well")
        self.fits.toggled.connect(lambda on: self.look.show_only(fitting=on))
        self.every.toggled.connect(lambda on: self.look.show_only(hidden=on))
        self.most.toggled.connect(lambda on: self.order_by(VALUE if on else PART, falling=on))
        self.room.toggled.connect(lambda on: self.order_by(MARGIN if on else PART, falling=on))
        self.count, self.said = label("", "soft"), label(HINT, "small", wrap=True)
        self.table = ShelfTable()
        self.table.setModel(self.rows)
        self.table.setItemDelegate(ShelfCells(self.rows))
        self.table.setAccessibleName("Parts on the shelf")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.setProperty("role", "shelf")
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.table.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        header = self.table.horizontalHeader()
        header.setSectionsClickable(True)
        header.setHighlightSections(False)
        header.sectionClicked.connect(self._sort_by)
        self.table.verticalScrollBar().valueChanged.connect(self._in_sight)
        self.table.doubleClicked.connect(lambda _index: self.take())
        self.table.entered.connect(self.take)
        self.table.selectionModel().currentRowChanged.connect(self._chosen)
        self.details = Details()
        self.details.taken.connect(self.take)
        self.details.tried.connect(self._try_typed)
        self.details.kept.connect(self._keep_typed)
        self.details.copied.connect(self._copy)
        self.details.hidden.connect(self._hide)
        self.details.around.connect(self.find_around)
        self.details.stock_asked.connect(self.ask_stock)
        self.details.papers_asked.connect(self.ask_papers)
        self.new_button = button("Shelve fitted", tip="Keep the fitted part for other builds, as it is now")
        self.new_button.clicked.connect(self._put_fitted)
        self.listing_button = button("Listing …", tip="Read a listing: paste a shop page or a manual")
        self.listing_button.clicked.connect(self.read_listing)
        self.measured_button = button("Measured …", tip="A transformer without a label: what you measured of it")
        self.measured_button.clicked.connect(self.ask_measured)
        self.in_button, self.out_button = button("Take in …"), button("Write out …")
        self.in_button.clicked.connect(self.ask_take_in)
        self.out_button.clicked.connect(self.ask_write_out)
        self.undo_button = button("Take back", tip="The last change of the shelf (Ctrl+Alt+Z)")
        self.undo_button.setShortcut("Ctrl+Alt+Z")
        self.undo_button.clicked.connect(self.undo)
        self.back_button = button("Back to the plan  Esc", "flat")
        self.back_button.clicked.connect(self.leave)
        self._trying = QTimer(self)
        self._trying.setSingleShot(True)
        self._trying.setInterval(0)
        self._trying.timeout.connect(self.try_current)
        self._fitting = QTimer(self)
        self._fitting.setSingleShot(True)
        self._fitting.setInterval(0)
        self._fitting.timeout.connect(self.fit_columns)
        self._lay_out()
        session.plan_changed.connect(self._plan_changed)
        session.build_switched.connect(self._follow)
        session.station_chosen.connect(self._follow)
        self.slots.chosen.connect(lambda words: self.open_slot(self._slots[words]))
        look.follow(self._fit)
        self._fit()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(10)
        for widget in (self.title, self.search, self.count):
            head.addWidget(widget, 1 if widget is self.search else 0)
        choices = QHBoxLayout()
        choices.setSpacing(4)
        choices.addWidget(self.slots)
        choices.addStretch()
        for push in (self.fits, self.room, self.most, self.every):
            choices.addWidget(push)
        self._foot = QGridLayout()
        self._foot.setHorizontalSpacing(4)
        left = column(spacing=6)
        left.addLayout(head)
        left.addLayout(choices)
        left.addWidget(self.said)
        left.addWidget(self.table, 1)
        left.addLayout(self._foot)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 10, 18, 10)
        box.setSpacing(18)
        box.addLayout(left, 1)
        box.addWidget(self.details)

    def _fit(self) -> None:
        # What does not fit in one row at large text stands in two.
        columns = 4 if look.scale > 1.2 else 7
        every = (
            self.listing_button, self.measured_button, self.new_button, self.in_button, self.out_button,
            self.undo_button, self.back_button,
        )  # fmt: skip
        for k, choice in enumerate(every):
            self._foot.addWidget(choice, k // columns, k % columns)
        self.details.setFixedWidth(look.column(264))
        self.table.verticalHeader().setDefaultSectionSize(look.px(ROW_PX))
        self.rows.restyle()
        self.fit_columns()

    # What is shown

    def open_station(self, key: str) -> None:
        """Look along the shelf for a station's parts."""
        slots = slots_of(self._session.build, key)
        if not slots:
            self.leave()
            return
        self.title.setText(station(self._session.build, key).title)
        self._slots = {WORDS[slot]: slot for slot in slots}
        self.open_slot(slots[0])

    def figure_in_front(self) -> str:
        """The figure in the current cell, of the build with the part looked at; else that of its tightest limit."""
        index = self.table.currentIndex()
        key = self.rows.heads[index.column()].key if index.isValid() else ""
        prediction = self._session.predictions.prediction
        figures = {} if prediction is None else prediction.figures
        known = self.look.consequence_of(self.rows.items[index.row()]) if index.isValid() else None
        wanted = ["rail_no_load_v"]
        if key == self._session.build.load.identity:
            # The worst phase is not looked for while a part is only tried.
            wanted = ["clip_worst_power_w", "clip_power_w"]
        elif key != RAIL and known is not None and known.margin is not None and known.margin.figure is not None:
            # What a part states, a fuse's amperes, say, is judged too, and is no figure that is computed.
            wanted = [known.margin.figure.name, *wanted]
        return next((name for name in wanted if name in figures), wanted[-1])

    def open_slot(self, slot: str) -> None:
        """Look along the shelf for one slot."""
        self.slots.set_choices(tuple(self._slots), WORDS[slot])
        for push in (self.fits, self.most, self.room, self.every):
            push.blockSignals(True)
            push.setChecked(False)
            push.blockSignals(False)
        self.search.blockSignals(True)
        self.search.clear()
        self.search.blockSignals(False)
        self.look.only_fitting = self.look.with_hidden = False
        self.look.open(slot)
        self._choose_fitted()
        self.search.setFocus()

    def _follow(self, *_what: object) -> None:
        if self.isVisible():
            self.open_station(self._session.station)

    def _plan_changed(self) -> None:
        if self.isVisible() and not self._session.plan.trying:
            self.look.refresh()

    def _take_rows(self) -> None:
        chosen = self.item
        self.rows.take()
        typed = self.look.typed
        shown, every = len(self.look.rows) - len(typed), self.look.every
        self.count.setText(f"{shown} of {every}" if shown != every else f"{every}")
        words = self.look.query.words
        new = " As typed it is not on the shelf yet: Enter puts it there and takes it." if typed else ""
        self.said.setText(self.look.why_none or (f"Understood: {words}.{new}" if words else HINT))
        self.undo_button.setEnabled(self._session.shelf.can_undo)
        self.fit_columns()
        row = next(
            (k for k, item in enumerate(self.rows.items) if chosen is not None and item.number == chosen.number), -1
        )
        if typed and (chosen is None or chosen.is_kept):
            self.look_at_row(0)
        elif row >= 0:
            self.look_at_row(row)
        else:
            self._show_details()

    def _came(self, rows: list[int]) -> None:
        self.rows.came(rows)
        self._fitting.start()
        if self.table.currentIndex().row() in rows:
            self._show_details()

    def fit_columns(self) -> None:
        """Columns as wide as their words, the margin what is left: a row is seen whole, and never scrolled sideways.

        Where there is no room for all, whereabouts and what the part says of itself give way to what the build becomes.
        """
        metrics = QFontMetrics(look.font(13, bold=True))
        rows, heads = range(min(len(self.rows.items), MOST_MEASURED)), self.rows.heads
        widths = {}
        for k, head in enumerate(heads[:-1]):
            texts = [head.words, *(str(self.rows.index(row, k).data() or "") for row in rows)]
            maximum = max(metrics.horizontalAdvance(text) for text in texts) + look.px(20)
            widths[k] = min(maximum, look.px(MOST_PX.get(head.key, 104)))
        own = [k for k, head in enumerate(heads) if not head.of_build and head.key not in (PART, COSTS, DRAWER)]
        gives_way = [k for k, head in enumerate(heads) if head.key == DRAWER] + own[:0:-1]
        gives_way += [k for key in (COSTS, RAIL) for k, head in enumerate(heads) if head.key == key]
        left = self.table.viewport().width() - sum(widths.values())
        for k in range(len(heads)):
            self.table.setColumnHidden(k, False)
        for k in gives_way:
            if left >= look.px(LEAST_MARGIN_PX):
                break
            self.table.setColumnHidden(k, True)
            left += widths.pop(k)
        for k, width in widths.items():
            self.table.setColumnWidth(k, width)
        if heads:
            self.table.setColumnWidth(len(heads) - 1, max(look.px(LEAST_MARGIN_PX), left))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit_columns()
        self._in_sight()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._trying.stop()
        self._session.plan.leave_trial()

    def _in_sight(self, _value: int = 0) -> None:
        first = max(self.table.rowAt(0), 0)
        last = self.table.rowAt(self.table.viewport().height() - 1)
        self.look.sees(first, last if last >= 0 else first + 20)

    # Choosing

    @property
    def item(self) -> ShelfItem | None:
        """The current part."""
        row = self.table.currentIndex().row()
        return self.rows.items[row] if 0 <= row < len(self.rows.items) else None

    def look_at_row(self, row: int) -> None:
        """Make a row the current one."""
        self.table.selectionModel().setCurrentIndex(
            self.rows.index(row, 0),
            QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows,
        )

    def _choose_fitted(self) -> None:
        fitted = self.look.fitted
        row = next((k for k, item in enumerate(self.rows.items) if item.part == fitted), 0)
        if self.rows.items:
            self.look_at_row(row)
            self.table.scrollTo(self.rows.index(row, 0), QAbstractItemView.ScrollHint.PositionAtCenter)
        self._in_sight()

    def _chosen(self, _now: QModelIndex, _before: QModelIndex) -> None:
        self._show_details()
        if self.table.hasFocus():
            # Held down, the arrow runs over rows that need not be tried.
            self._trying.start()

    def try_current(self) -> None:
        """Show the build with the part of the current row in it."""
        if self.item is not None and self.isVisible() and self.look.slot:
            self._session.plan.try_part(self.look.slot, self.item.part)

    def _show_details(self) -> None:
        consequence = None if self.item is None else self.look.consequence_of(self.item)
        self.details.show_item(
            self.item, self._session.predictions.prediction_kept, "" if consequence is None else consequence.why_not
        )

    def _try_typed(self, part: Part) -> None:
        """The band shows the build with the part as it is typed; a line says what that does."""
        if not self.look.slot:
            return
        self._session.plan.try_part(self.look.slot, part)
        self.look.effect_of(part, self._say_effect)

    def _keep_typed(self, item: ShelfItem) -> None:
        """What was typed is known of the part on the shelf from now on; the next property can be typed at once."""
        path = self.details.path_current
        self._session.plan.leave_trial()
        self._session.shelf.change_item(item)
        self.details.go_on_from(path)

    def _say_effect(self, words: str) -> None:
        self.details.effect.setText(words)

    def to_rows(self) -> None:
        """From the search to the first row found."""
        if self.rows.items:
            self.table.setFocus()
            self.look_at_row(0 if self.item is None else max(self.table.currentIndex().row(), 0))
            self._trying.start()

    def take(self) -> None:
        """The current part goes into the build."""
        item, slot = self.item, self.look.slot
        if item is None or not slot:
            return
        consequence = self.look.consequence_of(item)
        if consequence is not None and not consequence.joins:
            return
        if not item.is_kept and not self._session.shelf.put_on_shelf(item.part):
            return
        self._session.plan.swap(slot, item.part)
        self.leave()

    def leave(self) -> None:
        """Back to the plan; what was only tried is gone."""
        self._trying.stop()
        self._session.plan.leave_trial()
        self.look.close()
        self.left.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif event.key() == Qt.Key.Key_Down and self.search.hasFocus():
            self.to_rows()
        else:
            super().keyPressEvent(event)

    # Order

    def _sort_by(self, section: int) -> None:
        head = self.rows.heads[section]
        falling = not self.look.falling if self.look.sorted_by == head.key else head.key not in (PART, COSTS)
        self.order_by(head.key, falling=falling)

    def order_by(self, key: str, *, falling: bool) -> None:
        """Sort the rows by a column or by what is asked for above them."""
        for push, of in ((self.most, VALUE), (self.room, MARGIN)):
            push.blockSignals(True)
            push.setChecked(key == of)
            push.blockSignals(False)
        self.look.sort(key, falling=falling)
        keys = [head.key for head in self.rows.heads]
        header = self.table.horizontalHeader()
        header.setSortIndicatorShown(key in keys and key != PART)
        if key in keys:
            order = Qt.SortOrder.DescendingOrder if falling else Qt.SortOrder.AscendingOrder
            header.setSortIndicator(keys.index(key), order)

    # The shelf itself

    def read_listing(self) -> None:
        """Paste a listing and make a part of it."""
        # Late: few come here, and not at the start.
        from plinth.desk.shelf.listing_dialog import ListingDialog

        dialog = ListingDialog(self.window(), self._session)
        if ask(dialog) and dialog.part is not None:
            self._in_hand(dialog.part)

    def _in_hand(self, part: Part) -> None:
        """A part that came to the shelf just now is the current one, as far as it belongs here."""
        row = next((k for k, item in enumerate(self.rows.items) if item.part == part), -1)
        if row < 0 and self.search.text():
            # It is not what was searched for: the whole shelf is.
            self.search.clear()
            row = next((k for k, item in enumerate(self.rows.items) if item.part == part), -1)
        if row >= 0:
            self.look_at_row(row)
            self.table.scrollTo(self.rows.index(row, 0), QAbstractItemView.ScrollHint.PositionAtCenter)
            self.table.setFocus()
            self._trying.start()

    def ask_papers(self) -> None:
        """The papers of the current part."""
        from plinth.desk.shelf.papers_dialog import PapersDialog

        if self.item is not None:
            ask(PapersDialog(self.window(), self._session, self.item))

    def ask_measured(self) -> None:
        """Ask what was measured of a transformer, and put it on the shelf."""
        from plinth.desk.shelf.measured_dialog import MeasuredDialog

        ask(MeasuredDialog(self.window(), self._session))

    def ask_stock(self) -> None:
        """Ask for price and drawer of the current part."""
        from plinth.desk.shelf.stock_form import StockForm

        item = self.item
        if item is not None:
            form = StockForm(self.window(), item.part.name, item.stock)
            if ask(form):
                changed = ShelfItem(item.number, item.part, form.stock)
                self._session.shelf.change_item(changed, f"price and drawer of {item.part.name}")

    def find_around(self) -> None:
        """The best builds around the current part."""
        from plinth.desk.find_dialog import FindDialog

        item, slot = self.item, self.look.slot
        if item is not None:
            around = slots_around(self._session.plan_kept.build, slot)
            if ask(FindDialog(self.window(), self._session, around, fixed={slot: item.part})):
                self.leave()

    def _put_fitted(self) -> None:
        if self.look.fitted is not None:
            self._session.shelf.put_on_shelf(self.look.fitted)

    def _copy(self) -> None:
        if self.item is not None:
            self._session.shelf.copy_item(self.item)

    def _hide(self) -> None:
        if self.item is not None:
            self._session.shelf.hide_item(self.item, hidden=not self.item.stock.hidden)

    def undo(self) -> None:
        """Take the last change of the shelf back."""
        words = self._session.shelf.undo()
        if words:
            self.said.setText(f"Taken back: {words}.")

    def ask_take_in(self) -> None:
        """Ask for a file of parts."""
        name, _ = QFileDialog.getOpenFileName(self, "Take in parts", "", "Parts (*.json *.csv)")
        if name:
            self.said.setText(self._session.shelf.take_in_parts(Path(name)))

    def ask_write_out(self) -> None:
        """Ask where to and write the rows found."""
        name, _ = QFileDialog.getSaveFileName(self, "Write parts", "parts.json", "Parts (*.json *.csv)")
        if name:
            kept = [item for item in self.rows.items if item.is_kept]
            self.said.setText(self._session.shelf.write_parts(Path(name), kept))


def _toggle(words: str, tip: str) -> QPushButton:
    made = button(words, "row", tip=tip)
    made.setCheckable(True)
    return made
