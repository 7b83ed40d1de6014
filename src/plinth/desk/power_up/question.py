"""The one question of a step: what to do, the window, the reading, the verdict."""

import datetime as dt

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLineEdit, QWidget

from plinth.desk.labels import button, column, label, set_role
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.reading_choices import ReadingChoices
from plinth.desk.ruler import LimitRuler, RulerContent, scale_for
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.guide.interlock import allowed, watching
from plinth.guide.judging import doubt, hint_for, reading_for_step, understood_words, verdict_at, wait_words
from plinth.guide.progress import Stand, StepStand
from plinth.guide.step import Step
from plinth.guide.watching import noted
from plinth.judge.state import State
from plinth.judge.unit_question import unit_label
from plinth.judge.window import Window
from plinth.record.clock import now
from plinth.record.reading import Confirmation, Override, Reading
from plinth.units.bounds import Bound
from plinth.units.errors import AmbiguousError, QuantityError
from plinth.units.shown import shown

READ_IT = "Read it now"
LEFT_OUT = "left out: no instrument for it"


class Question(QWidget):
    """Shows a step and keeps what is answered. ``went_on`` after something was kept."""

    went_on = Signal()
    switched_on = Signal()

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._stand: StepStand | None = None
        self._wait_left = 0.0
        self._asked_about, self._read_ohm = "", 0.0
        self._asks_mended = False
        self.title, self.ask = label("", "question", wrap=True), label("", "ask", wrap=True)
        self.held = label("", "caution", wrap=True)
        self.window_words, self.why = label("", "pred_figure"), label("", "soft", wrap=True)
        self.claim = label("", "claim")
        self.ruler = LimitRuler(tall=True)
        self.becomes = label("", "soft", wrap=True)
        self.sheet = QWidget()
        self.sheet.setObjectName("sheet")
        self.sheet.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        first = self._expected = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        first.addWidget(self.window_words)
        first.addStretch()
        first.addWidget(self.claim)
        inner = column(label("Expect", "soft"), spacing=6, margins=(20, 12, 20, 12))
        inner.addLayout(first)
        for widget in (self.ruler, self.why, self.becomes):
            inner.addWidget(widget)
        self.sheet.setLayout(inner)
        self.prompt = label("What does the meter say?", "ask")
        self.field = QLineEdit()
        self.field.setProperty("role", "reading")
        self.field.setAccessibleName("Reading")
        self.field.textChanged.connect(self._understand)
        self.field.returnPressed.connect(self.enter)
        self.mark, self.verdict, self.understood = (
            StateMark(),
            label("", "title", wrap=True),
            label("", "soft", wrap=True),
        )
        said = QHBoxLayout()
        said.addWidget(self.mark)
        said.addWidget(self.verdict, 1)
        beside = column(spacing=2)
        beside.addLayout(said)
        beside.addWidget(self.understood)
        self.choices = ReadingChoices()
        self.choices.chosen.connect(self.take_choice)
        beside.addWidget(self.choices)
        beside.addStretch()
        reading_row = self._reading_row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        reading_row.setSpacing(18)
        self.unit = label("", "ask")
        self.unit.setToolTip("The unit that is taken where none is typed")
        field_row = QHBoxLayout()
        field_row.setSpacing(8)
        field_row.addWidget(self.field)
        field_row.addWidget(self.unit)
        field_row.addStretch()
        reading_row.addLayout(field_row)
        reading_row.setAlignment(field_row, Qt.AlignmentFlag.AlignTop)
        reading_row.addLayout(beside, 1)
        self.on_button = button("It is switched on  Space", "main")
        self.keep_button = button("Keep and go on  ⏎", "main")
        self.note_button = button("Note it, watch on  ⏎", "main", tip="Kept as one on the way: it settles nothing")
        self.note_button.clicked.connect(self.note_on_the_way)
        self.plan_button = button("", "flat")
        self.plan_button.clicked.connect(self.put_into_plan)
        self.plan_button.hide()
        self.pass_button = button("Pass over, with a reason …", "flat")
        self.mended_button = button(
            "Mended, or another board …",
            "flat",
            tip="What was read of this board counts no more: its cold steps come again",
        )
        self.mended_button.clicked.connect(self.ask_mended)
        self.wait = label("", "pred")
        self.on_button.clicked.connect(self.switch_on)
        self.keep_button.clicked.connect(self.keep)
        self.pass_button.clicked.connect(self.ask_reason)
        buttons = self._buttons = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        buttons.setSpacing(14)
        for one in (self.on_button, self.note_button, self.keep_button, self.wait):
            buttons.addWidget(one)
        buttons.addStretch()
        passing = self._passing = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        for other in (self.pass_button, self.mended_button, self.plan_button):
            passing.addWidget(other, 0, Qt.AlignmentFlag.AlignLeft)
        passing.addStretch()
        self.reason = QLineEdit()
        self.reason.setPlaceholderText("Why is it safe to go on without this? It is written into the diary.")
        self.reason.setAccessibleName("Reason for passing this step over")
        self.reason.returnPressed.connect(self.take_reason)
        self._unkept = UnkeptText(self.field, self.reason)
        self.reason.hide()
        box = column(self.title, self.ask, self.held, self.sheet, self.prompt, spacing=9)
        box.addLayout(reading_row)
        box.addLayout(buttons)
        box.addLayout(passing)
        box.addWidget(self.reason)
        box.addStretch()
        self.setLayout(box)
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self._tick)
        look.follow(self._fit)
        self._fit()

    def _fit(self) -> None:
        # Side by side they would push the whole column out of sight at large text.
        down = look.scale >= 1.4
        self.window_words.setWordWrap(down)
        self._expected.setDirection(QBoxLayout.Direction.TopToBottom if down else QBoxLayout.Direction.LeftToRight)
        for row in (self._reading_row, self._buttons, self._passing):
            row.setDirection(QBoxLayout.Direction.TopToBottom if down else QBoxLayout.Direction.LeftToRight)
        self.field.setFixedWidth(look.column(250))

    @property
    def step(self) -> Step | None:
        """The step shown."""
        return self._stand.step if self._stand else None

    def show_stand(self, stand: StepStand) -> None:
        """Show a step; what is typed stays while it is the same step."""
        self._stand = stand
        step = stand.step
        if self._unkept.at((self._session.stored.id, step.subject)):
            self.reason.setVisible(bool(self.reason.text()))
            left = self._session.watch_left_s(stand)
            self._set_wait(left)
            if left == 0.0 and step.wait_s and watching(stand, self._session.power, self._session.stored.id):
                self.wait.setText(READ_IT)
        self.title.setText(step.title)
        self.ask.setText(step.ask)
        said = (
            f"Not yet: it {stand.why}. Take that reading, or pass it over with a reason." if stand.why else stand.stale
        )
        self.held.setText(" ".join(one for one in (said, due_words(stand, now())) if one))
        self.held.setVisible(bool(self.held.text()))
        self.sheet.setVisible(step.window is not None)
        if step.window is not None:
            self._show_window(step, step.window)
        self.becomes.setText(step.becomes)
        self.becomes.setVisible(bool(step.becomes))
        self._show_controls(stand)
        self._understand()

    def _show_window(self, step: Step, window: Window) -> None:
        self.window_words.setText(window.words())
        estimated = f" Estimated: {', '.join(window.estimated)}." if window.estimated else ""
        self.why.setText(window.why + estimated)
        self.claim.setText(step.claim_words)
        self.claim.setVisible(bool(step.claim_words))

    def _show_controls(self, stand: StepStand) -> None:
        may = allowed(stand, self._session.power, self._session.stored.id, self._session.power_words)
        self.on_button.setVisible(may.switch_on)
        self.on_button.setEnabled(may.switch_on_now)
        for widget in (self.prompt, self.field, self.unit, self.mark, self.verdict, self.understood):
            widget.setVisible(may.read)
        self.unit.setText(unit_label(stand.step.unit, stand.step.bare_prefix))
        self.field.setEnabled(may.read_now)
        self.keep_button.setVisible(may.keep)
        self.keep_button.setEnabled(may.keep_now)
        self._name_buttons()
        self.pass_button.setVisible(may.pass_over)
        self.mended_button.setVisible(stand.record is not None and "module" in stand.step.conditions)
        if may.why_not:
            self.held.setText(may.why_not)
            self.held.show()

    def _name_buttons(self) -> None:
        """While it is watched, Enter notes a reading on the way; once the time is over it is kept and judged."""
        step = self.step
        if step is None:
            return
        on_the_way = self._watching()
        self.note_button.setVisible(on_the_way)
        if step.asks_for == "word":
            words = "Done, go on  ⏎"
        elif on_the_way:
            words = "It has settled: keep"
        elif step.optional and not self.field.text().strip() and self._stand and not self._stand.settled:
            words = "Leave it out  ⏎"
        else:
            words = "Keep and go on  ⏎"
        self.keep_button.setText(words)
        # One dark button: the one that Enter presses.
        set_role(self.keep_button, "flat" if on_the_way else "main")

    def _watching(self) -> bool:
        """Whether a reading typed now is one on the way."""
        step = self.step
        return (
            step is not None and step.watch is not None and self._wait_left > 0.0
            and self.field.isEnabled() and self._session.since_on_s(step.about.channel) is not None
        )  # fmt: skip

    def enter(self) -> None:
        """Enter in the field: note it while it is watched, else keep it."""
        if self._watching():
            self.note_on_the_way()
        else:
            self.keep()

    def note_on_the_way(self) -> None:
        """Keep a reading on the way; the step stays."""
        step, text = self.step, self.field.text().strip()
        if step is None or not text:
            return
        try:
            reading = self._read(step, text, on_the_way=True)
        except QuantityError as error:
            self._not_understood(error)
            return
        if self._doubted(step, text, reading):
            return
        if self._session.keep(noted(step, reading)):
            self.field.clear()
            self.understood.setText(_noted_words(step, reading))

    def _read(self, step: Step, text: str, *, on_the_way: bool = False) -> Reading:
        # A reading taken too soon has made healthy boards look faulty, and the other way round.
        since = self._session.since_on_s(step.about.channel) if step.power else None
        return reading_for_step(step, text, self._session.kit, now(), self._wait_left, since, on_the_way=on_the_way)

    def _doubted(self, step: Step, text: str, reading: Reading) -> bool:
        """Whether a reading is more than there can be, and that was not asked about yet: it is now."""
        question = doubt(step, reading)
        if not question or self._asked_about == text:
            return False
        self._asked_about = text
        self.understood.setText(question)
        return True

    def _not_understood(self, error: QuantityError) -> None:
        self.mark.set_state(State.UNKNOWN)
        self.understood.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
        asked = error if isinstance(error, AmbiguousError) and error.texts else None
        self.verdict.setText(asked.asks if asked else "Not understood")
        self.choices.offer(asked.texts if asked else (), asked.lead if asked else "")

    def take_choice(self, text: str) -> None:
        """What was typed was meant so: taken as Enter takes it."""
        self.field.setText(text)
        self.field.setFocus()
        self.enter()

    def take_focus(self) -> None:
        """Put the focus on what is to be done next."""
        for widget in (self.on_button, self.field, self.keep_button):
            if widget.isVisibleTo(self) and widget.isEnabled():
                widget.setFocus()
                return

    def _understand(self) -> None:
        step = self.step
        if step is None or step.window is None or self._stand is None:
            return
        text = self.field.text().strip()
        self._name_buttons()
        self.choices.offer(())
        record = self._stand.record
        if not text:
            self._show_verdict(record if isinstance(record, Reading) else None, typed=False)
            return
        try:
            reading = reading_for_step(step, text, self._session.kit, now(), on_the_way=self._watching())
        except QuantityError as error:
            self._not_understood(error)
            self._show_ruler(None)
            return
        self._show_verdict(reading, typed=True)

    def _offer_plan(self, reading: Reading | None) -> None:
        """Where another resistor is read than is planned, the plan may be what is wrong."""
        offered = (
            self.step is not None and self.step.key == "emitter_resistor" and reading is not None
            and reading.state is State.OVER and reading.bound is Bound.NONE
        )  # fmt: skip
        self.plan_button.setVisible(offered)
        if offered and reading is not None:
            self._read_ohm = reading.value
            self.plan_button.setText(f"Put {shown(reading.value, 'ohm')} into the plan")

    def put_into_plan(self) -> None:
        """The resistor that was read is the one that is fitted: the plan says so from now on."""
        module = self._session.build.module
        if module.bias is not None and self._read_ohm > 0.0:
            bias = module.bias.model_copy(update={"r_fitted_ohm": self._read_ohm})
            self._session.restate("module", module.model_copy(update={"bias": bias}))

    def _show_verdict(self, reading: Reading | None, *, typed: bool) -> None:
        self._offer_plan(reading)
        if reading is None:
            self.mark.set_state(State.UNKNOWN)
            passed = self._stand is not None and isinstance(self._stand.record, Override)
            record = self._stand.record if self._stand else None
            self.verdict.setText("Passed over" if passed else "No reading yet")
            self.understood.setText(record.reason if isinstance(record, Override) else "")
        else:
            self.mark.set_state(reading.state)
            assert self.step is not None, "a reading stands at its step"
            verdict = verdict_at(self.step, reading)
            words = verdict.words
            self.verdict.setText(words if typed else f"Kept: {words[0].lower()}{words[1:]}")
            self.understood.setText(f"{understood_words(reading)}. {verdict.further}".strip())
        set_role(self.verdict, "title")
        self._show_ruler(reading)

    def _show_ruler(self, reading: Reading | None) -> None:
        step = self.step
        if step is None or step.window is None:
            return
        window = step.window
        low, high = window.low, window.high
        value = reading.value if reading else None
        open_low, open_high = low is None, high is None
        scale = scale_for(low, high, step.claim, value)
        if open_high and low is not None:
            scale = (0.0, max(low * 3.0, (value or 0.0) * 1.1))
        window_shown = (scale[0] if open_low else low, scale[1] if open_high else high)
        assert window_shown[0] is not None
        assert window_shown[1] is not None
        self.ruler.setAccessibleName(f"Window {window.words()}")
        self.ruler.show_content(
            RulerContent(
                scale=scale,
                state=reading.state if reading else State.UNKNOWN,
                sentence=f"Expected {window.words()}. {window.why}",
                window=(window_shown[0], window_shown[1]),
                estimated=bool(window.estimated),
                claim=step.claim,
                reading=value,
                reading_spread=2.0 * (reading.u or 0.0) if reading else 0.0,
                simulated=bool(reading and reading.simulated),
            )
        )

    # What can be done

    def switch_on(self) -> None:
        """The bench supply was switched on: the stop bar appears, the watching time begins."""
        if self.step is None:
            return
        channel = self.step.about.channel
        if self._session.switch_on(channel, f"Supply switched on: {self.step.title}."):
            self._set_wait(self.step.wait_s)
            self.switched_on.emit()
            self.field.setFocus()

    def keep(self) -> None:
        """Keep the reading (or that it is done). Only what is on disk is said to be kept."""
        stand, step = self._stand, self.step
        if stand is None or step is None or stand.stand is Stand.HELD or not self.keep_button.isEnabled():
            return
        if step.asks_for == "word":
            if self._session.keep(Confirmation(step.subject, now(), dict(step.conditions))):
                self.went_on.emit()
            return
        if not self.field.isEnabled():
            return
        text = self.field.text().strip()
        if not text and stand.settled:
            self.went_on.emit()
            return
        if not text and step.optional:
            if self._session.keep(Override(step.subject, LEFT_OUT, now(), dict(step.conditions))):
                self.went_on.emit()
            return
        try:
            reading = self._read(step, text)
        except QuantityError as error:
            self._not_understood(error)
            return
        if self._doubted(step, text, reading):
            return
        if self._session.keep(reading):
            if reading.state is not State.OVER:
                self.field.clear()
            self.went_on.emit()

    def ask_reason(self) -> None:
        """Ask for the reason in writing."""
        self._asks_mended = False
        self._ask_words("Why is it safe to go on without this? It is written into the diary.")

    def ask_mended(self) -> None:
        """Ask what was mended on this board."""
        self._asks_mended = True
        self._ask_words(
            "What was mended or exchanged on this channel? Its cold steps come again. It is written into the diary."
        )

    def _ask_words(self, prompt: str) -> None:
        self.reason.setPlaceholderText(prompt)
        self.reason.setAccessibleName(prompt)
        self.reason.show()
        self.reason.setFocus()

    def take_reason(self) -> None:
        """What was written is why the step is passed over, or what was mended."""
        if self._asks_mended:
            self.keep_mended()
        else:
            self.pass_over()

    def keep_mended(self) -> None:
        """Keep what was mended; without words, or with power on, nothing happens but a sentence."""
        words = self.reason.text().strip()
        if len(words) < 3 or self.step is None:
            self.reason.setPlaceholderText("A few words are needed: found none. They are written into the diary.")
        elif self._session.power is not None:
            self.understood.setText("Found the power still on, expected it off: press Stop (Esc) first.")
        elif self._session.mended(self.step, words):
            self.reason.clear()
            self.reason.hide()
            self.field.clear()
            self.went_on.emit()

    def pass_over(self) -> None:
        """Pass the step over; without a reason nothing happens."""
        reason = self.reason.text().strip()
        if len(reason) < 3 or self.step is None:
            self.reason.setPlaceholderText("A reason in words is needed: found none. It is written into the diary.")
            return
        if self._session.keep(Override(self.step.subject, reason, now(), dict(self.step.conditions))):
            self.reason.clear()
            self.reason.hide()
            self.went_on.emit()

    def _set_wait(self, seconds: float) -> None:
        self._wait_left = seconds
        self.wait.setText(_wait_words(seconds))
        self._name_buttons()
        if seconds > 0.0:
            self._clock.start()
        else:
            self._clock.stop()

    def _tick(self) -> None:
        self._set_wait(max(0.0, self._wait_left - 1.0))
        if self._wait_left == 0.0:
            self.wait.setText(READ_IT)


def due_words(stand: StepStand, at: dt.datetime) -> str:
    """When a step falls due, or since when it is; empty where it waits for no time."""
    if stand.due_at is None or stand.settled:
        return ""
    left = (stand.due_at - at).total_seconds()
    moment = f"{stand.due_at.astimezone():%a %d %b, %H:%M}"
    if left > 0.0:
        return f"Due {moment}, in {wait_words(left)}; what is read sooner is kept, and settles nothing."
    return f"Due since {moment}."


# After so many of its time constants a reading that still stands outside is no transient any more.
_LATE = 6.0


def _noted_words(step: Step, reading: Reading) -> str:
    if reading.state is not State.OVER or step.window is None or step.watch is None:
        return "Noted, inside the window. Watch on."
    side = -1 if step.window.low is not None and reading.value < step.window.low else 1
    hint = hint_for(step, side, reading.value)
    late = (reading.number("since_on_s") or 0.0) > _LATE * step.watch.tau_s
    if hint is not None and (late or not step.watch.transient):
        return f"Noted, and outside: {hint.check}"
    return (
        "Noted, outside so far. Watch on: what settles comes inside, a fault stays where it is. If it stands there "
        "when the time is over, or the board warms fast, press Stop."
    )


def _wait_words(seconds: float) -> str:
    if seconds <= 0.0:
        return ""
    if seconds < 900.0:
        return f"Watch {wait_words(seconds)}"
    until = (now() + dt.timedelta(seconds=seconds)).astimezone()
    return f"Watch {wait_words(seconds)}, until {until:%H:%M}"
