"""The graph of a sheet, drawn by a plot that is made when there is first something to draw."""

from PySide6.QtWidgets import QWidget

from plinth.bench.sheet import Graph
from plinth.desk.labels import column
from plinth.desk.look import look
from plinth.desk.plot import Plot


class GraphPlot(QWidget):
    """Hidden while there is nothing to draw."""

    def __init__(self) -> None:
        super().__init__()
        self.plot: Plot | None = None
        self._box = column()
        self.setLayout(self._box)
        self.hide()

    def show_graph(self, graph: Graph | None) -> None:
        """Draw this graph; None: nothing."""
        self.setVisible(graph is not None)
        if graph is None:
            return
        if self.plot is None:
            self.plot = Plot(graph.title, graph.x_name, graph.x_unit, log_x=graph.log_x, x_scale=graph.x_scale)
            self.plot.setMinimumHeight(look.px(170))
            self._box.addWidget(self.plot)
        self.plot.set_title(graph.title)
        self.plot.set_series(graph.curves)
        self.plot.set_view(*graph.extent())
        self.plot.aside.setText(graph.heights)
