"""A listening note: what was heard, of what, through what, how loud, by whom."""

from PySide6.QtWidgets import QFormLayout, QLineEdit, QPlainTextEdit, QWidget

from plinth.decide.heard import ListeningNote
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession


class ListeningDialog(Dialog):
    """Kept in the diary, beside what was read and never mixed with it."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("A listening note")
        look.size(self, 520, 420)
        self.fields = {name: QLineEdit() for name in ("Piece", "Loudspeaker", "Level", "Who listened")}
        form = QFormLayout()
        for name, field in self.fields.items():
            field.setAccessibleName(name)
            form.addRow(name, field)
        self.words = QPlainTextEdit()
        self.words.setAccessibleName("What was heard")
        self.words.setTabChangesFocus(True)
        self.said = label("", "over", wrap=True)
        self.said.hide()
        box = column(
            label("What was heard stands beside what was read, and is never reckoned with it.", "soft", wrap=True),
            spacing=8, margins=(16, 14, 16, 14),
        )  # fmt: skip
        box.addLayout(form)
        box.addWidget(label("What was heard", "soft"))
        box.addWidget(self.words, 1)
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep the note", self.keep))
        self.setLayout(box)
        self.words.setFocus()

    def keep(self) -> None:
        """Keep the note; without words it says what is missing."""
        piece, loudspeaker, level, who = (field.text() for field in self.fields.values())
        note = ListeningNote(self.words.toPlainText(), piece, loudspeaker, level, who)
        if self._session.deciding.keep_heard(note):
            self.accept()
            return
        self.said.setText(
            "Found no words, expected what was heard."
            if not note.words.strip()
            else "It could not be kept: see the window."
        )
        self.said.show()
