"""One cell of the clipping table: reading large, prediction beside it, a ruler, how it was read."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from plinth.bench.clip_cell import ClipCell, claim_of
from plinth.bench.onset_read import expected_pp
from plinth.bench.supply_draw import drawn_words
from plinth.desk.labels import column, label
from plinth.desk.look import look
from plinth.desk.marks import StateMark
from plinth.desk.ruler import LimitRuler, RulerContent, scale_for
from plinth.judge.state import State
from plinth.physics.stages.levels import rms_for_power
from plinth.record.reading import Reading
from plinth.units.shown import shown, shown_with_spread, split


class CellView(QAbstractButton):
    """Checkable; the checked cell is the one a reading is typed for."""

    def __init__(self) -> None:
        super().__init__()
        self.cell: ClipCell | None = None
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.figure, self._predicted, self._below = label("–", "question"), label("", "pred"), label("", "small")
        # A long line gives way; it must not push the columns beside it out of sight.
        self._below.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.mark = StateMark()
        self.ruler = LimitRuler()
        self.ruler.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        top = QHBoxLayout()
        top.addWidget(self.figure)
        top.addStretch()
        top.addWidget(self._predicted)
        below = QHBoxLayout()
        below.addWidget(self.mark)
        below.addWidget(self._below, 1)
        box = column(spacing=1, margins=(12, 3, 12, 4))
        box.addLayout(top)
        box.addWidget(self.ruler)
        box.addLayout(below)
        self.setLayout(box)
        self._box = box
        for child in self.findChildren(QWidget):
            child.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def show_cell(
        self, cell: ClipCell, reading: Reading | None, draw: Reading | None, most_w: float, further: str
    ) -> None:
        """Show a cell with its power and draw as read; ``most_w`` the far end of all rulers of the table.

        ``further`` what was read in its place at other definitions of clipping.
        """
        self.cell = cell
        power = cell.power
        claim = claim_of(cell)
        self.figure.setText("–" if reading is None else f"{reading.bound.sign}{split(reading.value, 'W')[0]} W")
        self._predicted.setText(
            shown_with_spread(power.value, power.spread, "W") if cell.is_predicted else "not predicted"
        )
        expect = f"expect {shown(expected_pp(cell.v_peak.value), 'V')} p-p"
        if cell.definition != "onset":
            expect = (
                f"expect {shown(rms_for_power(power.value, cell.load.r_ohm), 'V')} rms" if cell.is_predicted else ""
            )
        if reading is None:
            below = expect
        else:
            # Beside a draw there is no room for one word more; at large text none for either.
            below = f"{'typed ' if draw is None else ''}{reading.typed}, {reading.state}"
            below += f"; {expect if draw is None else drawn_words(cell, reading, draw)}" if look.scale < 1.2 else ""
        if further:
            below = f"{reading.typed}, {reading.state}; {further}" if reading is not None else f"{expect}; {further}"
        self._below.setText(below)
        lines = (expect, "" if draw is None else drawn_words(cell, reading, draw), further)
        self.setToolTip("; ".join(part for part in lines if part))
        self.mark.set_state(reading.state if reading else State.UNKNOWN)
        spread = 2.0 * (reading.u or 0.0) if reading else 0.0
        self.ruler.show_content(
            RulerContent(
                scale=scale_for(0.0, most_w),
                state=State.CLEAR,
                sentence=cell.label,
                band=(power.low, power.high),
                estimated=bool(power.estimated),
                claim=claim.power_w if claim else None,
                # A bound is no place on a ruler.
                reading=reading.value if reading and not reading.bound.one_sided else None,
                reading_spread=spread,
                simulated=bool(reading and reading.simulated),
            )
        )
        read = "no reading"
        if reading is not None:
            read = f"read {reading.bound.sign}{shown_with_spread(reading.value, spread, 'W')}"
        self.setAccessibleName(f"{cell.label}: {read}, predicted {shown_with_spread(power.value, power.spread, 'W')}")

    def sizeHint(self) -> QSize:
        return self._box.sizeHint()

    def minimumSizeHint(self) -> QSize:
        return self._box.minimumSize()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(1.5, 1.5, self.width() - 3, self.height() - 3)
        if self.isChecked():
            painter.setBrush(look.token("sheet"))
            painter.setPen(QPen(look.token("ink"), 2))
            painter.drawRoundedRect(box, 5, 5)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.token("ink"), 2, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(box.adjusted(4, 4, -4, -4), 4, 4)
        painter.end()
