"""A step answered in words: passed over with a reason, or its board repaired. Both are written into the diary."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QBoxLayout, QLineEdit, QWidget

from plinth.desk.labels import button, column
from plinth.session.procedure.bring_up import LEAST_LETTERS, BringUpProcedure
from plinth.units.shown import shown

REASON = "Why is it safe to go on without this? It is written into the diary."
REPAIRED = "What was repaired or exchanged on this channel? Its cold steps come again. It is written into the diary."


class InWords(QWidget):
    """Two buttons and the line that they open; ``plan_button`` stands in their row while there is something for it."""

    def __init__(self, procedure: BringUpProcedure) -> None:
        super().__init__()
        self._procedure, self._asks_repaired = procedure, False
        self.pass_button = button("Pass over, with a reason …", "flat")
        self.pass_button.clicked.connect(self.ask_reason)
        self.repaired_button = button(
            "Repaired, or another board …",
            "flat",
            tip="What was read of this board counts no more: its cold steps come again",
        )
        self.repaired_button.clicked.connect(self.ask_repaired)
        self.plan_button = button("", "flat")
        self.plan_button.hide()
        self.reason = QLineEdit()
        self.reason.setPlaceholderText(REASON)
        self.reason.setAccessibleName("Reason for passing this step over")
        self.reason.hide()
        self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        for widget in (self.pass_button, self.repaired_button, self.plan_button):
            self._row.addWidget(widget, 0, Qt.AlignmentFlag.AlignLeft)
        self._row.addStretch()
        box = column(spacing=9)
        box.addLayout(self._row)
        box.addWidget(self.reason)
        self.setLayout(box)

    def fit(self, direction: QBoxLayout.Direction) -> None:
        """Side by side, or at large text below each other."""
        self._row.setDirection(direction)

    def offer_plan(self, r_ohm: float | None) -> None:
        """Offer to put a resistor that was read into the plan; None: there is none."""
        self.plan_button.setVisible(r_ohm is not None)
        if r_ohm is not None:
            self.plan_button.setText(f"Put {shown(r_ohm, 'ohm')} into the plan")

    def ask_reason(self) -> None:
        """Ask for the reason in writing."""
        self._ask(REASON, repaired=False)

    def ask_repaired(self) -> None:
        """Ask what was repaired on this board."""
        self._ask(REPAIRED, repaired=True)

    def _ask(self, prompt: str, *, repaired: bool) -> None:
        self._asks_repaired = repaired
        self.reason.setPlaceholderText(prompt)
        self.reason.setAccessibleName(prompt)
        self.reason.show()
        self.reason.setFocus()

    def take(self) -> str:
        """What was written is why the step is passed over, or what was repaired; a sentence where it cannot be."""
        words = self.reason.text()
        problem = self._procedure.repaired(words) if self._asks_repaired else self._procedure.pass_over(words)
        if len(words.strip()) < LEAST_LETTERS:
            self.reason.setPlaceholderText(problem)
            return ""
        return problem

    def clear(self) -> None:
        """What was written is on disk."""
        self.reason.clear()
        self.reason.hide()
