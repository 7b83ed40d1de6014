"""A test that is one sheet: asks reading by reading, shows them beside what is expected, and says what follows."""

import time
from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QGridLayout, QHBoxLayout, QLineEdit, QScrollArea, QSizePolicy, QWidget

from plinth.bench import gain, heat_run
from plinth.bench.every_sheet import SheetKind, conditions_differ, read_by_test, readings_for
from plinth.bench.hookup import hookup
from plinth.bench.protection import STOP_WATCH
from plinth.bench.sheet import Asked, Readings, Sheet
from plinth.bench.typed_reading import Meaning, Understood, reading_of, sentence_of, taken_words, understand
from plinth.bench.under import load_warning
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.desk.channels import ChannelInHand
from plinth.desk.labels import button, column, label, put_away
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.measure.asked_table import AskedTable
from plinth.desk.measure.outcome_list import OutcomeList
from plinth.desk.measure.test_page import SetUpShown, TestPage
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.judge.state import State
from plinth.physics.numbers.errors import PhysicsError
from plinth.record.clock import now
from plinth.record.reading import Reading
from plinth.session.runner import words_of
from plinth.units.errors import QuantityError


class SheetTest(TestPage):
    """See the module. The sheet is computed off this thread when the page is first shown for a build."""

    def __init__(self, session: BenchSession, kind: SheetKind) -> None:
        super().__init__()
        self._session, self.kind = session, kind
        self._in_hand = ChannelInHand(session)
        self.sheet: Sheet | None = None
        self._made_for: tuple[str, Build, Situation] | None = None
        self._shown_for: tuple[str, Build, Situation] | None = None
        self.asked: tuple[Asked, ...] = ()
        self.readings: Readings = {}
        self.row = 0
        self.blocked, self._keeping = "", False
        self._understood: Understood | None = None
        self._choice_buttons: list[QWidget] = []
        self.title, self.aim = label("", "title"), label("", "soft", wrap=True)
        self.prompt, self.how = label("", "ask", wrap=True), label("", "soft", wrap=True)
        self.caution = label("", "caution", wrap=True)
        self.field = QLineEdit()
        self.field.setProperty("role", "reading")
        self.field.setAccessibleName(f"Reading, {kind.name}")
        self.field.textChanged.connect(self._understand)
        self.field.returnPressed.connect(self.keep)
        self._unkept = UnkeptText(self.field)
        self.keep_button = button("Keep, next  ⏎", "main")
        self.keep_button.clicked.connect(self.keep)
        self.mark, self.understood = StateMark(), label("", "name", wrap=True)
        self.against = label("", "soft", wrap=True)
        self._choices = QWidget()
        self._choice_grid = QGridLayout(self._choices)
        self._choice_grid.setContentsMargins(0, 2, 0, 0)
        self._choice_grid.setSpacing(4)
        self.table, self.outcomes = AskedTable(), OutcomeList()
        self.table.chosen.connect(self.choose)
        self.plot: Plot | None = None
        self._watch_begun: float | None = None
        self._watch = QTimer(self)
        self._watch.setInterval(100)
        self._watch.timeout.connect(self._show_watch)
        self.watch_button = button("", "flat", tip="Starts, and stops into the field (Ctrl+Space)")
        self.watch_button.clicked.connect(self.press_watch)
        self.watch_button.setShortcut("Ctrl+Space")
        self.helper = button("Gain resistor …", "flat")
        self.helper.clicked.connect(self.help_with_gain)
        self._lay_out()
        session.records_changed.connect(self._if_shown)
        session.plan_changed.connect(self._if_plan_changed)
        look.follow(self._fit)
        self._fit()

    def _lay_out(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.mark)
        top.addWidget(self.understood, 1)
        beside = column(spacing=2)
        beside.addLayout(top)
        beside.addWidget(self.against)
        beside.addWidget(self._choices)
        beside.addStretch()
        typed = column(self.field, self.keep_button, self.watch_button, spacing=6)
        typed.addStretch()
        ask = QHBoxLayout()
        ask.setSpacing(16)
        ask.addLayout(typed)
        ask.addLayout(beside, 1)
        self._side = column(spacing=8)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self.outcomes)
        area.setAccessibleName("What the readings say")
        self._side.addWidget(area, 1)
        self._body = body = QHBoxLayout()
        body.setSpacing(14)
        body.addWidget(self.table, 5)
        body.addLayout(self._side, 4)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.helper)
        box = column(spacing=5)
        box.addLayout(head)
        for widget in (self.aim, self.prompt, self.how, self.caution):
            box.addWidget(widget)
        box.addLayout(ask)
        box.addLayout(body, 1)
        self.setLayout(box)
        self.helper.setVisible(self.kind.key == gain.TEST)
        self.watch_button.hide()

    def help_with_gain(self) -> None:
        """The resistor for another gain."""
        from plinth.desk.measure.gain_dialog import GainDialog

        prediction = self._session.prediction
        if prediction is not None:
            GainDialog(self, self._session.build, prediction["clip_v_rms"].value).exec()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(220))
        self.table.setMinimumHeight(look.px(230))
        # At large text there is no room for both beside each other.
        large = look.scale >= 1.3
        self._body.setDirection(QBoxLayout.Direction.TopToBottom if large else QBoxLayout.Direction.LeftToRight)
        self.outcomes.setMinimumHeight(look.px(200) if large else 0)
        self._show()

    # What is in hand

    def show_channel(self, channel: str) -> None:
        """Take a channel in hand; its sheet is made when somebody looks."""
        self._in_hand.take(channel)
        if self.isVisible():
            self._make()
        self.changed.emit()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._make()

    def _if_shown(self) -> None:
        # Of what it keeps itself it is shown once, when the next reading is in hand.
        if self.isVisible() and not self._keeping:
            self._show()

    def _if_plan_changed(self) -> None:
        if self.isVisible():
            self._make()

    def _make(self) -> None:
        session, build, channel = self._session, self._session.build, self._in_hand.name
        if channel not in build.channels:
            return
        at = session.situation
        asked = Situation(
            mains_v_rms=at.mains_v_rms, mains_hz=at.mains_hz, battery_v=at.battery_v, source_v_rms=at.source_v_rms
        )
        wanted = (channel, build, asked)
        if self._made_for == wanted:
            self._show()
            return
        self._made_for = wanted
        if self.sheet is None:
            self.title.setText(self.kind.name)
            self.understood.setText("Computing what to expect …")
        make = self.kind.make
        session.jobs.ask(
            f"sheet {self.kind.key}",
            lambda _task: _sheet(make, build, channel, asked),
            lambda found: self._made(wanted, found),
            lambda error: self._failed(wanted, error),
        )

    def _failed(self, wanted: tuple[str, Build, Situation], error: Exception) -> None:
        self._made(wanted, words_of(error))
        self._session.jobs.failed.emit(f"sheet {self.kind.key}", error)

    def _made(self, wanted: tuple[str, Build, Situation], found: object) -> None:
        if wanted != self._made_for:
            return
        if isinstance(found, str):
            self.sheet, self.asked = None, ()
            self.title.setText(self.kind.name)
            self.understood.setText(found)
            self.changed.emit()
            return
        assert isinstance(found, Sheet)
        self.sheet = found
        self._readings_anew()
        # What was in hand stays in hand where the new sheet asks for it too.
        same = self._shown_for is not None and self._shown_for[0] == wanted[0]
        self._shown_for = wanted
        self.row = min(self.row, max(len(self.asked) - 1, 0)) if same else self._next_from(-1)
        self._show()

    def _readings_anew(self) -> None:
        assert self.sheet is not None
        self.readings = readings_for(self.sheet, self._session.records)
        self.asked = self.sheet.asked(self.readings)

    @property
    def in_hand(self) -> Asked | None:
        """What is asked for now."""
        return self.asked[self.row] if 0 <= self.row < len(self.asked) else None

    @property
    def subject(self) -> str:
        """What is asked for, as records have it."""
        return "" if self.in_hand is None else self.in_hand.subject

    def choose(self, place: int) -> None:
        """Take what is asked in hand."""
        self.row = place
        self._show()
        self.field.setFocus()

    def counts(self) -> tuple[int, int]:
        """(readings kept, readings asked for); (so many, 0) before the sheet was made."""
        if self.sheet is None:
            return read_by_test(self._session.records).get(self.kind.key, 0), 0
        return sum(bool(self.readings.get(one.key)) for one in self.asked), len(self.asked)

    def needed(self, channel: str) -> tuple[str, ...]:
        """Every channel whose first power must be done for the reading in hand."""
        asked, build = self.in_hand, self._session.build
        if asked is None:
            return (channel,)
        if asked.needs == "channel" and asked.channel in (build.channel_keys or build.channels):
            return (build.channel_of(asked.channel),)
        return {"nothing": (), "channel": (channel,), "all": build.channels}[asked.needs]

    def set_up(self, channel: str) -> SetUpShown | None:
        """As the sheet says; None while it is computed."""
        found = self.sheet
        if found is None:
            return None
        drawn = hookup(self.kind.key, self._session.build, channel)
        load = f"{load_warning(self._session.build)}{found.load}"
        return SetUpShown(found.settings, load, found.wired, found.listing, found.caution, drawn)

    def block(self, why: str) -> None:
        """Hold readings back and say why; empty lets them through."""
        self.blocked = why
        self.field.setEnabled(not why)
        self.keep_button.setEnabled(not why)

    # Shown

    def _show(self) -> None:
        if self.sheet is None:
            return
        self._readings_anew()
        self.row = min(self.row, max(len(self.asked) - 1, 0))
        book = self._session.records
        read = [self._last(one) for one in self.asked]
        stale = ["" if have else conditions_differ(one, book) for one, have in zip(self.asked, read, strict=True)]
        self.title.setText(self.sheet.title)
        self.aim.setText(self.sheet.aim)
        self.table.show_asked(self.asked, read, stale, self.row)
        self.outcomes.show_outcomes(self.sheet.outcomes(self.readings))
        self._show_graph()
        asked = self.in_hand
        if asked is not None:
            self.prompt.setText(asked.title)
            self.how.setText(f"{asked.ask}{' May be left out.' if asked.optional else ''}")
            self.field.setPlaceholderText(asked.example)
        said = "" if asked is None else asked.caution
        self.caution.setText(said)
        self.caution.setVisible(bool(said))
        if asked is not None and self._shown_for is not None:
            self._unkept.at((self._session.stored.id, asked.subject))
        self._show_watch()
        self._understand()
        self.changed.emit()

    def _last(self, asked: Asked) -> Reading | None:
        held = self.readings.get(asked.key, ())
        return held[-1] if held else None

    def _show_graph(self) -> None:
        assert self.sheet is not None
        graph = self.sheet.graph(self.readings)
        if graph is None:
            if self.plot is not None:
                self.plot.hide()
            return
        if self.plot is None:
            self.plot = Plot(graph.title, graph.x_name, graph.x_unit, log_x=graph.log_x, x_scale=graph.x_scale)
            self.plot.setMinimumHeight(look.px(170))
            self._side.insertWidget(0, self.plot, 1)
        self.plot.show()
        self.plot.set_title(graph.title)
        self.plot.set_series(graph.curves)
        self.plot.set_view(*graph.extent())
        self.plot.aside.setText(graph.heights)

    # The stop watch

    def press_watch(self) -> None:
        """Start the stop watch; pressed again, it stops and its seconds stand in the field."""
        if self._watch_begun is None:
            self._watch_begun = time.monotonic()
            self._watch.start()
        else:
            seconds = time.monotonic() - self._watch_begun
            self._stop_watch()
            self.field.setText(f"{seconds:.2f}")
            self.field.setFocus()
        self._show_watch()

    def _stop_watch(self) -> None:
        self._watch_begun = None
        self._watch.stop()

    def _show_watch(self) -> None:
        asked = self.in_hand
        wanted = asked is not None and asked.instrument is None and asked.instrument_name == STOP_WATCH
        if not wanted:
            self._stop_watch()
        self.watch_button.setVisible(wanted and not self.blocked)
        if self._watch_begun is None:
            self.watch_button.setText("Stop watch  Ctrl+Space")
        else:
            self.watch_button.setText(f"Stop at {time.monotonic() - self._watch_begun:.1f} s  Ctrl+Space")

    # The reading

    def _since_s(self) -> float:
        return heat_run.since_start_s(self.readings, now())

    def _others(self) -> list[Asked]:
        return [one for one in self.asked if one is not self.in_hand]

    def _understand(self) -> None:
        self._ask(())
        self._understood = None
        text, asked = self.field.text().strip(), self.in_hand
        if asked is None:
            return
        if not text:
            self._say_kept(asked)
            return
        try:
            found = understand(text, asked, self._others(), self._session.kit, self._since_s())
        except QuantityError as error:
            self.mark.set_state(State.UNKNOWN)
            self.understood.setText("Not understood")
            self.against.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self._understood = found
        if found.taken is None:
            self.mark.set_state(State.UNKNOWN)
            self.understood.setText(found.sentence)
            self.against.setText("")
            self._ask(found.choices)
            return
        reading = reading_of(found.taken, text, now())
        self.mark.set_state(reading.state)
        self.understood.setText(found.taken.words)
        self.against.setText(sentence_of(reading))

    def _say_kept(self, asked: Asked) -> None:
        kept = self._last(asked)
        self.mark.set_state(kept.state if kept else State.UNKNOWN)
        if kept is not None:
            self.understood.setText(f"Kept: {kept.typed}")
            self.against.setText(f"{sentence_of(kept)} {taken_words(kept)}")
            return
        stale, before = conditions_differ(asked, self._session.records), self._session.reading(asked.subject)
        window = asked.window
        self.understood.setText(
            f"Expect {window.words()}" if window is not None else "Nothing is known to hold it against"
        )
        if stale and before is not None:
            self.against.setText(f"{before.typed} was read before and does not count here: {stale}.")
        elif window is not None:
            guessed = f" Estimated in it: {', '.join(window.estimated)}." if window.estimated else ""
            self.against.setText(f"{window.why[:1].upper()}{window.why[1:]}.{guessed}")
        else:
            self.against.setText(f"{asked.why_open[:1].upper()}{asked.why_open[1:]}." if asked.why_open else "")

    def _ask(self, choices: tuple[Meaning, ...]) -> None:
        for one in self._choice_buttons:
            self._choice_grid.removeWidget(one)
            put_away(one)
        self._choice_buttons = []
        for index, choice in enumerate(choices):
            one = button(f"{index + 1}  {choice.slip or 'as typed'}: {choice.words}")
            one.setShortcut(f"Alt+{index + 1}")
            one.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            one.clicked.connect(partial(self.answer, choice))
            self._choice_grid.addWidget(one, index, 0)
            self._choice_buttons.append(one)
        self._choices.setVisible(bool(choices))

    @property
    def choices(self) -> list[QWidget]:
        """The buttons of the question, empty while nothing is asked."""
        return list(self._choice_buttons)

    def answer(self, choice: Meaning, _checked: bool = False) -> None:
        """Answer the question and keep the reading."""
        self._keep(choice)

    def keep(self) -> None:
        """Keep what is typed and go on; with nothing typed, leave it and go on."""
        if self.blocked or self.in_hand is None:
            return
        if not self.field.text().strip():
            self.choose((self.row + 1) % len(self.asked))
            return
        if self._understood is None:
            return
        if self._understood.taken is None:
            if self._choice_buttons:
                self._choice_buttons[0].setFocus()
            return
        self._keep(self._understood.taken)

    def _keep(self, meaning: Meaning) -> None:
        if self.blocked:
            return
        if self._shown_for != self._made_for:
            self.understood.setText("Computing what to expect …")
            return
        reading = reading_of(meaning, self.field.text(), now())
        self._keeping = True
        kept = self._session.keep(reading)
        self._keeping = False
        if kept:
            self.field.clear()
            self._readings_anew()
            # What was read at another place leaves this one still to be read.
            here = self.in_hand is not None and meaning.asked.key == self.in_hand.key
            if here and meaning.asked.reads != "course":
                self.row = self._next_from(self.row)
            self._show()
            self.field.setFocus()

    def _next_from(self, row: int) -> int:
        """The next that was not read, after ``row`` and round again; the same where there is none."""
        order = [(row + 1 + k) % len(self.asked) for k in range(len(self.asked))] if self.asked else []
        return next((k for k in order if not self.readings.get(self.asked[k].key)), max(row, 0))


def _sheet(
    make: Callable[[Build, str, Situation], Sheet], build: Build, channel: str, situation: Situation
) -> Sheet | str:
    try:
        return make(build, channel, situation)
    except PhysicsError as error:
        return f"Nothing to expect: {error}."
