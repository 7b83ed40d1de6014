"""What is said of a reading as it is typed: a mark, a verdict, what was understood, and what it may have meant."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.labels import column, label
from plinth.desk.marks import StateMark
from plinth.desk.reading_choices import ReadingChoices
from plinth.desk.spoken import sentences
from plinth.session.procedure.bring_up import StepSaid


class VerdictView(QWidget):
    """``choices`` what it may have meant, as buttons."""

    def __init__(self) -> None:
        super().__init__()
        self.mark, self.verdict = StateMark(), label("", "title", wrap=True)
        self.understood, self.choices = label("", "soft", wrap=True), ReadingChoices()
        said = QHBoxLayout()
        said.addWidget(self.mark)
        said.addWidget(self.verdict, 1)
        box = column(spacing=2)
        box.addLayout(said)
        box.addWidget(self.understood)
        box.addWidget(self.choices)
        box.addStretch()
        self.setLayout(box)

    def show_said(self, said: StepSaid) -> None:
        """Show this."""
        self.choices.offer(said.choices, said.lead)
        self.mark.set_state(said.state)
        self.verdict.setText(said.words)
        self.understood.setText(said.against)

    @property
    def words(self) -> str:
        """All of it, to be said aloud."""
        return sentences(self.verdict.text(), self.understood.text(), *self.choices.texts)
