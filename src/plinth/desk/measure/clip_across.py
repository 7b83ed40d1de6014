"""What all clipping readings say together: what stands behind the rail, what fits them, watts over the source."""

from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.labels import button, column, label
from plinth.desk.look import look
from plinth.desk.plot import Plot
from plinth.session.procedure.clip_test import ClipProcedure


class ClipAcross(QWidget):
    """Hidden while there is no cell."""

    def __init__(self, procedure: ClipProcedure) -> None:
        super().__init__()
        self._procedure = procedure
        self.behind, self.fit = label("", "soft", wrap=True), label("", "soft", wrap=True)
        self.fit_button = button("Put it in the plan  Ctrl+Shift+T", tip="One step: Ctrl+Z takes it back")
        self.fit_button.clicked.connect(procedure.put_fit_in_plan)
        self.plot = Plot("Clip power over the source", "rail without load", "V")
        self.plot.aside.setText("W over V")
        self.plot.setMinimumHeight(look.px(170))
        fit = QHBoxLayout()
        fit.addWidget(self.fit, 1)
        fit.addWidget(self.fit_button)
        box = column(self.behind, spacing=8)
        box.addLayout(fit)
        box.addWidget(self.plot)
        self.setLayout(box)

    def show_all(self) -> None:
        """As the readings are now."""
        behind, curves = self._procedure.across_cells()
        self.behind.setText(behind)
        self.behind.setVisible(bool(behind))
        self.plot.setVisible(curves is not None)
        if curves is not None:
            self.plot.set_series(curves.curves)
            self.plot.set_view(*curves.extent())
        fit = self._procedure.output_fit()
        self.fit.setText("" if fit is None else fit.sentence)
        self.fit.setVisible(fit is not None)
        self.fit_button.setVisible(self._procedure.fitted_module is not None)
        self.show()
