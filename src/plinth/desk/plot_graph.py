"""The drawn part of a plot: axes, curves, labels, readout, zoom. Loaded with the first plot that is shown."""

import dataclasses
import math
from collections.abc import Callable, Sequence

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QBuffer, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QKeyEvent, QPainter, QPixmap, QTransform
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from plinth.desk.look import look
from plinth.drawing.series import Series
from plinth.units.shown import MINUS, shown

Array = NDArray[np.float64]

pg.setConfigOptions(antialias=True)
# A name in the corner takes about so much of the width.
CORNER_SHARE = 0.15


class Axis(pg.AxisItem):
    """Ticks with a true minus sign, and round decades on a log axis, counted in ``per_unit`` (1e3 for thousandths)."""

    per_unit = 1.0

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        if self.logMode:
            return [_short(10.0**v * self.per_unit) for v in values]
        strings: list[str] = super().tickStrings(values, scale, spacing)
        return [s.replace("-", MINUS) for s in strings]

    def boundingRect(self) -> QRectF:
        rect: QRectF = super().boundingRect()
        # Else a number beside the upper or lower edge is left out, which in a low plot are all but one.
        return rect.adjusted(0, -look.px(3), 0, look.px(3)) if self.orientation == "left" else rect

    def tickSpacing(self, low: float, high: float, size: float) -> list[tuple[float, float]]:
        if self.logMode or self.orientation != "left" or high <= low:
            spacings: list[tuple[float, float]] = super().tickSpacing(low, high, size)
            return spacings
        # A low plot would else be left with a single number; one at the very edge is not drawn.
        least, edge = (high - low) / max(size / look.px(26), 2.5), 0.06 * (high - low)
        power = 10.0 ** math.floor(math.log10(least))
        steps = [m * power for m in (0.5, 1.0, 2.0, 5.0, 10.0)]
        at = next(k for k, step in enumerate(steps) if step >= least)
        inside = math.floor((high - edge) / steps[at]) - math.ceil((low + edge) / steps[at]) + 1
        return [(steps[at] if inside > 1 else steps[max(at - 1, 0)], 0.0)]

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float | None, list[float]]]:
        if not self.logMode:
            ticks: list[tuple[float | None, list[float]]] = super().tickValues(low, high, size)
            return ticks
        decades = range(math.floor(low), math.ceil(high) + 1)
        # Names of neighbours must not run into each other where the plot is narrow or the text large.
        roomy = size / max(high - low, 1e-9) > look.px(84)
        majors = [math.log10(m * 10.0**d) for d in decades for m in ((1, 2, 5) if roomy else (1,))]
        return [(None, [v for v in majors if low - 1e-9 <= v <= high + 1e-9])]


def _short(value: float) -> str:
    return f"{value / 1e3:g}k" if value >= 1e3 else f"{value:g}"


class PlotCurve(pg.PlotCurveItem):
    """A line of more than a pixel as fine ones side by side, which Qt draws ten times faster than one wide."""

    APART = 0.7

    def __init__(self, colour: QColor, width: float) -> None:
        super().__init__(pen=pg.mkPen(colour, width=1))
        self._beyond = max(width - 1.0, 0.0)

    def paint(self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget) -> None:
        super().paint(painter, option, widget)
        shift = 0.0
        while shift < self._beyond:
            shift = min(shift + self.APART, self._beyond)
            painter.save()
            painter.setWorldTransform(painter.worldTransform() * QTransform.fromTranslate(shift, shift))
            super().paint(painter, option, widget)
            painter.restore()


@dataclasses.dataclass(frozen=True)
class _Drawn:
    """The items that a series is drawn with."""

    line: PlotCurve | pg.PlotDataItem
    label: pg.TextItem | None
    band: pg.PlotCurveItem | None

    @property
    def items(self) -> list[object]:
        """Those there are, from back to front."""
        return [item for item in (self.band, self.line, self.label) if item is not None]


def _has_band(trace: Series) -> bool:
    return bool(np.any(np.asarray(trace.spread) > 0.0))


def _kind(trace: Series) -> tuple[object, ...]:
    """What a series' items depend on, besides its points."""
    return trace.role, trace.label, trace.label_at, trace.discs, trace.wide, _has_band(trace)


@dataclasses.dataclass(frozen=True)
class XAxis:
    """What the x axis is: the name and unit of its quantity (data are in SI), and whether it is logarithmic."""

    name: str
    unit: str
    log: bool


class PlotGraph(pg.PlotWidget):
    """Curves on axes. ``whole_range`` is what Home and a double click ask for."""

    def __init__(self, x_axis: XAxis, x_scale: float, whole_range: Callable[[], None]) -> None:
        axes = {"bottom": Axis("bottom"), "left": Axis("left")}
        # Data stay in SI; the axis may count in a smaller unit (1e3 for milliseconds).
        axes["bottom"].setScale(x_scale)
        # Its own menus are never shown, and take longer to make than all the rest.
        super().__init__(axisItems=axes, enableMenu=False)
        self._x, self._whole_range = x_axis, whole_range
        self.series: tuple[Series, ...] = ()
        self.drawn: list[_Drawn] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hideButtons()
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.scene().sigMouseMoved.connect(self._hover)
        self.scene().sigMouseClicked.connect(self._clicked)
        self.getViewBox().sigResized.connect(self._place_labels)
        if x_axis.log:
            self.setLogMode(x=True)
        self.cursor = pg.InfiniteLine(angle=90, movable=False)
        self._readout = pg.TextItem(anchor=(0, 0))
        self.restyle()

    def set_x(self, x_axis: XAxis, scale: float) -> None:
        """Let the x axis be another quantity (linear or logarithmic as before), counted in another unit."""
        self._x = x_axis
        self.getAxis("bottom").setScale(scale)

    def show_range(self, x: tuple[float, float], y: tuple[float, float]) -> None:
        """The range to show."""
        self.setRange(xRange=(math.log10(x[0]), math.log10(x[1])) if self._x.log else x, yRange=y, padding=0)
        self._place_labels()

    def set_series(self, series: Sequence[Series]) -> None:
        """Show these curves; ones of the same kind as before only move, as while a slider does."""
        alike = [_kind(trace) for trace in series] == [_kind(trace) for trace in self.series]
        self.series = tuple(series)
        if alike and len(self.drawn) == len(self.series):
            for drawn, trace in zip(self.drawn, self.series, strict=True):
                self._move(drawn, trace)
            self._place_labels()
        else:
            self._draw()

    def _place_labels(self, _resized: object = None) -> None:
        """A name above (below) its line stands on the other side where it would not fit."""
        (first, _), (low, high) = self.viewRange()
        height = self.getViewBox().height()
        for drawn, trace in zip(self.drawn, self.series, strict=True):
            if drawn.label is not None and trace.label_at == "corner":
                below = self._lowest(first) - low >= high - self._highest(first)
                drawn.label.setAnchor((0, 1 if below else 0))
                drawn.label.setPos(first, low if below else high)
            if drawn.label is None or trace.label_at not in ("above", "below") or height <= 0.0:
                continue
            above, y = trace.label_at == "above", drawn.label.pos().y()
            room = (high - y if above else y - low) / (high - low) * height
            # The text itself has some air around it in there.
            fits = room >= 0.7 * drawn.label.boundingRect().height()
            drawn.label.setAnchor((1, 1 if above == fits else 0))

    def _lowest(self, first: float) -> float:
        return min((float(np.min(at_left)) for at_left in self._at_left(first)), default=math.inf)

    def _highest(self, first: float) -> float:
        return max((float(np.max(at_left)) for at_left in self._at_left(first)), default=-math.inf)

    def _at_left(self, first: float) -> list[Array]:
        """All curves where a name in the corner would stand."""
        (_, last), _ = self.viewRange()
        until = first + CORNER_SHARE * (last - first)
        parts = [(np.log10(trace.x) if self._x.log else trace.x, trace.y) for trace in self.series if len(trace.x)]
        return [y[x <= until] for x, y in parts if np.any(x <= until)]

    def _draw(self) -> None:
        for item in (item for drawn in self.drawn for item in drawn.items):
            self.removeItem(item)
        self.drawn = [self._drawn_as(trace) for trace in self.series]
        for drawn, trace in zip(self.drawn, self.series, strict=True):
            for item in drawn.items:
                self.addItem(item, ignoreBounds=True)
            self._move(drawn, trace)
        self._place_labels()
        for extra in (self.cursor, self._readout):
            if extra.scene() is None:
                self.addItem(extra, ignoreBounds=True)
                extra.hide()

    def _drawn_as(self, trace: Series) -> _Drawn:
        colour = look.token(trace.role)
        band = label = None
        if _has_band(trace):
            soft = QColor(colour)
            soft.setAlphaF(0.28)
            band = pg.PlotCurveItem(pen=None, brush=soft, fillLevel="enclosed")
        if trace.discs:
            line = pg.PlotDataItem(
                pen=pg.mkPen(colour, width=1), symbol="o", symbolSize=look.px(9), symbolBrush=colour,
                symbolPen=pg.mkPen(look.token("sheet"), width=1.5),
            )  # fmt: skip
        else:
            line = PlotCurve(colour, look.scale * (3.0 if trace.wide else 1.6))
        if trace.label:
            places = {"above": (1, 1), "below": (1, 0), "start": (0, 0.5), "right": (0, 0), "corner": (0, 1)}
            anchor = places[trace.label_at]
            ground = look.token("sheet")
            ground.setAlphaF(0.85)
            label = pg.TextItem(trace.label, color=colour, anchor=anchor, fill=pg.mkBrush(ground))
            label.setFont(look.font(12, bold=True))
            label.setZValue(5)
        return _Drawn(line, label, band)

    def _move(self, drawn: _Drawn, trace: Series) -> None:
        x = np.log10(trace.x) if self._x.log else trace.x
        if drawn.band is not None:
            # Along its upper edge and back along the lower.
            low, high = trace.y - trace.spread, trace.y + trace.spread
            drawn.band.setData(np.append(x, x[::-1]), np.append(high, low[::-1]))
        # Discs are drawn by an item that takes the logarithm itself.
        drawn.line.setData(trace.x if trace.discs else x, trace.y)
        if drawn.label is not None:
            drawn.label.setVisible(len(x) > 0)
            if len(x) and trace.label_at != "corner":
                end = trace.y[-max(1, len(trace.y) // 6) :]
                at_start = trace.label_at == "start"
                y = trace.y[0] if at_start else np.max(end) if trace.label_at == "above" else np.min(end)
                drawn.label.setPos(float(x[0] if at_start else x[-1]), float(y))

    def restyle(self) -> None:
        """Take the colours and sizes in force."""
        self.setBackground(look.token("sheet"))
        font: QFont = look.font(12)
        for name in ("bottom", "left"):
            axis = self.getAxis(name)
            axis.setPen(pg.mkPen(look.token("rule")))
            axis.setTextPen(look.token("ink2"))
            axis.setTickFont(font)
            axis.setStyle(tickLength=0, tickTextOffset=look.px(4))
        self.getAxis("left").setWidth(look.px(46))
        self.getAxis("left").setGrid(55)
        self.cursor.setPen(pg.mkPen(look.token("ink2"), style=Qt.PenStyle.DashLine))
        self._readout.setColor(look.token("ink"))
        self._readout.fill = pg.mkBrush(look.token("sheet"))
        self._readout.border = pg.mkPen(look.token("rule"))
        self._readout.setFont(look.font(12))
        self._draw()

    # Readout

    def _hover(self, scene_at: QPointF) -> None:
        if not self.sceneBoundingRect().contains(scene_at):
            self.cursor.hide()
            self._readout.hide()
            return
        x = self.getPlotItem().vb.mapSceneToView(scene_at).x()
        self.read_at(10.0**x if self._x.log else x)

    def read_at(self, x: float) -> str:
        """Put the cursor at ``x`` and show every curve's value there; the text shown."""
        if not self.series:
            return ""
        lines = [f"{self._x.name} {shown(x, self._x.unit)}"]
        for trace in self.series:
            if len(trace.x) and trace.x[0] <= x <= trace.x[-1]:
                y = float(
                    np.interp(np.log(x), np.log(trace.x), trace.y) if self._x.log else np.interp(x, trace.x, trace.y)
                )
                lines.append(f"{trace.name} {shown(y, trace.unit)}")
        text = "\n".join(lines)
        place = math.log10(x) if self._x.log else x
        self.cursor.setPos(place)
        (x0, x1), (y0, y1) = self.viewRange()
        self._readout.setAnchor((0, 0) if place < (x0 + x1) / 2 else (1, 0))
        self._readout.setText(text)
        self._readout.setPos(place, y1 - 0.03 * (y1 - y0))
        self.cursor.show()
        self._readout.show()
        return text

    def _clicked(self, event: object) -> None:
        if getattr(event, "double", lambda: False)():
            self._whole_range()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        (x0, x1), _ = self.viewRange()
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if Qt.Key(event.key()) in steps:
            here = self.cursor.value() if self.cursor.isVisible() else (x0 + x1) / 2
            there = min(x1, max(x0, here + steps[Qt.Key(event.key())] * (x1 - x0) / 60))
            self.read_at(10.0**there if self._x.log else there)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            factor = 0.8 if event.key() == Qt.Key.Key_Plus else 1.25
            self.getPlotItem().vb.scaleBy((factor, factor))
        elif event.key() == Qt.Key.Key_Home:
            self._whole_range()
        else:
            event.ignore()


def png_bytes(picture: QPixmap) -> bytes:
    """A picture as the bytes of a PNG file."""
    held = QBuffer()
    held.open(QBuffer.OpenModeFlag.WriteOnly)
    picture.save(held, "PNG")
    return bytes(held.data().data())
