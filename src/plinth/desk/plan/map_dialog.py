"""Clip power, or any figure, over two choices at once: contour lines, the limit as one, readout, progress, cancel."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QProgressBar, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.jobs import JobTask
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.plot import svg_bytes
from plinth.desk.plot_graph import Axis, png_bytes
from plinth.desk.session import BenchSession
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.figure import Figure
from plinth.report.csv_table import csv_text
from plinth.report.file_out import not_written_words, write_whole
from plinth.session.curves import FigureMap, Over, figures_shown, limit_of, map_of_figure, place_of, what_can_vary
from plinth.session.maps import Choice, ClipMap, choices, map_of, place_in
from plinth.session.runner import words_of
from plinth.units.shown import shown, unit_sign

CLIP = "clip power, finely"


class MapDialog(Dialog):
    """A figure over two choices. Closing the dialog ends what is under way."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self.setWindowTitle("Map over two choices")
        look.size(self, 860, 640)
        self._build, self._situation, self._jobs = session.build, session.situation, session.jobs
        self._prediction = session.predictions.prediction
        self._figures = () if self._prediction is None else figures_shown(self._prediction)
        self._choices: tuple[Choice, ...] = choices(self._build)
        self.found: ClipMap | FigureMap | None = None
        self.figure = QComboBox()
        self.figure.setAccessibleName("Of which figure")
        self.figure.addItems([CLIP, *(figure.label for figure in self._figures)])
        self.across, self.up = self._box("Across", 0), self._box("Up", 1)
        self.go_button, self.stop_button = button("Compute"), button("Stop")
        self.go_button.clicked.connect(self.compute)
        self.stop_button.clicked.connect(self.stop)
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("How much of the map is computed")
        self.said = label("", wrap=True)
        self.graph = pg.PlotWidget(axisItems={"bottom": Axis("bottom"), "left": Axis("left")})
        self.graph.setMenuEnabled(False)
        self.graph.hideButtons()
        self.graph.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.graph.setAccessibleName("Map of clip power")
        self.graph.scene().sigMouseMoved.connect(self._hover)
        self.readout = label("", "name")
        self.picture_button, self.table_button = button("Save PNG …"), button("Save CSV …")
        self.drawing_button = button("Save SVG …")
        self.drawing_button.clicked.connect(self._ask_svg)
        close = button("Close  Esc")
        self.picture_button.clicked.connect(self._ask_png)
        self.table_button.clicked.connect(self._ask_csv)
        for push in (self.picture_button, self.drawing_button, self.table_button):
            push.setEnabled(False)
        close.clicked.connect(self.reject)
        head = QHBoxLayout()
        of = label("Of", "soft")
        for widget in (
            of,
            self.figure,
            label("across", "soft"),
            self.across,
            label("up", "soft"),
            self.up,
            self.go_button,
        ):
            head.addWidget(widget)
        head.addWidget(self.progress, 1)
        head.addWidget(self.stop_button)
        foot = QHBoxLayout()
        foot.addWidget(self.readout, 1)
        for push in (self.picture_button, self.drawing_button, self.table_button, close):
            foot.addWidget(push)
        box = column(spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(head)
        box.addWidget(self.graph, 1)
        box.addWidget(self.said)
        box.addLayout(foot)
        self.setLayout(box)
        for combo in (self.across, self.up):
            combo.currentIndexChanged.connect(self.compute)
        self.figure.currentIndexChanged.connect(self._choose_figure)
        self._restyle()
        self.compute()

    def _box(self, name: str, at: int) -> QComboBox:
        combo = QComboBox()
        combo.setAccessibleName(name)
        for option in self._choices:
            combo.addItem(option.label)
        combo.setCurrentIndex(at)
        return combo

    def _choose_figure(self, index: int) -> None:
        """Another figure can be varied over other things."""
        self._choices = choices(self._build) if index <= 0 else what_can_vary(self._build, self._situation)
        for at, combo in enumerate((self.across, self.up)):
            before = combo.blockSignals(True)
            combo.clear()
            combo.addItems([choice.label for choice in self._choices])
            combo.setCurrentIndex(at)
            combo.blockSignals(before)
        self.compute()

    @property
    def _named(self) -> Figure | None:
        """The figure that is mapped; None for clip power by the quick way."""
        index = self.figure.currentIndex()
        return None if index <= 0 else self._figures[index - 1]

    @property
    def _picked(self) -> tuple[Choice, Choice]:
        return self._choices[self.across.currentIndex()], self._choices[self.up.currentIndex()]

    def compute(self) -> None:
        """Compute the map anew; one that is under way is ended first."""
        self._jobs.cancel("map")
        across, up = self._picked
        if across.key == up.key:
            self.said.setText(f"Found {across.label} twice, expected two different choices: pick another for one axis.")
            return
        self.said.setText("")
        self.stop_button.setEnabled(True)

        named = self._named

        def work(task: JobTask) -> object:
            if named is not None and isinstance(across, Over) and isinstance(up, Over):
                return map_of_figure(self._build, self._situation, named.name, across, up, task.progress)
            drawn = map_of(self._build, self._situation, across, up, task.progress)
            if drawn is None:
                raise PhysicsError(task.reason_to_end() or "it was stopped")
            return drawn

        # It tells how far it is and has its own Stop, so it may take as long as it likes.
        self._jobs.ask("map", work, self._take, self._failed, progressed=self._show_progress, most_s=None, long=True)

    def _show_progress(self, share: float) -> None:
        self.progress.setValue(round(1000 * share))

    def stop(self) -> None:
        """End what is under way; what was drawn before stays."""
        self._jobs.cancel("map")
        self.stop_button.setEnabled(False)
        self.said.setText("Stopped. What was drawn before stays; press Compute to begin again.")

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._jobs.cancel("map")
        # What the plotting library holds of a picture goes only when it is told so.
        self.graph.clear()
        self.graph.close()
        self.found = None
        super().done(answer)

    def _failed(self, error: Exception) -> None:
        self.stop_button.setEnabled(False)
        self.said.setText(f"{error}." if isinstance(error, PhysicsError) else words_of(error))
        self._jobs.failed.emit("map", error)

    def _take(self, answer: object) -> None:
        assert isinstance(answer, ClipMap | FigureMap)
        self.stop_button.setEnabled(False)
        self.found = answer
        for push in (self.picture_button, self.drawing_button, self.table_button):
            push.setEnabled(True)
        self._draw(answer)

    def _draw(self, drawn: ClipMap | FigureMap) -> None:
        self.graph.clear()
        shape = drawn.value
        known = shape[np.isfinite(shape)]
        if len(known) == 0:
            self.said.setText("None of these variants can run: choose other axes.")
            return
        levels = _levels(float(known.min()), float(known.max()))
        image = pg.ImageItem(np.nan_to_num(shape, nan=float(known.min())), axisOrder="row-major")
        low, high = look.token("paper"), look.token("pred")
        image.setLookupTable(pg.ColorMap([0.0, 1.0], [low.getRgb(), high.getRgb()]).getLookupTable(nPts=256))
        x, y = (np.log10(v) if c.log else v for c, v in ((drawn.across, drawn.x), (drawn.up, drawn.y)))
        step_x, step_y = (x[-1] - x[0]) / (len(x) - 1), (y[-1] - y[0]) / (len(y) - 1)
        image.setRect(x[0] - step_x / 2, y[0] - step_y / 2, step_x * len(x), step_y * len(y))
        self.graph.setLogMode(x=drawn.across.log, y=drawn.up.log)
        self.graph.addItem(image)
        for level in levels:
            self._contour(shape, level, x[0], y[0], step_x, step_y)
        limit = None
        if isinstance(drawn, FigureMap) and self._prediction is not None:
            limit = limit_of(self._prediction, drawn.figure)
            if limit is not None and known.min() < limit[0] < known.max():
                self._contour(shape, limit[0], x[0], y[0], step_x, step_y, width=3)
        now = self._place(drawn)
        if now is not None:
            self.graph.addItem(pg.ScatterPlotItem([now[0]], [now[1]], size=look.px(13), symbol="+",
                                                  pen=pg.mkPen(look.token("ink"), width=2)))  # fmt: skip
        for side, choice in (("bottom", drawn.across), ("left", drawn.up)):
            milli = choice.unit == "F"
            axis = self.graph.getAxis(side)
            axis.per_unit = 1e3 if milli else 1.0
            axis.setLabel(f"{choice.label}, {'m' if milli else ''}{unit_sign(choice.unit)}")
        self.graph.setRange(xRange=(x[0], x[-1]), yRange=(y[0], y[-1]), padding=0)
        empty = int(np.count_nonzero(~np.isfinite(shape)))
        what = "Clip power of each channel at onset, predicted; lines in W, the cross is this build."
        if isinstance(drawn, FigureMap):
            unit = unit_sign(drawn.figure.unit) or "1"
            bold = "" if limit is None else f"; the bold line its limit, {limit[1]}"
            what = f"{drawn.figure.label}, predicted; lines in {unit}{bold}; the cross is this build."
        self.said.setText(what + (f" {empty} of {shape.size} variants cannot run and are left pale." if empty else ""))

    def _place(self, drawn: ClipMap | FigureMap) -> tuple[float, float] | None:
        if isinstance(drawn, ClipMap):
            return place_in(drawn, self._build, self._situation)
        return None if self._prediction is None else place_of(drawn, self._prediction)

    def _contour(
        self, shape: np.ndarray, level: float, x0: float, y0: float, dx: float, dy: float, width: int = 1
    ) -> None:
        lines = pg.functions.isocurve(np.nan_to_num(shape.T, nan=-1.0), level, connected=True)
        for line in lines:
            points = np.asarray(line) - 0.5
            if len(points) < 4:
                continue
            xs, ys = x0 + dx * points[:, 0], y0 + dy * points[:, 1]
            self.graph.addItem(
                pg.PlotCurveItem(xs, ys, pen=pg.mkPen(look.token("ink" if width > 1 else "ink2"), width=width))
            )
        longest: list[object] = max(lines, key=len, default=[])
        if len(longest) >= 8:
            at = np.asarray(longest[len(longest) // 2]) - 0.5
            ground = look.token("sheet")
            ground.setAlphaF(0.8)
            text = pg.TextItem(f"{level:g}", color=look.token("ink"), anchor=(0.5, 0.5), fill=pg.mkBrush(ground))
            text.setFont(look.font(11))
            text.setPos(x0 + dx * at[0], y0 + dy * at[1])
            self.graph.addItem(text)

    # Readout and export

    def _hover(self, scene_at: QPointF) -> None:
        if self.graph.sceneBoundingRect().contains(scene_at):
            at = self.graph.getPlotItem().vb.mapSceneToView(scene_at)
            self.read_at(at.x(), at.y())

    def read_at(self, x: float, y: float) -> str:
        """The nearest variant's figures, at plot coordinates (logarithms where an axis is logarithmic)."""
        if self.found is None:
            return ""
        across, up = self.found.across, self.found.up
        xs, ys = (np.log10(v) if c.log else v for c, v in ((across, self.found.x), (up, self.found.y)))
        i, j = int(np.argmin(np.abs(xs - x))), int(np.argmin(np.abs(ys - y)))
        value = float(self.found.value[j, i])
        figure = self.found.figure if isinstance(self.found, FigureMap) else None
        reading = f"clips at {shown(value, 'W')}" if figure is None else f"{figure.label} {shown(value, figure.unit)}"
        words = "cannot run" if np.isnan(value) else reading
        text = (
            f"{across.label} {shown(float(self.found.x[i]), across.unit)} · "
            f"{up.label} {shown(float(self.found.y[j]), up.unit)}: {words}"
        )
        self.readout.setText(text)
        return text

    def _ask_png(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save", "clip-map.png", "PNG picture (*.png)")
        if name:
            self.save_as(lambda: write_whole(Path(name), png_bytes(self.graph.grab())), name)

    def _ask_svg(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save", "map.svg", "SVG drawing (*.svg)")
        if name:
            self.save_as(lambda: write_whole(Path(name), svg_bytes(self.graph, self.said.text())), name)

    def _ask_csv(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save", "clip-map.csv", "CSV table (*.csv)")
        if name:
            self.save_as(lambda: self.save_csv(Path(name)), name)

    def save_as(self, write: Callable[[], None], name: str) -> None:
        """Write a file, and say how that went."""
        try:
            write()
        except OSError as error:
            self.said.setText(not_written_words(name, error))
        else:
            self.said.setText(f"Saved as {Path(name).name}.")

    def save_csv(self, path: Path) -> None:
        """One row a variant, SI: both choices and the figure (empty where it cannot run)."""
        assert self.found is not None, "the button waits for a map"
        name = self.found.figure.name if isinstance(self.found, FigureMap) else "clip_power_w"
        rows: list[list[object]] = [[self.found.across.key, self.found.up.key, name]]
        for j, y in enumerate(self.found.y):
            for i, x in enumerate(self.found.x):
                value = float(self.found.value[j, i])
                rows.append([float(x), float(y), None if np.isnan(value) else value])
        write_whole(path, csv_text(rows))

    def _restyle(self) -> None:
        self.graph.setBackground(look.token("sheet"))
        for name in ("bottom", "left"):
            axis = self.graph.getAxis(name)
            axis.setPen(pg.mkPen(look.token("rule")))
            axis.setTextPen(look.token("ink2"))
            axis.setTickFont(look.font(12))
            axis.setStyle(tickLength=0, tickTextOffset=look.px(4))
            axis.label.setFont(look.font(12))


def _levels(low: float, high: float) -> list[float]:
    """Six to twelve round levels between two powers."""
    step = 10.0 ** np.floor(np.log10((high - low) / 6.0)) if high > low else 1.0
    for factor in (5.0, 2.0, 1.0):
        if (high - low) / (factor * step) >= 6.0:
            step *= factor
            break
    return [float(level) for level in np.arange(np.ceil(low / step) * step, high, step)]
