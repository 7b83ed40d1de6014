"""What the readings of a test say: each figure with its state, what it is held against, and what to do."""

from collections.abc import Sequence

from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from plinth.bench.sheet import Outcome
from plinth.desk.labels import column, label
from plinth.desk.marks import StateMark


class _OutcomeView(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.mark = StateMark()
        self.head, self.below = label("", "name", wrap=True), label("", "soft", wrap=True)
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(self.mark)
        top.addWidget(self.head, 1)
        box = column(spacing=1)
        box.addLayout(top)
        box.addWidget(self.below)
        self.setLayout(box)

    def show_outcome(self, outcome: Outcome) -> None:
        self.mark.set_state(outcome.state)
        self.head.setText(f"{outcome.label}: {outcome.words}")
        against = f"{outcome.against[:1].upper()}{outcome.against[1:]}." if outcome.against else ""
        text = " ".join(part for part in (against, outcome.say) if part)
        self.below.setText(text)
        self.below.setVisible(bool(text))
        self.setAccessibleName(f"{outcome.label}: {outcome.words}, {outcome.state}. {text}")


class OutcomeList(QWidget):
    """Widgets are kept for the next reading: only their words change."""

    def __init__(self) -> None:
        super().__init__()
        self._views: list[_OutcomeView] = []
        self._empty = label("What the readings say stands here.", "soft", wrap=True)
        self._box = column(self._empty, spacing=8)
        self._box.addStretch()
        self.setLayout(self._box)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)

    def show_outcomes(self, outcomes: Sequence[Outcome]) -> None:
        """Show these, in their order."""
        while len(self._views) < len(outcomes):
            view = _OutcomeView()
            self._box.insertWidget(len(self._views) + 1, view)
            self._views.append(view)
        for view, outcome in zip(self._views, outcomes, strict=False):
            view.show_outcome(outcome)
        for k, view in enumerate(self._views):
            view.setVisible(k < len(outcomes))
        self._empty.setVisible(not outcomes)

    def words(self) -> list[str]:
        """What is shown, one line each."""
        return [view.accessibleName() for view in self._views if view.isVisibleTo(self)]
