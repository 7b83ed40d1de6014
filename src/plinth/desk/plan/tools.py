"""What can be asked of the build as a whole, a button each: find me, variants, wiring, claims, curves, maps, bill."""

from PySide6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from plinth.desk.labels import button
from plinth.desk.look import look

COLUMNS, COLUMNS_LARGE = 3, 2


class PlanTools(QWidget):
    """The buttons; whoever owns them connects them."""

    def __init__(self) -> None:
        super().__init__()
        self.find_me = button("Find me …", "row", tip="What of the shelf meets a requirement (Ctrl+F)")
        self.variants = button("Variants …", "row", tip="Beside each other, differences first (Ctrl+Shift+D)")
        self.wiring = button("Wiring …", "row", tip="How it is wired, and what flows in each wire (Ctrl+W)")
        self.claims = button("Claims …", "row", tip="What its listings claim, judged three ways (Ctrl+Shift+J)")
        self.bill = button("Bill …", "row", tip="What it costs, and what it waits for (Ctrl+Shift+G)")
        self.makeup = button("Made of …", "row", tip="Name, channels, wiring, supply (Ctrl+Shift+M)")
        self.curve = button("Curve …", "row", tip="Any figure over anything that can be varied (Ctrl+R)")
        self.map = button("Map …", "row", tip="Clip power, or any figure, over two choices at once (Ctrl+M)")
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(2)
        self._grid.setVerticalSpacing(0)
        for tool in self.every:
            tool.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        look.changed.connect(self.lay_out)
        self.lay_out()

    @property
    def every(self) -> tuple[QWidget, ...]:
        """All buttons in their order."""
        return (
            self.find_me, self.variants, self.wiring, self.claims, self.curve, self.map, self.bill, self.makeup,
        )  # fmt: skip

    def lay_out(self) -> None:
        """As many in a row as the text leaves room for."""
        columns = COLUMNS_LARGE if look.scale > 1.2 else COLUMNS
        for k, tool in enumerate(self.every):
            self._grid.addWidget(tool, k // columns, k % columns)
