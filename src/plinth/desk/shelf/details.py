"""The current part beside the shelf: what is known of it is typed here, those properties first that matter here.

While something is typed the band shows this build with it, and a line says what it does. Enter keeps it on the shelf.
"""

import pydantic
from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QSizePolicy, QWidget

from plinth.builds.field_entry import field_text, field_value
from plinth.builds.fields import PartField, with_values
from plinth.builds.invalid import invalid
from plinth.builds.parts import Part
from plinth.builds.properties import How, Told, how_known, known_of, value_at, with_told
from plinth.desk.labels import button, clear, column, label, rule
from plinth.desk.look import look
from plinth.desk.marks import draw_how
from plinth.desk.part_form import NOT_STATED
from plinth.desk.side_area import SideArea
from plinth.predict.prediction import Prediction
from plinth.shelf.influence import ordered
from plinth.shelf.item import ShelfItem
from plinth.units.errors import QuantityError

HOWS = (How.STATED, How.MEASURED, How.ESTIMATED, How.ASSUMED)


class HowMark(QWidget):
    """How a property is known, as a small mark named for screen readers."""

    def __init__(self, how: How) -> None:
        super().__init__()
        self._how = how
        self.setAccessibleName(str(how))
        self.setToolTip(str(how))
        self.setFixedSize(QSize(look.px(22), look.px(20)))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_how(painter, self._how, QPointF(self.width() / 2, self.height() / 2), look.px(6))
        painter.end()


class ValueField(QLineEdit):
    """A property as typed; ``left`` when Esc puts back what stood there."""

    left = Signal()

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setProperty("role", "value")
        self.setPlaceholderText("not said")
        # It takes what the words leave, and never pushes itself out of the column.
        self.setMinimumWidth(look.px(56))
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.isModified():
            self.left.emit()
            event.accept()
        else:
            super().keyPressEvent(event)


class Details(QWidget):
    """``taken``: into the build; ``tried``: as typed so far; ``kept``: as typed; the others as their buttons say."""

    taken = Signal()
    tried = Signal(object)
    kept = Signal(object)
    copied = Signal()
    hidden = Signal()
    around = Signal()
    stock_asked = Signal()
    papers_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.title, self.where = label("", "title", wrap=True), label("", "small", wrap=True)
        self._rows = QGridLayout()
        self._rows.setColumnStretch(0, 3)
        self._rows.setColumnStretch(2, 2)
        self._rows.setVerticalSpacing(1)
        inner = QWidget()
        box = column(spacing=4, margins=(0, 0, 6, 0))
        box.addLayout(self._rows)
        self.more_button = button("", "flat", tip="What hardly moves this build")
        self.more_button.clicked.connect(self._unfold)
        box.addWidget(self.more_button)
        box.addStretch()
        inner.setLayout(box)
        self.area = SideArea(inner)
        self.how, self.source = QComboBox(), QLineEdit()
        self.how.addItems([str(how) for how in HOWS])
        self.how.setAccessibleName("How what is typed is known")
        self.source.setPlaceholderText("by whom, where from")
        self.source.setAccessibleName("Source of what is typed")
        self.effect = label("", "pred", wrap=True)
        self.price, self.note = label("", "", wrap=True), label("", "soft", wrap=True)
        self.why_not = label("", "caution", wrap=True)
        self.take_button = button("Take it  ⏎", "main")
        self.copy_button = button("Copy", "row", tip="One of my own like it")
        self.around_button = button("What can it do …", "row", tip="The best builds around it")
        self.around_button.clicked.connect(self.around)
        self.stock_button = button("Price, drawer …", "row", tip="What it costs, where it is, when it comes")
        self.stock_button.clicked.connect(self.stock_asked)
        self.papers_button = button("Papers …", "row", tip="Sheets, pictures and texts kept with it")
        self.papers_button.clicked.connect(self.papers_asked)
        self.hide_button = button("Hide", "row")
        self.take_button.clicked.connect(self.taken)
        self.copy_button.clicked.connect(self.copied)
        self.hide_button.clicked.connect(self.hidden)
        known = QHBoxLayout()
        known.addWidget(label("typed is", "small"))
        known.addWidget(self.how)
        known.addWidget(self.source, 1)
        foot = QGridLayout()
        every = (self.copy_button, self.hide_button, self.stock_button, self.papers_button, self.around_button)
        for k, editor in enumerate(every):
            foot.addWidget(editor, k // 2, k % 2)
        whole = column(self.title, self.where, self.area, self.effect, spacing=6)
        whole.addLayout(known)
        for widget in (rule(), self.price, self.note, self.why_not, self.take_button):
            whole.addWidget(widget)
        whole.addLayout(foot)
        self.setLayout(whole)
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        self._item: ShelfItem | None = None
        self._prediction: Prediction | None = None
        self._unfolded = False

    # What is shown

    def show_item(self, item: ShelfItem | None, prediction: Prediction | None, why_not: str = "") -> None:
        """Show a part; None: there is none. What is being typed of the same part stays."""
        same = item is not None and self._item == item
        self.why_not.setText(f"It cannot join: {why_not}." if why_not else "")
        self.why_not.setVisible(bool(why_not))
        self.take_button.setEnabled(item is not None and not why_not)
        kept = item is not None and item.is_kept
        for widget in (
            self.copy_button, self.hide_button, self.how, self.source, self.stock_button, self.papers_button,
        ):  # fmt: skip
            widget.setEnabled(kept)
        if same:
            return
        self._item, self._prediction, self._unfolded = item, prediction, False
        self.effect.setText("")
        if item is None:
            clear(self._rows)
            self.fields = {}
            for words in (self.title, self.where, self.price, self.note):
                words.setText("")
            self.more_button.hide()
            return
        self.title.setText(item.part.name)
        maker = getattr(item.part, "maker", "")
        self.where.setText(" · ".join(words for words in (maker if maker != "–" else "", item.stock.where) if words))
        self.papers_button.setText(f"Papers, {len(item.papers)} …" if item.papers else "Papers …")
        self.hide_button.setText("Show again" if item.stock.hidden else "Hide")
        self.price.setText(_prices(item))
        self.note.setText(item.stock.note)
        self.note.setVisible(bool(item.stock.note))
        self._lay_out(item.part)
        for editor in self.fields.values():
            # What is only typed is changed where it was typed.
            editor.setEnabled(kept)

    def _lay_out(self, part: Part) -> None:
        clear(self._rows)
        self.fields = {}
        moving, others = ordered(part, self._prediction)
        fold = bool(moving) and not self._unfolded
        for field in moving if fold else [*moving, *others]:
            self._add(part, field)
        self.more_button.setText(f"{len(others)} more …" if fold else "")
        self.more_button.setVisible(fold and bool(others))

    def _unfold(self) -> None:
        self._unfolded = True
        if self._item is not None:
            self._lay_out(self._item.part)

    def _add(self, part: Part, field: PartField) -> None:
        row = self._rows.rowCount()
        how, known = how_known(part, field.path), known_of(part, field.path)
        made = self._made(part, field)
        made.setAccessibleName(field.words)
        self._rows.addWidget(label(field.words, "", wrap=True), row, 0)
        self._rows.addWidget(HowMark(how), row, 1)
        self._rows.addWidget(made, row, 2)
        others = "; ".join(f"{fact.how} {fact.value}{f', {fact.source}' if fact.source else ''}" for fact in known)
        if others:
            self._rows.addWidget(label(others, "small", wrap=True), row + 1, 0, 1, 3)
        self.fields[field.path] = made

    def _made(self, part: Part, field: PartField) -> QLineEdit | QComboBox:
        text = field_text(field, value_at(part, field.path))
        if field.choices:
            choice = QComboBox()
            choice.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            choice.addItems([NOT_STATED, *field.choices] if field.optional else list(field.choices))
            choice.setCurrentText(text or NOT_STATED)
            choice.activated.connect(lambda _at: self._keep(field, choice.currentText().replace(NOT_STATED, "")))
            return choice
        line = ValueField(text)
        line.setCursorPosition(0)
        line.setAlignment(Qt.AlignmentFlag.AlignRight if field.number else Qt.AlignmentFlag.AlignLeft)
        line.textEdited.connect(lambda typed: self._typed(field, typed))
        line.returnPressed.connect(lambda: self._keep(field, line.text()))
        line.left.connect(lambda: self._put_back(field, line))
        return line

    @property
    def path_current(self) -> str:
        """The property that has the focus; empty for none."""
        return next((path for path, field in self.fields.items() if field is self.window().focusWidget()), "")

    def go_on_from(self, path: str) -> None:
        """Put the focus on the property after this one."""
        paths = list(self.fields)
        if path in paths:
            following = self.fields[paths[min(paths.index(path) + 1, len(paths) - 1)]]
            following.setFocus()
            if isinstance(following, QLineEdit):
                following.selectAll()

    # What is typed

    def _typed(self, field: PartField, text: str) -> None:
        part = self._understood(field, text)
        if part is not None:
            self.effect.setText("…")
            self.tried.emit(part)

    def _keep(self, field: PartField, text: str) -> None:
        part = self._understood(field, text)
        if part is not None and self._item is not None:
            in_force = value_at(part, field.path)
            self.kept.emit(ShelfItem(self._item.number, part, self._item.stock))
            best = known_of(part, field.path)
            if best and best[0].how != self.how.currentText() and best[0].value == in_force:
                self.effect.setText(f"Kept beside the {best[0].how} value, which is in force.")

    def _put_back(self, field: PartField, line: QLineEdit) -> None:
        if self._item is not None:
            line.setText(field_text(field, value_at(self._item.part, field.path)))
            line.setModified(False)
            self.effect.setText("")
            self.tried.emit(self._item.part)

    def _understood(self, field: PartField, text: str) -> Part | None:
        """The part with what was typed; None (and a sentence) where it is not understood."""
        assert self._item is not None
        part = self._item.part
        try:
            value = field_value(field, text)
            if value is None or not isinstance(value, float | int | str | bool):
                return with_values(part, {field.path: value})
            how, source = self.how.currentText(), self.source.text().strip()
            fact = Told.model_validate({"field": field.path, "how": how, "value": value, "source": source})
            return with_told(part, fact)
        except QuantityError as error:
            self.effect.setText(f"{field.words}: {error}.")
        except pydantic.ValidationError as error:
            self.effect.setText(f"{field.words}: {invalid(error)[0].reason}.")
        return None


def _prices(item: ShelfItem) -> str:
    prices, currency = item.stock.prices, item.stock.currency
    if not prices:
        return "No price known"
    first, *more = prices
    breaks = "".join(f" · from {price.from_count}: {price.each:.2f}" for price in more)
    return f"{first.each:.2f} {currency}{breaks}"
