"""The cells of the clipping test: sources down, loads across; one of them is current."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QWidget

from plinth.bench.clip_cell import ClipCell
from plinth.desk.labels import clear, column, label, on_chosen
from plinth.desk.measure.cell_view import CellView
from plinth.units.shown import shown


class ClipMatrix(QWidget):
    """``chosen`` the place of a cell. Cells of who plays now are in sight, the others wait."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.views: list[CellView] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(4)

    def lay_out(self, cells: Sequence[ClipCell], driven: str) -> None:
        """Lay the cells of ``driven`` out anew, keeping views of cells that stay."""
        self.views = self.views[: len(cells)] if self._kept(cells) else []
        while self._grid.count():
            self._grid.takeAt(0)
        for old in self.findChildren(QWidget):
            if old.parent() is self and old not in self.views:
                old.hide()
                old.deleteLater()
        loads = list(dict.fromkeys(cell.load.identity for cell in cells))
        sources = _sources(cells)
        for c, identity in enumerate(loads):
            load = next(cell.load for cell in cells if cell.load.identity == identity)
            self._grid.addWidget(label(f"{load.r_ohm:g} Ω  {load.name}", "name"), 0, c + 1)
            self._grid.setColumnStretch(c + 1, 1)
        for r, (source, rail) in enumerate(sources):
            head = QWidget()
            box = column(label(source, "name", wrap=True), label(rail, "small", wrap=True), spacing=0)
            box.addStretch()
            head.setLayout(box)
            self._grid.addWidget(head, r + 1, 0)
        names = [source for source, _ in sources]
        for place, cell in enumerate(cells):
            if place == len(self.views):
                view = CellView()
                # Shown without a parent it would be a window of its own.
                view.setParent(self)
                on_chosen(view, self._chooser(place))
                self.views.append(view)
            view = self.views[place]
            view.setVisible(cell.driven == driven)
            if cell.driven == driven:
                self._grid.addWidget(view, names.index(cell.source) + 1, loads.index(cell.load.identity) + 1)

    def _kept(self, cells: Sequence[ClipCell]) -> bool:
        return len(self.views) <= len(cells)

    def _chooser(self, place: int) -> Callable[[], None]:
        return lambda: self.chosen.emit(place)

    def empty(self) -> None:
        """No cells."""
        self.views = []
        clear(self._grid)


def _sources(cells: Sequence[ClipCell]) -> list[tuple[str, str]]:
    """The sources, lowest first, with what their rails are at the clip onset into the heaviest load."""
    by_source: dict[str, ClipCell] = {}
    for cell in cells:
        if cell.source not in by_source or cell.load.r_ohm < by_source[cell.source].load.r_ohm:
            by_source[cell.source] = cell
    ordered = sorted(by_source.values(), key=lambda cell: cell.prediction["rail_no_load_v"].value)
    single = bool(cells) and cells[0].prediction.build.supply.single_rail
    sign = "" if single else "±"
    return [
        (cell.source, f"{sign}{shown(cell.prediction['rail_plus_mean_v'].value, 'V')} at clip, {cell.load.r_ohm:g} Ω")
        for cell in ordered
    ]
