"""Copies of this workshop: which there are, how much room they take, one taken out as a workshop of its own."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QListWidget, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.session.backups import BackupCopy
from plinth.units.shown import shown

KIND = "Workshop (*.plinth)"


class BackupsDialog(Dialog):
    """A copy is never written over what is open: it becomes a file of its own, which can be opened."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Copies of this workshop")
        look.size(self, 560, 420)
        self.copies: list[BackupCopy] = session.backups.all()
        self.list = QListWidget()
        self.list.setAccessibleName("Copies, the newest first")
        for copy in self.copies:
            self.list.addItem(f"{copy.day:%A, %Y-%m-%d}   {shown(float(copy.size), 'B')}")
        if self.copies:
            self.list.setCurrentRow(0)
        self.said = label("", wrap=True)
        self.take_button = button("Take it out as a workshop …", "main")
        self.take_button.setEnabled(bool(self.copies))
        self.take_button.clicked.connect(self.ask_take)
        close = button("Close  Esc")
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        foot.addWidget(self.take_button)
        foot.addStretch()
        foot.addWidget(close)
        box = column(label(session.backups.words, "soft", wrap=True), self.list, spacing=8, margins=(16, 14, 16, 14))
        box.addWidget(self.said)
        box.addLayout(foot)
        self.setLayout(box)

    def ask_take(self) -> None:
        """Ask where the chosen copy is to stand."""
        copy = self.copies[self.list.currentRow()]
        stem = self._session.workshop.path.stem
        proposed = str(self._session.workshop.path.with_name(f"{stem} of {copy.day.isoformat()}.plinth"))
        name, _ = QFileDialog.getSaveFileName(
            self, "Take it out as", proposed, KIND, options=QFileDialog.Option.DontConfirmOverwrite
        )
        if name:
            self.take(Path(name))

    def take(self, to: Path) -> None:
        """Let the chosen copy be a workshop of its own."""
        copy = self.copies[self.list.currentRow()]
        self.said.setText("Copying …")
        self._session.backups.copy(
            copy.path,
            to,
            lambda words, done: self.said.setText(
                f"Taken out as {to.name}: open it with Ctrl+Shift+W." if done else words
            ),
        )
