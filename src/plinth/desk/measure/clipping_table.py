"""The clipping test: a table of cells, one reading typed at a time, a question where it could mean two things."""

from collections.abc import Callable

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.bench import supply_draw
from plinth.bench.clip_cell import ClipCell, Definition
from plinth.builds.parts import Load
from plinth.desk.choice_row import ChoiceRow
from plinth.desk.labels import check, column, label
from plinth.desk.measure.clip_across import ClipAcross
from plinth.desk.measure.clip_matrix import ClipMatrix
from plinth.desk.measure.clip_set_up import clip_set_up
from plinth.desk.measure.draw_field import DrawField
from plinth.desk.measure.own_sources_row import OwnSourcesRow
from plinth.desk.measure.reading_field import ReadingField
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.predict.prediction import Prediction
from plinth.session.procedure.clip_test import SHORT, ClipListener, ClipProcedure
from plinth.session.procedure.taking import Taken

ALL = "All channels"
_NAMED: dict[str, Definition] = {words: definition for definition, words in SHORT.items()}


class ClipTest(TestPage):
    """Cells of channels and loads, one of them current."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.procedure = ClipProcedure(
            session,
            ClipListener(
                laid_out=self._lay_out_cells, shown=self._show_cells, written=self._written,
                failed=lambda error: session.jobs.failed.emit("clip", error),
                typing=lambda: bool(self.field.text().strip()),
            ),
        )  # fmt: skip
        self._keeping = False
        self.title = label("Clipping power, 1 kHz", "title")
        self.state = label("", "soft", wrap=True)
        self.who = ChoiceRow("", "Channels that play")
        self.who.chosen.connect(lambda words: self.show_driven("all" if words == ALL else "one"))
        self.what = ChoiceRow("", "What is called clipping")
        self.what.chosen.connect(lambda words: self.show_definition(_NAMED[words]))
        self.matrix = ClipMatrix()
        self.matrix.chosen.connect(self.choose)
        self.sources = OwnSourcesRow(session)
        self.sources.taken.connect(self._sources_taken)
        self.across = ClipAcross(self.procedure)
        self.fit, self.fit_button, self.plot = self.across.fit, self.across.fit_button, self.across.plot
        self.prompt = label("", "ask", wrap=True)
        self.reading = ReadingField("Clipping reading", "Keep, next cell  ⏎", "26.4pp", across=True)
        self.reading.typed.connect(self._say)
        self.reading.entered.connect(self.keep)
        self.reading.answered.connect(self.answer)
        self.field, self.keep_button = self.reading.field, self.reading.keep_button
        self.understood, self.against = self.reading.understood, self.reading.against
        self.draw = DrawField(lambda draw: self.procedure.draw_said(draw, self.field.text()))
        self.draw.entered.connect(self.keep)
        self._unkept = UnkeptText(self.field, self.draw.field)
        self._lay_out()
        # Only once it has its place: shown before, it would be a window of its own.
        self.what.set_choices(tuple(_NAMED), SHORT["onset"])
        session.records_changed.connect(self._if_shown)

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addStretch()
        head.addWidget(self.who)
        head.addWidget(self.what)
        box = column(spacing=8)
        box.addLayout(head)
        for widget in (self.prompt, self.reading, self.draw, self.state, self.matrix, self.sources, self.across):
            box.addWidget(widget)
        box.addStretch()
        self.setLayout(box)

    @property
    def choices(self) -> list[QWidget]:
        """The buttons of the question, empty while nothing is asked."""
        return self.reading.choices

    @property
    def cell(self) -> ClipCell | None:
        """The current cell."""
        return self.procedure.cell

    # Cells

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show_cells()

    def _if_shown(self) -> None:
        # Of what it keeps itself it is shown once, when the next cell is current.
        if self.isVisible() and not self._keeping:
            self._show_cells()

    def show_channel(self, channel: str) -> None:
        """Go to a channel; its cells are computed off this thread where they are not known yet."""
        self.procedure.show_channel(channel)

    def show_driven(self, driven: str) -> None:
        """Who plays: ``one`` or ``all``."""
        self.procedure.show_driven(driven)
        self.field.setFocus()

    def show_definition(self, definition: Definition) -> None:
        """What is called clipping; the powers at a distortion are computed when they are first asked for."""
        self.what.set_choices(tuple(_NAMED), SHORT[definition])
        self.procedure.show_definition(definition)
        self.field.setFocus()

    def choose(self, place: int) -> None:
        """Go to a cell."""
        self.procedure.choose(place)
        self.field.setFocus()

    def _lay_out_cells(self) -> None:
        test = self.procedure
        if not test.cells:
            self.matrix.empty()
            return
        alone = f"{test.channel.name.capitalize()} alone"
        choices = tuple(alone if driven == "one" else ALL for driven in test.who_plays)
        self.who.set_choices(choices, alone if test.driven == "one" else ALL)
        self.matrix.lay_out(test.cells, test.driven)

    def _show_cells(self) -> None:
        test = self.procedure
        cells, cell = test.cells, test.cell
        self.state.setText(test.words)
        self.sources.show_list()
        if cell is None:
            self.across.hide()
            self.changed.emit()
            return
        claims = [claim.power_w for claim in self._session.build.module.claims]
        maximum = max([each.power.high for each in cells] + claims)
        for place, (view, each) in enumerate(zip(self.matrix.views, cells, strict=True)):
            view.show_cell(each, test.kept(each), test.kept_draw(each), maximum, test.at_other_definitions(place))
            check(view, place == test.row)
        self.prompt.setText(f"Reading for {cell.label}")
        self._unkept.at((self._session.stored.id, cell.subject))
        self.across.show_all()
        test.records_changed()
        self.draw.show_example(supply_draw.request_for(cell).example)
        self.draw.show_said()
        self._say()
        self.changed.emit()

    def put_fit_in_plan(self) -> None:
        """State what fits all readings in the plan; cells are expected anew."""
        self.procedure.put_fit_in_plan()

    def _sources_taken(self) -> None:
        self.procedure.sources_changed()
        self.field.setFocus()

    # What the Measure page asks

    @property
    def subject(self) -> str:
        """The current cell, as records have it."""
        return self.procedure.subject

    @property
    def under_way(self) -> ClipProcedure:
        """The cells under way."""
        return self.procedure

    def counts(self) -> tuple[int, int]:
        """(cells with a reading, cells)."""
        return self.procedure.counts()

    def explained(self) -> tuple[Prediction | None, str]:
        """The power of the current cell."""
        return None if self.cell is None else self.cell.prediction, "clip_worst_power_w"

    def current_load(self) -> tuple[Load, float] | None:
        """The load of the current cell, with the most that it may get there."""
        return self.procedure.current_load()

    def needed(self, channel: str) -> tuple[str, ...]:
        """Every channel where all play."""
        return self.procedure.needed(channel)

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        self.procedure.blocked = why
        self.sources.hold(bool(why))
        self.reading.block(why)
        self.draw.setEnabled(not why)

    def set_up(self, channel: str) -> SetUpShown | None:
        """Generator, load and listing for the current cell; None while its prediction is computed."""
        cell, given = self.cell, self.procedure.set_up()
        if cell is None or given is None:
            return None
        return clip_set_up(self._session.build, cell, given, channel)

    # The reading

    def _say(self) -> None:
        # Of a level that is not typed any more no efficiency may stand.
        self.draw.show_said()
        self.reading.show_said(self.procedure.said(self.field.text()))

    def keep(self) -> None:
        """Keep what is typed, if it is understood; else the question stays."""
        self._follow_up(lambda text, draw: self.procedure.take(text, draw=draw))

    def answer(self, choice: int) -> None:
        """Answer the question by the choice of that place, and keep the reading."""
        self._follow_up(lambda text, draw: self.procedure.answer(text, choice, draw=draw))

    def _written(self, level: bool, draw: bool) -> None:
        if level:
            self.field.clear()
        if draw:
            self.draw.field.clear()

    def _follow_up(self, give: Callable[[str, str], Taken]) -> None:
        self._keeping = True
        taken = give(self.field.text(), self.draw.field.text())
        self._keeping = False
        self.reading.follow_up(taken)
        if taken in (Taken.FIRST_KEPT, Taken.SECOND_NOT_UNDERSTOOD):
            # It stays typed in the cell that it belongs to, and what stands against it has been said.
            self.draw.field.setFocus()
        if taken in (Taken.FIRST_KEPT, Taken.SECOND_KEPT):
            self._show_cells()
