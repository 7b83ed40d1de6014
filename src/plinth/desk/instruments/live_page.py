"""The live page: what the instruments read now, over the last minutes, each in its expected band."""

import math
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QCheckBox, QFileDialog, QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QWidget

from plinth.desk.instruments.live_dialog import LiveDialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.session import BenchSession
from plinth.judge.state import State
from plinth.report.csv_table import csv_text
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.session.instruments.live import LiveReader, LiveValue, Sample, live_values

# Seconds across.
ACROSS_S = 120.0


class Strip(QWidget):
    """The course of one value over the last minutes, in its band."""

    def __init__(self, value: LiveValue) -> None:
        super().__init__()
        self._value = value
        self.course: tuple[Sample, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(f"{value.title} over the last minutes")

    def sizeHint(self) -> QSize:
        return QSize(look.px(300), look.px(84))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(160), look.px(60))

    def show_course(self, course: tuple[Sample, ...]) -> None:
        """Show another course."""
        self.course = course
        self.update()

    def ends(self) -> tuple[float, float]:
        """What stands at the bottom and at the top: all of the course, and of the band what is near it."""
        values = [value for _, value in self.course] or [0.0]
        low, high = min(values), max(values)
        span = max(high - low, 0.02 * max(abs(low), abs(high)), 1e-6)
        for edge in (self._value.low, self._value.high):
            if edge is not None and low - 4.0 * span <= edge <= high + 4.0 * span:
                low, high = min(low, edge), max(high, edge)
        room = 0.15 * max(high - low, span)
        return low - room, high + room

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.fillRect(box, look.token("sunk"))
        bottom, top = self.ends()

        def y_of(value: float) -> float:
            return float(box.bottom() - (value - bottom) / (top - bottom) * box.height())

        low = bottom if self._value.low is None else max(self._value.low, bottom)
        high = top if self._value.high is None else min(self._value.high, top)
        if (self._value.low, self._value.high) != (None, None) and low < high:
            painter.fillRect(
                QRectF(box.left(), y_of(high), box.width(), y_of(low) - y_of(high)), look.token("pred_fill")
            )
        painter.setPen(QPen(look.token("pred"), 1.5))
        for edge in (self._value.low, self._value.high):
            if edge is not None and bottom <= edge <= top:
                painter.drawLine(QPointF(box.left(), y_of(edge)), QPointF(box.right(), y_of(edge)))
        if self.course:
            self._draw_course(painter, box, bottom, top)
        painter.setPen(look.token("ink2"))
        painter.setFont(look.font(11))
        for words, flags in (
            (f"{top:.4g}", Qt.AlignmentFlag.AlignTop), (f"{bottom:.4g}", Qt.AlignmentFlag.AlignBottom),
        ):  # fmt: skip
            painter.drawText(box.adjusted(4, 1, -4, -1), flags | Qt.AlignmentFlag.AlignLeft, words)
        painter.end()

    def _draw_course(self, painter: QPainter, box: QRectF, bottom: float, top: float) -> None:
        end = self.course[-1][0]
        seen = [(t, value) for t, value in self.course if t >= end - ACROSS_S]
        points = QPolygonF(
            [
                QPointF(
                    box.right() - (end - t) / ACROSS_S * box.width(),
                    box.bottom() - (value - bottom) / (top - bottom) * box.height(),
                )
                for t, value in seen
            ]
        )
        ink: QColor = look.token("ink")
        painter.setPen(QPen(ink, 1.8))
        painter.drawPolyline(points)
        painter.setBrush(Qt.BrushStyle.NoBrush if self._value.reader.simulated else ink)
        painter.drawEllipse(points.last(), 3.5, 3.5)


class LivePage(LiveDialog):
    """Reads while it is open, beside whatever else goes on. ``spectrum_wanted``: that of the output is to be shown."""

    spectrum_wanted = Signal()
    _alarmed = Signal(str)

    def __init__(self, parent: QWidget, session: BenchSession, channel: str) -> None:
        super().__init__(parent, session)
        self.setWindowTitle("Live")
        look.size(self, 940, 660)
        prediction = session.predictions.prediction
        figures = {} if prediction is None else prediction.figures
        values = live_values(
            session.instruments.bench,
            session.build,
            figures,
            session.build.key_of(channel),
            session.build.supply.limit_a,
        )
        self._alarm_said = self._how_it_goes = ""
        self._alarmed.connect(self._alarm)
        self.reader = LiveReader(
            session.instruments.read_now,
            values,
            lambda value, reading: self._alarmed.emit(_alarm_words(value, reading)),
            armed=lambda: session.power.live is not None,
            mains_share=lambda: session.instruments.mains_share,
        )
        self.off = QCheckBox("Outputs off as soon as one leaves its band")
        self.save_button, self.close_button = button("Readings as CSV …", "flat"), button("Close  Esc")
        self.spectrum_button = button("Spectrum …  ⇧F8", "flat", tip="The live spectrum of the output")
        self.spectrum_button.clicked.connect(self.spectrum_wanted)
        self.save_button.clicked.connect(self.ask_csv)
        self.close_button.clicked.connect(self.close)
        simulated = session.instruments.bench.simulated
        head = QHBoxLayout()
        head.addWidget(label(f"Live, {channel}{': simulated' if simulated else ''}", "title"))
        head.addStretch()
        head.addWidget(self.off)
        grid = QGridLayout()
        grid.setSpacing(14)
        self.figures: dict[str, QLabel] = {}
        self.marks: dict[str, StateMark] = {}
        self.strips: dict[str, Strip] = {}
        for place, value in enumerate(values):
            figure, mark, strip = label("—", "figure"), StateMark(), Strip(value)
            self.figures[value.title], self.marks[value.title], self.strips[value.title] = figure, mark, strip
            row = QHBoxLayout()
            row.addWidget(mark)
            row.addWidget(figure)
            row.addStretch()
            band = f"expected {value.band_words}" if value.band_words else "no band is expected"
            words = label(f"{band}, {value.reader.name}", "small", wrap=True)
            cell = column(label(value.title, "name"), spacing=2)
            cell.addLayout(row)
            cell.addWidget(strip, 1)
            cell.addWidget(words)
            grid.addLayout(cell, place // 2, place % 2)
        box = column(spacing=10, margins=(18, 14, 18, 14))
        box.addLayout(head)
        box.addWidget(self.said)
        box.addLayout(grid, 1)
        if not values:
            box.addWidget(label("Nothing that is connected reads anything live: see Instruments (F9).", "caution"))
        foot = QHBoxLayout()
        foot.addWidget(self.close_button)
        foot.addWidget(self.save_button)
        foot.addWidget(self.spectrum_button)
        foot.addStretch()
        box.addLayout(foot)
        self.setLayout(box)
        self.reader.start()
        self._clock.start()

    def _is_on(self) -> bool:
        """Bands hold while power is on; a rail that was switched off leaves its own by right."""
        return self._session.power.live is not None

    def refresh(self) -> None:
        """Show what came since."""
        on, share = self._is_on(), self._session.instruments.mains_share
        for value in self.reader.values:
            course = self.reader.course(value.title)
            if not course:
                continue
            reading = course[-1][1]
            self.figures[value.title].setText(_figure_words(reading, value.unit))
            known = on and (value.low is not None or value.high is not None)
            inside = State.CLEAR if value.inside(reading, share) else State.OVER
            self.marks[value.title].set_state(inside if known else State.UNKNOWN)
            self.strips[value.title].show_course(course)
        self._say_how_it_goes()

    def _say_how_it_goes(self) -> None:
        """What alarmed stays said beside what became of the reading."""
        going = ""
        if self.reader.fault:
            going = f"It ended: {self.reader.fault}"
        elif self.reader.lost:
            going = f"A look failed, and it looks again: {self.reader.lost}"
        words = "\n".join(part for part in (self._alarm_said, going) if part)
        # What else was said, of a file not written say, stands until there is something new of this.
        if words != self._how_it_goes:
            self._how_it_goes = words
            self.said.setText(words)
            self.said.setVisible(bool(words))

    def _alarm(self, words: str) -> None:
        if self.off.isChecked():
            self._session.power.switch_off()
            self._session.instruments.make_safe()
            words = f"{words} Outputs were switched off."
        # Also where the same was said before, and something else since.
        self._alarm_said, self._how_it_goes = words, ""
        self._say_how_it_goes()

    def ask_csv(self) -> None:
        """Ask where to, and write everything that was read."""
        name, _ = QFileDialog.getSaveFileName(
            self, "Readings as CSV", proposed_name(f"{self._session.build.name} live", ".csv"), "CSV (*.csv)"
        )
        if name:
            self.save_csv(Path(name))

    def save_csv(self, path: Path) -> None:
        """A line for each reading: seconds, what, value, unit, who read it."""
        rows = [
            (f"{t:.3f}", value.title, f"{reading:.9g}", value.unit,
             f"{value.reader.title}{', simulated' if value.reader.simulated else ''}")
            for value in self.reader.values
            for t, reading in self.reader.course(value.title)
        ]  # fmt: skip
        try:
            write_whole(path, csv_text([("seconds", "what", "value", "unit", "read by"), *rows]))
        except OSError as error:
            self._say(not_written_words(path, error))

    def stop_reading(self) -> None:
        self.reader.stop()


def _figure_words(reading: float, unit: str) -> str:
    if not math.isfinite(reading):
        return "overload"
    if unit == "V" and abs(reading) < 0.9995:
        return f"{1e3 * reading:.1f} mV"
    digits = 3 if reading == 0.0 else max(0, 3 - int(np.floor(np.log10(abs(reading)))))
    # Nothing is ever a little less than nothing.
    return f"{round(reading, min(digits, 3)) + 0.0:.{min(digits, 3)}f} {unit}"


def _alarm_words(value: LiveValue, reading: float) -> str:
    return f"{value.title}: found {_figure_words(reading, value.unit)}, expected {value.band_words}."
