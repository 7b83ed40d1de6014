"""Parts measured before they are soldered in: one piece after another, Enter for the next; the best sets of them."""

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QSizePolicy, QWidget

from plinth.desk.labels import column, label, plain_tip
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.reading_choices import ReadingChoices
from plinth.desk.session import BenchSession
from plinth.desk.unkept import UnkeptText
from plinth.guide.part_tests.part_test import (
    Matched,
    PartTest,
)
from plinth.judge.state import State
from plinth.judge.unit_question import unit_label
from plinth.record.reading import Reading
from plinth.session.procedure.piece_test import PieceListener, PieceProcedure
from plinth.session.procedure.taking import Taken
from plinth.units.shown import shown

_ROW = 21
_SIGNS = {State.CLEAR: "", State.CLOSE: "◐", State.OVER: "▶", State.UNKNOWN: "◌"}


class _Field(QLineEdit):
    """``moved`` up or down to another piece."""

    moved = Signal(int)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if Qt.Key(event.key()) in steps:
            self.moved.emit(steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)


class PiecesView(QWidget):
    """The pieces of a test as rows: number, value, where it lies in its window, the set it belongs to."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self._rows: list[tuple[int, Reading]] = []
        self._sets: dict[int, str] = {}
        self._current = 0
        self._scale = (0.0, 1.0)
        look.changed.connect(self._fit)
        self._fit()

    def show_pieces(self, test: PartTest, pieces: dict[int, Reading], sets: Matched | None, current: int) -> None:
        """Show these; ``current`` the piece that is typed now."""
        self._rows, self._current = list(pieces.items()), current
        pairs = test.matching is not None and bool(test.matching.partner)
        self._sets = {}
        for name, members in () if sets is None else sets.sets:
            if pairs:
                self._sets[members[0]] = f"{name}, with {members[1]}"
            else:
                self._sets |= dict.fromkeys(members, name)
        values = [piece.value for piece in pieces.values()]
        ends = [edge for edge in (test.window.low, test.window.high) if edge is not None]
        # Pieces are compared with each other: a window far wider than they are apart would show nothing of it.
        around = values if test.matching is not None and len(values) > 1 else [*values, *ends]
        low, high = _middling(around) if around else (0.0, 1.0)
        air = 0.08 * (high - low) or 0.05 * abs(high) or 1.0
        self._scale = (low - air, high + air)
        rows = (f"piece {k} {shown(row.value, row.unit)} {self._sets.get(k, '')}" for k, row in self._rows)
        self.setAccessibleName("; ".join(rows) or "nothing measured yet")
        self._fit()
        self.update()

    def _fit(self) -> None:
        self.setFixedHeight(look.px(_ROW) * max(len(self._rows), 1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // look.px(_ROW))
        if row < len(self._rows):
            self.chosen.emit(self._rows[row][0])

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink, soft = look.token("ink"), look.token("ink2")
        if not self._rows:
            painter.setPen(soft)
            painter.setFont(look.font(12))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, "Nothing measured yet.")
        left, right = look.px(116), self.width() - look.px(96)
        low, high = self._scale
        for row, (number, reading) in enumerate(self._rows):
            y = row * look.px(_ROW)
            if number == self._current:
                painter.fillRect(0, y, self.width(), look.px(_ROW), look.token("sunk"))
            painter.setPen(soft)
            painter.setFont(look.font(12))
            painter.drawText(0, y, look.px(20), look.px(_ROW), 0x82, str(number))
            painter.setPen(look.token("over") if reading.state is State.OVER else ink)
            value = f"{_SIGNS[reading.state]} {reading.bound.sign}{shown(reading.value, reading.unit, 4)}"
            painter.drawText(look.px(26), y, left - look.px(30), look.px(_ROW), 0x81, value.strip())
            middle = y + look.px(_ROW) // 2
            painter.fillRect(left, middle - 1, right - left, 3, look.token("rule"))
            share = min(max((reading.value - low) / (high - low), 0.0), 1.0)
            painter.setBrush(ink)
            painter.setPen(Qt.PenStyle.NoPen)
            size = look.px(8)
            painter.drawEllipse(round(left + share * (right - left)) - size // 2, middle - size // 2, size, size)
            painter.setPen(soft)
            name = self._sets.get(number, "–" if self._sets else "")
            painter.drawText(right + look.px(6), y, look.px(90), look.px(_ROW), 0x82, name)
        painter.end()


class PartsPanel(QWidget):
    """Pieces of a part. Enter keeps one and goes to the next; with nothing typed, to the next kind."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.procedure = PieceProcedure(session, PieceListener(shown=self._show, written=self._written))
        self.tests = QComboBox()
        self.tests.setAccessibleName("What is measured")
        self.tests.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.tests.activated.connect(self._choose)
        self.ask, self.sets = label("", "soft", wrap=True), label("", "soft", wrap=True)
        self.pieces = PiecesView()
        self.pieces.chosen.connect(self.take_piece)
        self.next = label("", "name", wrap=True)
        self.field = _Field()
        self.field.setAccessibleName("Reading of this piece")
        self.field.textChanged.connect(self._say)
        self.field.returnPressed.connect(self.keep)
        self._unkept = UnkeptText(self.field)
        self.field.moved.connect(self.procedure.move)
        self.mark, self.verdict = StateMark(), label("", "small", wrap=True)
        said = QHBoxLayout()
        said.addWidget(self.field)
        said.addWidget(self.mark)
        said.addStretch()
        box = column(label("Parts, measured and matched", "title"), self.tests, self.ask, self.next, spacing=7)
        box.addLayout(said)
        self.choices = ReadingChoices()
        self.choices.chosen.connect(self.take_choice)
        self.unit = label("", "soft")
        said.insertWidget(1, self.unit)
        for widget in (self.verdict, self.choices, self.pieces, self.sets):
            box.addWidget(widget)
        self.setLayout(box)
        look.changed.connect(self._fit)
        self._fit()
        self.refresh()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(130))

    def refresh(self) -> None:
        """Take tests and pieces anew; the current test stays, if the build still has it."""
        tests = self.procedure.tests
        quiet = QSignalBlocker(self.tests)
        self.tests.clear()
        for kind in tests:
            self.tests.addItem(f"{kind.title}   {len(self._session.bring_up.pieces(kind))} of {kind.pieces}", kind.key)
        quiet.unblock()
        self._show()

    def to_station(self, station: str) -> None:
        """The first kind of part of a station, unless one of its kinds is current, or something is typed."""
        test = self.procedure.test
        here = next((row for row, test in enumerate(self.procedure.tests) if test.station == station), None)
        if here is None or self.field.text() or (test is not None and test.station == station):
            return
        self.procedure.choose_test(here)

    def _choose(self, row: int) -> None:
        self.procedure.choose_test(row)
        self.field.setFocus()

    def take_piece(self, number: int) -> None:
        """Go to a piece: a measured one is measured again."""
        self.procedure.choose(number)

    def _show(self) -> None:
        test, piece = self.procedure.test, self.procedure.piece
        if test is None:
            return
        self.tests.setCurrentIndex(self.procedure.tests.index(test))
        self.tests.setToolTip(plain_tip(self.tests.currentText()))
        self._unkept.at((self._session.stored.id, test.key, piece))
        pieces, sets = self.procedure.pieces, self.procedure.sets
        self.ask.setText(test.ask)
        self.unit.setText(unit_label(test.unit, test.bare_prefix))
        self.pieces.show_pieces(test, pieces, sets, piece)
        self.sets.setText(_sets_words(test, pieces, sets))
        self.sets.setVisible(bool(self.sets.text()))
        spare = " (one to spare)" if piece > test.pieces else f" of {test.pieces}"
        self.next.setText(f"Piece {piece}{spare}: expect {test.window.words()}")
        self.next.setToolTip(plain_tip(test.window.why))
        self._say()

    def _say(self) -> None:
        said = self.procedure.said(self.field.text())
        self.mark.set_state(said.state)
        self.verdict.setText(said.words)
        self.choices.offer(said.choices)

    def keep(self) -> None:
        """Keep the piece and go to the next; with nothing typed, go to the next kind of part."""
        if self.procedure.take(self.field.text()) is Taken.NOTHING:
            self.field.setFocus()

    def _written(self) -> None:
        self.field.clear()
        self.refresh()

    def take_choice(self, text: str) -> None:
        """What was typed was meant so: taken as Enter takes it."""
        self.field.setText(text)
        self.field.setFocus()
        self.keep()


def _middling(values: list[float]) -> tuple[float, float]:
    """Where most of them lie: one that is far off must not make all others look alike."""
    ordered = sorted(values)
    lower, upper = ordered[len(ordered) // 4], ordered[(3 * len(ordered) - 1) // 4]
    reach = 2.0 * (upper - lower) or upper - lower
    inside = [value for value in ordered if lower - reach <= value <= upper + reach]
    return inside[0], inside[-1]


def _sets_words(test: PartTest, pieces: dict[int, Reading], sets: Matched | None) -> str:
    if test.matching is None:
        return ""
    if sets is not None:
        return sets.words
    needed = len(test.matching.sets) * test.matching.size
    if test.matching.partner:
        return f"Matched once {needed} of either kind are measured; more to choose from make better pairs."
    left = needed - len(pieces)
    return f"Matched once {left} more are measured; spare ones make better sets." if left > 0 else "Too few are sound."
