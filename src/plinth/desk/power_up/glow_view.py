"""How the lamp in series looks: one bulb for each case, the filament in the colour of its temperature."""

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen, QRadialGradient
from PySide6.QtWidgets import QWidget

from plinth.desk.look import look
from plinth.guide.step import Glow

# Below the first no eye sees a filament; from the second on it is as bright as it gets (kelvin).
SEEN_K, BRIGHT_K = 850.0, 2450.0


def brightness(t_k: float) -> float:
    """0 for a dark filament, 1 for full brightness; the root of a straight rise: an eye sees the first glow best."""
    return math.sqrt(min(max((t_k - SEEN_K) / (BRIGHT_K - SEEN_K), 0.0), 1.0))


def filament_colour(t_k: float) -> QColor:
    """The glow token, darker and redder the cooler it is."""
    glow, share = look.token("glow"), brightness(t_k)
    hue = max(glow.hueF() * (0.35 + 0.65 * share), 0.0)
    return QColor.fromHsvF(hue, glow.hsvSaturationF(), glow.valueF() * (0.45 + 0.55 * share))


class GlowView(QWidget):
    """Bulbs side by side with words below each; hidden where a step has none."""

    def __init__(self) -> None:
        super().__init__()
        self._glows: tuple[Glow, ...] = ()
        look.changed.connect(self._fit)
        self._fit()

    def _fit(self) -> None:
        self.setFixedHeight(look.px(140))
        self.update()

    def show_glows(self, glows: tuple[Glow, ...]) -> None:
        """Show these."""
        self._glows = glows
        self.setVisible(bool(glows))
        self.setAccessibleName("The lamp. " + ". ".join(f"{glow.words}, {glow.t_k:.0f} K" for glow in glows))
        self.setToolTip("\n".join(f"{glow.words}: filament at {glow.t_k:.0f} K" for glow in glows))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = self.width() / max(len(self._glows), 1)
        for place, lamp in enumerate(self._glows):
            self._draw(painter, lamp, QRectF(place * width, 0.0, width, float(self.height())))
        painter.end()

    def _draw(self, painter: QPainter, glow: Glow, box: QRectF) -> None:
        r = 0.22 * box.height()
        centre = QPointF(box.center().x(), box.top() + 1.65 * r)
        share, colour = brightness(glow.t_k), filament_colour(glow.t_k)
        if glow.t_k > SEEN_K:
            light = QRadialGradient(centre, (1.1 + 0.5 * share) * r)
            inner = QColor(colour)
            inner.setAlphaF(0.25 + 0.6 * share)
            light.setColorAt(0.0, inner)
            inner.setAlphaF(0.0)
            light.setColorAt(1.0, inner)
            painter.fillRect(QRectF(centre.x() - 2 * r, box.top(), 4 * r, 3 * r), light)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.token("ink2"), 1.4))
        painter.drawEllipse(centre, r, r)
        neck = QRectF(centre.x() - 0.38 * r, centre.y() + 0.92 * r, 0.76 * r, 0.55 * r)
        painter.drawRect(neck)
        filament = QPainterPath(QPointF(centre.x() - 0.4 * r, centre.y() + 0.15 * r))
        for k in range(1, 7):
            up = -0.3 if k % 2 else 0.15
            filament.lineTo(centre.x() + (-0.4 + 0.8 * k / 6) * r, centre.y() + up * r)
        # Darker than its own light, which it would not be seen in.
        lit = colour.darker(100 if look.dark else 160)
        painter.setPen(QPen(lit if glow.t_k > SEEN_K else look.token("ink2"), 2.4 if glow.t_k > SEEN_K else 1.2))
        painter.drawPath(filament)
        painter.setPen(look.token("ink"))
        words = QRectF(box.left() + 4, centre.y() + 1.6 * r, box.width() - 8, box.bottom() - centre.y() - 1.6 * r)
        painter.drawText(words, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, glow.words)
