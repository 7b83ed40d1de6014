"""What stands below the question of a sheet: what is asked and read, beside its plot and what follows from it."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QBoxLayout, QFrame, QScrollArea, QWidget

from plinth.desk.labels import column
from plinth.desk.look import look
from plinth.desk.measure.asked_table import AskedTable
from plinth.desk.measure.graph_plot import GraphPlot
from plinth.desk.measure.outcome_list import OutcomeList


class SheetBody(QWidget):
    """``table`` of what is asked, ``graph``, ``outcomes``; at large text below each other."""

    def __init__(self) -> None:
        super().__init__()
        self.table, self.graph, self.outcomes = AskedTable(), GraphPlot(), OutcomeList()
        side = column(self.graph, spacing=8)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self.outcomes)
        area.setAccessibleName("What the readings say")
        side.setStretch(0, 1)
        side.addWidget(area, 1)
        self._both = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._both.setContentsMargins(0, 0, 0, 0)
        self._both.setSpacing(14)
        self._both.addWidget(self.table, 5)
        self._both.addLayout(side, 4)

    def fit(self) -> None:
        """Follow the size of the text: at large text there is no room for both beside each other."""
        large = look.scale >= 1.3
        self.table.setMinimumHeight(look.px(230))
        self._both.setDirection(QBoxLayout.Direction.TopToBottom if large else QBoxLayout.Direction.LeftToRight)
        self.outcomes.setMinimumHeight(look.px(200) if large else 0)
