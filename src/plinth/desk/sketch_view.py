"""A sketch beside a check or a test, scaled to its place."""

from typing import assert_never

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plinth.desk.look import look
from plinth.drawing.sketch import HEIGHT, WIDTH, Box, Disc, Line, Mark, Sketch, Words

_SIDES = {
    "left": Qt.AlignmentFlag.AlignLeft,
    "middle": Qt.AlignmentFlag.AlignHCenter,
    "right": Qt.AlignmentFlag.AlignRight,
}
_FAR = 1000.0


class SketchView(QWidget):
    """Hidden while there is none."""

    def __init__(self) -> None:
        super().__init__()
        self._sketch: Sketch | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.updateGeometry)
        self.hide()

    def show_sketch(self, sketch: Sketch | None) -> None:
        """Show this one."""
        self._sketch = sketch
        self.setVisible(sketch is not None)
        self.setAccessibleName("" if sketch is None else f"Sketch: {sketch.words}")
        self.setToolTip("" if sketch is None else sketch.words)
        self.updateGeometry()
        self.update()

    @property
    def _sheet(self) -> tuple[float, float]:
        return (WIDTH, HEIGHT) if self._sketch is None else (self._sketch.width, self._sketch.height)

    def sizeHint(self) -> QSize:
        width, height = self._sheet
        return QSize(look.px(round(width)), look.px(round(height)))

    def minimumSizeHint(self) -> QSize:
        width, height = self._sheet
        # It is scaled to what there is; the columns grow less than the text.
        return QSize(look.px(round(0.5 * width)), look.px(round(height)))

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._sketch is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), look.token("sheet"))
        painter.setPen(look.token("rule"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        width, height = self._sheet
        scale = min(self.width() / width, self.height() / height)
        painter.translate((self.width() - scale * width) / 2.0, (self.height() - scale * height) / 2.0)
        painter.scale(scale, scale)
        # Text keeps the size that is asked for, however small the sheet is drawn.
        # But in a small one no larger than its boxes hold: the words beside it say the same in full size.
        text = look.scale / scale if width >= WIDTH else min(look.scale / scale, 1.0)
        for mark in self._sketch.marks:
            _paint(painter, mark, text)
        painter.end()


def _paint(painter: QPainter, mark: Mark, text: float) -> None:
    match mark:
        case Line():
            painter.setPen(QPen(look.token(mark.role), mark.thick))
            painter.drawLine(round(mark.x1), round(mark.y1), round(mark.x2), round(mark.y2))
        case Box():
            painter.setPen(QPen(look.token(mark.role), 1.5))
            painter.setBrush(look.token(mark.fill or "sheet"))
            painter.drawRoundedRect(QRectF(mark.x, mark.y, mark.w, mark.h), 3, 3)
            painter.setPen(look.token("ink"))
            _font(painter, 12.0 * text, bold=False)
            painter.drawText(
                QRectF(mark.x, mark.y, mark.w, mark.h), Qt.AlignmentFlag.AlignCenter, "\n".join(mark.words)
            )
        case Disc():
            painter.setPen(QPen(look.token(mark.role), 2))
            painter.setBrush(look.token("sheet" if mark.open else mark.role))
            painter.drawEllipse(QRectF(mark.x - mark.r, mark.y - mark.r, 2 * mark.r, 2 * mark.r))
        case Words():
            painter.setPen(look.token(mark.role))
            _font(painter, 12.0 * text, bold=mark.bold)
            left = {"left": mark.x, "middle": mark.x - _FAR / 2, "right": mark.x - _FAR}[mark.anchor]
            painter.drawText(
                QRectF(left, mark.y - 12, _FAR, 24), _SIDES[mark.anchor] | Qt.AlignmentFlag.AlignVCenter, mark.text
            )
        case _:
            assert_never(mark)


def _font(painter: QPainter, px: float, *, bold: bool) -> None:
    font = look.font(12, bold=bold)
    font.setPixelSize(max(round(px), 1))
    painter.setFont(font)
