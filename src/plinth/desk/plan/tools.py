"""What can be asked of the build as a whole, quiet words grouped by the question: choose, see, judge, buy, change."""

from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QSizePolicy, QWidget

from plinth.desk.labels import button, label
from plinth.desk.look import look

IN_A_ROW, IN_A_ROW_LARGE = 3, 2


class PlanTools(QWidget):
    """The words, each a button; whoever owns them connects them. ``shelf`` is that of the current station."""

    def __init__(self, shelf: QPushButton) -> None:
        super().__init__()
        self.find_me = button("Find me", "row", tip="What of the shelf meets a requirement (Ctrl+F)")
        self.variants = button("Variants", "row", tip="Beside each other, differences first (Ctrl+Shift+D)")
        self.wiring = button("Wiring", "row", tip="How it is wired, and what flows in each wire (Ctrl+W)")
        self.claims = button("Claims", "row", tip="What its listings claim, judged three ways (Ctrl+Shift+J)")
        self.bill = button("Bill", "row", tip="What it costs, and what it waits for (Ctrl+Shift+G)")
        self.makeup = button("Made of", "row", tip="Its name, channels, wiring, supply (Ctrl+Shift+M)")
        self.curve = button("Curve", "row", tip="Any figure over anything that can be varied (Ctrl+R)")
        self.map = button("Map", "row", tip="Clip power, or any figure, over two choices at once (Ctrl+M)")
        self.change = button("Part", "row", tip="Type what is stated of a part of this station (Ctrl+T)")
        self._groups: tuple[tuple[QLabel, tuple[QPushButton | QLabel, ...]], ...] = (
            (label("choose", "small"), (shelf, self.find_me, self.variants)),
            (label("see", "small"), (self.curve, self.map, self.wiring)),
            (label("judge", "small"), (self.claims, label("  buy", "small"), self.bill)),
            (label("change", "small"), (self.change, self.makeup)),
        )
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(2)
        self._grid.setVerticalSpacing(0)
        for _, tools in self._groups:
            for tool in (each for each in tools if isinstance(each, QPushButton)):
                tool.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.lay_out)
        self.lay_out()

    def lay_out(self) -> None:
        """A row for each question; two where the text is large."""
        columns = IN_A_ROW if look.scale <= 1.2 else IN_A_ROW_LARGE
        row = 0
        for question, tools in self._groups:
            self._grid.addWidget(question, row, 0)
            for k, tool in enumerate(tools):
                self._grid.addWidget(tool, row + k // columns, 1 + k % columns)
            row += 1 + (len(tools) - 1) // columns
        for column in range(1, IN_A_ROW + 1):
            self._grid.setColumnStretch(column, 1 if column <= columns else 0)
