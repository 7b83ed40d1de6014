"""A test that is one sheet: asks reading by reading, shows them beside what is expected, and says what follows."""

from collections.abc import Callable

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.bench import gain, rails
from plinth.bench.every_sheet import SheetKind
from plinth.bench.hookup import hookup
from plinth.bench.sheet import Readings
from plinth.bench.test_conditions import load_warning
from plinth.builds.instruments import Role
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.measure.rail_loads_row import RailLoadsRow
from plinth.desk.measure.reading_field import ReadingField
from plinth.desk.measure.sheet_body import SheetBody
from plinth.desk.measure.stop_watch import StopWatch
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.record.request import Request
from plinth.session.procedure.sheet_test import COMPUTING, SheetListener, SheetProcedure
from plinth.session.procedure.taking import Taken


class SheetTest(TestPage):
    """One sheet. It is computed off this thread when the page is first shown for a build."""

    def __init__(self, session: BenchSession, kind: SheetKind) -> None:
        super().__init__()
        self._session, self.kind = session, kind
        self.procedure = SheetProcedure(
            session, kind,
            SheetListener(
                shown=self._show, written=self._written,
                failed=lambda error: session.jobs.failed.emit(f"sheet {kind.key}", error),
            ),
        )  # fmt: skip
        self._keeping = False
        self.title, self.aim = label(kind.name, "title"), label("", "soft", wrap=True)
        self.prompt, self.how = label("", "ask", wrap=True), label("", "soft", wrap=True)
        self.caution = label("", "caution", wrap=True)
        self.reading = ReadingField(f"Reading, {kind.name}", "Keep, next  ⏎")
        self.reading.typed.connect(self._say)
        self.reading.entered.connect(self.keep)
        self.reading.answered.connect(self.answer)
        self.field, self.keep_button = self.reading.field, self.reading.keep_button
        self.understood, self.against = self.reading.understood, self.reading.against
        self._unkept = UnkeptText(self.field)
        self._body = SheetBody()
        self.table, self.outcomes, self.graph = self._body.table, self._body.outcomes, self._body.graph
        self.table.chosen.connect(self.choose)
        self.stop_watch = StopWatch()
        self.stop_watch.stopped.connect(self._take_seconds)
        self.helper = button("Gain resistor …", "flat")
        self.helper.clicked.connect(self.help_with_gain)
        # The plan changes with the list, and with it the sheet.
        self.rail_loads = RailLoadsRow(session) if kind.key == rails.TEST else None
        self._lay_out()
        session.records_changed.connect(self._if_shown)
        session.plan_changed.connect(self._if_plan_changed)
        look.follow(self._fit)
        self._fit()

    def _lay_out(self) -> None:
        self.reading.below.insertWidget(2, self.stop_watch)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.helper)
        box = column(spacing=5)
        box.addLayout(head)
        for widget in (self.aim, self.prompt, self.how, self.caution, self.reading):
            box.addWidget(widget)
        box.addWidget(self._body, 1)
        if self.rail_loads is not None:
            box.addWidget(self.rail_loads)
        self.setLayout(box)
        self.helper.setVisible(self.kind.key == gain.TEST)
        self.stop_watch.hide()

    def help_with_gain(self) -> None:
        """The resistor for another gain."""
        from plinth.desk.measure.gain_dialog import GainDialog

        prediction = self._session.predictions.prediction
        if prediction is not None:
            GainDialog(self, self._session.build, prediction["clip_v_rms"].value).exec()

    def _fit(self) -> None:
        self._body.fit()
        self._show()

    # What is current

    def show_channel(self, channel: str) -> None:
        """Go to a channel; its sheet is made when somebody looks."""
        self.procedure.channel.take(channel)
        if self.isVisible():
            self.procedure.make()
        self.changed.emit()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.procedure.make()

    def _if_shown(self) -> None:
        # Of what it keeps itself it is shown once, when the next reading is current.
        if self.isVisible() and not self._keeping:
            self._show()

    def _if_plan_changed(self) -> None:
        if self.isVisible():
            self.procedure.make()

    @property
    def asked(self) -> tuple[Request, ...]:
        """What the sheet asks for."""
        return self.procedure.asked

    @property
    def readings(self) -> Readings:
        """The readings that count."""
        return self.procedure.readings

    @property
    def choices(self) -> list[QWidget]:
        """The buttons of the question, empty while nothing is asked."""
        return self.reading.choices

    def choose(self, place: int) -> None:
        """Go to what is asked."""
        self.procedure.choose(place)
        self.field.setFocus()

    # What the Measure page asks

    @property
    def under_way(self) -> SheetProcedure:
        """The sheet under way."""
        return self.procedure

    @property
    def cautioned(self) -> str:
        return self.caution.text()

    @property
    def subject(self) -> str:
        """What is asked for, as records have it."""
        return self.procedure.subject

    def counts(self) -> tuple[int, int]:
        """(readings kept, readings asked for); (so many, 0) before the sheet was made."""
        return self.procedure.counts()

    def needed(self, channel: str) -> tuple[str, ...]:
        """Every channel whose first power must be done for the current reading."""
        return self.procedure.needed(channel)

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        self.procedure.blocked = why
        self.reading.block(why)
        if self.rail_loads is not None:
            self.rail_loads.hold(bool(why))

    def set_up(self, channel: str) -> SetUpShown | None:
        """As the sheet says; None while it is computed."""
        sheet = self.procedure.sheet
        if sheet is None:
            return None
        drawn = hookup(self.kind.key, self._session.build, channel)
        load = f"{load_warning(self._session.build)}{sheet.load}"
        return SetUpShown(sheet.settings, load, sheet.wired, sheet.listing, sheet.caution, drawn)

    # Shown

    def _show(self) -> None:
        test = self.procedure
        if self.rail_loads is not None:
            self.rail_loads.show_list()
        if test.sheet is None:
            self.title.setText(self.kind.name)
            self.understood.setText(test.words)
            self.changed.emit()
            return
        test.look_up()
        self.title.setText(test.sheet.title)
        self.aim.setText(test.sheet.aim)
        self.table.show_asked(
            test.asked, [test.last(asked) for asked in test.asked], [test.why_stale(asked) for asked in test.asked],
            test.row,
        )  # fmt: skip
        self.outcomes.show_outcomes(test.outcomes())
        self.graph.show_graph(test.graph())
        asked = test.request
        if asked is not None:
            self.prompt.setText(asked.title)
            self.how.setText(f"{asked.ask}{' May be left out.' if asked.optional else ''}")
            self.field.setPlaceholderText(asked.example)
            self._unkept.at((self._session.stored.id, asked.subject))
        self.caution.setText("" if asked is None else asked.caution)
        self.caution.setVisible(bool(self.caution.text()))
        self._show_watch()
        self._say()
        self.changed.emit()

    def _show_watch(self) -> None:
        asked = self.procedure.request
        wanted = asked is not None and asked.role is Role.STOP_WATCH
        if not wanted:
            self.stop_watch.reset()
        self.stop_watch.setVisible(wanted and not self.procedure.blocked)

    def _take_seconds(self, seconds: float) -> None:
        self.field.setText(f"{seconds:.2f}")
        self.field.setFocus()

    # The reading

    def _say(self) -> None:
        if self.procedure.request is not None:
            self.reading.show_said(self.procedure.said(self.field.text()))

    def keep(self) -> None:
        """Keep what is typed and go on; with nothing typed, leave it and go on."""
        self._follow_up(self.procedure.take)

    def answer(self, choice: int) -> None:
        """Answer the question by the choice of that place, and keep the reading."""
        self._follow_up(lambda text: self.procedure.answer(text, choice))

    def _written(self) -> None:
        self.field.clear()

    def _follow_up(self, give: Callable[[str], Taken]) -> None:
        self._keeping = True
        taken = give(self.field.text())
        self._keeping = False
        if taken is Taken.NOTHING:
            self.field.setFocus()
        elif taken is Taken.HELD and not self.procedure.is_current and not self.procedure.blocked:
            self.understood.setText(COMPUTING)
        self.reading.follow_up(taken)
