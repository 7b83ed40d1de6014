"""The limit ruler: limit as an upright stroke, prediction as a band, reading as a disc; unknown is hatched.

One widget for every judged quantity; it takes the focus and tells its sentence.
"""

import dataclasses
import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plinth.desk.labels import plain_tip
from plinth.desk.look import look
from plinth.desk.marks import draw_reading, state_colour
from plinth.judge.state import State


@dataclasses.dataclass(frozen=True)
class RulerContent:
    """What a ruler shows, all in one unit; None leaves a thing out.

    ``band`` the prediction's 95 % band, ``estimated`` hatches it; ``window`` where readings are expected;
    ``limit`` and ``claim`` strokes; ``reading`` a disc with ``reading_spread``; ``scale`` the ends shown; ``choice`` a
    thing that is one way or another: three fields for clear, close and over, one of them filled.
    """

    scale: tuple[float, float]
    state: State
    sentence: str
    band: tuple[float, float] | None = None
    estimated: bool = False
    window: tuple[float, float] | None = None
    limit: float | None = None
    claim: float | None = None
    reading: float | None = None
    reading_spread: float = 0.0
    simulated: bool = False
    choice: bool = False


def scale_for(*values: float | None, floor: float | None = 0.0) -> tuple[float, float]:
    """Ends that hold all values with some room; from ``floor`` on where all values allow it."""
    known = [v for v in values if v is not None and math.isfinite(v)]
    if not known:
        return 0.0, 1.0
    low, high = min(known), max(known)
    if floor is not None and low >= floor:
        return floor, high * 1.25 if high > floor else floor + 1.0
    room = 0.25 * ((high - low) or abs(high) or 1.0)
    return low - room, high + room


class LimitRuler(QWidget):
    """A figure against its limit. ``asked`` on Enter or click, to learn where it comes from; ``fix_asked`` on M."""

    asked = Signal()
    fix_asked = Signal()

    def __init__(self, *, tall: bool = False) -> None:
        super().__init__()
        self._content: RulerContent | None = None
        self._tall = tall
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)

    def show_content(self, content: RulerContent) -> None:
        """Show another content."""
        self._content = content
        self.setAccessibleDescription(f"{content.state}. {content.sentence}")
        self.setToolTip(plain_tip(content.sentence))
        self.update()

    @property
    def content(self) -> RulerContent | None:
        """What is shown."""
        return self._content

    def sizeHint(self) -> QSize:
        return QSize(look.px(200), look.px(34 if self._tall else 18))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(60), self.sizeHint().height())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.asked.emit()
        elif event.key() == Qt.Key.Key_M:
            self.fix_asked.emit()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.asked.emit()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint(painter)
        painter.end()

    def _paint(self, painter: QPainter) -> None:
        paint_ruler(painter, QRectF(self.rect()), self._content, tall=self._tall)
        if self.hasFocus():
            painter.setPen(QPen(look.token("ink"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(1, 1, self.width() - 2, self.height() - 2))


def paint_ruler(painter: QPainter, rect: QRectF, content: RulerContent | None, *, tall: bool = False) -> None:
    """Paint a ruler into ``rect``: in a widget of its own, or in a cell of a table."""
    bar = look.px(18 if tall else 8)
    middle = rect.center().y()
    track = QRectF(rect.left() + look.px(2), middle - bar / 2, rect.width() - look.px(4), bar)
    painter.fillRect(track, look.token("sunk"))
    if content is None:
        return
    if content.choice:
        _three_fields(painter, track, content.state)
        return
    places = _Places(rect, content.scale)
    if content.band is None and content.window is None and content.reading is None:
        _hatch(painter, track, look.token("ink2"))
    if content.window is not None:
        _block(painter, places, content.window, bar, look.token("pred_fill"), look.token("pred"))
    if content.band is not None:
        _block(painter, places, content.band, bar, look.token(state_colour(content.state)), None)
        if content.estimated:
            low, high = (places.x(end) for end in content.band)
            _hatch(painter, QRectF(low, middle - bar / 2, max(high - low, look.px(3)), bar), look.token("sheet"))
    reach = bar / 2 + look.px(4)
    for value, token in ((content.limit, "ink"), (content.claim, "claim")):
        if value is not None:
            painter.setPen(QPen(look.token(token), look.px(2)))
            painter.drawLine(QPointF(places.x(value), middle - reach), QPointF(places.x(value), middle + reach))
    if content.reading is not None:
        painter.setPen(QPen(look.token("ink"), 1.5))
        painter.drawLine(
            QPointF(places.x(content.reading - content.reading_spread), middle),
            QPointF(places.x(content.reading + content.reading_spread), middle),
        )
        centre = QPointF(places.x(content.reading), middle)
        draw_reading(painter, centre, look.px(8 if tall else 5), simulated=content.simulated)


def _three_fields(painter: QPainter, track: QRectF, state: State) -> None:
    gap, width = look.px(3), track.width() / 3.0
    for k, limit_state in enumerate((State.CLEAR, State.CLOSE, State.OVER)):
        field = QRectF(track.left() + k * width, track.top(), width - (gap if k < 2 else 0), track.height())
        if limit_state is state:
            painter.fillRect(field, look.token(state_colour(state)))
        painter.setPen(QPen(look.token("ink2"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(field.adjusted(0.5, 0.5, -0.5, -0.5))


@dataclasses.dataclass(frozen=True)
class _Places:
    rect: QRectF
    scale: tuple[float, float]

    def x(self, value: float) -> float:
        low, high = self.scale
        margin = look.px(5)
        share = (value - low) / ((high - low) or 1.0)
        return self.rect.left() + margin + min(1.0, max(0.0, share)) * (self.rect.width() - 2 * margin)


def _block(
    painter: QPainter, places: _Places, ends: tuple[float, float], bar: float, fill: QColor, edge: QColor | None
) -> None:
    low, high = (places.x(end) for end in ends)
    width = max(high - low, look.px(3))
    box = QRectF((low + high) / 2 - width / 2, places.rect.center().y() - bar / 2, width, bar)
    painter.fillRect(box, fill)
    if edge is not None:
        painter.setPen(QPen(edge, 2))
        # A side that is open has no edge.
        if ends[0] > places.scale[0]:
            painter.drawLine(box.topLeft(), box.bottomLeft())
        if ends[1] < places.scale[1]:
            painter.drawLine(box.topRight(), box.bottomRight())


def _hatch(painter: QPainter, box: QRectF, colour: QColor) -> None:
    painter.save()
    painter.setClipRect(box)
    painter.setPen(QPen(colour, 1))
    step = look.px(5)
    x = box.left() - box.height()
    while x < box.right():
        painter.drawLine(QPointF(x, box.bottom()), QPointF(x + box.height(), box.top()))
        x += step
    painter.restore()
    painter.setBrush(QBrush(Qt.BrushStyle.NoBrush))
