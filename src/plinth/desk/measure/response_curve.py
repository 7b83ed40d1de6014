"""The frequency response test: step the generator, type each output, see it drawn relative to 1 kHz."""

from collections.abc import Callable

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit

from plinth.bench import frequency_response as response
from plinth.bench.hookup import hookup
from plinth.bench.response_curves import VIEW_HZ
from plinth.desk.choice_row import ChoiceRow
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.measure.points_table import PointsTable
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.session.procedure.response_test import AS_IT_IS, ResponseListener, ResponseProcedure
from plinth.session.procedure.taking import Taken, sentence
from plinth.units.errors import QuantityError
from plinth.units.frequency import hertz_as_set
from plinth.units.shown import shown


class ResponseTest(TestPage):
    """Points over frequency, one of them current."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.procedure = ResponseProcedure(session, ResponseListener(shown=self.refresh, written=self._written))
        self.plot = Plot("Response, re 1 kHz", "f", "Hz", log_x=True)
        self.plot.aside.setText("dB over Hz")
        self.summary, self.prompt = label("", "name", wrap=True), label("", "ask")
        self.table = PointsTable()
        self.table.currentCellChanged.connect(lambda row, *_rest: self._row_chosen(row))
        self.field = _named_field("Output at this frequency", "2.83", self.keep)
        self.field.setProperty("role", "reading")
        self.field.textChanged.connect(self._say)
        self._unkept = UnkeptText(self.field)
        self.mark, self.understood = StateMark(), label("", "soft", wrap=True)
        self.keep_button = button("Keep, next  ⏎", "main")
        self.keep_button.clicked.connect(self.keep)
        self.own = _named_field("Another frequency", "25 kHz", self.add_frequency)
        self.runs = ChoiceRow("Run", "One run of points")
        self.runs.chosen.connect(lambda words: self.show_run("" if words == AS_IT_IS else words))
        self.run_field = _named_field("Name of another run", "tone at zero", self.add_run)
        self._unkept_names = UnkeptText(self.own, self.run_field)
        self.band_field = _named_field("Band in which flatness is told", "", self.take_band)
        self.band_field.setText("20 Hz to 20 kHz")
        self._lay_out()
        session.records_changed.connect(self._if_shown)
        session.plan_changed.connect(self._if_shown)
        look.follow(self._fit)
        self._fit()

    def _lay_out(self) -> None:
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
        further = QHBoxLayout()
        further.addWidget(self.prompt, 1)
        further.addWidget(label("Another frequency  ⏎", "soft"))
        further.addWidget(self.own)
        runs = QHBoxLayout()
        for beside in (self.runs, label("Another run  ⏎", "soft"), self.run_field, label("Flat in  ⏎", "soft")):
            runs.addWidget(beside)
        runs.addWidget(self.band_field)
        runs.addStretch()
        box = column(spacing=8)
        for row in (further, runs, ask):
            box.addLayout(row)
        box.addLayout(body, 1)
        box.addWidget(self.summary)
        self.setLayout(box)

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(190))
        for field in (self.own, self.run_field, self.band_field):
            field.setFixedWidth(look.column(150))
            field.setCursorPosition(0)
        self.table.fit()
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def _if_shown(self) -> None:
        # What nobody sees need not be drawn anew: by a slider that is dragged in Plan, or a step of first power.
        if self.isVisible():
            self.refresh()

    # What the Measure page asks

    def show_channel(self, channel: str) -> None:
        """Go to a channel, at its first frequency without a reading."""
        self.procedure.show_channel(channel)

    @property
    def subject(self) -> str:
        """The current point, as records have it."""
        return self.procedure.subject

    @property
    def under_way(self) -> ResponseProcedure:
        """The response under way."""
        return self.procedure

    def counts(self) -> tuple[int, int]:
        """(points kept, points)."""
        return self.procedure.counts()

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        self.procedure.blocked = why
        self.field.setEnabled(not why)
        self.keep_button.setEnabled(not why)

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

    # Points and runs

    @property
    def f_hz(self) -> float:
        """The current frequency."""
        return self.procedure.f_hz

    @property
    def frequencies(self) -> tuple[float, ...]:
        """All points of this channel, rising."""
        return self.procedure.frequencies

    def show_run(self, run: str) -> None:
        """Go to a run; empty: the plain one."""
        self.procedure.show_run(run)
        self.field.setFocus()

    def add_run(self) -> None:
        """Begin a run of one's own, under the name typed; nonsense is explained and stays."""
        if self._taken(self.procedure.add_run, self.run_field):
            self.run_field.clear()
            self.field.setFocus()

    def take_band(self) -> None:
        """Tell flatness in the band typed; nonsense is explained and stays."""
        self._taken(self.procedure.take_band, self.band_field)

    def add_frequency(self) -> None:
        """Add a point of one's own and go to it; nonsense is explained and stays."""
        if self._taken(self.procedure.add_frequency, self.own):
            self.own.clear()
            self.field.setFocus()

    def _taken(self, take: Callable[[str], None], field: QLineEdit) -> bool:
        try:
            take(field.text())
        except QuantityError as error:
            self.understood.setText(sentence(error))
            return False
        return True

    def _row_chosen(self, row: int) -> None:
        if row >= 0:
            self.procedure.choose(row)

    def refresh(self) -> None:
        """Draw what is kept over what is predicted."""
        test = self.procedure
        test.look_up()
        self._unkept.at((*test.place, test.run, test.f_hz))
        self._unkept_names.at(self._session.stored.id)
        self.runs.set_choices((AS_IT_IS, *test.run_names), test.run or AS_IT_IS)
        self.table.show_points(test, self._session.build)
        self.summary.setText(test.measured().sentence)
        run = f", {test.run}" if test.run else ""
        self.prompt.setText(f"Output at {hertz_as_set(test.f_hz)}, {test.channel.name}{run}")
        drawn = test.curves()
        self.plot.set_series(drawn.curves)
        self.plot.set_view(VIEW_HZ, (drawn.least_db, drawn.most_db))
        self._say()
        self.changed.emit()

    # The reading

    def _say(self) -> None:
        said = self.procedure.said(self.field.text())
        self.mark.set_state(said.state)
        self.understood.setText(said.words)

    def _written(self) -> None:
        self.field.clear()

    def keep(self) -> None:
        """Keep the point and go to the next frequency."""
        taken = self.procedure.take(self.field.text())
        if taken is Taken.NOT_UNDERSTOOD:
            self._say()
        elif taken is Taken.KEPT:
            self.field.setFocus()


def _named_field(name: str, example: str, entered: Callable[[], None]) -> QLineEdit:
    field = QLineEdit()
    field.setAccessibleName(name)
    field.setPlaceholderText(example)
    field.returnPressed.connect(entered)
    return field
