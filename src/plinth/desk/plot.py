"""A plot as every page uses it: axes with units, labels on the curves, readout, zoom, copy, export.

What is drawn comes with ``plot_graph``, made once the plot is first shown, so that the window stands before it.
"""

import functools
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QGuiApplication, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QMenu, QSizePolicy, QVBoxLayout, QWidget

from plinth.desk.labels import button, label, plain_tip
from plinth.desk.look import look
from plinth.drawing.series import Series
from plinth.report.csv_table import csv_text
from plinth.report.file_out import not_written_words, proposed_name, write_whole
from plinth.report.series_words import series_words

if TYPE_CHECKING:
    import pyqtgraph as pg

    from plinth.desk.plot_graph import PlotGraph


# The window's first figures go before its first plots: loading what draws them would hold them up.
AFTER_FIGURES_MS = 120
# Curves that follow a slider need not be put into words at every step of it.
TOLD_AFTER_MS = 400


class _Remark(QLabel):
    """A remark at the right of a plot's title; where there is no room its end gives way, and a tip holds the whole."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def setText(self, text: str) -> None:
        super().setText(text)
        self._say_whole()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._say_whole()

    def _say_whole(self) -> None:
        fits = self.fontMetrics().horizontalAdvance(self.text()) <= self.width()
        self.setToolTip(plain_tip("" if fits else self.text()))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(look.token("ink2"))
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.end()


class Plot(QWidget):
    """Axes, curves with their labels, a readout. ``set_series`` shows curves; the menu holds the exports."""

    def __init__(self, title: str, x_name: str, x_unit: str, *, log_x: bool = False, x_scale: float = 1.0) -> None:
        super().__init__()
        self._x_name, self._x_unit, self._log_x, self._x_scale = x_name, x_unit, log_x, x_scale
        self.series: tuple[Series, ...] = ()
        self._made: PlotGraph | None = None
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
        self._box = QVBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(2)
        self._box.addLayout(head)
        # What it shows in words is put together once nothing moves any more.
        self._told = QTimer(self)
        self._told.setSingleShot(True)
        self._told.setInterval(TOLD_AFTER_MS)
        self._told.timeout.connect(self.tell)
        # Stands where the graph will be.
        self._place = QWidget()
        self._place.setObjectName("blank")
        self._place.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._box.addWidget(self._place, 1)
        look.follow(self._restyle)

    @property
    def is_drawn(self) -> bool:
        """Whether its graph was made."""
        return self._made is not None

    @functools.cached_property
    def graph(self) -> "PlotGraph":
        """The drawn part, made when first asked for."""
        from plinth.desk.plot_graph import PlotGraph, XAxis

        made = PlotGraph(XAxis(self._x_name, self._x_unit, self._log_x), self._x_scale, self.whole_range)
        made.setAccessibleName(self.title.text())
        made.customContextMenuRequested.connect(lambda at: self._menu().exec(made.mapToGlobal(at)))
        self._made = made
        self._place.hide()
        self._box.addWidget(made, 1)
        made.set_series(self.series)
        self.whole_range()
        return made

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._made is None:
            QTimer.singleShot(AFTER_FIGURES_MS, self, lambda: self.graph)

    def sizeHint(self) -> QSize:
        return QSize(look.px(300), look.px(112))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(200), look.px(100))

    def set_title(self, title: str) -> None:
        """Name the plot anew, where what it shows depends on the build."""
        self.title.setText(title)
        self.menu_button.setAccessibleName(f"{title}: copy and export")
        if self._made is not None:
            self._made.setAccessibleName(title)

    def set_x(self, scale: float, name: str = "t", unit: str = "s") -> None:
        """Let the x axis be another quantity, counted in another unit: 1e3 for milliseconds, 1/60 for minutes."""
        self._x_name, self._x_unit, self._x_scale = name, unit, scale
        if self._made is not None:
            from plinth.desk.plot_graph import XAxis

            self._made.set_x(XAxis(name, unit, self._log_x), scale)

    def set_view(self, x: tuple[float, float], y: tuple[float, float]) -> None:
        """The whole range to show; kept until it changes, so that zooming stays where the user put it."""
        if (x, y) == self._view:
            return
        self._view = (x, y)
        self.whole_range()

    def whole_range(self) -> None:
        """Back to the whole range."""
        if self._view is not None and self._made is not None:
            self._made.show_range(*self._view)

    def set_series(self, series: Sequence[Series]) -> None:
        """Show these curves."""
        self.series = tuple(series)
        self._told.start()
        if self._made is not None:
            self._made.set_series(self.series)

    def tell(self) -> None:
        """Say in words what it shows."""
        self.setAccessibleName(self.title.text())
        self.setAccessibleDescription(self.words)

    @property
    def words(self) -> str:
        """What it shows, in words."""
        return series_words(self.series, self._x_name, self._x_unit)

    def read_at(self, x: float) -> str:
        """Put the cursor at ``x`` and show every curve's value there; the text shown."""
        return self.graph.read_at(x)

    def _restyle(self) -> None:
        if self._made is not None:
            self._made.restyle()

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
        name, _ = QFileDialog.getSaveFileName(self, "Save", proposed_name(self.title.text(), ending), kind)
        if name:
            assert callable(write)
            try:
                write(Path(name))
            except OSError as error:
                self.aside.setText(not_written_words(name, error))
            else:
                self.aside.setText(f"Saved as {Path(name).name}")

    def copy_picture(self) -> None:
        """The plot as it is seen, to the clipboard."""
        QGuiApplication.clipboard().setPixmap(self.graph.grab())

    def save_png(self, path: Path) -> None:
        """The plot as it is seen, as PNG. Raises OSError where it cannot be written."""
        from plinth.desk.plot_graph import png_bytes

        write_whole(path, png_bytes(self.graph.grab()))

    def save_svg(self, path: Path) -> None:
        """The plot as SVG. Raises OSError where it cannot be written."""
        write_whole(path, svg_bytes(self.graph, self.title.text()))

    def save_csv(self, path: Path) -> None:
        """Every curve's points: one block of two columns a curve, SI, names and units in the head line."""
        head: list[object] = []
        for trace in self.series:
            head += [f"{self._x_name}_{self._x_unit} ({trace.name})", f"{trace.name}_{trace.unit}"]
        rows = [head]
        longest = max((len(trace.x) for trace in self.series), default=0)
        for i in range(longest):
            row: list[object] = []
            for trace in self.series:
                row += [float(trace.x[i]), float(trace.y[i])] if i < len(trace.x) else [None, None]
            rows.append(row)
        write_whole(path, csv_text(rows))


def svg_bytes(graph: "pg.PlotWidget", title: str) -> bytes:
    """What a graph shows as the bytes of an SVG file."""
    held = QBuffer()
    generator = QSvgGenerator()
    generator.setOutputDevice(held)
    generator.setSize(graph.size())
    generator.setViewBox(graph.rect())
    generator.setTitle(title)
    painter = QPainter(generator)
    graph.render(painter, QRectF(graph.rect()), graph.rect())
    painter.end()
    return bytes(held.data().data())
