"""A wiring painted: boxes, wires by kind (colour and dash), the current wire thick; the same on paper."""

import itertools

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plinth.desk.look import look
from plinth.wiring.drawing import Wire, WireKind, Wiring, WiringBox

SOLID, DASH, DOT, DASH_DOT = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
# Told apart without colour too: by dash and by width.
STROKES: dict[WireKind, tuple[str, float, Qt.PenStyle]] = {
    "live": ("close", 2.6, SOLID), "neutral": ("minus", 2.2, DASH), "earth": ("pred", 2.4, DOT),
    "winding": ("ink2", 1.8, SOLID), "plus": ("plus", 2.6, SOLID), "minus": ("minus", 2.6, SOLID),
    "ground": ("ink", 1.6, DASH_DOT), "signal": ("claim", 1.8, DOT), "output": ("ink", 2.2, SOLID),
    "battery": ("plus", 3.0, SOLID),
}  # fmt: skip
# Conductors by the name of their colour, as near as the screen's own colours come; black and white as ink, told apart
# by their dash.
CONDUCTORS = {"brown": "close", "blue": "minus", "black": "ink", "white": "ink2"}
NEAR_PX = 8.0


class WiringView(QWidget):
    """The drawing, scaled into the widget. Arrows go from wire to wire, a click takes the nearest; ``chosen`` tells."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.wiring = Wiring("", 1.0, 1.0, (), (), ())
        self.current = -1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Wiring of this build; arrows go from wire to wire")

    def sizeHint(self) -> QSize:
        return QSize(look.px(1080), look.px(520))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(480), look.px(260))

    def show_wiring(self, wiring: Wiring) -> None:
        """Show another drawing; the current wire stays if there is one of its name."""
        key = self.wire.key if self.wire is not None else ""
        self.wiring = wiring
        keys = [wire.key for wire in wiring.wires]
        self.choose(keys.index(key) if key in keys else 0)

    @property
    def wire(self) -> Wire | None:
        """The current wire."""
        return self.wiring.wires[self.current] if 0 <= self.current < len(self.wiring.wires) else None

    def choose(self, index: int) -> None:
        """Go to a wire."""
        if self.wiring.wires:
            self.current = index % len(self.wiring.wires)
            wire = self.wiring.wires[self.current]
            self.setAccessibleDescription(f"{wire.words}. {wire.flow}")
            self.chosen.emit(wire)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Right, Qt.Key.Key_Down):
            self.choose(self.current + 1)
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Up):
            self.choose(self.current - 1)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        scale, origin = self._fitted(QRectF(self.rect()))
        at = (event.position() - origin) / scale
        distances = [min(_distance(at, a, b) for a, b in _pieces(wire)) for wire in self.wiring.wires]
        if distances and min(distances) * scale <= NEAR_PX:
            self.choose(distances.index(min(distances)))

    def _fitted(self, rect: QRectF) -> tuple[float, QPointF]:
        scale = min(rect.width() / self.wiring.width, rect.height() / self.wiring.height)
        left = rect.left() + (rect.width() - scale * self.wiring.width) / 2.0
        return scale, QPointF(left, rect.top())

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.token("sheet"))
        self.paint(painter, QRectF(self.rect()), self.current)
        if self.hasFocus():
            painter.setPen(QPen(look.token("ink"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def paint(self, painter: QPainter, rect: QRectF, current: int = -1) -> None:
        """Paint the drawing into ``rect``, the wire ``current`` marked."""
        scale, origin = self._fitted(rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(origin)
        painter.scale(scale, scale)
        for k, wire in enumerate(self.wiring.wires):
            _paint_wire(painter, wire, marked=k == current)
        for box in self.wiring.boxes:
            _paint_box(painter, box)
        for words, wire in self.wiring.legend:
            _paint_wire(painter, wire, marked=False)
            _paint_words(painter, words, QPointF(wire.points[1][0] + 8.0, wire.points[1][1] + 4.0), 11)
        painter.restore()


def _paint_wire(painter: QPainter, wire: Wire, *, marked: bool) -> None:
    token, width, style = STROKES[wire.kind]
    token = CONDUCTORS.get(wire.colour, token)
    points = QPolygonF([QPointF(x, y) for x, y in wire.points])
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if marked:
        glow = QColor(look.token("glow"))
        painter.setPen(QPen(glow, width + 7.0, SOLID, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
        painter.drawPolyline(points)
    colour = look.token("over" if wire.warning else token)
    painter.setPen(QPen(colour, width, style, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.MiterJoin))
    painter.drawPolyline(points)


def _paint_box(painter: QPainter, box: WiringBox) -> None:
    rect = QRectF(box.x, box.y, box.w, box.h)
    painter.setBrush(look.token("paper"))
    painter.setPen(QPen(look.token("close" if box.missing else "ink"), 1.4, DASH if box.missing else SOLID))
    painter.drawRoundedRect(rect, 3, 3)
    line = 15.0
    top = rect.center().y() - line * len(box.words) / 2.0
    for k, words in enumerate(box.words):
        font = look.font(11)
        font.setPixelSize(12 if k == 0 else 11)
        font.setBold(k == 0)
        painter.setFont(font)
        painter.setPen(look.token("ink" if k == 0 else "ink2"))
        room = QRectF(rect.left() + 2, top + line * k, rect.width() - 4, line)
        text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, text)
    for name, (x, y) in box.shown_pins():
        _paint_words(painter, name, QPointF(x, y), 9)


def _paint_words(painter: QPainter, words: str, at: QPointF, size: int) -> None:
    font = look.font(11)
    font.setPixelSize(size)
    painter.setFont(font)
    painter.setPen(look.token("ink2"))
    painter.drawText(at, words)


def _pieces(wire: Wire) -> list[tuple[QPointF, QPointF]]:
    points = [QPointF(x, y) for x, y in wire.points]
    return list(itertools.pairwise(points))


def _distance(at: QPointF, a: QPointF, b: QPointF) -> float:
    along = b - a
    length = QPointF.dotProduct(along, along)
    share = 0.0 if length == 0.0 else max(0.0, min(1.0, QPointF.dotProduct(at - a, along) / length))
    away = at - (a + along * share)
    return float(QPointF.dotProduct(away, away) ** 0.5)
