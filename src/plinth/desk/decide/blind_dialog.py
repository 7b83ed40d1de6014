"""A blind comparison, from matched levels to the chance by guessing; the order stays sealed until the end."""

import random

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFormLayout, QHBoxLayout, QLineEdit, QSpinBox, QStackedWidget, QWidget

from plinth.decide.blind import (
    LEAST_TRIALS,
    MATCHED_DB,
    MOST_TRIALS,
    Answer,
    BlindError,
    BlindOutcome,
    Levels,
    SealedOrder,
    drawn_order,
    outcome_of,
)
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.units.errors import QuantityError
from plinth.units.level import read_level

HOW = (
    "Two people: one switches and looks at the card, the other listens, does not see it, and says A or B. Read the "
    "level of each at 1 kHz first, at the loudspeaker's terminals with a steady tone, each channel of both: apart by "
    f"more than {MATCHED_DB:g} dB the louder one sounds better, whatever else it is. Decide on the number of trials "
    "now and do all of them. Loud music hurts ears before it hurts loudspeakers: keep it down."
)


class BlindDialog(Dialog):
    """``names`` of the two; three pages: levels and trials, the trials, what came of them."""

    def __init__(
        self, parent: QWidget, session: BenchSession, names: tuple[str, str], source: random.Random | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._names, self._source = session, names, source
        self._sealed: SealedOrder | None = None
        self._levels: Levels | None = None
        self.answers: list[Answer] = []
        self.setWindowTitle("Blind comparison")
        look.size(self, 640, 520)
        self.pages = QStackedWidget()
        self.pages.addWidget(self._begin_page())
        self.pages.addWidget(self._trial_page())
        self.pages.addWidget(self._end_page())
        box = column(spacing=8, margins=(16, 14, 16, 14))
        box.addWidget(self.pages)
        self.setLayout(box)

    # Levels

    def _begin_page(self) -> QWidget:
        page = QWidget()
        self.level_words = label("", wrap=True)
        self.begin_button = button("Draw the order and begin  ⏎", "main")
        self.begin_button.clicked.connect(self.begin)
        self.levels: dict[tuple[str, str], QLineEdit] = {}
        form = QFormLayout()
        for letter, name in zip("AB", self._names, strict=True):
            for channel in self._session.build.channels:
                field = QLineEdit()
                field.setPlaceholderText("2.83")
                field.setAccessibleName(f"{letter}, {name}, {channel}: volts at 1 kHz")
                field.textChanged.connect(self._show_levels)
                self.levels[letter, channel] = field
                form.addRow(f"{letter}: {name}, {channel}, V at 1 kHz", field)
        self.trials = QSpinBox()
        self.trials.setRange(LEAST_TRIALS, MOST_TRIALS)
        self.trials.setValue(12)
        self.trials.setAccessibleName("Trials")
        form.addRow("Trials", self.trials)
        box = column(label(HOW, "caution", wrap=True), spacing=8)
        box.addLayout(form)
        box.addWidget(self.level_words)
        box.addStretch()
        box.addWidget(self.begin_button, 0, Qt.AlignmentFlag.AlignLeft)
        page.setLayout(box)
        self._show_levels()
        return page

    def _read_levels(self) -> Levels:
        volts: dict[str, list[float]] = {"A": [], "B": []}
        for (letter, _channel), field in self.levels.items():
            volts[letter].append(read_level(field.text()).volts)
        return Levels(tuple(volts["A"]), tuple(volts["B"]))

    def _show_levels(self) -> None:
        self._levels = None
        try:
            levels = self._read_levels()
        except (QuantityError, BlindError) as error:
            empty = any(not field.text().strip() for field in self.levels.values())
            sentence = f"{str(error)[:1].upper()}{str(error)[1:]}."
            words = "Each level is needed: nothing is matched by ear." if empty else sentence
        else:
            apart = f"{levels.apart_db:.2f} dB apart"
            if levels.matched:
                self._levels = levels
                words = f"Matched: {apart} at most."
            else:
                words = f"{apart}: the louder one would be told by its level. Bring them within {MATCHED_DB:g} dB."
        self.level_words.setText(words)
        self.begin_button.setEnabled(self._levels is not None)

    def begin(self) -> None:
        """Draw the order, show its seal, go to the first trial."""
        if self._levels is None:
            return
        self._sealed = drawn_order(self.trials.value(), self._source)
        self.answers = []
        self.seal_words.setText(f"Order drawn and sealed: {self._sealed.seal[:16]}. Note it down if you like.")
        self.pages.setCurrentIndex(1)
        self._show_trial()

    # Trials

    def _trial_page(self) -> QWidget:
        page = QWidget()
        self.trial_words, self.seal_words = label("", "title"), label("", "small", wrap=True)
        self.card_button = button("Who switches: press and hold to see what to connect")
        self.card = label("", "ask")
        self.card_button.pressed.connect(self._show_card)
        self.card_button.released.connect(lambda: self.card.setText(""))
        answers = QHBoxLayout()
        self.answer_buttons: dict[Answer, QWidget] = {}
        keys: tuple[Answer, Answer] = ("A", "B")
        for letter, name in zip(keys, self._names, strict=True):
            push = button(f"It was {letter}: {name}   {letter}", "main")
            push.clicked.connect(lambda _checked=False, letter=letter: self.answer(letter))
            self.answer_buttons[letter] = push
            answers.addWidget(push)
        self.stop_button = button("Stop here", "flat", tip="A round that is stopped is no result")
        self.stop_button.clicked.connect(self.finish)
        box = column(self.trial_words, self.seal_words, self.card_button, self.card, spacing=10)
        box.addLayout(answers)
        box.addStretch()
        box.addWidget(self.stop_button, 0, Qt.AlignmentFlag.AlignLeft)
        page.setLayout(box)
        return page

    def _show_card(self) -> None:
        if self._sealed is not None and len(self.answers) < len(self._sealed.order):
            letter = self._sealed.order[len(self.answers)]
            self.card.setText(f"Connect {letter}: {self._names['AB'.index(letter)]}")

    def _show_trial(self) -> None:
        assert self._sealed is not None, "the order is drawn first"
        self.card.setText("")
        self.trial_words.setText(f"Trial {len(self.answers) + 1} of {len(self._sealed.order)}: which is it?")

    def answer(self, letter: Answer) -> None:
        """Take an answer and go to the next trial; nothing is told of whether it was right."""
        if self._sealed is None or self.pages.currentIndex() != 1:
            return
        self.answers.append(letter)
        if len(self.answers) == len(self._sealed.order):
            self.finish()
        else:
            self._show_trial()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys: dict[int, Answer] = {Qt.Key.Key_A: "A", Qt.Key.Key_B: "B"}
        if self.pages.currentIndex() == 1 and event.key() in keys:
            self.answer(keys[event.key()])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.pages.currentIndex() == 0:
            self.begin()
        else:
            super().keyPressEvent(event)

    # What came of it

    def _end_page(self) -> QWidget:
        page = QWidget()
        self.outcome_words, self.order_words = label("", "ask", wrap=True), label("", "soft", wrap=True)
        self.kept_words = label("", "soft", wrap=True)
        close = button("Close  Esc")
        close.clicked.connect(self.accept)
        box = column(self.outcome_words, self.order_words, self.kept_words, spacing=10)
        box.addStretch()
        box.addWidget(close, 0, Qt.AlignmentFlag.AlignLeft)
        page.setLayout(box)
        return page

    @property
    def outcome(self) -> BlindOutcome | None:
        """What came of it so far; None before it began."""
        return None if self._sealed is None else outcome_of(self._sealed, self.answers)

    def finish(self) -> None:
        """Break the seal, say what came of it, and keep it in the diary."""
        outcome = self.outcome
        if outcome is None or self._sealed is None or self._levels is None:
            return
        self.outcome_words.setText(outcome.sentence)
        self.order_words.setText(
            f"Played: {' '.join(self._sealed.order)}. Said: {' '.join(self.answers) or 'nothing'}. "
            f"{outcome.needed} of {outcome.planned} would be more than guessing often gives."
        )
        kept = bool(self.answers) and self._session.deciding.keep_blind(
            self._names, outcome, self._levels.apart_db, self._sealed.seal
        )
        self.kept_words.setText("It stands in the diary." if kept else "Nothing was kept.")
        self.pages.setCurrentIndex(2)
