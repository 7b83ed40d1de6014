"""The bar of the instruments: who reads what is asked for now, one key that reads it, one that goes on alone."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.session.instruments.instruments import plan_differs
from plinth.session.procedure.taking import Procedure
from plinth.session.runs.run import Run
from plinth.session.runs.subjects import LeftToHand, Subject, subject_of

# So often the window says that it is there; outputs go off where it does not for long.
ALIVE_MS, LOOK_MS = 200, 500
# Of what a run leaves to a hand so many are named.
MOST_NAMED = 2


class InstrumentBar(QWidget):
    """Seen while anything is connected. ``procedure`` what the page in front asks; ``moved`` after anything changed."""

    asked_for_dialog = Signal()
    asked_for_spectrum = Signal()
    moved = Signal()

    def __init__(self, session: BenchSession, procedure: Callable[[], Procedure | None]) -> None:
        super().__init__()
        self._session, self._procedure = session, procedure
        self.run = Run(session, self._changed)
        self.badge, self.words = label("", "name"), label("", wrap=True)
        self.read_button = button("Read  F5", tip="Read what is asked for now")
        self.on_button = button("Read on alone  F6", tip="Reading after reading, until a hand is wanted")
        self.confirm_button = button("Done, go on  F5", "main")
        self.stop_button = button("Outputs off  F6")
        self.dialog_button = button("Instruments …", "flat")
        self.read_button.clicked.connect(self.read)
        self.on_button.clicked.connect(self.read_on)
        self.confirm_button.clicked.connect(self.read)
        self.stop_button.clicked.connect(self.stop)
        self.dialog_button.clicked.connect(self.asked_for_dialog)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 4, 18, 4)
        box.setSpacing(14)
        box.addWidget(self.badge)
        box.addWidget(self.words, 1)
        for each in (self.confirm_button, self.read_button, self.on_button, self.stop_button, self.dialog_button):
            box.addWidget(each)
        self._aside = False
        # What was said last, and of which reading: it is gone once something else is asked for.
        self._said, self._said_of = "", ""
        self._alive, self._look = QTimer(self), QTimer(self)
        # By methods of this widget: a signal that led to what holds it would keep it, and its window, for ever.
        self._alive.timeout.connect(self._say_alive)
        self._look.timeout.connect(self.refresh)
        self._alive.setInterval(ALIVE_MS)
        self._look.setInterval(LOOK_MS)
        session.instruments_changed.connect(self._connected)
        session.records_changed.connect(self.refresh)
        session.build_switched.connect(self._switched)
        session.went_off.connect(self._went_off)
        self._connected()

    # Keys

    def read(self) -> None:
        """Read what is asked for now; or what a hand had to do is done."""
        if self.run.question:
            self.run.confirm()
        elif not self.run.going:
            self._begin(1)

    def read_on(self) -> None:
        """Read on alone; where that is under way, everything off."""
        if self.run.going or self.run.question:
            self.stop()
        else:
            self._begin(1000)

    def stop(self) -> None:
        """End what is under way, and everything off."""
        if self.run.going or self.run.question:
            self.run.stop()
        else:
            self._session.power.switch_off()
            self._session.instruments.make_safe()
            self._say("Everything is off.")

    def _begin(self, most: int) -> None:
        if plan_differs(self._session.instruments.simulated, self._session.build):
            self._say("The plan has changed since this simulated bench was started: F7 starts it anew.")
            return
        subject = self._subject()
        if not self._session.instruments.connected or subject is None:
            self._say("No instrument is connected." if subject is not None else "Nothing is read on this page.")
            return
        self.run.begin(subject, most)

    def _subject(self) -> Subject | None:
        procedure = self._procedure()
        return None if procedure is None else subject_of(self._session, procedure)

    # What came

    def _connected(self) -> None:
        instruments = self._session.instruments
        for timer in (self._alive, self._look):
            if instruments.connected:
                timer.start()
            else:
                timer.stop()
        self.setVisible(instruments.connected and not self._aside)
        count = len(instruments.bench.instruments)
        self.badge.setText(
            "Simulated bench" if instruments.bench.simulated else f"{count} instrument{'s' * (count != 1)}"
        )
        self._say("")

    def _say_alive(self) -> None:
        self._session.instruments.alive()

    def _switched(self) -> None:
        if self.run.going or self.run.question:
            self.run.stop()
        if self._session.instruments.simulated is not None:
            # It is of another build than the one that is current now.
            self._session.instruments.disconnect()

    def _went_off(self, words: str) -> None:
        if self._session.power.live is not None:
            self._session.power.switch_off()
        self._session.instruments.make_safe()
        self._session.trouble.emit(words)
        self._say(words)

    def _changed(self) -> None:
        words, left = self.run.words, self.run.left
        if not self.run.going and not self.run.question and left:
            words = f"{words} {left_words(left)}"
        self._say(words)

    def _say(self, words: str) -> None:
        """Say it until something else is asked for."""
        self._said, self._said_of = words, self._asks
        self.refresh()

    @property
    def _asks(self) -> str:
        procedure = self._procedure()
        return "" if procedure is None else procedure.subject

    def stand_aside(self, *, aside: bool) -> None:
        """Leave the room to what shows the same large, or take it again."""
        self._aside = aside
        self.setVisible(self._session.instruments.connected and not aside)

    def refresh(self) -> None:
        """Show who would read, what is under way, or what came of it."""
        if not self._session.instruments.connected:
            return
        run, subject = self.run, self._subject()
        busy, asked = run.going, bool(run.question)
        self.confirm_button.setVisible(asked)
        self.read_button.setVisible(not busy and not asked)
        self.on_button.setVisible(not busy and not asked)
        self.stop_button.setVisible(busy or asked or self._session.power.live is not None)
        who = "Nothing on this page is read by instruments." if subject is None else run.who_reads(subject)
        for each in (self.read_button, self.on_button):
            each.setEnabled(subject is not None)
        kept = f"{run.kept} kept. " if busy and run.kept else ""
        said = self._said if self._said_of == self._asks else ""
        self.words.setText(f"{kept}{run.words}" if busy or asked else said or who)
        self.update()
        self.moved.emit()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.token("close_fill" if self.run.question else "sunk"))
        painter.end()


def left_words(left: Sequence[LeftToHand]) -> str:
    """What a run leaves to a hand; where all is left for one reason, that reason."""
    reasons = {each.why for each in left}
    if len(left) > 1 and len(reasons) == 1:
        return f"{len(left)} left. {left[0].why}"
    named = "; ".join(each.title for each in left[:MOST_NAMED])
    more = f" and {len(left) - MOST_NAMED} more" if len(left) > MOST_NAMED else ""
    return f"Left to a hand: {named}{more}."
