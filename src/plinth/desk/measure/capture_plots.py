"""The plots of a capture: waves down to a sample, prediction over them, two cursors and what lies between."""

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.captures.capture import Capture
from plinth.captures.pyramid import Pyramid
from plinth.captures.signal.spectrogram import SpectrogramView, spectrogram_of
from plinth.desk.jobs import Jobs
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.measure.spectrogram import Spectrogram
from plinth.desk.plot import Plot
from plinth.session.capture_pictures import Drawn, Picture, against_each_other, waves_between
from plinth.session.capture_span import span_words
from plinth.session.runner import words_of
from plinth.units.errors import QuantityError
from plinth.units.typed import read_quantity

PICTURES, SPECTROGRAM, AGAINST = "waves", "spectrogram", "X-Y"
# A wave is drawn anew so long after the last change of its range.
_SETTLES_MS = 40
_LARGE = 1.3


class CapturePlots(QWidget):
    """``span_wanted`` when the figures of what lies between the cursors are asked for, as ``0.5:1.5``."""

    span_wanted = Signal(str)

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self.plots: list[Plot] = []
        self._capture: Capture | None = None
        self._pyramids: list[Pyramid] = []
        self._pictures: tuple[Picture, ...] = ()
        self._region: pg.LinearRegionItem | None = None
        self.view = QComboBox()
        self.view.setAccessibleName("What is drawn")
        self.view.activated.connect(lambda _index: self._draw())
        self.cursors_button = button("Cursors", "flat", tip="Two cursors on the waveform; drag them or type times")
        self.cursors_button.setCheckable(True)
        self.cursors_button.toggled.connect(self._toggle_cursors)
        self.edges = tuple(self._edge(name) for name in ("from, s", "to, s"))
        self.between, self.span_button = label("", "soft", wrap=True), button("Figures of this part", "flat")
        self.span_button.clicked.connect(self._ask_span)
        self.head = top = QHBoxLayout()
        top.addWidget(self.view)
        top.addWidget(self.cursors_button)
        top.addStretch()
        edges = QHBoxLayout()
        for widget in (*self.edges, self.span_button):
            edges.addWidget(widget)
        edges.addStretch()
        self._box = QVBoxLayout()
        self._box.setSpacing(6)
        box = column(spacing=6)
        box.addLayout(top)
        box.addLayout(edges)
        box.addWidget(self.between)
        box.addLayout(self._box, 1)
        self.setLayout(box)
        self._redraw = QTimer(self)
        self._redraw.setSingleShot(True)
        self._redraw.setInterval(_SETTLES_MS)
        self._redraw.timeout.connect(self._draw_waves)
        self._show_cursor_row()

    def _edge(self, name: str) -> QLineEdit:
        field = QLineEdit()
        field.setAccessibleName(f"Cursor {name}")
        field.setPlaceholderText(name)
        field.setFixedWidth(look.px(96))
        field.returnPressed.connect(self._typed)
        return field

    # What is shown

    def show_pictures(self, pictures: tuple[Picture, ...], capture: Capture | None) -> None:
        """Show these in place of what was shown."""
        self._pictures, self._capture = pictures, capture
        self._pyramids = [] if capture is None else [Pyramid(channel.samples) for channel in capture.channels]
        # At large text there is room for one of them at a time.
        views = [PICTURES] if look.scale < _LARGE else [picture.title for picture in pictures] or [PICTURES]
        if capture is not None:
            views += [SPECTROGRAM] + ([AGAINST] if len(capture.channels) > 1 else [])
        kept = self.view.currentText()
        self.view.clear()
        self.view.addItems(views)
        self.view.setCurrentText(kept if kept in views else views[0])
        self._draw()

    def _draw(self) -> None:
        self._region = None
        while self._box.count():
            item = self._box.takeAt(0)
            widget = None if item is None else item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.plots = []
        view = self.view.currentText()
        if view == SPECTROGRAM and self._capture is not None:
            self._ask_spectrogram(self._capture)
        elif view == AGAINST and self._capture is not None:
            self._add(against_each_other(self._capture))
        else:
            for picture in self._pictures:
                if view in (PICTURES, picture.title):
                    self._add(picture)
        self._show_cursor_row()
        if self.cursors_button.isChecked():
            self._make_region()

    def _add(self, picture: Picture) -> None:
        span = picture.x[1] - picture.x[0]
        scale, unit = (1e3, "ms") if picture.x_unit == "s" and span < 1.0 else (1.0, picture.x_unit)
        plot = Plot(picture.title, picture.x_name, unit, log_x=picture.log_x, x_scale=scale)
        plot.set_series(picture.series)
        plot.set_view(picture.x, picture.y)
        plot.aside.setText(picture.aside)
        self.plots.append(plot)
        self._box.addWidget(plot, 1)
        if picture.what is Drawn.WAVES and self._capture is not None:
            plot.graph.getViewBox().sigXRangeChanged.connect(lambda *_range: self._redraw.start())

    def _ask_spectrogram(self, capture: Capture) -> None:
        channel, waiting = capture.channels[-1], label("Being worked out …", "soft")
        self._box.addWidget(waiting)

        def show(answer: object) -> None:
            assert isinstance(answer, SpectrogramView), "that is what was asked for"
            if self._capture is capture and self.view.currentText() == SPECTROGRAM:
                waiting.hide()
                self._box.addWidget(Spectrogram(answer, channel.name, capture.seconds), 1)

        self._jobs.ask(
            "capture spectrogram", lambda _task: spectrogram_of(channel.samples, capture.sample_rate_hz), show,
            lambda error: waiting.setText(words_of(error)), long=True,
        )  # fmt: skip

    @property
    def wave_plot(self) -> Plot | None:
        """The plot of the waves, while it is shown."""
        first = self.plots[0] if self.plots else None
        return first if first is not None and first.title.text() == Drawn.WAVES.value else None

    def _draw_waves(self) -> None:
        """The waves at the range that is seen, down to a sample."""
        plot = self.wave_plot
        if plot is None or self._capture is None:
            return
        (first, last), _ = plot.graph.viewRange()
        rate = self._capture.sample_rate_hz
        start, stop = int(first * rate), int(np.ceil(last * rate)) + 1
        if stop <= 0 or start >= self._capture.rows:
            return
        beside = [series for series in self._pictures[0].series if series.wide or series.label]
        plot.set_series([*beside, *waves_between(self._pyramids, self._capture, start, stop)])

    # Cursors

    def _show_cursor_row(self) -> None:
        possible = self.wave_plot is not None and self._capture is not None
        self.cursors_button.setEnabled(possible)
        on = possible and self.cursors_button.isChecked()
        for widget in (*self.edges, self.between, self.span_button):
            widget.setVisible(on)

    def _toggle_cursors(self) -> None:
        self._show_cursor_row()
        plot = self.wave_plot
        if self.cursors_button.isChecked():
            self._make_region()
            self.edges[0].setFocus()
        elif self._region is not None and plot is not None:
            plot.graph.removeItem(self._region)
            self._region = None

    def _make_region(self) -> None:
        plot = self.wave_plot
        if plot is None or self._capture is None:
            return
        (first, last), _ = plot.graph.viewRange()
        third = (last - first) / 3.0
        ground = look.token("claim")
        ground.setAlphaF(0.12)
        self._region = pg.LinearRegionItem(
            (first + third, last - third), brush=pg.mkBrush(ground), pen=pg.mkPen(look.token("claim"), width=1.5)
        )
        self._region.sigRegionChanged.connect(self._moved)
        plot.graph.addItem(self._region, ignoreBounds=True)
        self._moved()

    def _moved(self) -> None:
        if self._region is None or self._capture is None:
            return
        start_s, stop_s = sorted(float(edge) for edge in self._region.getRegion())
        for field, value in zip(self.edges, (start_s, stop_s), strict=True):
            if not field.hasFocus() or not field.isModified():
                field.setText(f"{value:.7g}")
        self.between.setText(span_words(self._capture, start_s, stop_s))

    def _typed(self) -> None:
        try:
            start_s, stop_s = (read_quantity(field.text(), "s") for field in self.edges)
        except QuantityError as error:
            self.between.setText(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        for field in self.edges:
            field.setModified(False)
        if self._region is not None:
            self._region.setRegion((start_s, stop_s))
        self._moved()

    def _ask_span(self) -> None:
        if self._region is not None:
            start_s, stop_s = sorted(max(0.0, float(edge)) for edge in self._region.getRegion())
            self.span_wanted.emit(f"{start_s:.9g}:{stop_s:.9g}")
