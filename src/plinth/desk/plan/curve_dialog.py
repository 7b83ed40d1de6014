"""Any figure over anything that can be varied, as a curve with its band and its limit; progress, stop, export."""

import numpy as np
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QProgressBar, QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.jobs import JobTask
from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.plot import Plot
from plinth.desk.session import BenchSession
from plinth.drawing.series import Series
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.curves import Curve, curve_of, figures_shown, limit_of, what_can_vary
from plinth.session.runner import words_of
from plinth.units.shown import shown, unit_sign

FIRST = "clip_worst_power_w"


class CurveDialog(Dialog):
    """A figure over one choice. Closing the dialog ends what is under way."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session, self._build, self._situation = session, session.build, session.situation
        assert session.predictions.prediction is not None, "the command waits for one"
        self._prediction = session.predictions.prediction
        self.found: Curve | None = None
        self.setWindowTitle(f"Curve: {self._build.name}")
        look.size(self, 860, 560)
        self._figures, self._overs = figures_shown(self._prediction), what_can_vary(self._build, self._situation)
        self.figure, self.over = QComboBox(), QComboBox()
        self.figure.addItems([figure.label for figure in self._figures])
        self.figure.setCurrentIndex(next((k for k, figure in enumerate(self._figures) if figure.name == FIRST), 0))
        self.over.addItems([axis.label for axis in self._overs])
        self.figure.setAccessibleName("Figure")
        self.over.setAccessibleName("Over")
        self.progress = QProgressBar()
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.setAccessibleName("How much of the curve is computed")
        self.stop_button, close = button("Stop"), button("Close  Esc")
        self.stop_button.clicked.connect(self.stop)
        close.clicked.connect(self.reject)
        self.plots = {log: Plot("", "", "", log_x=log) for log in (True, False)}
        self.said = label("", "soft", wrap=True)
        head = QHBoxLayout()
        for widget in (label("Show", "soft"), self.figure, label("over", "soft"), self.over):
            head.addWidget(widget)
        head.addWidget(self.progress, 1)
        head.addWidget(self.stop_button)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(close)
        box = column(spacing=8, margins=(16, 14, 16, 14))
        box.addLayout(head)
        for plot in self.plots.values():
            box.addWidget(plot, 1)
        box.addLayout(foot)
        self.setLayout(box)
        for combo in (self.figure, self.over):
            combo.currentIndexChanged.connect(self.compute)
        self.compute()

    def compute(self, _index: int = 0) -> None:
        """Compute the curve anew; one that is under way is ended first."""
        self._session.jobs.cancel("curve")
        name, over = self._figures[self.figure.currentIndex()].name, self._overs[self.over.currentIndex()]
        self.stop_button.setEnabled(True)
        self.said.setText("")
        build, situation = self._build, self._situation

        def work(task: JobTask) -> Curve:
            return curve_of(build, situation, name, over, task.progress)

        self._session.jobs.ask(
            "curve",
            work,
            self._take,
            self._failed,
            long=True,
            progressed=lambda share: self.progress.setValue(round(1000 * share)),
        )

    def stop(self) -> None:
        """End what is under way; what was drawn before stays."""
        self._session.jobs.cancel("curve")
        self.stop_button.setEnabled(False)
        self.said.setText("Stopped. What was drawn before stays.")

    def _failed(self, error: Exception) -> None:
        self.stop_button.setEnabled(False)
        self.said.setText(f"{error}." if isinstance(error, PhysicsError) else words_of(error))

    def _take(self, answer: object) -> None:
        assert isinstance(answer, Curve)
        self.found = answer
        self.stop_button.setEnabled(False)
        over, figure = answer.over, answer.figure
        for log, plot in self.plots.items():
            plot.setVisible(log == over.log)
        plot = self.plots[over.log]
        known = np.isfinite(answer.value)
        if not known.any():
            plot.set_series([])
            self.said.setText("None of these can run: choose something else to vary.")
            return
        milli = over.unit == "F"
        plot.set_x(1e3 if milli else 1.0, over.label, over.unit)
        plot.set_title(f"{figure.label} over {over.label}")
        x, y, spread = answer.x[known], answer.value[known], 2.0 * answer.u[known]
        series = [
            Series(
                figure.label, x, y, role="pred", unit=figure.unit, label=figure.label, label_at="above", spread=spread
            )
        ]
        limit = limit_of(self._prediction, figure)
        low, high = float(np.min(y - spread)), float(np.max(y + spread))
        if limit is not None and limit[0] < 3.0 * max(abs(high), 1e-12):
            series.append(
                Series(
                    "limit",
                    x[[0, -1]],
                    np.full(2, limit[0]),
                    role="ink",
                    unit=figure.unit,
                    label=limit[1],
                    label_at="start",
                )
            )
            low, high = min(low, limit[0]), max(high, limit[0])
        plot.set_series(series)
        room = 0.15 * (high - low) + 1e-12
        plot.set_view((float(x[0]), float(x[-1])), (low - room, high + room))
        plot.aside.setText(f"predicted, {unit_sign(figure.unit)} over {unit_sign(over.unit)}, band 95 %")
        gone = int(np.count_nonzero(~known))
        now = f"Here it is {shown(figure.value, figure.unit)}."
        self.said.setText(f"{now} {gone} of {len(known)} points cannot run and are left out." if gone else now)

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._session.jobs.cancel("curve")
        super().done(answer)
