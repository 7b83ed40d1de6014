"""The bench view: one question, one window, one large figure, read from two metres and answered on a numeric keypad."""

import dataclasses
from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QHideEvent, QKeyEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QWidget

from plinth.desk.instruments.bar import InstrumentBar
from plinth.desk.labels import button, column, label, set_role
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.ruler import LimitRuler, RulerContent, scale_for
from plinth.desk.session import BenchSession
from plinth.instruments.kinds import Action
from plinth.judge.state import State
from plinth.judge.unit_question import unit_label
from plinth.record.request import Request
from plinth.session.instruments.live import LiveReader, LiveValue
from plinth.session.instruments.wanted import Wanted
from plinth.session.procedure.bring_up import BringUpProcedure
from plinth.session.procedure.taking import Procedure, Said, Taken
from plinth.session.runs.neighbours import go_by, place_of
from plinth.session.runs.subjects import subject_of
from plinth.units.shown import shown

LOOK_MS, LIVE_S = 150, 0.2
MOST_TYPED = 24
# Beeps for a reading that is inside, outside, and where everything must go off at once.
BEEPS = {State.CLEAR: 1, State.CLOSE: 1, State.OVER: 2}
OFF_BEEPS, BEEP_MS = 4, 180
KEYS = "+ next    − back, or sign    * read, or clear    / outputs off    F11 leave"


class BenchView(QWidget):
    """What the page in front asks, large. ``text`` what is typed so far; ``left`` where it is to be put away."""

    left = Signal()

    def __init__(self, session: BenchSession, bar: InstrumentBar, procedure: Callable[[], Procedure | None]) -> None:
        super().__init__()
        self._session, self._bar, self._procedure = session, bar, procedure
        self.text = ""
        self.choices: tuple[str, ...] = ()
        self.tones = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.title, self.ask = label("", "bench_title", wrap=True), label("", "bench_ask", wrap=True)
        self.figure, self.unit = label("", "bench_figure"), label("", "bench_unit")
        self.expected, self.state = label("", "bench_window", wrap=True), label("", "bench_state", wrap=True)
        self.mark, self.further = StateMark(), label("", "bench_ask", wrap=True)
        self.who, self.place = label("", "bench_small", wrap=True), label("", "bench_small")
        self.ruler = LimitRuler(tall=True)
        self.keep_button, self.off_button = button("Enter   keep", "main"), button("/   outputs off", "stop")
        self.tone_button = button("Tone: none", "flat", tip="Beeps: one inside, two outside, four where all goes off")
        self.keep_button.clicked.connect(self.enter)
        self.off_button.clicked.connect(self.outputs_off)
        self.tone_button.clicked.connect(self.toggle_tones)
        for each in (self.keep_button, self.off_button, self.tone_button, self.ruler):
            each.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._lay_out()
        self._live: LiveReader | None = None
        self._live_of: tuple[str, str] | None = None
        self._clock = QTimer(self)
        self._clock.setInterval(LOOK_MS)
        self._clock.timeout.connect(self.refresh)

    def _lay_out(self) -> None:
        value = QHBoxLayout()
        value.addWidget(self.figure)
        value.addWidget(self.unit, 0, Qt.AlignmentFlag.AlignBottom)
        value.addStretch()
        large = column()
        large.addStretch(1)
        large.addLayout(value)
        large.addStretch(2)
        says = QHBoxLayout()
        says.addWidget(self.mark)
        says.addWidget(self.state, 1)
        beside = column(label("window", "bench_small"), self.expected, spacing=4)
        beside.addLayout(says)
        beside.addWidget(self.further)
        beside.addStretch()
        middle = QHBoxLayout()
        middle.setSpacing(36)
        middle.addLayout(large, 3)
        middle.addLayout(beside, 2)
        keys = QHBoxLayout()
        keys.setSpacing(18)
        for each in (self.keep_button, self.off_button):
            keys.addWidget(each)
        keys.addWidget(label(KEYS, "bench_small", wrap=True), 1)
        keys.addWidget(self.tone_button)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.place)
        box = column(spacing=10, margins=(40, 22, 40, 22))
        box.addLayout(head)
        box.addWidget(self.ask)
        box.addLayout(middle, 1)
        box.addWidget(self.ruler)
        box.addWidget(self.who)
        box.addLayout(keys)
        self.setLayout(box)

    # What is asked

    @property
    def _request(self) -> Request | None:
        procedure = self._procedure()
        return None if procedure is None else procedure.request

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._clock.start()
        self.refresh()
        self.setFocus()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._clock.stop()
        self._end_live()

    def refresh(self) -> None:
        """Show what is asked now, what was typed, or what is read."""
        procedure, request = self._procedure(), self._request
        if procedure is None:
            self.title.setText("Nothing is read on this page.")
            self._show_figure("", "")
            return
        row, count = place_of(procedure)
        self.place.setText(f"{row + 1} of {count}" if count else "")
        step = procedure.step if isinstance(procedure, BringUpProcedure) else None
        task = request or (None if step is None else step.asks)
        self.title.setText("" if task is None else task.full_title if step is not None else task.title)
        self.ask.setText("" if task is None else task.ask)
        held = procedure.blocked
        self._follow(request)
        wants_power = self._wants_power
        self.keep_button.setText(self._enter_words(request, wants_power=wants_power))
        self.off_button.setVisible(self._session.power.live is not None or self._bar.run.going)
        if request is None:
            self._show_figure("", "")
            self.expected.setText("done by hand")
            self._show_said(Said(State.UNKNOWN, held or "Do it, then Enter."))
            self.ruler.hide()
            return
        window = request.window
        self.expected.setText("none stated" if window is None else window.words())
        live = self._live_text()
        text = self.text or live
        said = procedure.said(text) if text else Said(State.UNKNOWN, held or "Nothing read yet.")
        if live and not self.text:
            # How far a typed reading is trusted is the hand meter's; this is another's.
            said = dataclasses.replace(said, against="")
        self._show_figure(*_figure(self.text, self._live_value, request))
        if self._bar.run.going:
            said = Said(State.UNKNOWN, "Reading …", self._bar.run.words)
        self._show_said(Said(said.state, held, said.against) if held and text else said)
        self._show_ruler(request, said)
        self.who.setText(self._who_words(live))

    def _who_words(self, live: str) -> str:
        """Whether the figure is live, and whose it is."""
        if self._live is None or not live or self.text:
            return self._bar.words.text() if self._session.instruments.connected else ""
        reader = self._live.values[0].reader
        return f"Live, {reader.name}{', simulated' if reader.simulated else ''}. Enter sets the bench and keeps it."

    @property
    def _wants_power(self) -> bool:
        procedure = self._procedure()
        may = procedure.allowed if isinstance(procedure, BringUpProcedure) else None
        return may is not None and may.switch_on and may.switch_on_now

    def _enter_words(self, request: Request | None, *, wants_power: bool) -> str:
        if self._bar.run.question:
            return "Enter   done, go on"
        if self.text:
            return "Enter   keep"
        if wants_power:
            return "Enter   it is switched on"
        if request is None:
            return "Enter   done"
        return "Enter   read, keep" if self._plan is not None else "Enter   keep"

    def _show_figure(self, figure: str, unit: str) -> None:
        self.figure.setText(figure)
        self.figure.setVisible(bool(figure))
        self.unit.setText(unit)

    def _show_said(self, said: Said) -> None:
        self.mark.set_state(said.state)
        set_role(self.state, {State.OVER: "bench_over", State.CLOSE: "bench_close"}.get(said.state, "bench_state"))
        numbered = "   ".join(f"{place} {choice}" for place, choice in enumerate(self.choices, 1))
        self.state.setText(f"{said.words} {numbered}".strip())
        self.further.setText(said.against)

    def _show_ruler(self, request: Request, said: Said) -> None:
        window = request.window
        self.ruler.setVisible(window is not None)
        if window is None:
            return
        value = self._live_value if not self.text else None
        ends = [edge for edge in (window.low, window.high) if edge is not None]
        scale = scale_for(*ends, value, floor=None)
        low = scale[0] if window.low is None else window.low
        high = scale[1] if window.high is None else window.high
        simulated = self._session.instruments.bench.simulated
        self.ruler.show_content(
            RulerContent(scale, said.state, said.words, window=(low, high), reading=value, simulated=simulated)
        )

    # Live

    @property
    def _plan(self) -> Wanted | None:
        procedure = self._procedure()
        subject = None if procedure is None else subject_of(self._session, procedure)
        if subject is None or not self._session.instruments.connected:
            return None
        plan = self._bar.run.plan(subject)
        return None if isinstance(plan, str) else plan

    def _follow(self, request: Request | None) -> None:
        """Read live what is asked now, where a meter reads it by itself."""
        plan = None if request is None else self._plan
        single = plan is not None and plan.action not in (Action.READ_RECORD, Action.READ_WATTS)
        wanted = (plan.reader.name, str(plan.action)) if plan is not None and single else None
        if wanted == self._live_of:
            return
        self._end_live()
        if plan is not None and wanted is not None:
            value = LiveValue(title="now", unit="", reader=plan.reader, action=plan.action)
            self._live = LiveReader(self._session.instruments.read_now, (value,), every_s=LIVE_S)
            self._live.start()
            self._live_of = wanted

    def _end_live(self) -> None:
        live, self._live, self._live_of = self._live, None, None
        if live is not None:
            live.stop()

    @property
    def _live_value(self) -> float | None:
        """What is read now; None while nothing comes: what was read before is not now."""
        return None if self._live is None or self._live.lost else self._live.last("now")

    def _live_text(self) -> str:
        value, request = self._live_value, self._request
        return "" if value is None or request is None else f"{value:.6g} {request.unit}".strip()

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, typed = event.key(), event.text()
        match key:
            case Qt.Key.Key_Return | Qt.Key.Key_Enter:
                self.enter()
            case Qt.Key.Key_Plus:
                self._go(1)
            case Qt.Key.Key_Minus if not self.text:
                self._go(-1)
            case Qt.Key.Key_Minus:
                self._put(self.text.removeprefix("-") if self.text.startswith("-") else f"-{self.text}")
            case Qt.Key.Key_Asterisk:
                self._clear_or_read()
            case Qt.Key.Key_Slash:
                self.outputs_off()
            case Qt.Key.Key_Backspace:
                self._put(self.text[:-1])
            case Qt.Key.Key_Escape:
                self.left.emit()
            case _ if typed.isprintable() and typed and not self._chosen(typed):
                self._put(self.text + ("." if typed == "," else typed))
            case _:
                super().keyPressEvent(event)

    def _put(self, text: str) -> None:
        self.text, self.choices = text[:MOST_TYPED], ()
        self.refresh()

    def _chosen(self, typed: str) -> bool:
        """A digit answers the question that is asked, where one is."""
        if not self.choices or not typed.isdigit() or not 1 <= int(typed) <= len(self.choices):
            return False
        procedure = self._procedure()
        text, self.choices = self.text, ()
        if procedure is not None:
            self._follow_up(procedure.answer(text, int(typed) - 1))
        return True

    def _go(self, steps: int) -> None:
        procedure = self._procedure()
        self.text, self.choices = "", ()
        if procedure is not None:
            go_by(procedure, steps)
        self.refresh()

    def _clear_or_read(self) -> None:
        if self.text:
            self._put("")
        else:
            self._bar.read()

    def enter(self) -> None:
        """Keep what is typed; else read it, switch on, or say that it is done: whatever comes next here."""
        procedure = self._procedure()
        if procedure is None:
            return
        if self._bar.run.question or (not self.text and not self._wants_power and self._plan is not None):
            self._bar.read()
        elif isinstance(procedure, BringUpProcedure) and self._wants_power and not self.text:
            procedure.switch_on()
            self.refresh()
        elif self.text or procedure.request is None:
            state = procedure.said(self.text).state if self.text else State.UNKNOWN
            self._follow_up(procedure.take(self.text), state)

    def _follow_up(self, taken: Taken, state: State = State.UNKNOWN) -> None:
        procedure = self._procedure()
        if taken is Taken.KEPT:
            self.text = ""
            self._beep(BEEPS.get(state, 1))
        elif taken is Taken.ASKED and procedure is not None:
            self.choices = procedure.said(self.text).choices
        self.refresh()

    def outputs_off(self) -> None:
        """Everything off, at once."""
        self._beep(OFF_BEEPS)
        self._bar.stop()
        self._session.power.switch_off()
        self.refresh()

    def toggle_tones(self) -> None:
        """With tones, or without."""
        self.tones = not self.tones
        self.tone_button.setText("Tone: on" if self.tones else "Tone: none")

    def _beep(self, times: int) -> None:
        for place in range(times if self.tones else 0):
            QTimer.singleShot(place * BEEP_MS, self, QApplication.beep)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.token("paper"))
        painter.end()


def _figure(text: str, live: float | None, request: Request) -> tuple[str, str]:
    """The large figure and its unit: what is typed, else what is read."""
    if text:
        bare = text.lstrip("-").replace(".", "").isdigit()
        return text, unit_label(request.unit, request.bare_prefix) if bare else ""
    if live is None:
        return "", unit_label(request.unit, request.bare_prefix)
    figure, _, unit = shown(live, request.unit or "V", 3).rpartition(" ")
    return figure, unit
