"""The live spectrum of an output: ten pictures a second, held by a key, kept as a capture."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QWidget

from plinth.desk.instruments.live_dialog import LiveDialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.session.instruments.live_spectrum import (
    HIGHEST_DB,
    LOWEST_DB,
    SAMPLES,
    SpectrumFrame,
    SpectrumReader,
    spectrum_reader_of,
)
from plinth.session.instruments.reading import RECORD_RATE_HZ

NO_DIGITISER = (
    "No digitiser with its lead at this output is connected: see Instruments (F9). A recording of a scope or a sound "
    "card is read by A capture, in Measure."
)


class SpectrumPage(LiveDialog):
    """``keep_wanted`` with the frame that is to be kept as a capture."""

    keep_wanted = Signal(object)

    def __init__(self, parent: QWidget, session: BenchSession, channel: str) -> None:
        super().__init__(parent, session)
        self._shown = 0
        look.size(self, 940, 620)
        instruments = session.instruments
        self.setWindowTitle("Live spectrum")
        digitiser = spectrum_reader_of(instruments.bench, session.build.key_of(channel))
        self.reader = None if digitiser is None else SpectrumReader(digitiser, instruments.looks())
        self.plot = Plot("Spectrum", "f", "Hz", log_x=True)
        self.plot.set_view((10.0, 0.5 * RECORD_RATE_HZ), (LOWEST_DB, HIGHEST_DB))
        self.plot.aside.setText("dB re 1 V rms: the top of a line is what a meter reads of it")
        self.words = label("", wrap=True)
        self.length = QComboBox()
        self.length.setAccessibleName("Samples of a picture")
        self.length.addItems([f"{count} samples, {count / RECORD_RATE_HZ * 1e3:.0f} ms" for count in SAMPLES])
        self.length.activated.connect(self._choose)
        self.average, self.hold = QCheckBox("Mean of 8"), button("Hold  Space")
        self.average.toggled.connect(self._choose)
        self.hold.setCheckable(True)
        self.hold.setShortcut("Space")
        self.hold.toggled.connect(self._choose)
        self.keep_button = button("Keep as a capture …", "main", tip="The record of this picture, with its figures")
        self.keep_button.clicked.connect(self._keep)
        close = button("Close  Esc", "flat")
        close.clicked.connect(self.close)
        head = QHBoxLayout()
        head.addWidget(label(f"Spectrum, {channel}{': simulated' if instruments.bench.simulated else ''}", "title"))
        head.addStretch()
        for each in (self.length, self.average, self.hold):
            head.addWidget(each)
        foot = QHBoxLayout()
        foot.addWidget(self.keep_button)
        foot.addStretch()
        foot.addWidget(close)
        box = column(spacing=10, margins=(18, 14, 18, 14))
        box.addLayout(head)
        box.addWidget(self.said)
        box.addWidget(self.plot, 1)
        box.addWidget(self.words)
        box.addLayout(foot)
        self.setLayout(box)
        self.keep_button.setEnabled(False)
        if self.reader is None:
            self._say(NO_DIGITISER)
            return
        self.reader.start()
        self._clock.start()

    def _choose(self) -> None:
        if self.reader is not None:
            self.reader.samples = SAMPLES[self.length.currentIndex()]
            self.reader.averaged, self.reader.held = self.average.isChecked(), self.hold.isChecked()

    @property
    def frame(self) -> SpectrumFrame | None:
        """The picture that is shown."""
        return None if self.reader is None else self.reader.frame

    def refresh(self) -> None:
        """Show the last picture, where it is another."""
        frame = self.frame
        if frame is not None and frame.number != self._shown:
            self._shown = frame.number
            self.plot.set_series((frame.series,))
            self.words.setText(frame.words)
            self.keep_button.setEnabled(True)
        if self.reader is not None and self.reader.fault:
            self._say(f"It ended: {self.reader.fault}")
            self._clock.stop()

    def _keep(self) -> None:
        if self.frame is not None:
            self.hold.setChecked(True)
            self.keep_wanted.emit(self.frame)

    def stop_reading(self) -> None:
        if self.reader is not None:
            self.reader.stop()
