"""Decide: up to four side by side, what was changed between the last two, what was heard, and the verdict."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QListWidget, QListWidgetItem, QPlainTextEdit, QWidget

from plinth.decide.next_step import NextReading, next_change
from plinth.decide.overlays import IMPEDANCE, RAILS, RESPONSE, SPECTRUM
from plinth.decide.side import LETTERS, MOST_SIDES
from plinth.decide.side_by_side import SideBySide
from plinth.decide.verdict import rests_on
from plinth.desk.asking import ask
from plinth.desk.decide.figure_table import FigureTable
from plinth.desk.labels import button, column, label, plain_tip, rule
from plinth.desk.look import look
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.desk.stage_page import StagePage
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.runner import words_of

_KEY = Qt.ItemDataRole.UserRole
KEYS = (
    "Stroke: claimed. Bar: predicted, with its spread. Disc: read. A difference counts when it is more than twice its "
    "uncertainty; what is read is never set against what is only predicted."
)


class DecidePage(StagePage):
    """It is computed when somebody looks, off the window's thread."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.shown: SideBySide | None = None
        self._filling = False
        self._asked_for: tuple[object, ...] = ()
        self.sides = QListWidget()
        self.sides.setAccessibleName("Side by side: two to four of them")
        self.sides.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.sides.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.sides.itemChanged.connect(lambda _item: self._chosen())
        self.said = label("", "soft", wrap=True)
        self.changed_title, self.changed = label("What was changed", "title"), label("", "soft", wrap=True)
        self.heard = label("", "soft", wrap=True)
        self.note_button, self.blind_button = button("A listening note …", "row"), button("Blind comparison …", "row")
        self.note_button.clicked.connect(self.ask_note)
        self.blind_button.clicked.connect(self.ask_blind)
        self.only = QCheckBox("Only what differs")
        self.only.toggled.connect(lambda _on: self._show_rows())
        self.count = label("", "soft")
        self.table = FigureTable()
        self.verdict = QPlainTextEdit()
        self.verdict.setAccessibleName("The verdict")
        self.verdict.setPlaceholderText("Which is kept, who it is for, and what is due next.")
        self.verdict.setTabChangesFocus(True)
        self.keep_button = button("Keep it  Ctrl+⏎", "main", tip="The verdict, into the diary")
        self.keep_button.setShortcut("Ctrl+Return")
        self.keep_button.clicked.connect(self.keep_verdict)
        self.rests, self.kept = label("", "soft", wrap=True), label("", "soft", wrap=True)
        self.next, self.next_button = label("", "soft", wrap=True), button("To that reading", "row")
        self.next_button.clicked.connect(self.to_next)
        self._next: NextReading | None = None
        self.overlay = QComboBox()
        self.overlay.setAccessibleName("What is laid over each other")
        self.overlay.addItems([RESPONSE, RAILS, IMPEDANCE, SPECTRUM])
        self.overlay.activated.connect(lambda _index: self._show_overlay())
        self.plots = {
            name: Plot(name, "f", "Hz", log_x=name != RAILS) for name in (RESPONSE, RAILS, IMPEDANCE, SPECTRUM)
        }
        self._lay_out()
        for changed in (session.records_changed, session.plan_changed, session.build_switched):
            changed.connect(self._if_shown)
        look.follow(self._fit)
        self._fit()

    def _lay_out(self) -> None:
        left_inner = QWidget()
        left = column(label("Side by side", "title"), self.sides, self.said, spacing=6)
        heard = (label("Heard, kept beside", "title"), self.heard, self.note_button, self.blind_button)
        for widget in (self.changed_title, self.changed, self.next, self.next_button, rule(), *heard):
            left.addWidget(widget)
        left.addStretch()
        left_inner.setLayout(left)
        self.left_area = SideArea(left_inner)
        head = QHBoxLayout()
        head.addWidget(label("Claim, prediction, reading", "title"))
        head.addStretch()
        head.addWidget(self.count)
        head.addWidget(self.only)
        self.middle = QWidget()
        middle = column(spacing=6)
        self.middle.setLayout(middle)
        middle.addLayout(head)
        middle.addWidget(self.table, 1)
        middle.addWidget(label(KEYS, "small", wrap=True))
        right_inner = QWidget()
        right = column(label("The verdict", "title"), self.verdict, self.rests, self.keep_button, self.kept, spacing=6)
        right.addWidget(rule())
        right.addWidget(self.overlay)
        for plot in self.plots.values():
            right.addWidget(plot, 1)
        right_inner.setLayout(right)
        self.right = SideArea(right_inner)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 12, 18, 12)
        box.setSpacing(24)
        box.addWidget(self.left_area)
        box.addWidget(self.middle, 1)
        box.addWidget(self.right)

    def _fit(self) -> None:
        self.left_area.setFixedWidth(look.column(252))
        self.right.setFixedWidth(look.column(262))
        self.sides.setMinimumHeight(look.px(150))
        self.sides.setMaximumHeight(look.px(230))
        self.verdict.setMinimumHeight(look.px(90))
        self.verdict.setMaximumHeight(look.px(160))
        for plot in self.plots.values():
            plot.setMinimumHeight(look.px(180))
            plot.setMinimumWidth(look.px(120))
        self._show_rows()

    def pieces(self) -> tuple[QWidget, ...]:
        return self.left_area, self.middle, self.right

    def come_up(self) -> None:
        """Take what can stand side by side anew, and compare."""
        self.refresh()
        self.sides.setFocus()

    def _if_shown(self) -> None:
        if self.isVisible():
            self.refresh()

    @property
    def keys(self) -> tuple[str, ...]:
        """What is chosen, in the order of the list."""
        items = (self.sides.item(row) for row in range(self.sides.count()))
        return tuple(str(item.data(_KEY)) for item in items if item.checkState() is Qt.CheckState.Checked)

    def refresh(self) -> None:
        """Take candidates, heard lines and comparison anew; what was chosen stays chosen."""
        deciding = self._session.deciding
        before = self.keys if self._asked_for and self._asked_for[0] == self._session.stored.id else ()
        candidates = deciding.candidates()
        chosen = [key for key in before if key in {each.key for each in candidates}] or list(deciding.proposed())
        self._filling = True
        self.sides.clear()
        for each in candidates:
            item = QListWidgetItem(f"{each.name}, {each.note}")
            item.setData(_KEY, each.key)
            item.setToolTip(plain_tip(f"{each.name}, {each.note}"))
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if each.key in chosen else Qt.CheckState.Unchecked)
            self.sides.addItem(item)
        self._filling = False
        self.heard.setText("\n".join(deciding.heard(4)) or "Nothing yet.")
        self._letter()
        self._compare()

    def _letter(self) -> None:
        """Letters stand before those chosen."""
        self._filling = True
        names = {each.key: f"{each.name}, {each.note}" for each in self._session.deciding.candidates()}
        place = 0
        for row in range(self.sides.count()):
            item = self.sides.item(row)
            checked = item.checkState() is Qt.CheckState.Checked and place < MOST_SIDES
            item.setText(
                f"{LETTERS[place]}   {names[str(item.data(_KEY))]}" if checked else names[str(item.data(_KEY))]
            )
            place += checked
        self._filling = False

    def _chosen(self) -> None:
        if self._filling:
            return
        self._letter()
        self._compare()

    def _compare(self) -> None:
        keys, session = self.keys, self._session
        self.blind_button.setEnabled(2 <= len(keys) <= MOST_SIDES)
        if not 2 <= len(keys) <= MOST_SIDES:
            self.said.setText(f"Choose two to {MOST_SIDES}: {len(keys)} are chosen.")
            return
        self._asked_for = (session.stored.id, keys, session.build, session.records.book)
        wanted = self._asked_for
        self.said.setText("Comparing …")
        self._show_changes(keys)

        def show(answer: object) -> None:
            assert isinstance(answer, SideBySide), "that is what was asked for"
            there = {each.key for each in session.deciding.candidates()}
            # Out of sight nothing is asked anew where another build is taken meanwhile: that waits until it comes up.
            if wanted == self._asked_for and session.stored.id == wanted[0] and there.issuperset(keys):
                self._take(answer)

        session.jobs.ask("side by side", session.deciding.comparing(keys), show, self._failed, long=True)

    def _failed(self, error: Exception) -> None:
        self.said.setText(f"{error}." if isinstance(error, PhysicsError) else words_of(error))

    def _take(self, answer: SideBySide) -> None:
        self.shown = answer
        self.said.setText(" ".join(answer.problems))
        counts = [(name, have) for name, have in self._session.deciding.read_counts()]
        self.rests.setText(rests_on(answer, counts))
        self._show_rows()
        self._show_next()
        self._show_overlay()

    def _show_overlay(self) -> None:
        """One of the overlays at a time: there is room for one."""
        chosen = self.overlay.currentText()
        for name, plot in self.plots.items():
            plot.setVisible(name == chosen)
        graph = next((each for each in self.shown.overlays if each.title == chosen), None) if self.shown else None
        if graph is None:
            return
        plot = self.plots[chosen]
        plot.set_x(1.0, graph.x_name, graph.x_unit)
        plot.set_series(graph.curves)
        if graph.curves:
            plot.set_view(*graph.extent())
        plot.aside.setText(graph.heights if graph.curves else "nothing known of it")

    def _show_next(self) -> None:
        """What would tell most: the reading, and the change to be taken back alone."""
        assert self.shown is not None, "it was just taken"
        keys, deciding = self.keys, self._session.deciding
        self._next = deciding.next_reading(self.shown, keys)
        change = next_change(deciding.changes(keys[-2], keys[-1]), self.shown)
        words = [change, "" if self._next is None else self._next.sentence]
        self.next.setText(" ".join(part for part in words if part))
        self.next.setVisible(bool(self.next.text()))
        self.next_button.setVisible(self._next is not None)

    def to_next(self) -> None:
        """Go to the test in which what would tell most is read, of the side that lacks it."""
        if self._next is None:
            return
        key = self.keys[self._next.places[-1]]
        build_id = next(each.build_id for each in self._session.deciding.candidates() if each.key == key)
        if build_id != self._session.stored.id:
            self._session.switch(build_id)
        self._session.subject_wanted.emit(self._next.row.subject)

    def _show_rows(self) -> None:
        if self.shown is None:
            return
        rows = self.shown.rows
        differing = tuple(row for row in rows if row.differs)
        self.count.setText(f"{len(differing)} of {len(rows)} differ")
        self.table.show_rows(differing if self.only.isChecked() else rows, self.shown.pair)

    def _show_changes(self, keys: tuple[str, ...]) -> None:
        letters = f"From {LETTERS[len(keys) - 2]} to {LETTERS[len(keys) - 1]}"
        changes = self._session.deciding.changes(keys[-2], keys[-1])
        self.changed_title.setText(letters)
        self.changed.setText(
            "A listing is no build: nothing was changed."
            if changes is None
            else f"{changes.sentence} {changes.reasons}".strip()
        )

    # What is kept

    def keep_verdict(self) -> None:
        """Keep what is typed as the verdict, with what it rests on."""
        words = self.verdict.toPlainText()
        if not words.strip():
            self.kept.setText("Found no words, expected which is kept and why.")
            return
        if self._session.deciding.keep_verdict(words, self.rests.text()):
            self.verdict.clear()
            self.kept.setText("Kept in the diary.")
        else:
            self.kept.setText("It could not be kept: the sentence at the top says why. Your words stand here.")

    def ask_note(self) -> None:
        """Ask for a listening note."""
        from plinth.desk.decide.listening_dialog import ListeningDialog

        ask(ListeningDialog(self, self._session))
        self._if_shown()

    def ask_blind(self) -> None:
        """Compare the last two of those chosen blind."""
        from plinth.desk.decide.blind_dialog import BlindDialog

        if self.shown is None:
            return
        first, second = (self.shown.sides[place].name for place in self.shown.pair)
        ask(BlindDialog(self, self._session, (first, second)))
        self._if_shown()
