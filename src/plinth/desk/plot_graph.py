"""The drawn part of a plot: axes, curves, labels, readout, zoom. Loaded with the first plot that is shown."""

import dataclasses
import math
from collections.abc import Callable, Sequence

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFont, QKeyEvent

from plinth.desk.look import look
from plinth.desk.series import Series
from plinth.units.shown import MINUS, shown

Array = NDArray[np.float64]

pg.setConfigOptions(antialias=True)


class Axis(pg.AxisItem):
    """Ticks with a true minus sign, and round decades on a log axis, counted in ``per_unit`` (1e3 for thousandths)."""

    per_unit = 1.0

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        if self.logMode:
            return [_short(10.0**v * self.per_unit) for v in values]
        strings: list[str] = super().tickStrings(values, scale, spacing)
        return [s.replace("-", MINUS) for s in strings]

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float | None, list[float]]]:
        if not self.logMode:
            found: list[tuple[float | None, list[float]]] = super().tickValues(low, high, size)
            return found
        decades = range(math.floor(low), math.ceil(high) + 1)
        # Names of neighbours must not run into each other where the plot is narrow or the text large.
        roomy = size / max(high - low, 1e-9) > look.px(84)
        majors = [math.log10(m * 10.0**d) for d in decades for m in ((1, 2, 5) if roomy else (1,))]
        return [(None, [v for v in majors if low - 1e-9 <= v <= high + 1e-9])]


def _short(value: float) -> str:
    return f"{value / 1e3:g}k" if value >= 1e3 else f"{value:g}"


@dataclasses.dataclass(frozen=True)
class XAxis:
    """What the x axis is: the name and unit of its quantity (data are in SI), and whether it is logarithmic."""

    name: str
    unit: str
    log: bool


class Graph(pg.PlotWidget):
    """Curves on axes. ``whole_range`` is what Home and a double click ask for."""

    def __init__(self, x_axis: XAxis, x_scale: float, whole_range: Callable[[], None]) -> None:
        axes = {"bottom": Axis("bottom"), "left": Axis("left")}
        # Data stay in SI; the axis may count in a smaller unit (1e3 for milliseconds).
        axes["bottom"].setScale(x_scale)
        super().__init__(axisItems=axes)
        self._x, self._whole_range = x_axis, whole_range
        self._series: tuple[Series, ...] = ()
        self._items: list[object] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMenuEnabled(False)
        self.hideButtons()
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.scene().sigMouseMoved.connect(self._hover)
        self.scene().sigMouseClicked.connect(self._clicked)
        if x_axis.log:
            self.setLogMode(x=True)
        self._cursor = pg.InfiniteLine(angle=90, movable=False)
        self._readout = pg.TextItem(anchor=(0, 0))
        self.restyle()

    def set_x(self, x_axis: XAxis, scale: float) -> None:
        """Let the x axis be another quantity (linear or logarithmic as before), counted in another unit."""
        self._x = x_axis
        self.getAxis("bottom").setScale(scale)

    def show_range(self, x: tuple[float, float], y: tuple[float, float]) -> None:
        """The range to show."""
        self.setRange(xRange=(math.log10(x[0]), math.log10(x[1])) if self._x.log else x, yRange=y, padding=0)

    def set_series(self, series: Sequence[Series]) -> None:
        """Show these curves."""
        self._series = tuple(series)
        for item in self._items:
            self.removeItem(item)
        self._items = []
        for one in self._series:
            self._add(one)
        for extra in (self._cursor, self._readout):
            if extra.scene() is None:
                self.addItem(extra, ignoreBounds=True)
                extra.hide()

    def _add(self, one: Series) -> None:
        colour = look.token(one.role)
        if np.any(np.asarray(one.spread) > 0.0):
            soft = QColor(colour)
            soft.setAlphaF(0.28)
            low = pg.PlotDataItem(one.x, one.y - one.spread, pen=None)
            high = pg.PlotDataItem(one.x, one.y + one.spread, pen=None)
            if self._x.log:
                low.setLogMode(True, False)
                high.setLogMode(True, False)
            self._keep(low, high, pg.FillBetweenItem(low, high, brush=soft))
        if one.discs:
            dots = pg.PlotDataItem(
                one.x, one.y, pen=pg.mkPen(colour, width=1), symbol="o", symbolSize=look.px(9),
                symbolBrush=colour, symbolPen=pg.mkPen(look.token("sheet"), width=1.5),
            )  # fmt: skip
            self._keep(dots)
        else:
            self._keep(
                pg.PlotDataItem(one.x, one.y, pen=pg.mkPen(colour, width=look.scale * (3.0 if one.wide else 1.6)))
            )
        if one.label and len(one.x):
            self._keep(self._label(one, colour))

    def _label(self, one: Series, colour: QColor) -> pg.TextItem:
        anchor = {"above": (1, 1), "below": (1, 0), "start": (0, 0.5), "right": (0, 0)}[one.label_at]
        ground = look.token("sheet")
        ground.setAlphaF(0.85)
        text = pg.TextItem(one.label, color=colour, anchor=anchor, fill=pg.mkBrush(ground))
        text.setFont(look.font(12, bold=True))
        end = one.y[-max(1, len(one.y) // 6) :]
        at = float(one.x[0] if one.label_at == "start" else one.x[-1])
        y = (
            float(one.y[0])
            if one.label_at == "start"
            else float(np.max(end) if one.label_at == "above" else np.min(end))
        )
        text.setPos(math.log10(at) if self._x.log else at, y)
        text.setZValue(5)
        return text

    def _keep(self, *items: object) -> None:
        for item in items:
            self.addItem(item, ignoreBounds=True)
            self._items.append(item)

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
        self._cursor.setPen(pg.mkPen(look.token("ink2"), style=Qt.PenStyle.DashLine))
        self._readout.setColor(look.token("ink"))
        self._readout.fill = pg.mkBrush(look.token("sheet"))
        self._readout.border = pg.mkPen(look.token("rule"))
        self._readout.setFont(look.font(12))
        self.set_series(self._series)

    # Readout

    def _hover(self, scene_at: QPointF) -> None:
        if not self.sceneBoundingRect().contains(scene_at):
            self._cursor.hide()
            self._readout.hide()
            return
        x = self.getPlotItem().vb.mapSceneToView(scene_at).x()
        self.read_at(10.0**x if self._x.log else x)

    def read_at(self, x: float) -> str:
        """Put the cursor at ``x`` and show every curve's value there; the text shown."""
        if not self._series:
            return ""
        lines = [f"{self._x.name} {shown(x, self._x.unit)}"]
        for one in self._series:
            if len(one.x) and one.x[0] <= x <= one.x[-1]:
                y = float(np.interp(np.log(x), np.log(one.x), one.y) if self._x.log else np.interp(x, one.x, one.y))
                lines.append(f"{one.name} {shown(y, one.unit)}")
        text = "\n".join(lines)
        place = math.log10(x) if self._x.log else x
        self._cursor.setPos(place)
        (x0, x1), (y0, y1) = self.viewRange()
        self._readout.setAnchor((0, 0) if place < (x0 + x1) / 2 else (1, 0))
        self._readout.setText(text)
        self._readout.setPos(place, y1 - 0.03 * (y1 - y0))
        self._cursor.show()
        self._readout.show()
        return text

    def _clicked(self, event: object) -> None:
        if getattr(event, "double", lambda: False)():
            self._whole_range()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        (x0, x1), _ = self.viewRange()
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if Qt.Key(event.key()) in steps:
            here = self._cursor.value() if self._cursor.isVisible() else (x0 + x1) / 2
            there = min(x1, max(x0, here + steps[Qt.Key(event.key())] * (x1 - x0) / 60))
            self.read_at(10.0**there if self._x.log else there)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            factor = 0.8 if event.key() == Qt.Key.Key_Plus else 1.25
            self.getPlotItem().vb.scaleBy((factor, factor))
        elif event.key() == Qt.Key.Key_Home:
            self._whole_range()
        else:
            event.ignore()
