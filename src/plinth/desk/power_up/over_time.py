"""The readings of the current step over time, with their band, trend and rest."""

import numpy as np
from PySide6.QtWidgets import QWidget

from plinth.desk.labels import column, label
from plinth.desk.look import look
from plinth.desk.plot import Plot
from plinth.drawing.series import Series
from plinth.guide.step import Step
from plinth.guide.watching import Watched
from plinth.session.watch_view import watch_picture


class OverTime(QWidget):
    """Hidden while a step is not watched, or was not read yet."""

    def __init__(self) -> None:
        super().__init__()
        self.words = label("", "name", wrap=True)
        self.plot = Plot("", "t", "s")
        self.setLayout(column(self.words, self.plot, spacing=4))
        look.changed.connect(self._fit)
        self._fit()
        self.hide()

    def _fit(self) -> None:
        self.plot.setFixedHeight(look.px(150))

    def show_watched(self, step: Step, watched: Watched | None) -> None:
        """Show what was read of a step so far."""
        self.setVisible(watched is not None)
        if watched is None:
            return
        self.words.setText(watched.words)
        picture = watch_picture(step, watched)
        self.plot.set_title(picture.title)
        self.plot.aside.setText(picture.aside)
        self.plot.set_x(picture.x_scale)
        self.plot.set_series(picture.series)
        self.plot.set_view((0.0, float(picture.series[0].x[-1])), _y_range(picture.series))


def _y_range(series: tuple[Series, ...]) -> tuple[float, float]:
    """What holds every curve with its band, and some air."""
    lows = [float(np.min(trace.y - trace.spread)) for trace in series if len(trace.x)]
    highs = [float(np.max(trace.y + trace.spread)) for trace in series if len(trace.x)]
    low, high = min(lows), max(highs)
    air = 0.12 * max(high - low, 1e-9)
    return low - air, high + air
