"""An archive into the open workshop: each of its builds merged by hand with one's own copy, taken in apart, or left."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QListWidget, QListWidgetItem, QTableWidgetItem, QWidget

from plinth.archive.copies import Copies
from plinth.desk.dialog import Dialog
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.tables import fill, reading_table
from plinth.record.diary import DiaryEntry
from plinth.session.archives import ArchiveLook, Way, WayKind

MERGE, APART, LEAVE = "Merge with my own", "Take in apart", "Leave it out"
KINDS: dict[str, WayKind] = {MERGE: "merge", APART: "apart", LEAVE: "leave"}
SAME_ONE = (
    "Merge only what was read of the very same amplifier: it counts here as well, first power too. What is older than "
    "your own record of the same thing comes as a note."
)
_THERE, _HERE = "only in the archive", "only here"


class ArchiveDialog(Dialog):
    """``taken`` what is to be done with each build (None: nothing), ``separate``: to begin a workshop of its own."""

    def __init__(self, parent: QWidget, seen: ArchiveLook) -> None:
        super().__init__(parent)
        self.setWindowTitle("From an archive")
        look.size(self, 980, 620)
        self._look = seen
        self.separate = False
        self.taken: list[Way] | None = None
        self.ways: list[QComboBox] = []
        self._ticked = [set(range(len(copies.only_there))) for copies in seen.copies]
        self.builds = QListWidget()
        self.builds.setAccessibleName("Builds of the archive")
        for copies in seen.copies:
            self.builds.addItem(QListWidgetItem(copies.archived.build.name))
            way = QComboBox()
            way.setAccessibleName(f"What is done with {copies.archived.build.name}")
            way.addItems([MERGE, APART, LEAVE] if copies.own is not None else [APART, LEAVE])
            if copies.own is not None and not copies.has_more:
                way.setCurrentText(LEAVE)
            self.ways.append(way)
        self.builds.currentRowChanged.connect(self._show)
        self.head, self.differs = label("", wrap=True), label("", "soft", wrap=True)
        self.lines = reading_table(("", "Where", "When", "Line"), "Lines of only one of the two", widest=3)
        self.lines.itemChanged.connect(self._tick)
        self.lines.space.connect(self._turn)
        self._way_box = QHBoxLayout()
        self.same_one = label(SAME_ONE, "caution", wrap=True)
        take, own = button("Take it in  ⏎", "main"), button("Begin a workshop of its own …")
        self.own_button = own
        take.setDefault(True)
        take.clicked.connect(self.take)
        own.clicked.connect(self._apart)
        close = button("Close  Esc")
        close.clicked.connect(self.reject)
        right = column(self.head, self.differs, spacing=8)
        right.addLayout(self._way_box)
        right.addWidget(self.same_one)
        right.addWidget(self.lines, 1)
        middle = QHBoxLayout()
        middle.setSpacing(16)
        self.builds.setFixedWidth(look.column(220))
        middle.addWidget(self.builds)
        middle.addLayout(right, 1)
        foot = QHBoxLayout()
        for each in (take, own):
            foot.addWidget(each)
        foot.addStretch()
        foot.addWidget(close)
        self.take_button = take
        take.setEnabled(not seen.refused)
        trouble = [*([seen.refused] if seen.refused else []), *seen.archive.damaged[:4]]
        damaged = label("; ".join(trouble), "problem", wrap=True)
        damaged.setVisible(bool(trouble))
        box = column(
            label(f"{seen.path.name}, made {seen.archive.head.made_at:%Y-%m-%d %H:%M}", "title"), damaged, spacing=10,
            margins=(18, 14, 18, 14),
        )  # fmt: skip
        box.addLayout(middle, 1)
        box.addLayout(foot)
        self.setLayout(box)
        self._shown: QComboBox | None = None
        self.builds.setCurrentRow(0)

    def _show(self, place: int) -> None:
        """One build: how the two copies stand, and the lines of only one of them."""
        if place < 0:
            return
        copies = self._look.copies[place]
        if self._shown is not None:
            self._way_box.removeWidget(self._shown)
            self._shown.hide()
        self._shown = self.ways[place]
        self._way_box.addWidget(self._shown)
        self._shown.show()
        self.head.setText(head_words(copies))
        self.differs.setText(differs_words(copies))
        self.differs.setVisible(bool(copies.differs))
        self.same_one.setVisible(copies.own is not None and copies.has_more)
        rows = [("", _THERE, *_words(entry)) for entry in copies.only_there]
        rows += [("", _HERE, *_words(entry)) for entry in copies.only_here]
        self.lines.blockSignals(True)
        fill(self.lines, rows)
        for row in range(len(copies.only_there)):
            tick = self.lines.item(row, 0) or QTableWidgetItem()
            tick.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsSelectable)
            on = row in self._ticked[place]
            tick.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
            tick.setToolTip("Taken over when merged")
        self.lines.blockSignals(False)

    def _tick(self, cell: QTableWidgetItem) -> None:
        place = self.builds.currentRow()
        if cell.column() == 0 and cell.row() < len(self._look.copies[place].only_there):
            on = cell.checkState() is Qt.CheckState.Checked
            (self._ticked[place].add if on else self._ticked[place].discard)(cell.row())

    def _turn(self) -> None:
        """Space ticks the current line, or takes its tick away."""
        cell = self.lines.item(self.lines.currentRow(), 0)
        if cell is not None and cell.flags() & Qt.ItemFlag.ItemIsUserCheckable:
            on = cell.checkState() is Qt.CheckState.Checked
            cell.setCheckState(Qt.CheckState.Unchecked if on else Qt.CheckState.Checked)

    def chosen(self) -> list[Way]:
        """What is to be done with each build."""
        ways = []
        for place, (copies, choice) in enumerate(zip(self._look.copies, self.ways, strict=True)):
            ticked = tuple(line for k, line in enumerate(copies.only_there) if k in self._ticked[place])
            kind = KINDS[choice.currentText()]
            ways.append(Way(kind, ticked if kind == "merge" else ()))
        return ways

    def take(self) -> None:
        """What is chosen is to be added to the open workshop."""
        self.taken = self.chosen()
        self.accept()

    def _apart(self) -> None:
        self.separate = True
        self.accept()


def head_words(copies: Copies) -> str:
    """How an archive's build stands to the workshop's own."""
    lines = len(copies.archived.diary)
    if copies.own is None:
        return f"Not in this workshop yet: {lines} lines of diary, {len(copies.archived.photos)} photos."
    more = [
        f"{len(held)} {words} only there"
        for held, words in ((copies.photos_there, "photos"), (copies.captures_there, "captures"))
        if held
    ]
    counts = ", ".join([f"{len(copies.only_there)} lines only in the archive", f"{len(copies.only_here)} only here",
                        f"{copies.both} in both", *more])  # fmt: skip
    return f"{counts[:1].upper()}{counts[1:]}."


def differs_words(copies: Copies) -> str:
    """What of the build itself is otherwise; that merging leaves one's own as it is."""
    if not copies.differs:
        return ""
    listed = "; ".join(f"{thing} {here} here, {there} there" for thing, here, there in copies.differs[:3])
    more = f", and {len(copies.differs) - 3} more" if len(copies.differs) > 3 else ""
    return f"The builds differ: {listed}{more}. Merging leaves yours as it is; readings of other parts do not count."


def _words(entry: DiaryEntry) -> tuple[str, str]:
    typed = f": {entry.reading.typed}" if entry.reading is not None else ""
    return f"{entry.at:%Y-%m-%d %H:%M}", f"{entry.words or entry.kind}{typed}"
