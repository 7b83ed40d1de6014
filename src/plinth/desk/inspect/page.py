"""The Inspect page: checks at the left, the current one in the middle, what a bad result means at the right."""

from typing import Literal

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QLineEdit, QListWidget, QListWidgetItem, QWidget

from plinth.builds.stations import STATIONS
from plinth.desk.inspect.parts_panel import PartsPanel
from plinth.desk.labels import button, column, label, plain_tip, rule
from plinth.desk.look import look
from plinth.desk.photos.strip import PhotoStrip
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea, lay_columns
from plinth.desk.sketch_view import SketchView
from plinth.desk.spoken import Spoken, sentences
from plinth.desk.stage_page import StagePage
from plinth.guide.inspection.check import Inspected, due, waits_for
from plinth.guide.inspection.sketches import sketch_of
from plinth.record.reading import CheckVerdict, Finding, Override

_SIGNS: dict[CheckVerdict, str] = {"sound": "●", "doubt": "◐", "bad": "▶"}
_WORDS: dict[CheckVerdict, str] = {"sound": "Found sound", "doubt": "In doubt", "bad": "Found bad"}
_TITLES = {place.key: place.title for place in STATIONS}
# What may be answered: a verdict, or that this check, or all that are left, are passed over.
CheckAnswer = CheckVerdict | Literal["pass", "pass all"]
_KEYS: dict[int, CheckAnswer] = {
    Qt.Key.Key_S: "sound",
    Qt.Key.Key_D: "doubt",
    Qt.Key.Key_B: "bad",
    Qt.Key.Key_P: "pass",
}
_ASK = "What is it? In a few words; they stand in the diary."
_ASK_WHY = "Why is it safe to go on without? In words; they stand in the diary."


class _List(QListWidget):
    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Its own search by letters would swallow the answers.
        if event.key() in _KEYS and not event.modifiers():
            event.ignore()
        else:
            super().keyPressEvent(event)


class InspectPage(StagePage):
    """Checks, one of them current. One key each: S sound, D in doubt, B bad."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.inspected: tuple[Inspected, ...] = ()
        self._arriving: dict[str, str] = {}
        self._shown = 0
        self._asked: CheckAnswer | None = None
        self.list = _List()
        self.list.setAccessibleName("Checks")
        self.list.setProperty("role", "steps")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self.choose)
        self.count = label("", "soft", wrap=True)
        self.left = QWidget()
        left = column(label("Checks of this very build", "title", wrap=True), self.count, spacing=8)
        left.addWidget(self.list, 1)
        self.left.setLayout(left)
        self.station, self.title = label("", "soft"), label("", "question", wrap=True)
        self.look_at, self.why = label("", "ask", wrap=True), label("", "soft", wrap=True)
        self.tool, self.stale = label("", "pred", wrap=True), label("", "caution", wrap=True)
        self.verdict = label("", "title", wrap=True)
        self._answers = QGridLayout()
        self._answers.setHorizontalSpacing(14)
        self.answers: list[QWidget] = []
        for verdict, words in (("sound", "Sound  S"), ("doubt", "In doubt  D"), ("bad", "Bad  B")):
            push = button(words, "main" if verdict == "sound" else "")
            push.clicked.connect(lambda _checked=False, verdict=verdict: self.answer(verdict))
            self.answers.append(push)
        self.pass_button = button("Pass over  P", "flat", tip="With a reason, which is written down")
        self.pass_button.clicked.connect(lambda: self.answer("pass"))
        self.pass_all_button = button("Pass over all that is left …", "flat", tip="With one reason for all of them")
        self.pass_all_button.clicked.connect(lambda: self.answer("pass all"))
        self.answers.append(self.pass_button)
        self.words = QLineEdit()
        self.words.setPlaceholderText(_ASK)
        self.words.setAccessibleName("What was found")
        self.words.returnPressed.connect(self.answer_in_words)
        self.words.hide()
        inner = QWidget()
        self.sketch = SketchView()
        middle = column(
            self.station, self.title, self.look_at, self.sketch, self.why, self.tool, self.stale, self.verdict,
            spacing=10, margins=(0, 0, 8, 0),
        )  # fmt: skip
        middle.addLayout(self._answers)
        middle.addWidget(self.words)
        middle.addWidget(self.pass_all_button, 0, Qt.AlignmentFlag.AlignLeft)
        self.photos = PhotoStrip(session)
        middle.addWidget(self.photos)
        middle.addStretch()
        inner.setLayout(middle)
        self.caution, self.bad = label("", "caution", wrap=True), label("", "soft", wrap=True)
        self.held = label("", "problem", wrap=True)
        code = label("Local electrical codes and licensed practice come before anything said here.", "small", wrap=True)
        right_inner = QWidget()
        self.parts = PartsPanel(session)
        right = column(
            self.held, self.caution, label("If it is not sound", "title"), self.bad, rule(), self.parts, spacing=10,
            margins=(0, 0, 6, 0),
        )  # fmt: skip
        right.addStretch()
        right.addWidget(code)
        right_inner.setLayout(right)
        self.right = SideArea(right_inner)
        lay_columns(self, self.left, SideArea(inner), self.right)
        session.records_changed.connect(self._take)
        session.plan_changed.connect(self._take)
        session.build_switched.connect(self.come_up)
        session.station_chosen.connect(self._to_station)
        look.follow(self._fit)
        self._fit()
        self.come_up()

    def _fit(self) -> None:
        self.left.setFixedWidth(look.column(300))
        self.right.setFixedWidth(look.column(340))
        # In one row they would be wider than the middle has room for at large text, and all of it be cut.
        columns = 2 if look.scale > 1.2 else len(self.answers)
        for k, answer_button in enumerate(self.answers):
            self._answers.addWidget(answer_button, k // columns, k % columns, Qt.AlignmentFlag.AlignLeft)
        for column_at in range(len(self.answers) + 1):
            self._answers.setColumnStretch(column_at, 1 if column_at == columns else 0)

    @property
    def current(self) -> Inspected:
        """The check shown."""
        return self.inspected[self._shown]

    def spoken(self) -> Spoken:
        if not self.inspected:
            return Spoken()
        check = self.current.check
        return Spoken(
            sentences(
                check.title,
                check.look,
                self.why.text(),
                self.tool.text(),
                self.verdict.text(),
                "S sound, D in doubt, B bad, P pass over",
            )
        )

    def _take(self) -> None:
        """A slider changes the situation and no check; what is out of sight is taken anew when it comes up."""
        answers = self._session.bring_up.inspection() if self.isVisible() else self.inspected
        if answers is not self.inspected:
            self.refresh()
            self.parts.refresh()

    def refresh(self) -> None:
        """Take the checks anew and show the current one; what is typed stays while it is the same check."""
        key = self.inspected[self._shown].check.key if self.inspected else ""
        self.inspected = self._session.bring_up.inspection()
        keys = [answer.check.key for answer in self.inspected]
        self._shown = keys.index(key) if key in keys else min(self._shown, len(keys) - 1)
        self._show()

    def come_up(self) -> None:
        """Show the check that is due."""
        self.inspected, self._arriving = self._session.bring_up.inspection(), self._session.shelf.arriving()
        self._shown = due(self.inspected, self._arriving)
        self.parts.refresh()
        self._ask(None)
        self._show()
        self.list.setFocus()

    def _show(self) -> None:
        quiet = QSignalBlocker(self.list)
        if self.list.count() != len(self.inspected):
            self.list.clear()
            for _ in self.inspected:
                self.list.addItem(QListWidgetItem())
        for row, checked in enumerate(self.inspected):
            sign = "–" if checked.passed else "○" if checked.finding is None else _SIGNS[checked.finding.verdict]
            verdict = "not looked at" if checked.finding is None else str(checked.finding.verdict)
            state = "passed over" if checked.passed else verdict
            item = self.list.item(row)
            waits = "" if checked.answered else waits_for(checked.check, self._arriving)
            item.setText(f"{'·' if waits else sign}  {checked.check.title}{'   waits' if waits else ''}")
            state = f"waits for {waits}" if waits else state
            item.setToolTip(plain_tip(f"{checked.check.title}: {state}"))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{checked.check.title}, {state}")
        self.list.setCurrentRow(self._shown)
        quiet.unblock()
        checked = self.current
        check, finding = checked.check, checked.finding
        self.station.setText(_TITLES[check.station])
        self.title.setText(check.title)
        self.look_at.setText(check.look)
        self.photos.show_subject(check.subject)
        self.parts.to_station(check.station)
        self.sketch.show_sketch(sketch_of(check.key, self._session.build))
        self.why.setText(f"Why: {check.why[0].lower()}{check.why[1:]}")
        self.tool.setText(f"With: {check.tool}")
        waits = "" if checked.answered else waits_for(check, self._arriving)
        stale = f"It was looked at before and does not count any more: {checked.stale}." if checked.stale else ""
        self.stale.setText(f"Waits for {waits}." if waits else stale)
        self.stale.setVisible(bool(self.stale.text()))
        said = "" if finding is None else f": {finding.words}" if finding.words else ""
        if checked.passed is not None:
            self.verdict.setText(f"Passed over: {checked.passed.reason}")
        else:
            self.verdict.setText("Not looked at yet" if finding is None else f"{_WORDS[finding.verdict]}{said}")
        self.pass_all_button.setVisible(sum(not each.answered for each in self.inspected) > 1)
        self.bad.setText(check.bad)
        self.caution.setText("Power waits for this one: where it is bad, something burns or somebody is hurt.")
        self.caution.setVisible(check.safety)
        held = self._session.bring_up.held_by_inspection
        self.held.setText(f"First power {held}." if held else "")
        self.held.setVisible(bool(held))
        answered = sum(answer.answered for answer in self.inspected)
        safety = sum(answer.check.safety and not answer.sound and answer.passed is None for answer in self.inspected)
        waits = "power waits" if held else "power waits for none of them"
        if safety:
            waits = f"power waits for {safety} more"
        coming = sum(not answer.answered and bool(waits_for(answer.check, self._arriving)) for answer in self.inspected)
        parts = f" {coming} wait for parts on their way." if coming else ""
        taken_in = self._session.build.taken_in
        said = "" if taken_in is None else f"\n{taken_in.words}"
        self.count.setText(f"{answered} of {len(self.inspected)} answered; {waits}.{parts}{said}")

    def choose(self, row: int) -> None:
        """Go to a check, by its place."""
        if row >= 0:
            self._shown = row
            self._ask(None)
            self._show()

    def _to_station(self, key: str) -> None:
        """The first check of a station that was chosen, unless one of its checks is shown already."""
        if not self.isVisible() or self.current.check.station == key:
            return
        here = next((place for place, answer in enumerate(self.inspected) if answer.check.station == key), None)
        if here is not None:
            self.choose(here)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        verdict = _KEYS.get(event.key())
        if verdict is not None and not event.modifiers():
            self.answer(verdict)
        else:
            super().keyPressEvent(event)

    def answer(self, verdict: CheckAnswer) -> None:
        """Sound at once; all others ask for words first."""
        if verdict == "sound":
            self._keep(verdict, "")
        else:
            self._ask(verdict)

    def _ask(self, verdict: CheckAnswer | None) -> None:
        if verdict != self._asked:
            self.words.clear()
        self._asked = verdict
        self.words.setVisible(verdict is not None)
        self.words.setPlaceholderText(_ASK_WHY if verdict in ("pass", "pass all") else _ASK)
        if verdict is not None:
            self.words.setFocus()

    def answer_in_words(self) -> None:
        """Keep the answer that waits for its words."""
        words = self.words.text().strip()
        if len(words) < 3 or self._asked is None:
            self.words.setPlaceholderText("Found no words, expected some: they stand in the diary.")
            return
        self._keep(self._asked, words)

    def _keep(self, verdict: CheckAnswer, words: str) -> None:
        if verdict == "pass" or verdict == "pass all":
            left = [self.current] if verdict == "pass" else [answer for answer in self.inspected if not answer.answered]
            passed = [
                Override(answer.check.subject, words, self._session.now(), dict(answer.check.conditions))
                for answer in left
            ]
            kept = self._session.records.keep_all(passed)
        else:
            check = self.current.check
            kept = self._session.records.keep(
                Finding(check.subject, verdict, words, self._session.now(), dict(check.conditions))
            )
        if kept:
            self.come_up()
