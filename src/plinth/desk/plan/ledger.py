"""The ledger of margins: each a mark, a value against its limit, a ruler and a sentence."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QWidget

from plinth.desk.labels import button, clear, column, label, rule
from plinth.desk.look import look
from plinth.desk.margin_shown import margin_words, ruler_content
from plinth.desk.marks import StateMark
from plinth.desk.ruler import LimitRuler
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.judge.margin import Margin
from plinth.judge.state import State
from plinth.predict.warnings import at_the_lamp
from plinth.shelf.fix_places import PLACES


def _is_cause(margin: Margin) -> bool:
    return margin.key == "primary" and margin.state is State.OVER


class MarginRow(QWidget):
    """One margin."""

    def __init__(self, margin: Margin) -> None:
        super().__init__()
        self.mark, self.name, self.value = StateMark(), label("", "name", wrap=True), label("")
        self.ruler, self.sentence = LimitRuler(), label("", "small", wrap=True)
        self.fix_button = button("What clears it …", "flat", tip="The smallest changes that clear it (M on its ruler)")
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 4, 0, 4)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        grid.addWidget(self.mark, 0, 0)
        grid.addWidget(self.name, 0, 1)
        self.lay_out()
        grid.setColumnStretch(1, 1)
        grid.addWidget(self.ruler, 2, 1, 1, 2)
        grid.addWidget(self.sentence, 3, 1, 1, 2)
        grid.addWidget(self.fix_button, 4, 1, 1, 2, Qt.AlignmentFlag.AlignLeft)
        self.show_margin(margin)

    def lay_out(self) -> None:
        """Beside its name, or below where large text leaves no room for both on one line."""
        grid = self.layout()
        assert isinstance(grid, QGridLayout)
        grid.addWidget(self.value, *((1, 1) if look.scale > 1.2 else (0, 2)))

    def show_margin(self, margin: Margin) -> None:
        """Show a margin."""
        self.margin = margin
        self.mark.set_state(margin.state)
        self.name.setText(margin.label)
        self.value.setText(margin_words(margin))
        word = "" if margin.state is State.CLEAR else f"{str(margin.state).capitalize()}. "
        self.sentence.setText(f"{word}{margin.sentence} {margin.fix}".strip())
        self.fix_button.setVisible(bool(margin.fix) and margin.key in PLACES)
        self.fix_button.setAccessibleName(f"What clears it: {margin.label}")
        self.ruler.setAccessibleName(margin.label)
        self.ruler.show_content(ruler_content(margin))


class Ledger(QWidget):
    """All margins, those of the chosen station first. Enter on a ruler asks where its figure comes from."""

    asked = Signal(str)
    fix_asked = Signal(object)

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.count = label("", "small", wrap=True)
        self.count.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        head = QHBoxLayout()
        head.addWidget(label("Margins", "title"))
        head.addWidget(self.count, 1)
        self._rows_box = column(spacing=0)
        inner = QWidget()
        outer = column(spacing=0, margins=(0, 0, 6, 0))
        self.lamp = label("", "caution", wrap=True)
        outer.addWidget(self.lamp)
        outer.addLayout(self._rows_box)
        self.notes_title, self._notes_box = label("", "title"), column(spacing=4)
        outer.addSpacing(10)
        outer.addWidget(self.notes_title)
        outer.addLayout(self._notes_box)
        outer.addStretch()
        self._notes: tuple[str, ...] = ()
        inner.setLayout(outer)
        self.area = SideArea(inner)
        box = column(spacing=6)
        box.addLayout(head)
        box.addWidget(self.area, 1)
        self.setLayout(box)
        self.rows: list[MarginRow] = []
        session.predicted.connect(self.refresh)
        session.station_chosen.connect(self._to_top)
        look.follow(self._fit)
        self.refresh()

    def _fit(self) -> None:
        for row in self.rows:
            row.lay_out()

    def refresh(self) -> None:
        """Show the margins of the current prediction."""
        here = self._session.station
        # What is the cause of others stands first; then those of the current station; each worst first, as judged.
        margins = sorted(self._session.predictions.margins, key=lambda m: (not _is_cause(m), m.station != here))
        self._show_notes()
        if len(margins) != len(self.rows):
            clear(self._rows_box)
            self.rows = []
            for margin in margins:
                row = MarginRow(margin)
                row.ruler.asked.connect(lambda row=row: self._ask(row.margin))
                row.ruler.fix_asked.connect(lambda row=row: self._ask_fix(row.margin))
                row.fix_button.clicked.connect(lambda _checked=False, row=row: self._ask_fix(row.margin))
                self.rows.append(row)
                self._rows_box.addWidget(rule())
                self._rows_box.addWidget(row)
        for row, margin in zip(self.rows, margins, strict=True):
            row.show_margin(margin)
        states = [m.state for m in margins]
        parts = [f"{states.count(s)} {s}" for s in (State.OVER, State.CLOSE, State.UNKNOWN, State.CLEAR) if s in states]
        self.count.setText(" · ".join(parts) if margins else "nothing to judge: it cannot run")

    def margin_in_front(self) -> Margin | None:
        """The margin whose row has the focus; None where none has."""
        rows = [row for row in self.findChildren(MarginRow) if row.isVisible()]
        return next((row.margin for row in rows if row.ruler.hasFocus() or row.fix_button.hasFocus()), None)

    def _show_notes(self) -> None:
        """Sentences beside the figures: what was assumed, what can hurt."""
        prediction = self._session.predictions.prediction
        notes = () if prediction is None else prediction.warnings
        # Whoever has put a lamp in looks at it first.
        at_lamp = "" if prediction is None else "\n".join(at_the_lamp(prediction.solution))
        self.lamp.setText(at_lamp)
        self.lamp.setVisible(bool(at_lamp))
        if notes == self._notes:
            return
        self._notes = notes
        clear(self._notes_box)
        self.notes_title.setText(f"To know, {len(notes)}" if notes else "")
        for sentence in notes:
            self._notes_box.addWidget(label(sentence, "small", wrap=True))

    def _to_top(self) -> None:
        self.refresh()
        self.area.verticalScrollBar().setValue(0)

    def _ask_fix(self, margin: Margin) -> None:
        if margin.fix and margin.key in PLACES:
            self.fix_asked.emit(margin)

    def _ask(self, margin: Margin) -> None:
        if margin.figure is not None:
            self.asked.emit(margin.figure.name)
