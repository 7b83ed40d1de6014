"""The one question of a step: what to do, the window, the reading, the verdict."""

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLineEdit, QWidget

from plinth.desk.labels import button, column, label, set_role
from plinth.desk.look import look
from plinth.desk.power_up.expected import ExpectedSheet
from plinth.desk.power_up.in_words import InWords
from plinth.desk.power_up.verdict_view import VerdictView
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.guide.progress import StepStand, due_words
from plinth.guide.step import Step
from plinth.guide.watching import watch_words
from plinth.judge.unit_question import unit_label
from plinth.session.procedure.bring_up import BringUpProcedure
from plinth.session.procedure.taking import Taken

READ_IT = "Read it now"


class Question(QWidget):
    """Shows the current step of a bring-up, and gives it what is answered."""

    def __init__(self, session: BenchSession, procedure: BringUpProcedure) -> None:
        super().__init__()
        self._session, self.procedure = session, procedure
        self.title, self.ask, self.held = (label("", role, wrap=True) for role in ("question", "ask", "caution"))
        self.expected = ExpectedSheet()
        self.window_words, self.becomes = self.expected.window_words, self.expected.becomes
        self.prompt, self.field = label("What does the meter say?", "ask"), QLineEdit()
        self.field.setProperty("role", "reading")
        self.field.setAccessibleName("Reading")
        self.field.textChanged.connect(self._say)
        self.field.returnPressed.connect(self.enter)
        self.unit = label("", "ask")
        self.unit.setToolTip("The unit that is taken where none is typed")
        self.said = VerdictView()
        self.understood, self.choices = self.said.understood, self.said.choices
        self.choices.chosen.connect(self.take_choice)
        self.on_button = button("It is switched on  Space", "main")
        self.on_button.clicked.connect(self.switch_on)
        self.keep_button = button("Keep and go on  ⏎", "main")
        self.keep_button.clicked.connect(self.keep)
        self.note_button = button("Note it, watch on  ⏎", "main", tip="Kept as one on the way: it settles nothing")
        self.note_button.clicked.connect(self.note_on_the_way)
        self.in_words = InWords(procedure)
        self.plan_button = self.in_words.plan_button
        self.plan_button.clicked.connect(self.put_into_plan)
        self.in_words.reason.returnPressed.connect(self.take_reason)
        self.reason, self.wait = self.in_words.reason, label("", "pred")
        self._unkept = UnkeptText(self.field, self.reason)
        self._lay_out()
        self._clock = QTimer(self)
        self._clock.setInterval(1000)
        self._clock.timeout.connect(self.tick)
        look.follow(self._fit)
        self._fit()

    def _lay_out(self) -> None:
        field_row = QHBoxLayout()
        field_row.setSpacing(8)
        field_row.addWidget(self.field)
        field_row.addWidget(self.unit)
        field_row.addStretch()
        reading, buttons = self._rows = [QBoxLayout(QBoxLayout.Direction.LeftToRight) for _ in range(2)]
        reading.setSpacing(18)
        reading.addLayout(field_row)
        reading.setAlignment(field_row, Qt.AlignmentFlag.AlignTop)
        reading.addWidget(self.said, 1)
        buttons.setSpacing(14)
        for widget in (self.on_button, self.note_button, self.keep_button, self.wait):
            buttons.addWidget(widget)
        buttons.addStretch()
        box = column(self.title, self.ask, self.held, self.expected, self.prompt, spacing=9)
        for row in (reading, buttons):
            box.addLayout(row)
        box.addWidget(self.in_words)
        box.addStretch()
        self.setLayout(box)

    def _fit(self) -> None:
        # Side by side they would push the whole column out of sight at large text.
        direction = QBoxLayout.Direction.TopToBottom if look.scale >= 1.4 else QBoxLayout.Direction.LeftToRight
        self.expected.fit(direction)
        self.in_words.fit(direction)
        for row in self._rows:
            row.setDirection(direction)
        self.field.setFixedWidth(look.column(250))

    @property
    def step(self) -> Step | None:
        """The step shown."""
        return self.procedure.step

    def show_stand(self) -> None:
        """Show the current step; what is typed stays while it is the same step."""
        stand = self.procedure.stand
        if stand is None:
            return
        step = stand.step
        if self._unkept.at((self._session.stored.id, step.subject)):
            self.reason.setVisible(bool(self.reason.text()))
            self.show_wait()
        self.title.setText(step.title)
        self.ask.setText(step.ask)
        said = (
            f"Not yet: it {stand.why}. Take that reading, or pass it over with a reason." if stand.why else stand.stale
        )
        self.held.setText(" ".join(part for part in (said, due_words(stand, self._session.now())) if part))
        self.held.setVisible(bool(self.held.text()))
        self.expected.show_step(step)
        self._show_controls(stand)
        self._say()

    def _show_controls(self, stand: StepStand) -> None:
        may = self.procedure.allowed
        if may is None:
            return
        self.on_button.setVisible(may.switch_on)
        self.on_button.setEnabled(may.switch_on_now)
        for widget in (self.prompt, self.field, self.unit, self.said):
            widget.setVisible(may.read)
        request = stand.step.request
        self.unit.setText("" if request is None else unit_label(request.unit, request.bare_prefix))
        self.field.setEnabled(may.read_now)
        self.keep_button.setVisible(may.keep)
        self.keep_button.setEnabled(may.keep_now)
        self._name_buttons()
        self.in_words.pass_button.setVisible(may.pass_over)
        self.in_words.repaired_button.setVisible(stand.record is not None and "module" in stand.step.conditions)
        if may.why_not:
            self.held.setText(may.why_not)
            self.held.show()

    def _name_buttons(self) -> None:
        """While it is watched, Enter notes a reading on the way; once the time is over it is kept and judged."""
        stand = self.procedure.stand
        if stand is None:
            return
        on_the_way = self.procedure.on_the_way()
        self.note_button.setVisible(on_the_way)
        left_out = stand.step.optional and not self.field.text().strip() and not stand.settled
        goes_on = "Done, go on" if stand.step.request is None else "Leave it out" if left_out else "Keep and go on"
        self.keep_button.setText("It has settled: keep" if on_the_way else f"{goes_on}  ⏎")
        # One dark button: the one that Enter presses.
        set_role(self.keep_button, "flat" if on_the_way else "main")

    def take_focus(self) -> None:
        """Put the focus on what is to be done next."""
        for widget in (self.on_button, self.field, self.keep_button):
            if widget.isVisibleTo(self) and widget.isEnabled():
                widget.setFocus()
                return

    @property
    def answer_words(self) -> str:
        """What is said of what is typed, with what it may have meant; empty while nothing is typed."""
        return self.said.words if self.field.text().strip() else ""

    @property
    def key_words(self) -> str:
        """Which key goes on, where it is not the reading that does; empty where it is."""
        if self.on_button.isVisibleTo(self) and self.on_button.isEnabled():
            return "Space when it is switched on"
        waits = self.keep_button.isVisibleTo(self) and self.keep_button.isEnabled() and self.field.isHidden()
        return "Enter when it is done" if waits else ""

    # The reading

    def _say(self) -> None:
        step = self.step
        if step is None or step.window is None:
            return
        said = self.procedure.said(self.field.text())
        self._name_buttons()
        self.said.show_said(said)
        self.expected.show_reading(step, said.reading)
        self.in_words.offer_plan(self.procedure.fitted_otherwise(said.reading))

    def enter(self) -> None:
        """Enter in the field: note it while it is watched, else keep it."""
        (self.note_on_the_way if self.procedure.on_the_way() else self.keep)()

    def keep(self) -> None:
        """Keep the reading (or that it is done). Only what is on disk is said to be kept."""
        self._follow_up(self.procedure.take(self.field.text()))

    def note_on_the_way(self) -> None:
        """Keep a reading on the way; the step stays."""
        self._follow_up(self.procedure.note(self.field.text()))

    def _follow_up(self, taken: Taken) -> None:
        if taken is Taken.NOT_UNDERSTOOD:
            self._say()
        if taken is Taken.ASKED:
            # Where it may mean several things, the hand is led to them.
            self.choices.take_focus()
        if taken is Taken.KEPT and self.field.text():
            # Outside its window it stays in sight; what is typed next takes its place.
            self.field.selectAll()
        if self.procedure.words:
            self.understood.setText(self.procedure.words)

    def take_choice(self, text: str) -> None:
        """What was typed was meant so: taken as Enter takes it."""
        self.field.setText(text)
        self.field.setFocus()
        self.enter()

    def put_into_plan(self) -> None:
        """The resistor that was read is the one that is fitted: the plan says so from now on."""
        r_ohm = self.procedure.fitted_otherwise(self.procedure.said(self.field.text()).reading)
        if r_ohm is not None:
            self.procedure.put_into_plan(r_ohm)

    # What else can be done

    def switch_on(self) -> None:
        """The bench supply was switched on: the stop bar appears, the watching time begins."""
        if self.procedure.switch_on():
            self.show_wait()
            self.field.setFocus()

    def take_reason(self) -> None:
        """What was written is why the step is passed over, or what was repaired."""
        problem = self.in_words.take()
        if problem:
            self.understood.setText(problem)

    # The time that is watched

    def show_wait(self) -> None:
        """Show how long there is still to wait or to watch."""
        left = self.procedure.watch_left_s
        self.wait.setText(READ_IT if self.procedure.watched_out else watch_words(left, self._session.now()))
        self._name_buttons()
        if left > 0.0:
            self._clock.start()
        else:
            self._clock.stop()

    def tick(self) -> None:
        """A second has passed."""
        self.procedure.count_down(1.0)
        self.show_wait()
        if self.procedure.watch_left_s == 0.0:
            self.wait.setText(READ_IT)
