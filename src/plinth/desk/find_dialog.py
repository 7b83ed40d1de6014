"""Find me: a requirement in a line, up to three stations to choose for, and what of the shelf meets it, in order."""

from collections.abc import Mapping, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QProgressBar, QWidget

from plinth.builds.parts import Part
from plinth.builds.stations import stations
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.margin_shown import short_margin_words
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.finding import NOTHING
from plinth.session.runner import words_of
from plinth.shelf.find import MOST_STATIONS, RANKS, Candidate, SearchResult
from plinth.shelf.slots import KINDS, WORDS
from plinth.shelf.wanted import Wanted, read_wanted
from plinth.units.errors import QuantityError
from plinth.units.shown import shown

NONE = "–"


class FindDialog(Dialog):
    """A requirement, stations to choose for, and the combinations that meet it.

    ``slots`` which stations are chosen for at first, ``requirement`` what is asked at first, ``fixed`` parts around
    which all is chosen.
    """

    def __init__(
        self,
        parent: QWidget,
        session: BenchSession,
        slots: Sequence[str] = (),
        requirement: str = "",
        fixed: Mapping[str, Part] = NOTHING,
    ) -> None:
        super().__init__(parent)
        self._fixed = fixed
        self._session, self.outcome, self.wanted = session, SearchResult(0, (), (), {}, {}), Wanted()
        around = ", ".join(part.name for part in fixed.values())
        self.setWindowTitle(f"What can this do: {around}" if fixed else f"Find me: {session.build.name}")
        look.size(self, 1040, 640)
        self.requirement = QLineEdit(requirement)
        self.requirement.setPlaceholderText(
            "60 W 4R, sink < 75 at 35, under 120, drawer; empty: nothing over its limit"
        )
        self.requirement.setAccessibleName("What is required")
        self._by_words = {
            WORDS[slot]: slot for station in stations(session.build) for slot in station.slots if slot in KINDS
        }
        self.places = [self._place(k, slots) for k in range(MOST_STATIONS)]
        self.rank = QComboBox()
        self.rank.addItems(list(RANKS))
        self.rank.setAccessibleName("In which order")
        if fixed:
            self.rank.setCurrentText("most watts")
        self.go_button, self.stop_button = button("Find  ⏎", "main"), button("Stop")
        self.go_button.clicked.connect(self.search)
        self.stop_button.clicked.connect(self.stop)
        self.stop_button.setEnabled(False)
        self.understood, self.said = label("", "soft", wrap=True), label("", "over", wrap=True)
        self.said.hide()
        self.rows = reading_table(self._heads(), "Builds that meet the requirement, then those that do not", widest=0)
        self.rows.currentCellChanged.connect(lambda row, *_: self.try_row(row))
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("How much was looked through")
        self.why = label("", "small", wrap=True)
        self.take_button, close = button("Take it"), button("Close  Esc")
        self.take_button.clicked.connect(self.take)
        self.take_button.setEnabled(False)
        close.clicked.connect(self.reject)
        chosen = QHBoxLayout()
        chosen.addWidget(label("Choose for", "soft"))
        for place in self.places:
            chosen.addWidget(place)
        chosen.addWidget(label("in order of", "soft"))
        chosen.addWidget(self.rank)
        chosen.addStretch()
        foot = QHBoxLayout()
        foot.addWidget(self.go_button)
        foot.addWidget(self.stop_button)
        foot.addWidget(self.progress, 1)
        foot.addWidget(self.take_button)
        foot.addWidget(close)
        box = column(self.requirement, spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(chosen)
        for widget in (self.understood, self.said):
            box.addWidget(widget)
        box.addWidget(self.rows, 1)
        box.addWidget(self.why)
        box.addLayout(foot)
        self.setLayout(box)
        self.requirement.textChanged.connect(self._read)
        self._read()
        self.requirement.setFocus()

    def _place(self, k: int, slots: Sequence[str]) -> QComboBox:
        made = QComboBox()
        made.addItems([NONE, *self._by_words])
        made.setAccessibleName(f"Choose for, {k + 1}")
        if k < len(slots) and WORDS[slots[k]] in self._by_words:
            made.setCurrentText(WORDS[slots[k]])
        return made

    @property
    def slots(self) -> tuple[str, ...]:
        """The stations that are chosen for."""
        words = [place.currentText() for place in self.places]
        return tuple(dict.fromkeys(self._by_words[word] for word in words if word != NONE))

    def _read(self) -> None:
        try:
            self.wanted = read_wanted(self.requirement.text())
        except QuantityError as error:
            self._refuse(str(error))
            return
        self.said.hide()
        self.understood.setText(f"Understood: {self.wanted.words}.")

    def _refuse(self, sentence: str) -> None:
        self.said.setText(f"{sentence[0].upper()}{sentence[1:]}.")
        self.said.show()

    def _heads(self) -> list[str]:
        return ["Parts", *(f"into {ohms:g} Ω" for ohms in self._ohms()), "sink", "still to pay", "tightest margin"]

    def _ohms(self) -> tuple[float, ...]:
        candidates = [*self.outcome.met, *self.outcome.lost]
        return tuple(sorted({ohms for combination in candidates for ohms in combination.powers}, reverse=True))

    def search(self) -> None:
        """Search anew; one under way ends."""
        self._read()
        if not self.said.isHidden():
            return
        self.stop_button.setEnabled(True)
        self.why.setText("Looking …")
        rank = RANKS[self.rank.currentIndex()]
        work = self._session.finding.finds(self.wanted, self.slots, rank, self._fixed)
        self._session.jobs.ask("find", work, self._take_outcome, self._failed, progressed=self._progressed, long=True)

    def _progressed(self, share: float) -> None:
        self.progress.setValue(round(1000 * share))

    def stop(self) -> None:
        """End what is under way; what was found before stays."""
        self._session.jobs.cancel("find")
        self.stop_button.setEnabled(False)
        self.why.setText("Stopped. What was found before stays.")

    def _failed(self, error: Exception) -> None:
        self.stop_button.setEnabled(False)
        self.why.setText("")
        self._refuse(str(error) if isinstance(error, QuantityError | PhysicsError) else words_of(error).rstrip("."))

    def _take_outcome(self, answer: object) -> None:
        assert isinstance(answer, SearchResult)
        self.outcome = answer
        self.stop_button.setEnabled(False)
        self.progress.setValue(1000)
        heads = self._heads()
        self.rows.setColumnCount(len(heads))
        self.rows.setHorizontalHeaderLabels(heads)
        powers = len(heads) - 4
        fill(self.rows, [self._row(combination) for combination in self.shown], range(1, powers + 3))
        self.why.setText(_why(answer))
        if self.shown:
            self.rows.setFocus()
            self.rows.setCurrentCell(0, 0)

    @property
    def shown(self) -> tuple[Candidate, ...]:
        return (*self.outcome.met, *self.outcome.lost)

    def _row(self, candidate: Candidate) -> list[str]:
        parts = [item.part.name for item in candidate.items.values() if item is not None]
        powers = [
            shown(candidate.powers[ohms].value, "W") if ohms in candidate.powers else NONE for ohms in self._ohms()
        ]
        sink = NONE if candidate.sink is None else f"{candidate.sink.value:.0f} °C"
        price = "?" if candidate.price is None else f"{candidate.price:.2f}"
        margin = (
            NONE
            if candidate.margin is None
            else f"{candidate.margin.label.lower()} {short_margin_words(candidate.margin)}"
        )
        words = ", ".join(parts) or "as it is"
        if candidate.why_not:
            return [f"◆ {words}", *powers, sink, price, f"lost, {candidate.why_not}"]
        return [f"○ {words}", *powers, sink, price, margin]

    def try_row(self, row: int) -> None:
        """Show a build that was found in band and margins, without keeping it."""
        self.take_button.setEnabled(0 <= row < len(self.shown))
        if 0 <= row < len(self.shown):
            why_not = self._session.finding.try_found(self.shown[row], self._fixed)
            if why_not:
                self._refuse(why_not)

    def take(self) -> None:
        """Take the parts of the current row."""
        row = self.rows.currentRow()
        if 0 <= row < len(self.shown) and self._session.finding.take_found(self.shown[row], self.wanted, self._fixed):
            super().accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.focusWidget() is self.rows:
                self.take()
            else:
                self.search()
        else:
            super().keyPressEvent(event)

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends and what was tried is put back."""
        self._session.jobs.cancel("find")
        self._session.plan.leave_trial()
        super().done(answer)


def _why(result: SearchResult) -> str:
    """Why the others lost: by reason, and the parts that are in none."""
    by_reason = sorted(result.tally.items(), key=lambda pair: -pair[1])
    said = f"{result.count:,} combinations, {len(result.met)} shown that meet it, each predicted in full."
    if by_reason:
        said += f" Lost: {', '.join(f'{count:,} {words}' for words, count in by_reason)}."
    never = [f"{name} ({reason.why})" for (_, name), reason in result.of_part.items() if reason.joins]
    if never:
        said += f" In none: {', '.join(never[:6])}{' …' if len(never) > 6 else ''}."
    return said
