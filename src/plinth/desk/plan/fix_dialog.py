"""What clears a limit, the smallest change first: arrows try one in the band, Enter takes it, Esc leaves all as was."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, column, label
from plinth.desk.look import look
from plinth.desk.margin_shown import short_margin_words
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.judge.margin import Margin
from plinth.session.runner import words_of
from plinth.shelf.fixes import Fix
from plinth.units.shown import shown

HEADS = ("Change", "the limit then", "clips at", "costs", "then over")


class FixDialog(Dialog):
    """Changes in rows, each tried in the band as it becomes current."""

    def __init__(self, parent: QWidget, session: BenchSession, margin: Margin) -> None:
        super().__init__(parent)
        self._session, self.found = session, list[Fix]()
        self.setWindowTitle(f"What clears it: {margin.label}")
        look.size(self, 900, 460)
        self.rows = reading_table(HEADS, "Changes that clear it, the smallest first", widest=0)
        self.rows.currentCellChanged.connect(lambda row, *_: self.try_row(row))
        self.rows.cellDoubleClicked.connect(lambda *_: self.take())
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("How much was looked through")
        self.said = label("Looking for the smallest change …", "soft", wrap=True)
        now = label(f"{margin.label}: {margin.state}. {margin.sentence}", "name", wrap=True)
        foot = QHBoxLayout()
        foot.addLayout(answer_row(self, "Take it", self.take))
        foot.addWidget(self.progress)
        box = column(now, spacing=8, margins=(16, 14, 16, 14))
        box.addWidget(self.rows, 1)
        box.addWidget(self.said)
        box.addLayout(foot)
        self.setLayout(box)
        session.jobs.ask(
            "fix",
            session.fixing.fixes_of(margin),
            self._take_found,
            self._failed,
            progressed=self._progressed,
            long=True,
        )

    def _progressed(self, share: float) -> None:
        self.progress.setValue(round(1000 * share))

    def _failed(self, error: Exception) -> None:
        self.progress.hide()
        self.said.setText(words_of(error))

    def _take_found(self, answer: object) -> None:
        assert isinstance(answer, list)
        self.found = answer
        self.progress.hide()
        fill(self.rows, [_row(fix) for fix in self.found], (2, 3))
        self.said.setText(
            "A row looked at is tried: band, figures and margins show it. Nothing is kept before Enter."
            if answer
            else "Neither one value of this build nor one part of the shelf clears it alone: look for both with Find."
        )
        if answer:
            self.rows.setFocus()
            self.rows.setCurrentCell(0, 0)

    def try_row(self, row: int) -> None:
        """Show the build with this change, without keeping it."""
        if 0 <= row < len(self.found):
            fix = self.found[row]
            why_not = self._session.plan.try_part(fix.slot, fix.part)
            if why_not:
                self.said.setText(f"It cannot join: {why_not}.")

    def take(self) -> None:
        """Keep the change of the current row."""
        row = self.rows.currentRow()
        if 0 <= row < len(self.found):
            self._session.fixing.take_fix(self.found[row])
            super().accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        else:
            super().keyPressEvent(event)

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends and what was tried is put back."""
        self._session.jobs.cancel("fix")
        self._session.plan.leave_trial()
        super().done(answer)


def _row(fix: Fix) -> tuple[str, ...]:
    cost = "–" if fix.cost is None else "drawer" if fix.cost == 0.0 else f"{fix.cost:.2f}"
    return (
        fix.words, f"{short_margin_words(fix.margin)}, {fix.margin.state}",
        f"{shown(fix.watts[0], 'W')} → {shown(fix.watts[1], 'W')}", cost, ", ".join(fix.worse) or "nothing else",
    )  # fmt: skip
