"""Which of several supplies band and plots show, where a build has more than one."""

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QWidget

from plinth.desk.labels import button, label
from plinth.desk.session import BenchSession


class SupplyChoice(QWidget):
    """A row of buttons; hidden while there is only one supply."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._box = QHBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._box.setSpacing(4)
        self._box.addWidget(label("Supply", "soft"))
        self._group = QButtonGroup(self)
        self._box.addStretch()
        self._names: tuple[str, ...] = ()
        session.predicted.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the supplies of the build in hand."""
        names = tuple(view.name for view in self._session.supplies)
        shown = self._session.supply_shown
        if names != self._names:
            self._names = names
            for one in self._group.buttons():
                self._group.removeButton(one)
                one.setParent(None)
                one.deleteLater()
            for name in names:
                one = button(name, "row", tip=f"Band and plots show the supply: {name}")
                one.setCheckable(True)
                one.setAccessibleName(f"Supply {name}")
                one.clicked.connect(lambda _checked=False, name=name: self._session.choose_supply(name))
                self._group.addButton(one)
                self._box.insertWidget(self._box.count() - 1, one)
        for one, name in zip(self._group.buttons(), names, strict=True):
            one.setChecked(shown is not None and name == shown.name)
        self.setVisible(len(names) > 1)

    @property
    def buttons(self) -> list[QWidget]:
        """One for each supply."""
        return list(self._group.buttons())
