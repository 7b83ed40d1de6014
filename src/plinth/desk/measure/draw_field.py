"""The draw of the supply in a clipping cell: typed beside the level, with what follows of efficiency and heat."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.bench import supply_draw
from plinth.bench.clipping import ClipCell
from plinth.builds.instruments import BenchKit
from plinth.desk.labels import label
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.judge.state import State
from plinth.record.reading import Reading
from plinth.units.errors import QuantityError


class DrawField(QWidget):
    """May stay empty. ``entered`` when Enter is pressed in it."""

    entered = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._cell: ClipCell | None = None
        self._output_w: float | None = None
        self._kit: BenchKit | None = None
        self._kept: Reading | None = None
        self.name = label("Draw, if read", "soft")
        self.field = QLineEdit()
        self.field.setAccessibleName("Draw of the supply")
        self.field.textChanged.connect(self._understand)
        self.field.returnPressed.connect(self.entered)
        self.mark, self.words = StateMark(), label("", "soft", wrap=True)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self.name, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.field, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.mark, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.words, 1)
        look.changed.connect(self._fit)
        self._fit()

    def _fit(self) -> None:
        self.field.setFixedWidth(look.column(130))

    def show_cell(self, cell: ClipCell, output_w: float | None, kit: BenchKit, kept: Reading | None) -> None:
        """Take a cell in hand: ``output_w`` read of each driven channel, ``kept`` the draw read before."""
        self._cell, self._output_w, self._kit, self._kept = cell, output_w, kit, kept
        self.field.setPlaceholderText("142 W" if supply_draw.source(cell) == "the wall" else "35 V 1.4 A")
        self._understand()

    @property
    def empty(self) -> bool:
        """Whether nothing is typed."""
        return not self.field.text().strip()

    def with_output(self, output_w: float | None) -> None:
        """Another power is being typed: efficiency and heat follow it."""
        self._output_w = output_w
        self._understand()

    def _understand(self) -> None:
        if self._cell is None or self._kit is None:
            return
        if self.empty:
            self.mark.set_state(self._kept.state if self._kept else State.UNKNOWN)
            self.words.setText(
                f"Kept: {self._kept.typed}. {supply_draw.sentence_of(self._kept)}"
                if self._kept
                else f"Expect {supply_draw.expectation(self._cell)}."
            )
            return
        try:
            draw = supply_draw.read_draw(self.field.text(), self._cell, self._output_w, self._kit)
        except QuantityError as error:
            self.mark.set_state(State.UNKNOWN)
            self.words.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        verdict = supply_draw.judge_draw(self._cell, draw, self._output_w)
        self.mark.set_state(verdict.state)
        said = f"{draw.said}." if draw.said else ""
        self.words.setText(" ".join(part for part in (said, verdict.sentence, verdict.follows) if part))
