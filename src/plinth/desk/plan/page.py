"""The Plan page: what if and shelf at the left, plots in the middle, margins at the right."""

import numpy as np
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.labels import column, label
from plinth.desk.look import look
from plinth.desk.origin import OriginDialog
from plinth.desk.plan.ledger import Ledger
from plinth.desk.plan.load_powers import LoadPowers
from plinth.desk.plan.shelf import Shelf
from plinth.desk.plan.what_if import WhatIf
from plinth.desk.plot import Plot, Series
from plinth.desk.session import BenchSession
from plinth.desk.side_area import SideArea
from plinth.predict.solve import Prediction
from plinth.units.shown import shown

SHOWN_S = 0.020


class PlanPage(QWidget):
    """See the module."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("page")
        self._session = session
        self.what_if, self.shelf, self.ledger = WhatIf(session), Shelf(session), Ledger(session)
        self.load_powers = LoadPowers(session)
        self.rails_plot = Plot("Rails and output", "t", "s", x_scale=1e3)
        self.mains_plot = Plot("Current from the wall", "t", "s", x_scale=1e3)
        self.problem = label("", "problem", wrap=True)
        left_inner = QWidget()
        left_box = column(self.what_if, self.shelf, spacing=14, margins=(0, 0, 8, 0))
        left_box.addStretch()
        left_inner.setLayout(left_box)
        self.left = SideArea(left_inner)
        middle = column(self.problem, spacing=8)
        middle.addWidget(self.rails_plot, 3)
        middle.addWidget(self.mains_plot, 2)
        middle.addWidget(self.load_powers)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 12, 18, 12)
        box.setSpacing(24)
        box.addWidget(self.left, 0)
        box.addLayout(middle, 1)
        box.addWidget(self.ledger, 0)
        self.ledger.asked.connect(self.show_origin)
        session.predicted.connect(self.refresh)
        look.changed.connect(self._fit)
        self._fit()
        self.refresh()

    def _fit(self) -> None:
        # At large text the outer columns give way before the plots become useless.
        self.left.setFixedWidth(look.column(288))
        self.ledger.setFixedWidth(look.column(372))
        self.mains_plot.setVisible(look.scale < 1.4)
        self.refresh()

    def refresh(self) -> None:
        """Draw the prediction in hand."""
        prediction = self._session.prediction
        self.problem.setText(self._session.problem)
        self.problem.setVisible(bool(self._session.problem))
        if prediction is None:
            self.rails_plot.set_series([])
            self.mains_plot.set_series([])
            self.rails_plot.aside.setText("")
            self.mains_plot.aside.setText("")
            return
        self._draw(prediction)

    def _draw(self, prediction: Prediction) -> None:
        state = prediction.state
        period_s = state.period.shared.seconds
        repeats = max(1, round(SHOWN_S / period_s))
        n = state.period.steps
        t = np.linspace(0.0, repeats * period_s, repeats * n + 1)

        def repeated(samples: np.ndarray) -> np.ndarray:
            return np.append(np.tile(samples[:-1], repeats), samples[-1])

        # Some thousand points are all that the picture can show.
        keep = slice(None, None, max(1, len(t) // 4000))
        plus, minus = repeated(state.plus.v_node)[keep], -repeated(state.minus.v_node)[keep]
        top = float(np.max(prediction.points.no_load.v_node)) * 1.27
        self.rails_plot.set_series(
            [
                Series("output", t[keep], repeated(state.v_output)[keep], "ink", "V", "output", "start"),
                Series("+ rail", t[keep], plus, "plus", "V", "+ rail", "above", prediction["rail_plus_mean_v"].spread),
                Series(
                    "− rail", t[keep], minus, "minus", "V", "− rail", "below", prediction["rail_minus_mean_v"].spread
                ),
            ]
        )
        self.rails_plot.set_view((0.0, float(t[-1])), (-_rounded(top), _rounded(top)))
        self.rails_plot.aside.setText("predicted, V over ms, band 95 %")
        # The mains current repeats mirrored where the period is an odd number of half cycles.
        sign = -1.0 if state.period.shared.half_cycles % 2 else 1.0
        turns = [prediction.mains_current_a[:-1] * sign**k for k in range(repeats)]
        current = np.append(np.concatenate(turns), prediction.mains_current_a[-1] * sign ** (repeats - 1))[keep]
        peak = prediction["primary_peak_a"]
        self.mains_plot.set_series([Series("current", t[keep], current, "ink2", "A")])
        self.mains_plot.set_view((0.0, float(t[-1])), (-_rounded(1.15 * peak.value), _rounded(1.15 * peak.value)))
        self.mains_plot.aside.setText(
            f"{shown(prediction['primary_rms_a'].value, 'A')} rms · peak {shown(peak.value, 'A')} · "
            f"PF {prediction['power_factor'].value:.2f} · A over ms"
        )

    def show_origin(self, name: str) -> None:
        """Where the figure of that name comes from."""
        if self._session.prediction is None:
            return
        figures = dict(self._session.prediction.figures)
        chosen = name if name in figures else "clip_power_w"
        OriginDialog(self.window(), figures, chosen).exec()


def _rounded(value: float) -> float:
    """Up to the next step that keeps the axis still while values move a little."""
    step = 5.0 if value > 12 else 1.0 if value > 1.5 else 0.25
    return float(np.ceil(value / step) * step)
