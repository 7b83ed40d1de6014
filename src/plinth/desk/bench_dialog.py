"""The instruments of this workshop: what each is called and how far it is trusted."""

from collections.abc import Callable

from PySide6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.instruments import BenchKit, Instrument, Kind
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label
from plinth.desk.look import look
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_number, read_quantity

_ROWS: tuple[tuple[Kind, str, str], ...] = (
    ("scope", "Scope, p-p and peak readings", "V"),
    ("meter", "Meter, volts and millivolts", "V"),
    ("ohmmeter", "Ohmmeter", "ohm"),
    ("thermometer", "Thermometer", "°C"),
    ("supply", "Bench supply's own ammeter", "A"),
)
# Those that read AC volts, and the least bandwidth that such a one has.
_AC, LEAST_BANDWIDTH_HZ = ("scope", "meter"), 100.0


class BenchDialog(Dialog):
    """``kit`` after it was accepted, which it is once ``keep`` has kept it.

    An empty accuracy means: not stated, so readings have no known spread.
    """

    def __init__(self, parent: QWidget, kit: BenchKit, keep: Callable[[BenchKit], bool]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Instruments")
        self.kit, self._keep = kit, keep
        self.fields: dict[str, tuple[QLineEdit, QLineEdit, QLineEdit]] = {}
        self.bandwidths: dict[str, QLineEdit] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        for column, words in enumerate(("", "Called", "± % of reading", "and ±", "−3 dB at")):
            grid.addWidget(label(words, "small"), 0, column)
        for row, (kind, words, unit) in enumerate(_ROWS, 1):
            instrument = kit.of(kind)
            name = QLineEdit(instrument.name)
            accuracy = QLineEdit("" if instrument.accuracy is None else f"{100 * instrument.accuracy:g}")
            floor = QLineEdit(f"{instrument.floor:g} {unit}")
            accuracy.setPlaceholderText("not stated")
            name.setMinimumWidth(look.px(230))
            name.setCursorPosition(0)
            for field, what in ((name, "name"), (accuracy, "per cent of reading"), (floor, f"fixed part in {unit}")):
                field.setAccessibleName(f"{words}: {what}")
                field.returnPressed.connect(self.take)
            self.fields[kind] = (name, accuracy, floor)
            grid.addWidget(label(words), row, 0)
            for column, field in enumerate((name, accuracy, floor), 1):
                grid.addWidget(field, row, column)
            if kind in _AC:
                bandwidth = QLineEdit("" if instrument.bandwidth_hz is None else shown(instrument.bandwidth_hz, "Hz"))
                bandwidth.setPlaceholderText("not stated")
                bandwidth.setAccessibleName(f"{words}: bandwidth of AC volts")
                bandwidth.returnPressed.connect(self.take)
                self.bandwidths[kind] = bandwidth
                grid.addWidget(bandwidth, row, 4)
        self.said = label("", "over", wrap=True)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("Instruments of this workshop", "title"))
        box.addWidget(
            label("From the data sheet of each: accuracy in per cent of the reading, and a fixed part.", "soft")
        )
        box.addLayout(grid)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep", self.take))

    def take(self) -> None:
        """Accept what can be understood, else say what is wrong where."""
        made = {}
        for kind, words, unit in _ROWS:
            name, accuracy, floor = (field.text().strip() for field in self.fields[kind])
            try:
                share = None if not accuracy else read_number(accuracy.rstrip("% ")) / 100.0
                fixed = read_quantity(floor, unit) if floor else 0.0
                if share is not None and not 0.0 <= share <= 0.9:
                    raise QuantityError(f"found {accuracy} %, expected 0 to 90 %")
                if fixed < 0.0:
                    raise QuantityError(f"found {floor}, expected 0 or more")
                band = self.bandwidths[kind].text().strip() if kind in self.bandwidths else ""
                hertz = read_quantity(band, "Hz") if band else None
                if hertz is not None and hertz < LEAST_BANDWIDTH_HZ:
                    raise QuantityError(f"found {band}, expected a bandwidth of at least 100 Hz")
                made[kind] = Instrument(name=name or kind, kind=kind, accuracy=share, floor=fixed, bandwidth_hz=hertz)
            except QuantityError as error:
                self.said.setText(f"{words}: {error}.")
                return
        kit = BenchKit.model_validate(made)
        if self._keep(kit):
            self.kit = kit
            self.accept()
