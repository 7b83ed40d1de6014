"""A plot as every page uses it: axes with units, labels on the curves, readout, zoom, copy, export."""

import csv
import dataclasses
import math
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pyqtgraph as pg
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QAction, QColor, QFont, QGuiApplication, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QMenu, QSizePolicy, QVBoxLayout, QWidget

from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.units.shown import MINUS, shown

Array = NDArray[np.float64]

pg.setConfigOptions(antialias=True)


@dataclasses.dataclass(frozen=True)
class Series:
    """One curve. ``role`` a colour token; ``spread`` half the width of the band that a prediction is drawn as.

    ``discs``: readings, drawn as discs. ``unit`` for the readout. ``label`` stands at the curve's end, ``above`` or
    ``below`` it, to its ``right``, or at its ``start``; empty for none.
    """

    name: str
    x: Array
    y: Array
    role: str
    unit: str
    label: str = ""
    label_at: str = "above"
    spread: float | Array = 0.0
    discs: bool = False
    wide: bool = False


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


class _Remark(QLabel):
    """A remark at the right of a plot's title; where there is no room its end gives way, and a tip holds the whole."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(look.token("ink2"))
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        self.setToolTip("" if words == self.text() else self.text())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.end()


class Plot(QWidget):
    """See the module. ``set_series`` shows curves; the menu button and the context menu hold the exports."""

    def __init__(self, title: str, x_name: str, x_unit: str, *, log_x: bool = False, x_scale: float = 1.0) -> None:
        super().__init__()
        self._x_name, self._x_unit, self._log_x = x_name, x_unit, log_x
        self._series: tuple[Series, ...] = ()
        self._items: list[object] = []
        self._view: tuple[tuple[float, float], tuple[float, float]] | None = None
        self.title = label(title, "title")
        self.aside = _Remark()
        self.menu_button = button("Plot …", "flat", tip="Copy, save as PNG or SVG, data as CSV, whole range")
        self.menu_button.setAccessibleName(f"{title}: copy and export")
        self.menu_button.setMenu(self._menu())
        head = QHBoxLayout()
        head.setContentsMargins(0, 0, 0, 0)
        head.addWidget(self.title)
        head.addSpacing(look.px(10))
        head.addWidget(self.aside, 1)
        head.addWidget(self.menu_button)
        axes = {"bottom": Axis("bottom"), "left": Axis("left")}
        # Data stay in SI; the axis may count in a smaller unit (1e3 for milliseconds).
        axes["bottom"].setScale(x_scale)
        self.graph = pg.PlotWidget(axisItems=axes)
        self.graph.setAccessibleName(title)
        self.graph.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.graph.setMenuEnabled(False)
        self.graph.hideButtons()
        self.graph.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.graph.customContextMenuRequested.connect(lambda at: self._menu().exec(self.graph.mapToGlobal(at)))
        self.graph.keyPressEvent = self._key  # pyqtgraph passes keys on to its scene otherwise
        self.graph.scene().sigMouseMoved.connect(self._hover)
        self.graph.scene().sigMouseClicked.connect(self._clicked)
        if log_x:
            self.graph.setLogMode(x=True)
        self._cursor = pg.InfiniteLine(angle=90, movable=False)
        self._readout = pg.TextItem(anchor=(0, 0))
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(2)
        box.addLayout(head)
        box.addWidget(self.graph, 1)
        look.changed.connect(self._restyle)
        self._restyle()

    def sizeHint(self) -> QSize:
        return QSize(look.px(300), look.px(112))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(200), look.px(100))

    def set_title(self, title: str) -> None:
        """Name the plot anew, where what it shows depends on the build."""
        self.title.setText(title)
        self.menu_button.setAccessibleName(f"{title}: copy and export")
        self.graph.setAccessibleName(title)

    def set_x_scale(self, scale: float) -> None:
        """Let the x axis count in another unit: 1e3 for milliseconds, 1/60 for minutes."""
        self.graph.getAxis("bottom").setScale(scale)

    def set_view(self, x: tuple[float, float], y: tuple[float, float]) -> None:
        """The whole range to show; kept until it changes, so that zooming stays where the user put it."""
        if (x, y) == self._view:
            return
        self._view = (x, y)
        self.whole_range()

    def whole_range(self) -> None:
        """Back to the whole range."""
        if self._view is not None:
            (x0, x1), y = self._view
            x = (math.log10(x0), math.log10(x1)) if self._log_x else (x0, x1)
            self.graph.setRange(xRange=x, yRange=y, padding=0)

    def set_series(self, series: Sequence[Series]) -> None:
        """Show these curves."""
        self._series = tuple(series)
        for item in self._items:
            self.graph.removeItem(item)
        self._items = []
        for one in self._series:
            self._add(one)
        for extra in (self._cursor, self._readout):
            if extra.scene() is None:
                self.graph.addItem(extra, ignoreBounds=True)
                extra.hide()

    def _add(self, one: Series) -> None:
        colour = look.token(one.role)
        if np.any(np.asarray(one.spread) > 0.0):
            soft = QColor(colour)
            soft.setAlphaF(0.28)
            low = pg.PlotDataItem(one.x, one.y - one.spread, pen=None)
            high = pg.PlotDataItem(one.x, one.y + one.spread, pen=None)
            if self._log_x:
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
        text.setPos(math.log10(at) if self._log_x else at, y)
        text.setZValue(5)
        return text

    def _keep(self, *items: object) -> None:
        for item in items:
            self.graph.addItem(item, ignoreBounds=True)
            self._items.append(item)

    def _restyle(self) -> None:
        self.graph.setBackground(look.token("sheet"))
        font: QFont = look.font(12)
        for name in ("bottom", "left"):
            axis = self.graph.getAxis(name)
            axis.setPen(pg.mkPen(look.token("rule")))
            axis.setTextPen(look.token("ink2"))
            axis.setTickFont(font)
            axis.setStyle(tickLength=0, tickTextOffset=look.px(4))
        self.graph.getAxis("left").setWidth(look.px(46))
        self.graph.getAxis("left").setGrid(55)
        self._cursor.setPen(pg.mkPen(look.token("ink2"), style=Qt.PenStyle.DashLine))
        self._readout.setColor(look.token("ink"))
        self._readout.fill = pg.mkBrush(look.token("sheet"))
        self._readout.border = pg.mkPen(look.token("rule"))
        self._readout.setFont(look.font(12))
        self.set_series(self._series)

    # Readout

    def _hover(self, scene_at: QPointF) -> None:
        if not self.graph.sceneBoundingRect().contains(scene_at):
            self._cursor.hide()
            self._readout.hide()
            return
        x = self.graph.getPlotItem().vb.mapSceneToView(scene_at).x()
        self.read_at(10.0**x if self._log_x else x)

    def read_at(self, x: float) -> str:
        """Put the cursor at ``x`` and show every curve's value there; the text shown."""
        if not self._series:
            return ""
        lines = [f"{self._x_name} {shown(x, self._x_unit)}"]
        for one in self._series:
            if len(one.x) and one.x[0] <= x <= one.x[-1]:
                y = float(np.interp(np.log(x), np.log(one.x), one.y) if self._log_x else np.interp(x, one.x, one.y))
                lines.append(f"{one.name} {shown(y, one.unit)}")
        text = "\n".join(lines)
        place = math.log10(x) if self._log_x else x
        self._cursor.setPos(place)
        (x0, x1), (y0, y1) = self.graph.viewRange()
        self._readout.setAnchor((0, 0) if place < (x0 + x1) / 2 else (1, 0))
        self._readout.setText(text)
        self._readout.setPos(place, y1 - 0.03 * (y1 - y0))
        self._cursor.show()
        self._readout.show()
        return text

    def _clicked(self, event: object) -> None:
        if getattr(event, "double", lambda: False)():
            self.whole_range()

    def _key(self, event: QKeyEvent) -> None:
        (x0, x1), _ = self.graph.viewRange()
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if Qt.Key(event.key()) in steps:
            here = self._cursor.value() if self._cursor.isVisible() else (x0 + x1) / 2
            there = min(x1, max(x0, here + steps[Qt.Key(event.key())] * (x1 - x0) / 60))
            self.read_at(10.0**there if self._log_x else there)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            factor = 0.8 if event.key() == Qt.Key.Key_Plus else 1.25
            self.graph.getPlotItem().vb.scaleBy((factor, factor))
        elif event.key() == Qt.Key.Key_Home:
            self.whole_range()
        else:
            event.ignore()

    # Copy and export

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for words, call in (
            ("Copy picture", self.copy_picture),
            ("Save picture as PNG …", lambda: self._save("PNG picture (*.png)", self.save_png)),
            ("Save picture as SVG …", lambda: self._save("SVG picture (*.svg)", self.save_svg)),
            ("Save data as CSV …", lambda: self._save("CSV table (*.csv)", self.save_csv)),
            ("Whole range (Home, double click)", self.whole_range),
        ):
            action = QAction(words, menu)
            action.triggered.connect(lambda _checked=False, call=call: call())
            menu.addAction(action)
        return menu

    def _save(self, kind: str, write: object) -> None:
        ending = kind[kind.index("*.") + 1 : -1]
        name, _ = QFileDialog.getSaveFileName(self, "Save", self.title.text().replace(" ", "-") + ending, kind)
        if name:
            assert callable(write)
            try:
                write(Path(name))
            except OSError as error:
                self.aside.setText(f"Not saved: {error}")
            else:
                self.aside.setText(f"Saved as {Path(name).name}")

    def copy_picture(self) -> None:
        """The plot as it is seen, to the clipboard."""
        QGuiApplication.clipboard().setPixmap(self.graph.grab())

    def save_png(self, path: Path) -> None:
        """The plot as it is seen, as PNG. Raises OSError where it cannot be written."""
        if not self.graph.grab().save(str(path), "PNG"):
            raise OSError(f"could not write {path}: check that the folder exists and may be written")

    def save_svg(self, path: Path) -> None:
        """The plot as SVG. Raises OSError where it cannot be written."""
        generator = QSvgGenerator()
        generator.setFileName(str(path))
        generator.setSize(self.graph.size())
        generator.setViewBox(self.graph.rect())
        generator.setTitle(self.title.text())
        painter = QPainter()
        if not painter.begin(generator):
            raise OSError(f"could not write {path}: check that the folder exists and may be written")
        self.graph.render(painter, QRectF(self.graph.rect()), self.graph.rect())
        painter.end()

    def save_csv(self, path: Path) -> None:
        """Every curve's points: one block of two columns a curve, SI, names and units in the head line."""
        with path.open("w", newline="", encoding="utf-8") as file:
            writer = csv.writer(file)
            head: list[str] = []
            for one in self._series:
                head += [f"{self._x_name}_{self._x_unit} ({one.name})", f"{one.name}_{one.unit}"]
            writer.writerow(head)
            longest = max((len(one.x) for one in self._series), default=0)
            for i in range(longest):
                row: list[float | str] = []
                for one in self._series:
                    row += [float(one.x[i]), float(one.y[i])] if i < len(one.x) else ["", ""]
                writer.writerow(row)
