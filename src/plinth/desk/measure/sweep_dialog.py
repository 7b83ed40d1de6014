"""A sweep to be played, as a WAV: from, to, how long, at which rate and level."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QFormLayout, QHBoxLayout, QLineEdit, QWidget

from plinth.captures.capture import CaptureError
from plinth.captures.options import Sweep
from plinth.captures.writing import sweep_bytes
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity

CAUTION = (
    "Into a dummy load, not a loudspeaker: at the level of a test a sweep burns tweeters and hurts ears. Begin with "
    "the volume down, and look at the level at 1 kHz first."
)


class SweepDialog(Dialog):
    """Written where one says; what was played is typed beside its recording as ``from:to:seconds``."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("A sweep to play")
        look.size(self, 460, 380)
        self.fields = {
            name: self._field(name, value)
            for name, value in (
                ("From, Hz", "10"), ("To, Hz", "40000"), ("Seconds", "4"), ("Samples a second", "96000"),
                ("Peak, % of full scale", "50"), ("Times", "1"),
            )
        }  # fmt: skip
        form = QFormLayout()
        for name, field in self.fields.items():
            form.addRow(name, field)
        self.said = label(
            "Half a second of silence goes before it, one second after it. Where it is played several times the mean "
            "is taken: noise falls by the root of their number.",
            "soft",
            wrap=True,
        )
        save, close = button("Save as WAV …  ⏎", "main"), button("Close  Esc")
        save.setDefault(True)
        save.clicked.connect(self._ask)
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addWidget(save)
        foot.addStretch()
        foot.addWidget(close)
        box = column(label(CAUTION, "caution", wrap=True), spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(form)
        box.addWidget(self.said)
        box.addStretch()
        box.addLayout(foot)
        self.setLayout(box)

    @staticmethod
    def _field(name: str, value: str) -> QLineEdit:
        field = QLineEdit(value)
        field.setAccessibleName(name)
        return field

    def _ask(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save", proposed_name("sweep", ".wav"), "WAV (*.wav)")
        if name:
            self.save(Path(name))

    def save(self, path: Path) -> None:
        """Write it, and say what to type beside its recording."""
        try:
            low, high, seconds, rate, level, times = (
                read_quantity(field.text(), unit)
                for field, unit in zip(self.fields.values(), ("Hz", "Hz", "s", "", "", ""), strict=True)
            )
            if times != round(times):
                raise CaptureError(f"found {times:g} times, expected a whole number")
            content = sweep_bytes(Sweep(low, high, seconds), round(rate), level / 100.0, round(times))
            write_whole(path, content)
        except (QuantityError, CaptureError) as error:
            self.said.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
        except OSError as error:
            self.said.setText(not_written_words(path, error))
        else:
            self.said.setText(
                f"Saved as {path.name}. Beside its recording type {low:g}:{high:g}:{seconds:g} under Sweep."
            )
