"""What a capture answers of the test that is current: the figure chosen, what it means there, kept with one key."""

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QWidget

from plinth.captures.figure import Analysis
from plinth.desk.labels import column, label, set_role
from plinth.desk.marks import StateMark
from plinth.desk.session import BenchSession
from plinth.judge.state import State
from plinth.record.kept_capture import KeptCapture
from plinth.session.capture_answers import CaptureAnswer, TakenAt, answers_for, why_none
from plinth.session.captures import giving_from
from plinth.session.procedure.taking import Procedure, Taken

KEEP_READING, KEEP_CAPTURE = "Keep reading and capture  ⏎", "Keep the capture"


class _KeepButton(QPushButton):
    """Takes Enter where it has the focus, and only there: a dialog would press it from every field."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
            event.accept()
        else:
            super().keyPressEvent(event)


class CaptureAnswerRow(QWidget):
    """``keep_wanted``: capture (and the reading, where one is answered) are to be kept. ``said`` after it."""

    keep_wanted = Signal()

    def __init__(self, session: BenchSession, procedure: Procedure | None) -> None:
        super().__init__()
        self._session, self.procedure = session, procedure
        self._analysis: Analysis | None = None
        # Where the record was taken, if anybody knows.
        self.taken_at: TakenAt | None = None
        self.answers: tuple[CaptureAnswer, ...] = ()
        self.asked, self.mark = label("", "name", wrap=True), StateMark()
        self.choice, self.meaning = QComboBox(), QComboBox()
        self.choice.setAccessibleName("Figure that answers")
        self.meaning.setAccessibleName("What it means")
        self.choice.currentIndexChanged.connect(lambda _index: self._show_meaning())
        self.understood = label("", "soft", wrap=True)
        self.keep_button = _KeepButton(KEEP_CAPTURE)
        self.keep_button.setProperty("role", "main")
        self.keep_button.setAutoDefault(False)
        self.keep_button.clicked.connect(self.keep_wanted)
        row = QHBoxLayout()
        row.addWidget(self.choice)
        row.addWidget(self.meaning)
        row.addWidget(self.mark)
        row.addWidget(self.understood, 1)
        row.addWidget(self.keep_button)
        box = column(self.asked, spacing=4)
        box.addLayout(row)
        self.setLayout(box)
        self.show_analysis(None)

    @property
    def answer(self) -> CaptureAnswer | None:
        """The figure that is chosen as the answer; None where nothing is asked or answers it."""
        index = self.choice.currentIndex()
        return self.answers[index] if 0 <= index < len(self.answers) else None

    def show_analysis(self, analysis: Analysis | None) -> None:
        """Offer what this capture answers of what is asked now."""
        self._analysis = analysis
        request = None if self.procedure is None else self.procedure.request
        blocked = "" if self.procedure is None else self.procedure.blocked
        self.answers = ()
        words = "No test asks for a reading here: the capture is kept by itself."
        if request is not None and analysis is not None:
            elsewhere = "" if self.taken_at is None else self.taken_at.elsewhere(request)
            self.answers = () if elsewhere else answers_for(request, analysis, self._session.kit)
            words = f"Asked: {request.full_title}. " + (
                "" if self.answers else elsewhere or why_none(request, analysis)
            )
        elif request is not None:
            words = f"Asked: {request.full_title}."
        if blocked:
            self.answers, words = (), blocked
        self.asked.setText(words)
        self.choice.blockSignals(True)
        self.choice.clear()
        self.choice.addItems([f"{each.label}, {each.channel}: {each.text}" for each in self.answers])
        self.choice.blockSignals(False)
        self.choice.setVisible(bool(self.answers))
        self.keep_button.setText(KEEP_READING if self.answers else KEEP_CAPTURE)
        self.keep_button.setEnabled(analysis is not None)
        self._show_meaning()

    def _show_meaning(self) -> None:
        answer = self.answer
        shown = answer is not None and self.procedure is not None
        self.mark.setVisible(shown)
        self.meaning.clear()
        self.meaning.hide()
        if answer is None or self.procedure is None:
            self.understood.setText("")
            return
        said = self.procedure.said(answer.text)
        self.mark.set_state(said.state)
        self.understood.setText(f"{said.words}. {said.against}" if said.against else said.words)
        set_role(self.understood, "close" if said.state is State.CLOSE else "soft")
        if said.choices:
            self.meaning.addItems(list(said.choices))
            self.meaning.show()

    def take(self, kept: KeptCapture, say: Callable[[str], None]) -> None:
        """The capture is kept: keep the reading that is drawn from it, and go on to what is asked next."""
        answer, procedure = self.answer, self.procedure
        if answer is None or procedure is None:
            say(f"{kept.title} is kept.")
            return
        giving = giving_from(kept, answer)
        request = procedure.request
        taken = (
            procedure.answer(answer.text, self.meaning.currentIndex(), giving)
            if self.meaning.count()
            else procedure.take(answer.text, giving)
        )
        title = "" if request is None else request.full_title
        if taken is Taken.KEPT:
            say(f"Kept: {title}, {answer.text}, drawn from {kept.title}.")
        else:
            say(f"{kept.title} is kept; no reading of it: {taken.value}.")
        self.show_analysis(self._analysis)
