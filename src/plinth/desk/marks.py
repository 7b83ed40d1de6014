"""The four state marks, drawn: open ring, half-filled ring, arrow-ended block, dotted ring. And the reading's disc."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from plinth.builds.properties import How
from plinth.desk.look import look
from plinth.judge.state import State


def state_colour(state: State) -> str:
    """The token of a state: only close and over are warm."""
    return {State.CLEAR: "pred", State.CLOSE: "close", State.OVER: "over", State.UNKNOWN: "ink2"}[state]


def draw_state(painter: QPainter, state: State, centre: QPointF, radius: float) -> None:
    """Draw the mark of ``state``."""
    colour = look.token(state_colour(state))
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = QPen(colour, max(1.6, radius * 0.34))
    if state is State.OVER:
        r = radius
        block = QPolygonF(
            [
                centre + QPointF(-r, -0.8 * r), centre + QPointF(0.4 * r, -0.8 * r), centre + QPointF(1.25 * r, 0),
                centre + QPointF(0.4 * r, 0.8 * r), centre + QPointF(-r, 0.8 * r),
            ]
        )  # fmt: skip
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPolygon(block)
        painter.restore()
        return
    if state is State.UNKNOWN:
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        pen.setDashPattern([0.8, 1.0])
    painter.setPen(pen)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(centre, radius * 0.85, radius * 0.85)
    if state is State.CLOSE:
        half = QPainterPath()
        box = QRectF(centre.x() - radius * 0.85, centre.y() - radius * 0.85, radius * 1.7, radius * 1.7)
        half.moveTo(centre.x() - radius * 0.85, centre.y())
        half.arcTo(box, 180, 180)
        half.closeSubpath()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.fillPath(half, QBrush(colour))
    painter.restore()


def draw_reading(painter: QPainter, centre: QPointF, radius: float, *, simulated: bool = False) -> None:
    """The disc of a reading: solid ink, open where simulated."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink = look.token("ink")
    painter.setPen(QPen(look.token("sheet") if not simulated else ink, 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush if simulated else ink)
    painter.drawEllipse(centre, radius, radius)
    painter.restore()


def draw_how(painter: QPainter, how: How, centre: QPointF, radius: float) -> None:
    """How a property is known.

    A disc: measured; an upright stroke: stated; hatching: estimated; an open block: assumed; a dotted ring: unknown.
    """
    ink = look.token("ink")
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    block = QRectF(centre.x() - 1.3 * radius, centre.y() - 0.6 * radius, 2.6 * radius, 1.2 * radius)
    match how:
        case How.MEASURED:
            draw_reading(painter, centre, radius * 0.8)
        case How.STATED:
            painter.setPen(QPen(look.token("claim"), max(2.0, radius * 0.4)))
            painter.drawLine(centre + QPointF(0, -radius), centre + QPointF(0, radius))
        case How.ESTIMATED:
            painter.setPen(QPen(ink, 1.2))
            for k in range(4):
                x = block.left() + k * block.width() / 4
                painter.drawLine(QPointF(x, block.bottom()), QPointF(x + block.width() / 4, block.top()))
        case How.ASSUMED:
            painter.setPen(QPen(ink, 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(block)
        case How.UNKNOWN:
            draw_state(painter, State.UNKNOWN, centre, radius)
    painter.restore()


class StateMark(QWidget):
    """A mark as a small widget, named for screen readers."""

    def __init__(self, state: State = State.UNKNOWN) -> None:
        super().__init__()
        self._state = state
        self.set_state(state)
        look.changed.connect(self.updateGeometry)

    def set_state(self, state: State) -> None:
        """Show another state."""
        self._state = state
        self.setAccessibleName(str(state))
        self.setToolTip(str(state))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(look.px(16), look.px(18))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        draw_state(painter, self._state, QPointF(self.width() / 2, self.height() / 2), look.px(6))
        painter.end()
