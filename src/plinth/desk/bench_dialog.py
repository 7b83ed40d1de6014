"""The instruments of this workshop: what each is called, what it can read, and how far it is trusted."""

import dataclasses
import secrets
from collections.abc import Callable

from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from plinth.builds.instrument_texts import (
    accuracy_text,
    bandwidth_text,
    fixed_text,
    ranges_text,
    read_accuracy,
    read_bandwidth,
    read_fixed,
    read_ranges,
)
from plinth.builds.instruments import USUAL, BenchKit, Instrument, Role
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, button, label
from plinth.desk.look import look
from plinth.units.errors import QuantityError

_WORDS = {
    Role.SCOPE: "Scope, p-p and peak",
    Role.METER: "Meter, V and mV",
    Role.SUPPLY: "Bench supply, A",
    Role.GENERATOR: "Generator, level",
    Role.LOAD: "Electronic load, A",
    Role.MAINS_METER: "Power meter, W",
}
# Who gives no reading by itself: a hand and an eye are known as they are.
_NOBODYS = (Role.EYE, Role.STOP_WATCH)
# Those that read AC volts.
_AC = (Role.SCOPE, Role.METER)
_HEADS = ("", "Called", "± % of reading", "and ±", "Ranges: top/last digit", "−3 dB at")


def role_words(role: Role) -> str:
    """What stands before an instrument of that role."""
    return _WORDS.get(role, f"{role.words[0].upper()}{role.words[1:]}")


@dataclasses.dataclass(frozen=True)
class InstrumentRow:
    """The fields of one instrument, known by its ``identity``; ``away`` takes one out that was added."""

    role: Role
    identity: str
    heading: QLabel
    name: QLineEdit
    accuracy: QLineEdit
    fixed: QLineEdit
    ranges: QLineEdit
    bandwidth: QLineEdit | None
    away: QPushButton | None

    def instrument(self) -> Instrument:
        """As it is typed. Raises QuantityError."""
        floor, digits = read_fixed(self.fixed.text(), self.role.unit)
        ranges = read_ranges(self.ranges.text(), self.role.unit)
        if digits and not ranges:
            raise QuantityError(f"found {digits:g} digits without ranges, expected the last digit of each: 4/0.001")
        return Instrument(
            name=self.name.text().strip() or self.role.words, role=self.role, identity=self.identity,
            accuracy=read_accuracy(self.accuracy.text()), floor=floor, digits=digits, ranges=ranges,
            bandwidth_hz=None if self.bandwidth is None else read_bandwidth(self.bandwidth.text()),
        )  # fmt: skip

    def widgets(self) -> list[QWidget]:
        """All of them, in their columns."""
        more = [editor for editor in (self.bandwidth, self.away) if editor is not None]
        return [self.heading, self.name, self.accuracy, self.fixed, self.ranges, *more]


class BenchDialog(Dialog):
    """``kit`` after it was accepted, which it is once ``keep`` has kept it.

    An empty accuracy means: not stated, so readings have no known spread.
    """

    def __init__(self, parent: QWidget, kit: BenchKit, keep: Callable[[BenchKit], bool]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Instruments")
        self.kit, self._keep = kit, keep
        self.rows: list[InstrumentRow] = []
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(12)
        for column, words in enumerate(_HEADS):
            self._grid.addWidget(label(words, "small"), 0, column)
        for instrument in kit.listed:
            self._add_row(instrument)
        self.said = label("", "over", wrap=True)
        self.more = QComboBox()
        self.more.setAccessibleName("Kind of instrument to add")
        for role in Role:
            if role not in _NOBODYS:
                self.more.addItem(role_words(role), role)
        self.add_button = button("Add it", "flat", tip="One more instrument, or a second one of a kind")
        self.add_button.clicked.connect(self.add)
        adding = QHBoxLayout()
        for widget in (label("One more:", "soft"), self.more, self.add_button):
            adding.addWidget(widget)
        adding.addStretch(1)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("Instruments of this workshop", "title"))
        words = (
            "From the data sheet of each: accuracy in per cent of the reading, and a fixed part, as 2 mV or as 3 "
            "digits of its ranges. Of two of a kind readings are typed from the upper one."
        )
        box.addWidget(label(words, "soft", wrap=True))
        box.addLayout(self._grid)
        box.addLayout(adding)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep", self.take))

    def _add_row(self, instrument: Instrument) -> InstrumentRow:
        role = instrument.role
        added = any(row.role is role for row in self.rows) or role not in USUAL
        row = InstrumentRow(
            role,
            instrument.identity or secrets.token_hex(4),
            label(role_words(role)),
            name=QLineEdit(instrument.name),
            accuracy=QLineEdit(accuracy_text(instrument)),
            fixed=QLineEdit(fixed_text(instrument)),
            ranges=QLineEdit(ranges_text(instrument)),
            bandwidth=QLineEdit(bandwidth_text(instrument)) if role in _AC else None,
            away=button("Take away", "flat", tip="This workshop has it no more") if added else None,
        )
        for field, what, empty in (
            (row.name, "name", role.words), (row.accuracy, "per cent of reading", "not stated"),
            (row.fixed, f"fixed part in {role.unit} or digits", f"0 {role.unit}"),
            (row.ranges, "ranges, each its top and last digit", "not stated"),
            (row.bandwidth, "bandwidth of AC volts", "?"),
        ):  # fmt: skip
            if field is not None:
                field.setPlaceholderText(empty)
                field.setAccessibleName(f"{role_words(role)}: {what}")
                field.setCursorPosition(0)
                field.returnPressed.connect(self.take)
        for field, width in (
            (row.name, 175),
            (row.accuracy, 108),
            (row.fixed, 100),
            (row.ranges, 115),
            (row.bandwidth, 80),
        ):
            if field is not None:
                field.setMinimumWidth(look.px(width))
        at = self._grid.rowCount()
        columns = (row.heading, row.name, row.accuracy, row.fixed, row.ranges, row.bandwidth, row.away)
        for column, widget in enumerate(columns):
            if widget is not None:
                self._grid.addWidget(widget, at, column)
        if row.away is not None:
            row.away.clicked.connect(lambda: self._take_away(row))
        self.rows.append(row)
        return row

    def add(self) -> None:
        """One more instrument, of the kind chosen."""
        role = Role(self.more.currentData())
        row = self._add_row(Instrument(name=role.words, role=role))
        row.name.setFocus()
        row.name.selectAll()

    def _take_away(self, row: InstrumentRow) -> None:
        self.rows.remove(row)
        for widget in row.widgets():
            self._grid.removeWidget(widget)
            widget.hide()
            widget.deleteLater()
        self.adjustSize()

    def row(self, role: Role) -> InstrumentRow:
        """The first of that role."""
        return next(row for row in self.rows if row.role is role)

    def take(self) -> None:
        """Accept what can be understood, else say what is wrong where."""
        made = []
        for row in self.rows:
            try:
                made.append(row.instrument())
            except QuantityError as error:
                self.said.setText(f"{role_words(row.role)}: {error}.")
                return
        kit = BenchKit(instruments=tuple(made))
        if self._keep(kit):
            self.kit = kit
            self.accept()
