"""A listing read: pasted or dropped; what is found stands with the words it came from, to take or to leave."""

import dataclasses
from collections.abc import Callable
from pathlib import Path

import pydantic
from PySide6.QtCore import QMimeData, Qt
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from plinth.builds.field_entry import field_text, field_value
from plinth.builds.fields import WORDS, PartField, part_fields
from plinth.builds.invalid import invalid
from plinth.builds.parts import Part
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, column, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.shelf.listing.part import part_from, usual_part
from plinth.shelf.listing.read import KINDS, Listing, guess_kind, read_listing
from plinth.shelf.listing.words import ListedValue
from plinth.units.errors import QuantityError

KIND_WORDS = dict(zip(KINDS, ("transformer", "capacitor", "class D module", "class AB module or chip"), strict=True))


LARGEST_BYTES = 200_000
# A page of a shop has some thousand letters; a longer line is folded.
MOST_LETTERS, LONGEST_LINE = 20_000, 1_000


class ListingText(QPlainTextEdit):
    """A field for a text: typed, pasted, or a file of text dropped on it."""

    def __init__(self, refused: Callable[[str], None]) -> None:
        super().__init__()
        self._refused = refused

    def canInsertFromMimeData(self, source: QMimeData) -> bool:
        return source.hasText() or source.hasUrls()

    def insertFromMimeData(self, source: QMimeData) -> None:
        files = [Path(url.toLocalFile()) for url in source.urls() if url.isLocalFile()]
        if not files:
            self._insert(source.text())
            return
        try:
            data = files[0].read_bytes() if files[0].stat().st_size <= LARGEST_BYTES else b"\0"
        except OSError as error:
            self._refused(f"{files[0].name} cannot be read: {error.strerror}.")
            return
        if b"\0" in data or data.startswith(b"%PDF"):
            self._refused(f"Found {files[0].name}, expected a file of plain text: open it, and copy the words from it.")
            return
        self._insert(data.decode("utf-8", errors="replace"))

    def _insert(self, text: str) -> None:
        """Put in what a listing can be: an editor lays out a line of a megabyte for minutes."""
        lines = text[:MOST_LETTERS].splitlines()
        folded = [line[at : at + LONGEST_LINE] for line in lines for at in range(0, max(len(line), 1), LONGEST_LINE)]
        self.insertPlainText("\n".join(folded))
        if len(text) > MOST_LETTERS:
            self._refused(f"Found {len(text)} letters, expected a listing: the first {MOST_LETTERS} are taken.")


class ListingDialog(Dialog):
    """A text, and what was read in it. Nothing is guessed silently: what is not taken stays assumed."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Read a listing")
        look.size(self, 820, 640)
        self.text, self.name, self.kind = ListingText(self._refuse), QLineEdit(), QComboBox()
        self.text.setPlaceholderText("Paste a shop page, a manual or a title line: Toroidal transformer 225VA 2*25V …")
        self.text.setAccessibleName("Text of the listing")
        self.text.setTabChangesFocus(True)
        self.name.setPlaceholderText("what you call it")
        self.name.setAccessibleName("Name of the part")
        self.kind.addItems(list(KIND_WORDS.values()))
        self.kind.setAccessibleName("Kind of part")
        self.rows = QTableWidget(0, 3)
        self.rows.setHorizontalHeaderLabels(["Property", "Value", "Words it came from"])
        self.rows.verticalHeader().hide()
        self.rows.setShowGrid(False)
        self.rows.setAccessibleName("What was found; Space takes or leaves a line, the value can be corrected")
        header = self.rows.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.contradictions, self.said = label("", "caution", wrap=True), label("", "over", wrap=True)
        self.contradictions.hide()
        head = QHBoxLayout()
        for words, field in (("It is a", self.kind), ("called", self.name)):
            head.addWidget(label(words, "soft"))
            head.addWidget(field, 1 if field is self.name else 0)
        box = column(self.text, spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(head)
        for widget in (self.rows, self.contradictions, self.said):
            box.addWidget(widget, 1 if widget is self.rows else 0)
        box.addLayout(answer_row(self, "Put it on the shelf", self.take))
        self.setLayout(box)
        self._found: tuple[ListedValue, ...] = ()
        self._fields: dict[str, PartField] = {}
        self._listing: Listing | None = None
        # What came of it; what lies on the shelf already, asked about once.
        self.part: Part | None = None
        self._asked_twice: Part | None = None
        self._kind_chosen = False
        self.text.textChanged.connect(self._read)
        self.kind.activated.connect(self._choose_kind)
        self.text.setFocus()

    def _refuse(self, sentence: str) -> None:
        self.said.setText(sentence)

    def _choose_kind(self, _index: int) -> None:
        self._kind_chosen = True
        self._read()

    def _read(self) -> None:
        text = self.text.toPlainText()
        guessed = guess_kind(text)
        if guessed is not None and not self._kind_chosen:
            self.kind.setCurrentText(KIND_WORDS[guessed])
        kind = list(KINDS)[self.kind.currentIndex()]
        self._listing = read_listing(text, kind)
        self._fields = {field.path: field for field in part_fields(usual_part(kind))}
        self._found = tuple(fact for fact in self._listing.properties if fact.path in self._fields)
        claims = tuple(fact for fact in self._listing.found if fact.path == "claim")
        self.rows.setRowCount(len(self._found) + len(claims))
        for row, fact in enumerate((*self._found, *claims)):
            self._show(row, fact)
        self.contradictions.setText("\n".join(self._listing.contradictions))
        self.contradictions.setVisible(bool(self._listing.contradictions))
        nothing = bool(text.strip()) and not self._found and not claims
        self.said.setText(
            "Nothing found in it that such a part states: choose another kind, or type it." if nothing else ""
        )
        if not self.name.isModified():
            self.name.setText(" ".join(text.strip().splitlines()[0].split())[:60] if text.strip() else "")
            self.name.setCursorPosition(0)

    def _show(self, row: int, fact: ListedValue) -> None:
        field = self._fields.get(fact.path)
        words = "Listed power" if field is None else WORDS[fact.path]
        value = str(fact.value) if field is None else field_text(field, fact.value)
        self.rows.removeCellWidget(row, 1)
        for place, text in enumerate((words, value, fact.words)):
            cell = QTableWidgetItem(text)
            flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
            if place == 0:
                flags |= Qt.ItemFlag.ItemIsUserCheckable
                cell.setCheckState(Qt.CheckState.Checked)
            elif place == 1 and field is not None:
                flags |= Qt.ItemFlag.ItemIsEditable
            cell.setFlags(flags)
            self.rows.setItem(row, place, cell)
        if fact.choices:
            self.rows.setCellWidget(row, 1, self._choice(field, fact))

    def _choice(self, field: PartField | None, fact: ListedValue) -> QComboBox:
        """What a line may mean; nothing of it is taken before one is chosen."""
        box = QComboBox()
        box.setAccessibleName("Which is meant")
        box.addItem("which is meant?")
        for value in fact.choices:
            # A rail of 70 V is one supply, or two of 35 V.
            box.addItem(f"{fact.value} on {value:g} V each" if field is None else field_text(field, value), value)
        return box

    def accepted_lines(self) -> list[ListedValue]:
        """What is taken, each with its value as it stands now. Raises QuantityError for a value that is none."""
        assert self._listing is not None, "something was pasted"
        claims = [fact for fact in self._listing.found if fact.path == "claim"]
        taken = []
        for row, fact in enumerate((*self._found, *claims)):
            mark, cell = self.rows.item(row, 0), self.rows.item(row, 1)
            if mark is None or cell is None or mark.checkState() != Qt.CheckState.Checked:
                continue
            field = self._fields.get(fact.path)
            box = self.rows.cellWidget(row, 1)
            if isinstance(box, QComboBox):
                taken.append(self._chosen(field, fact, box))
                continue
            if field is None or cell.text() == field_text(field, fact.value):
                taken.append(fact)
                continue
            value = field_value(field, cell.text())
            if not isinstance(value, float | str):
                raise QuantityError(f"{field.words}: found nothing, expected a value, or the line not taken")
            taken.append(ListedValue(fact.path, value, f"{fact.words}, corrected to {cell.text().strip()}"))
        return taken

    def _chosen(self, field: PartField | None, fact: ListedValue, box: QComboBox) -> ListedValue:
        value = box.currentData()
        if value is None:
            words = "Listed power" if field is None else field.words
            raise QuantityError(f"{words}: found {fact.words!r}, which may mean several; choose one, or leave the line")
        if field is None:
            return dataclasses.replace(fact, value=f"{fact.value} on {value:g} V", choices=())
        return dataclasses.replace(fact, value=value, choices=())

    def take(self) -> None:
        """Put the part on the shelf, or say what is wrong; what was pasted stays."""
        if self._listing is None or not self.text.toPlainText().strip():
            self.said.setText("Found nothing pasted, expected the text of a listing.")
            return
        name = self.name.text().strip()
        if not name:
            self.said.setText("Found no name, expected one that you will know it by.")
            return
        try:
            part = part_from(self._listing, self.accepted_lines(), name[:120])
        except QuantityError as error:
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        except pydantic.ValidationError as error:
            self.said.setText(f"These cannot be together: {invalid(error)[0].words}.")
            return
        if self._session.shelf.has(part) and self._asked_twice != part:
            self._asked_twice = part
            self.said.setText(
                "The very same lies on the shelf already. Press once more to put another one there, or correct it."
            )
            return
        if self._session.shelf.put_on_shelf(part):
            self.part = part
            self.accept()
