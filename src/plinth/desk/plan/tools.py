"""What can be asked of the build as a whole, quiet words grouped by the question: choose, see, judge, buy, change."""

from PySide6.QtWidgets import QGridLayout, QPushButton, QSizePolicy, QWidget

from plinth.desk.labels import button, label
from plinth.desk.look import look


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
        self.small = button("Small parts", "row", tip="Op-amps, resistors, bare boards, kits (Ctrl+Alt+P)")
        self.curve = button("Curve", "row", tip="Any figure over anything that can be varied (Ctrl+R)")
        self.map = button("Map", "row", tip="Clip power, or any figure, over two choices at once (Ctrl+M)")
        self.change = button("Part", "row", tip="Type what is stated of a part of this station (Ctrl+T)")
        choose, see, judge, buy, change = (
            label(words, "small") for words in ("choose", "see", "judge", "buy", "change")
        )
        # Rows of four places; where the text is large, of three.
        self._rows: tuple[tuple[QWidget | None, ...], ...] = (
            (choose, shelf, self.find_me, self.variants), (see, self.curve, self.map, self.wiring),
            (judge, self.claims, buy, self.bill), (change, self.change, self.makeup, self.small),
        )  # fmt: skip
        self._rows_large: tuple[tuple[QWidget | None, ...], ...] = (
            (choose, shelf, self.find_me), (None, self.variants), (see, self.curve, self.map), (None, self.wiring),
            (judge, self.claims), (buy, self.bill), (change, self.change, self.makeup), (None, self.small),
        )  # fmt: skip
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(2)
        self._grid.setVerticalSpacing(0)
        for tool in (each for row in self._rows for each in row if isinstance(each, QPushButton)):
            tool.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.lay_out)
        self.lay_out()

    def lay_out(self) -> None:
        """A row for each question; two where the text is large."""
        rows = self._rows if look.scale <= 1.2 else self._rows_large
        places = max(map(len, rows))
        for k, row in enumerate(rows):
            for place, widget in enumerate(row):
                if widget is not None:
                    # The last of a short row has the rest of it.
                    self._grid.addWidget(widget, k, place, 1, places - place if place == len(row) - 1 else 1)
        for place in (1, 2, 3):
            # The last one has the longest word.
            self._grid.setColumnStretch(place, (4 if place < 3 else 5) if place < places else 0)
