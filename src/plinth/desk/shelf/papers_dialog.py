"""The papers of a part: added, dropped, noted, opened, saved, taken off."""

import tempfile
from pathlib import Path

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.desk.tables import fill, reading_table
from plinth.report.file_out import not_written_words, write_whole
from plinth.shelf.item import Paper, ShelfItem
from plinth.shelf.papers import MOST_BYTES, size_words

HEADS = ("Paper", "size", "note")
KINDS = "Papers (*.pdf *.png *.jpg *.jpeg *.webp *.txt *.md *.csv *.html);;All files (*)"


class PapersDialog(Dialog):
    """The papers of one part, which are kept inside the workshop."""

    def __init__(self, parent: QWidget, session: BenchSession, item: ShelfItem) -> None:
        super().__init__(parent)
        self._session, self._number, self._kind = session, item.number, type(item.part)
        self.setWindowTitle(f"Papers: {item.part.name}")
        look.size(self, 680, 420)
        self.setAcceptDrops(True)
        self.rows = reading_table(HEADS, "Papers of this part", widest=2)
        self.rows.currentCellChanged.connect(lambda row, *_: self._choose(row))
        self.note = QLineEdit()
        self.note.setPlaceholderText("a note by which it is found")
        self.note.setAccessibleName("Note of the current paper")
        self.note.returnPressed.connect(self.keep_note)
        self.said = label("", "over", wrap=True)
        self.add_button, self.open_button = button("Add …"), button("Open")
        self.save_button, self.off_button, close = button("Save as …"), button("Take off"), button("Close  Esc")
        self.add_button.clicked.connect(self._ask_add)
        self.open_button.clicked.connect(self.open)
        self.save_button.clicked.connect(self._ask_save)
        self.off_button.clicked.connect(self.take_off)
        close.clicked.connect(self.reject)
        foot = QHBoxLayout()
        for push in (self.add_button, self.open_button, self.save_button, self.off_button):
            foot.addWidget(push)
        foot.addStretch()
        foot.addWidget(close)
        hint = f"A sheet, a picture or a text, up to {MOST_BYTES / 1e6:.0f} MB: add it, or drop it here."
        box = column(
            label(hint, "soft", wrap=True), self.rows, self.note, self.said, spacing=8, margins=(16, 14, 16, 14)
        )
        box.addLayout(foot)
        self.setLayout(box)
        self.refresh()

    @property
    def item(self) -> ShelfItem:
        """The part on the shelf, as it is now."""
        return next(item for item in self._session.shelf.items((self._kind,)) if item.number == self._number)

    @property
    def paper(self) -> Paper | None:
        """The current paper."""
        row, papers = self.rows.currentRow(), self.item.papers
        return papers[row] if 0 <= row < len(papers) else None

    def show_paper(self, number: int) -> None:
        """Make a paper the current one."""
        self.rows.setCurrentCell(next((k for k, paper in enumerate(self.item.papers) if paper.number == number), -1), 0)

    def refresh(self) -> None:
        """Show the papers."""
        papers = self.item.papers
        fill(self.rows, [(paper.name, size_words(paper.size), paper.note) for paper in papers], (1,))
        if papers:
            self.rows.setCurrentCell(len(papers) - 1, 0)
        self._choose(self.rows.currentRow())

    def _choose(self, _row: int) -> None:
        paper = self.paper
        for push in (self.open_button, self.save_button, self.off_button, self.note):
            push.setEnabled(paper is not None)
        self.note.setText("" if paper is None else paper.note)

    def add(self, path: Path) -> None:
        """Keep a file with the part, or say why not."""
        self.said.setText(self._session.shelf.add_paper(self.item, path))
        self.refresh()

    def keep_note(self) -> None:
        """Keep what is typed as the note of the current paper."""
        if self.paper is not None:
            self._session.shelf.note_paper(self.paper, self.note.text())
            self.refresh()

    def take_off(self) -> None:
        """Take the current paper off; "Take back" on the shelf brings it again."""
        if self.paper is not None:
            self._session.shelf.remove_paper(self.paper)
            self.refresh()

    def open(self) -> None:
        """Open a copy of the current paper with whatever shows such files here."""
        paper = self.paper
        content = None if paper is None else self._session.shelf.paper_content(paper)
        if paper is None or content is None:
            return
        copy = Path(tempfile.mkdtemp(prefix="plinth-")) / Path(paper.name).name
        copy.write_bytes(content)
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(copy))):
            self.said.setText(f"Nothing here shows such files. A copy stands at {copy}.")

    def save(self, path: Path) -> None:
        """Write the current paper to a file, or say why not."""
        content = None if self.paper is None else self._session.shelf.paper_content(self.paper)
        if content is None:
            return
        try:
            write_whole(path, content)
        except OSError as error:
            self.said.setText(not_written_words(path, error))
        else:
            self.said.setText(f"Written: {path}.")

    def _ask_add(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Add a paper", "", KINDS)
        if name:
            self.add(Path(name))

    def _ask_save(self) -> None:
        if self.paper is not None:
            name, _ = QFileDialog.getSaveFileName(self, "Save the paper", Path(self.paper.name).name)
            if name:
                self.save(Path(name))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for url in event.mimeData().urls():
            if url.isLocalFile():
                self.add(Path(url.toLocalFile()))
        event.setDropAction(Qt.DropAction.CopyAction)
        event.accept()
