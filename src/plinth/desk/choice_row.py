"""A row of buttons of which one is down; a list to pick from where a row would not fit: large text, many choices."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QComboBox, QHBoxLayout, QPushButton, QWidget

from plinth.desk.labels import button, check, label, on_chosen, put_away
from plinth.desk.look import look


class ChoiceRow(QWidget):
    """``title`` before the buttons; ``chosen`` carries the name of the one pressed. Hidden while fewer than two.

    Names of more than ``letters`` together stand in a list at any size of text.
    """

    chosen = Signal(str)

    def __init__(self, title: str, tip: str, letters: int = 120) -> None:
        super().__init__()
        self._title, self._tip, self._letters = title, tip, letters
        self._names: tuple[str, ...] = ()
        self._group = QButtonGroup(self)
        self._row, self.list = QWidget(), QComboBox()
        self.list.setAccessibleName(title)
        self.list.activated.connect(lambda at: self.chosen.emit(self._names[at]))
        self._row_box = QHBoxLayout(self._row)
        self._row_box.setContentsMargins(0, 0, 0, 0)
        self._row_box.setSpacing(2)
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(4)
        for widget in (label(title, "soft"), self._row, self.list):
            box.addWidget(widget)
        box.addStretch()
        look.changed.connect(self._fit)
        self._fit()

    def _fit(self) -> None:
        listed = look.scale >= 1.4 or sum(map(len, self._names)) > self._letters
        self._row.setVisible(not listed)
        self.list.setVisible(listed)

    def set_choices(self, names: tuple[str, ...], down: str) -> None:
        """Offer ``names``, the one called ``down`` pressed."""
        if names != self._names:
            self._names = names
            self.list.clear()
            self.list.addItems(list(names))
            for push in self.buttons:
                self._group.removeButton(push)
                put_away(push)
            for name in names:
                push = button(name, "row", tip=f"{self._tip}: {name}")
                push.setCheckable(True)
                push.setAccessibleName(f"{self._title} {name}")
                on_chosen(push, partial(self._choose, name))
                self._group.addButton(push)
                self._row_box.addWidget(push)
            self._fit()
        for push, name in zip(self.buttons, names, strict=True):
            check(push, name == down)
        if down in names:
            self.list.setCurrentIndex(names.index(down))
        self.setVisible(len(names) > 1)

    def _choose(self, name: str) -> None:
        self.chosen.emit(name)

    @property
    def buttons(self) -> list[QPushButton]:
        """One for each choice."""
        return [push for push in self._group.buttons() if isinstance(push, QPushButton)]
