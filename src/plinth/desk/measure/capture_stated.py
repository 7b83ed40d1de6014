"""What is stated beside a capture: what it shows, scales, rate, load, how a sweep went, the part that is looked at."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QLineEdit, QWidget

from plinth.captures.options import KINDS, Options, Sweep, numbers_of
from plinth.captures.words import KIND_WORDS
from plinth.desk.labels import button, label

# What can be stated: its name, an example, what it means, the command's option, the options' own field.
_FIELDS = {
    "volts": (
        "Full scale, V", "50 or 50,4", "Volts (or amperes) at the recorder's full scale, for all channels or each",
        "--volts-per-full-scale", "volts_per_full_scale",
    ),
    "probe": ("Probe", "10 or 10,1", "What each value is multiplied by, for all channels or each", "--probe", "probe"),
    "rate": (
        "Rate, Hz", "96000", "Samples a second, where the file does not say or says it wrongly", "--rate", "rate_hz",
    ),
    "load": ("Load, ohm", "8.11", "The load that the output drove, for watts", "--load", "load_ohm"),
    "step": ("A level, s", "0.2", "Seconds of each level, where the record is a sweep of levels", "--step-s", "step_s"),
    "sweep": (
        "Sweep, Hz:Hz:s", "10:40000:4", "An exponential sweep: from, to, how long", "--sweep", "sweep",
    ),
    "span": (
        "Part, s:s", "0.5:1.5", "From and to, in seconds: the figures are drawn from this part alone", "--span",
        "span_s",
    ),
}  # fmt: skip
FILES = "Captures (*.csv *.txt *.tsv *.wav *.flac *.aif *.aiff *.npy *.zip);;All files (*)"


class StatedFields(QWidget):
    """``entered`` when the capture is to be read anew with what stands here."""

    entered = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.kind = QComboBox()
        self.kind.setAccessibleName("What it is a capture of")
        self.kind.addItems(["by its looks", *(KIND_WORDS[kind] for kind in KINDS)])
        self.kind.activated.connect(lambda _index: self._kind_chosen())
        self.open_file: Path | None = None
        self.unloaded = button("Without load …", "flat", tip="The same output without its load, recorded alike")
        self.unloaded.clicked.connect(self.ask_unloaded)
        self.fields = {key: self._field(*words[:3]) for key, words in _FIELDS.items()}
        stated = QGridLayout(self)
        stated.setContentsMargins(0, 0, 0, 0)
        stated.setVerticalSpacing(2)
        names = [("It shows", self.kind), *((field.accessibleName(), field) for field in self.fields.values())]
        for index, (name, widget) in enumerate(names):
            stated.addWidget(label(name, "soft"), 0, index)
            stated.addWidget(widget, 1, index)
            stated.setColumnStretch(index, 2 if index == 0 else 1)
        stated.addWidget(self.unloaded, 1, len(names))
        self.unloaded.hide()

    def _field(self, name: str, example: str, tip: str) -> QLineEdit:
        field = QLineEdit()
        field.setToolTip(tip)
        field.setAccessibleName(name)
        field.setPlaceholderText(example)
        field.returnPressed.connect(self.entered)
        return field

    def _kind_chosen(self) -> None:
        impedance = self._kind() == "impedance"
        self.unloaded.setVisible(impedance)
        if impedance and self.open_file is None:
            self.ask_unloaded()
            return
        self.entered.emit()

    def _kind(self) -> str | None:
        index = self.kind.currentIndex()
        return None if index <= 0 else KINDS[index - 1]

    def ask_unloaded(self) -> None:
        """Ask for the capture of the same output without its load."""
        name, _ = QFileDialog.getOpenFileName(self, "The same without its load", "", FILES)
        if name:
            self.take_unloaded(Path(name))

    def take_unloaded(self, path: Path) -> None:
        """Hold the capture against that of the same output without its load."""
        self.open_file = path
        self.unloaded.setText(f"Without: {path.name}")
        self.entered.emit()

    def stated(self) -> Options:
        """What stands in the fields. Raises CaptureError for what is no such number."""
        typed = {key: field.text().strip() for key, field in self.fields.items()}

        def numbers(key: str, count: int | None = None, separator: str = ",") -> tuple[float, ...]:
            return numbers_of(_FIELDS[key][3], typed[key], separator=separator, count=count) if typed[key] else ()

        def single(key: str) -> float | None:
            return numbers(key, 1)[0] if typed[key] else None

        sweep, span = numbers("sweep", 3, ":"), numbers("span", 2, ":")
        kind = self._kind()
        return Options(
            kind=kind, volts_per_full_scale=numbers("volts"), probe=numbers("probe"), rate_hz=single("rate"),
            load_ohm=single("load"), step_s=single("step"), sweep=Sweep(*sweep) if sweep else None,
            span_s=(span[0], span[1]) if span else None, open_file=self.open_file if kind == "impedance" else None,
        )  # fmt: skip

    def show_options(self, options: Options) -> None:
        """What stands in the fields is this."""
        sweep = options.sweep
        values: dict[str, tuple[tuple[float | None, ...], str]] = {
            "volts": (options.volts_per_full_scale, ","), "probe": (options.probe, ","),
            "rate": ((options.rate_hz,), ","), "load": ((options.load_ohm,), ","), "step": ((options.step_s,), ","),
            "sweep": (() if sweep is None else (sweep.f1_hz, sweep.f2_hz, sweep.seconds), ":"),
            "span": (options.span_s or (), ":"),
        }  # fmt: skip
        for key, (numbers, between) in values.items():
            self.fields[key].setText(between.join(f"{number:.10g}" for number in numbers if number is not None))
        self.kind.setCurrentIndex(0 if options.kind is None else 1 + KINDS.index(options.kind))
        self.unloaded.setVisible(options.kind == "impedance")

    def clear(self) -> None:
        """Nothing is stated."""
        self.open_file = None
        self.unloaded.setText("Without load …")
        self.show_options(Options())


def named_as_here(sentence: str) -> str:
    """A sentence on the command's options with them called as the fields here are."""
    for words in sorted(_FIELDS.values(), key=lambda each: -len(each[3])):
        name, option = words[0].partition(",")[0], words[3]
        sentence = sentence.replace(f"give {option}", f"type it under {name}").replace(option, name)
    sentence = sentence.replace(" (Load)", ": type it under Load")
    return sentence.replace("give --open FILE", "choose it under Without load")
