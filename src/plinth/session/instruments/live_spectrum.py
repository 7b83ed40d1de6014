"""The spectrum of an output as a digitiser records it, again and again."""

import dataclasses
import datetime as dt
import itertools
import math
import threading
import time

import numpy as np

from plinth.captures.analysis import analyse_capture
from plinth.captures.bundle import Content
from plinth.captures.capture import Capture, CaptureError, Channel
from plinth.captures.figure_words import value_words
from plinth.captures.options import Options
from plinth.captures.signal.spectrum import spectrum_of
from plinth.captures.words import label_of
from plinth.captures.writing import wav_bytes
from plinth.drawing.series import Series
from plinth.instruments.errors import InstrumentError
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.record.kept_capture import CaptureSource
from plinth.record.probe import Point
from plinth.session.capture_answers import TakenAt
from plinth.session.captures import InstrumentRecord
from plinth.session.instruments.connected import Bench, Connected
from plinth.session.instruments.orders import Array, Orders
from plinth.session.instruments.reading import RECORD_RATE_HZ, take_record

EVERY_S = 0.1
# Samples of one picture: short ones come often, long ones part lines that lie near each other.
SAMPLES = (8192, 32_768)
LOWEST_DB, HIGHEST_DB = -140.0, 45.0
_COLUMNS = 800
_LOWEST_HZ = 10.0
# The range follows the signal: so much above its top, and up to the most where it is cut.
_ROOM, _CUT, _MOST_V, _LEAST_V = 1.3, 0.98, 400.0, 0.05
_MEAN_OF = 8
# A line between two bins has less in the higher of them: under this window by up to 0.8 dB.
_LINE_OVER_BIN = 2.0044
_TOLD = ("rms", "frequency_hz", "thd_db", "sinad_db")


@dataclasses.dataclass(frozen=True)
class SpectrumFrame:
    """One picture: the curve (dB re 1 V rms a line), what is told of it, the record itself and who took it."""

    number: int
    series: Series
    words: str
    capture: Capture
    reader: Connected

    def as_record(self, at: dt.datetime) -> InstrumentRecord:
        """Its record as a file that is kept as a capture."""
        name = f"output {at:%Y-%m-%d %H-%M-%S}.wav"
        source = CaptureSource.SIMULATED if self.reader.simulated else CaptureSource.INSTRUMENT
        return InstrumentRecord(
            Content(name, wav_bytes(self.capture)), source, TakenAt(Point.OUTPUT, self.reader.channel)
        )


def spectrum_reader_of(bench: Bench, channel: str) -> Connected | None:
    """The digitiser that can record this channel's output; None where none is connected."""
    digitiser = bench.at(InstrumentKind.DIGITISER, Point.OUTPUT, channel)
    return digitiser if digitiser is not None and digitiser.can(Action.READ_RECORD) else None


class SpectrumReader:
    """Records on a thread of its own, while it is not held. ``fault`` why it ended; ``frame`` the last picture."""

    def __init__(self, reader: Connected, orders: Orders, every_s: float = EVERY_S) -> None:
        self.reader, self._orders, self._every_s = reader, orders, every_s
        self.samples, self.held, self.averaged, self.fault = SAMPLES[0], False, False, ""
        self._frame: SpectrumFrame | None = None
        self._range_v, self._number = 100.0, 0
        self._powers: list[Array] = []
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._run, name="live spectrum", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End; it reads nothing more."""
        self._ended.set()
        if self._thread.is_alive():
            self._thread.join(5.0)

    @property
    def running(self) -> bool:
        """Whether it still reads, or would."""
        return self._thread.is_alive()

    @property
    def frame(self) -> SpectrumFrame | None:
        """The last picture; None before there is one."""
        return self._frame

    def _run(self) -> None:
        while not self._ended.is_set():
            began = time.monotonic()
            if not self.held:
                try:
                    self._frame = self._take()
                except InstrumentError as error:
                    self.fault = str(error)
                    return
            self._ended.wait(max(0.01, self._every_s - (time.monotonic() - began)))

    def _take(self) -> SpectrumFrame:
        samples = take_record(
            self.reader, Point.OUTPUT, self._orders, RECORD_RATE_HZ, self.samples, self._range_v
        )  # fmt: skip
        top = float(np.max(np.abs(samples)))
        cut = self.reader.can(Action.SET_RANGE) and top >= _CUT * self._range_v
        self._range_v = _MOST_V if cut else min(max(_ROOM * top, _LEAST_V), _MOST_V)
        self._number += 1
        capture = Capture("output", (Channel("output", samples, "V"),), RECORD_RATE_HZ)
        series = self._series(samples)
        words = "Its range cut it: the next picture has a wider one." if cut else told_of(capture)
        return SpectrumFrame(self._number, series, words, capture, self.reader)

    def _series(self, samples: Array) -> Series:
        spectrum = spectrum_of(samples, RECORD_RATE_HZ, "blackman_harris")
        if not self.averaged or (self._powers and len(self._powers[0]) != len(spectrum.power)):
            self._powers = []
        self._powers = [*self._powers[-(_MEAN_OF - 1) :], spectrum.power]
        power = np.mean(self._powers, axis=0) if self.averaged else spectrum.power
        # A line's power lies in the bins of its lobe: at its top their sum, which is what a meter would read of it;
        # elsewhere what a line there would be that has so much in its highest bin.
        lobe = math.ceil(spectrum.half_lobe_bins)
        along = np.concatenate((np.zeros(lobe + 1), np.cumsum(power), np.full(lobe, np.sum(power))))
        sums = along[2 * lobe + 1 :] - along[: -(2 * lobe + 1)]
        padded = np.pad(power, lobe, constant_values=0.0)
        tops = power >= np.lib.stride_tricks.sliding_window_view(padded, 2 * lobe + 1).max(axis=1)
        lines = np.where(tops, sums, power * _LINE_OVER_BIN)
        decibels = np.clip(10.0 * np.log10(np.maximum(lines, 1e-30)), LOWEST_DB, HIGHEST_DB)
        first = max(1, math.ceil(_LOWEST_HZ / spectrum.bin_hz))
        edges = np.unique(np.geomspace(first, len(decibels), _COLUMNS).astype(np.int64))
        highest = np.maximum.reduceat(decibels, edges[:-1])
        # Each column at its highest bin, so that no line is lost and each stands at its own frequency.
        places = np.array([a + int(np.argmax(decibels[a:b])) for a, b in itertools.pairwise(edges)])
        return Series("output", places * spectrum.bin_hz, highest, "ink", "dB re 1 V")


def told_of(capture: Capture) -> str:
    """Level, frequency and distortion of a record, in words; what it is where no tone stands in it."""
    try:
        figures = analyse_capture(capture, "tone", Options()).channels[0]
    except CaptureError as error:
        return f"No tone: {error}."
    parts = [f"{label_of(name)} {value_words(figures[name])}" for name in _TOLD if name in figures]
    # Less than half of the power in its strongest line is noise, which has a strongest line as well.
    if "sinad_db" not in figures or figures["sinad_db"].value < 0.0:
        return f"No tone stands out of it; {value_words(figures['rms_ac'])} in all."
    return ", ".join(parts)
