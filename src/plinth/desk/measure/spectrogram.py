"""A spectrogram: what is in a capture at each moment, in decibels, as shades."""

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QRectF
from PySide6.QtWidgets import QWidget

from plinth.captures.signal.spectrogram import SpectrogramView
from plinth.desk.labels import column, label
from plinth.desk.look import look
from plinth.desk.plot_graph import Axis
from plinth.units.shown import MINUS


class Spectrogram(QWidget):
    """Time across, frequency up (logarithmic), the output's channel."""

    def __init__(self, told: SpectrogramView, channel: str, seconds: float) -> None:
        super().__init__()
        self.title = label(f"Spectrogram of {channel}", "title")
        self.aside = label(
            f"dB to its strongest line: dark from {MINUS}{-told.floor_db:.0f} dB on, pale at 0 dB; "
            f"{told.frame_s * 1e3:.3g} ms a column",
            "soft", wrap=True,
        )  # fmt: skip
        axes = {"bottom": Axis("bottom"), "left": Axis("left")}
        self.graph = pg.PlotWidget(axisItems=axes, enableMenu=False)
        self.graph.setAccessibleName(f"{self.title.text()}, {self.aside.text()}")
        self.graph.setBackground(look.token("sheet"))
        self.graph.hideButtons()
        self.graph.setLogMode(y=True)
        for axis in axes.values():
            axis.setTextPen(look.token("ink2"))
            axis.setTickFont(look.font(12))
        image = pg.ImageItem(told.decibels, axisOrder="row-major")
        dark, light = look.token("ink"), look.token("sheet")
        ends = np.array([dark.getRgb(), look.token("claim").getRgb(), light.getRgb()], dtype=np.ubyte)
        image.setColorMap(pg.ColorMap([0.0, 0.5, 1.0], ends))
        image.setLevels((told.floor_db, 0.0))
        low, high = float(np.log10(told.frequencies_hz[0])), float(np.log10(told.frequencies_hz[-1]))
        image.setRect(QRectF(0.0, low, seconds, high - low))
        self.graph.addItem(image)
        self.graph.setRange(xRange=(0.0, seconds), yRange=(low, high), padding=0)
        box = column(self.title, self.aside, spacing=4)
        box.addWidget(self.graph, 1)
        self.setLayout(box)
