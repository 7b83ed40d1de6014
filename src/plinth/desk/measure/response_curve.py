"""The frequency response test: step the generator, type each output, see it drawn relative to 1 kHz."""

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
)

from plinth.bench import frequency_response as response
from plinth.bench.hookup import hookup
from plinth.builds.modules import ClassDModule
from plinth.desk.channels import ChannelInHand
from plinth.desk.choice_row import ChoiceRow
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.drawing.series import Series
from plinth.judge.state import State
from plinth.record.clock import now
from plinth.record.reading import Reading
from plinth.record.subject import Kind, read_subject
from plinth.units.errors import QuantityError
from plinth.units.level import read_level
from plinth.units.shown import shown
from plinth.units.typed import read_quantity

AS_IT_IS = "As it is"
ORDER = (response.REFERENCE_HZ, *(f for f in response.FREQUENCIES_HZ if f != response.REFERENCE_HZ))


class ResponseTest(TestPage):
    """Points over frequency, one in hand."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._in_hand = ChannelInHand(session)
        self.f_hz = ORDER[0]
        # By build: what one was begun for is no point of another.
        self._asked: dict[int, set[float]] = {}
        self.run, self._named_runs = "", dict[tuple[int, str], list[str]]()
        self.band = response.AUDIBLE_HZ
        self.blocked = ""
        self.plot = Plot("Response, re 1 kHz", "f", "Hz", log_x=True)
        self.summary = label("", "name", wrap=True)
        self.table = QTableWidget(len(response.FREQUENCIES_HZ), 4)
        self.table.setAccessibleName("Points")
        self.table.setHorizontalHeaderLabels(["Hz", "Read", "dB", "Pred."])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setShowGrid(False)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.table.currentCellChanged.connect(lambda row, *_rest: self._row_chosen(row))
        self.prompt = label("", "ask")
        self.field = QLineEdit()
        self.field.setProperty("role", "reading")
        self.field.setPlaceholderText("2.83")
        self.field.setAccessibleName("Output at this frequency")
        self.field.textChanged.connect(self._understand)
        self.field.returnPressed.connect(self.keep)
        self._unkept = UnkeptText(self.field)
        self.mark, self.understood = StateMark(), label("", "soft", wrap=True)
        self.keep_button = button("Keep, next  ⏎", "main")
        self.keep_button.clicked.connect(self.keep)
        ask = QHBoxLayout()
        ask.setSpacing(14)
        for widget in (self.field, self.mark):
            ask.addWidget(widget)
        ask.addWidget(self.understood, 1)
        ask.addWidget(self.keep_button)
        body = QHBoxLayout()
        body.setSpacing(14)
        body.addWidget(self.plot, 3)
        body.addWidget(self.table, 2)
        self.own = QLineEdit()
        self.own.setPlaceholderText("25 kHz")
        self.own.setAccessibleName("Another frequency")
        self.own.returnPressed.connect(self.add_frequency)
        further = QHBoxLayout()
        further.addWidget(self.prompt, 1)
        further.addWidget(label("Another frequency  ⏎", "soft"))
        further.addWidget(self.own)
        self.runs = ChoiceRow("Run", "One run of points")
        self.runs.chosen.connect(lambda words: self.show_run("" if words == AS_IT_IS else words))
        self.run_field = QLineEdit()
        self.run_field.setPlaceholderText("controls at zero")
        self.run_field.setAccessibleName("Name of another run")
        self.run_field.returnPressed.connect(self.add_run)
        self._unkept_names = UnkeptText(self.own, self.run_field)
        self.band_field = QLineEdit("20 Hz to 20 kHz")
        self.band_field.setAccessibleName("Band in which flatness is told")
        self.band_field.returnPressed.connect(self.take_band)
        runs = QHBoxLayout()
        for beside in (self.runs, label("Another run  ⏎", "soft"), self.run_field, label("Flat in  ⏎", "soft")):
            runs.addWidget(beside)
        runs.addWidget(self.band_field)
        runs.addStretch()
        box = column(spacing=8)
        box.addLayout(further)
        box.addLayout(runs)
        box.addLayout(ask)
        box.addLayout(body, 1)
        box.addWidget(self.summary)
        self.setLayout(box)
        session.records_changed.connect(self._if_shown)
        session.plan_changed.connect(self._if_shown)
        look.follow(self._fit)
        self._fit()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(190))
        for field in (self.own, self.run_field, self.band_field):
            field.setFixedWidth(look.column(150))
            field.setCursorPosition(0)
        row = look.px(24)
        for r in range(self.table.rowCount()):
            self.table.setRowHeight(r, row)
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def _if_shown(self) -> None:
        # What nobody sees need not be drawn anew: by a slider that is dragged in Plan, or a step of first power.
        if self.isVisible():
            self.refresh()

    def show_channel(self, channel: str) -> None:
        """Take a channel in hand, at its first frequency without a reading."""
        self._in_hand.take(channel)
        self.f_hz = self._next()
        self.refresh()

    def set_up(self, channel: str) -> SetUpShown:
        """One level for all points, that keeps the load cool."""
        load = self._session.build.load
        given = response.set_up(self._session.build, load)
        return SetUpShown(
            (
                ("Generator, all points", f"{shown(given.v_in_rms, 'V')} rms"),
                ("Begin with", "1 kHz"),
                ("Then", "10 Hz to 50 kHz"),
            ),
            f"{shown(given.v_out_rms, 'V')} rms into {load.r_ohm:g} Ω: {shown(given.power_w, 'W', 2)}, "
            "so it stays cool.",
            f"Generator to {channel} in, one level for all points. Meter (true rms, good to 50 kHz) or scope "
            f"across the load of {load.r_ohm:g} Ω.",
            sketch=hookup("response", self._session.build, channel),
        )

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        self.blocked = why
        self.field.setEnabled(not why)
        self.keep_button.setEnabled(not why)

    @property
    def _here(self) -> tuple[int, str]:
        """Build and channel in hand."""
        return self._session.stored.id, self._in_hand.name

    @property
    def frequencies(self) -> tuple[float, ...]:
        """All points of this channel, rising: the usual ones, those that were read, those just asked for."""
        read = [f_hz for f_hz, run in self._points_of(self._in_hand.name) if run == self.run]
        return tuple(sorted({*response.FREQUENCIES_HZ, *self._asked.get(self._session.stored.id, ()), *read}))

    def _points_of(self, channel: str) -> list[tuple[float, str]]:
        """Frequency and run of all points of a channel that were ever read."""
        about = [read_subject(one) for one in self._session.records]
        key = self._session.build.key_of(channel)
        return [response.read_what(one.what) for one in about if (one.kind, one.channel) == (Kind.RESPONSE, key)]

    def run_names(self) -> tuple[str, ...]:
        """The runs of this channel that have a name, in the order they came."""
        read = [run for _, run in self._points_of(self._in_hand.name) if run]
        return tuple(dict.fromkeys([*read, *self._named_runs.get(self._here, ())]))

    def show_run(self, run: str) -> None:
        """Take a run in hand; empty: the plain one."""
        self.run = run
        self.f_hz = self._next()
        self.refresh()
        self.field.setFocus()

    def add_run(self) -> None:
        """Begin a run of one's own, under the name typed; nonsense is explained and stays."""
        try:
            name = response.run_name(self.run_field.text())
        except QuantityError as error:
            self.understood.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self.run_field.clear()
        self._named_runs.setdefault(self._here, []).append(name)
        self.show_run(name)

    def take_band(self) -> None:
        """Tell flatness in the band typed; nonsense is explained and stays."""
        try:
            self.band = response.read_band(self.band_field.text())
        except QuantityError as error:
            self.understood.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self.refresh()

    def add_frequency(self) -> None:
        """A point of one's own, taken in hand at once; nonsense is explained and stays."""
        try:
            f_hz = read_quantity(self.own.text(), "Hz")
            if not response.LEAST_HZ <= f_hz <= response.MOST_HZ:
                raise QuantityError(
                    f"found {shown(f_hz, 'Hz')}, expected {shown(response.LEAST_HZ, 'Hz', 2)} to "
                    f"{shown(response.MOST_HZ, 'Hz', 2)}"
                )
        except QuantityError as error:
            self.understood.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self._asked.setdefault(self._session.stored.id, set()).add(f_hz)
        self.own.clear()
        self.f_hz = f_hz
        self.refresh()
        self.field.setFocus()

    def volts(self) -> dict[float, float]:
        """Kept points of this channel in the run in hand: volts RMS by frequency."""
        return self._volts_of(self._in_hand.name, self.run)

    def _volts_of(self, channel: str, run: str) -> dict[float, float]:
        return {f: reading.value for f, reading in self._readings_of(channel, run).items()}

    def _of_run(self, value: Callable[[Reading], float]) -> dict[float, float]:
        held = self._readings_of(self._in_hand.name, self.run)
        return {f: value(reading) for f, reading in held.items()}

    def _readings_of(self, channel: str, run: str) -> dict[float, Reading]:
        found = {}
        for f, of_run in self._points_of(channel):
            reading = self._reading(channel, f, run) if of_run == run else None
            if reading is not None and not reading.bound.one_sided:
                found[f] = reading
        return found

    def _reading(self, channel: str, f_hz: float, run: str) -> Reading | None:
        build = self._session.build
        return self._session.reading(response.subject(build, channel, f_hz, run), response.conditions_of(build))

    def _other_runs(self) -> list[Series]:
        """What was read besides: other runs of this channel, and the plain run of the others."""
        others = [(self._in_hand.name, run) for run in ("", *self.run_names()) if run != self.run]
        others += [(name, "") for name in self._session.build.channels if name != self._in_hand.name]
        found = []
        for channel, run in others:
            points = response.evaluate(self._volts_of(channel, run)).points
            if points:
                words = run or (AS_IT_IS.lower() if channel == self._in_hand.name else channel)
                f_hz, db = np.array([p.f_hz for p in points]), np.array([p.db for p in points])
                found.append(Series(words, f_hz, db, "ink2", "dB", words, "start"))
        return found

    def counts(self) -> tuple[int, int]:
        """(points kept, points)."""
        return len(self.volts()), len(self.frequencies)

    @property
    def subject(self) -> str:
        """The point in hand, as records have it."""
        return response.subject(self._session.build, self._in_hand.name, self.f_hz, self.run)

    def _next(self) -> float:
        have = self.volts()
        order = (*ORDER, *(f for f in self.frequencies if f not in ORDER))
        return next((f for f in order if f not in have), ORDER[0])

    def refresh(self) -> None:
        """Draw what is kept over what is predicted."""
        if self.run not in ("", *self.run_names()):
            self.run = ""
        if self.f_hz not in self.frequencies:
            self.f_hz = self._next()
        self._unkept.at((*self._here, self.run, self.f_hz))
        self._unkept_names.at(self._session.stored.id)
        build, volts = self._session.build, self.volts()
        measured = response.evaluate(
            volts, self.band, self._session.kit.meter.bandwidth_hz, self._of_run(response.u_of)
        )
        self.runs.set_choices((AS_IT_IS, *self.run_names()), self.run or AS_IT_IS)
        db = {p.f_hz: p.db for p in measured.points}
        self.table.blockSignals(True)
        if self.table.rowCount() != len(self.frequencies):
            self.table.setRowCount(len(self.frequencies))
            for r in range(len(self.frequencies)):
                self.table.setRowHeight(r, look.px(24))
        for r, f in enumerate(self.frequencies):
            low, high = response.predicted_band_db(build, f)
            predicted = response.decibel_words(response.predicted_db(build, f))
            cells = (
                _hertz(f),
                shown(volts[f], "V") if f in volts else "–",
                response.decibel_words(db[f]) if f in db else "–",
                predicted,
            )
            for c, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(f"Predicted {response.decibel_words(low)} to {response.decibel_words(high)} dB")
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(r, c, item)
        self.table.setCurrentCell(self.frequencies.index(self.f_hz), 0)
        self.table.blockSignals(False)
        self.summary.setText(measured.sentence)
        run = f", {self.run}" if self.run else ""
        self.prompt.setText(f"Output at {_hertz(self.f_hz)}Hz, {self._in_hand.name}{run}")
        grid = np.geomspace(response.FREQUENCIES_HZ[0], response.FREQUENCIES_HZ[-1], 90)
        bands = np.array([response.predicted_band_db(build, float(f)) for f in grid])
        middle, half = bands.mean(axis=1), (bands[:, 1] - bands[:, 0]) / 2 + 0.02
        series = [Series("predicted", grid, middle, "pred", "dB", "predicted", "below", half)]
        if isinstance(build.module, ClassDModule):
            alone = np.array([response.predicted_db(build, float(f), math.inf) for f in grid])
            series.append(Series("without load", grid, np.minimum(alone, 12.0), "zero", "dB", "without load", "above"))
        series += self._other_runs()
        if measured.points:
            f_hz = np.array([p.f_hz for p in measured.points])
            series.append(Series("read", f_hz, np.array([p.db for p in measured.points]), "ink", "dB", discs=True))
        for f in (one.f_hz for one in measured.minus_3_db):
            at, side = np.array([f, f * 1.0001]), "right" if f < 200.0 else "below"
            words = f"−3 dB, {_hertz(float(f'{f:.2g}'))}Hz"
            series.append(Series("−3 dB", at, np.array([-3.0, -3.0]), "ink", "dB", words, side))
        crossing = np.array([grid[0], grid[-1]])
        series.append(Series("−3 dB", crossing, np.array([-3.0, -3.0]), "zero", "dB"))
        self.plot.set_series(series)
        lowest = min([-6.0, *(p.db for p in measured.points)])
        highest = max([2.0, *(p.db + 1.0 for p in measured.points), *(float(np.max(one.y)) for one in series[1:])])
        self.plot.set_view((8.0, 65e3), (lowest - 1.0, min(highest, 13.0)))
        self.plot.aside.setText("dB over Hz")
        self._understand()
        self.changed.emit()

    def _row_chosen(self, row: int) -> None:
        if row >= 0:
            self.f_hz = self.frequencies[row]
            self.refresh()

    def _understand(self) -> None:
        text = self.field.text().strip()
        kept = self._reading(self._in_hand.name, self.f_hz, self.run)
        if not text:
            self.mark.set_state(kept.state if kept else State.UNKNOWN)
            self.understood.setText(
                f"Kept: {response.sentence_of(kept)}" if kept else "Volts as the meter says; a bare number is rms."
            )
            return
        try:
            reading = response.reading_for_point(
                self._session.build, self._in_hand.name, self.f_hz, read_level(text),
                self.volts().get(response.REFERENCE_HZ), self._session.kit, now(), self.run,
            )  # fmt: skip
        except QuantityError as error:
            self.mark.set_state(State.UNKNOWN)
            self.understood.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self.mark.set_state(reading.state)
        self.understood.setText(f"{shown(reading.value, 'V')} rms. {response.sentence_of(reading)}")

    def keep(self) -> None:
        """Keep the point and go to the next frequency."""
        if self.blocked:
            return
        try:
            reading = response.reading_for_point(
                self._session.build, self._in_hand.name, self.f_hz, read_level(self.field.text()),
                self.volts().get(response.REFERENCE_HZ), self._session.kit, now(), self.run,
            )  # fmt: skip
        except QuantityError as error:
            self.understood.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        if self._session.keep(reading):
            self.field.clear()
            self.f_hz = self._next()
            self.refresh()
            self.field.setFocus()


def _hertz(f_hz: float) -> str:
    return f"{f_hz / 1e3:g} k" if f_hz >= 1e3 else f"{f_hz:g} "
