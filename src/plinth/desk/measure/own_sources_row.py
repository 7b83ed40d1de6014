"""A row of the clipping test: further sources typed as a list, each a line of cells."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from plinth.bench.own_sources import sources_text
from plinth.desk.labels import button, column, label
from plinth.desk.session import BenchSession


class OwnSourcesRow(QWidget):
    """``taken`` once a list is kept: other sources stand from now on."""

    taken = Signal()

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._shown: tuple[object, ...] = ()
        self.field = QLineEdit()
        self.field.setAccessibleName("Further sources for clipping, in volts")
        self.field.returnPressed.connect(self.keep)
        self.keep_button = button("Add them  ⏎", tip="An empty list brings the usual ones back")
        self.keep_button.clicked.connect(self.keep)
        self.said = label("", "over", wrap=True)
        self.said.hide()
        row = QHBoxLayout()
        row.addWidget(label("Further sources", "soft"))
        row.addWidget(self.field, 1)
        row.addWidget(self.keep_button)
        box = column(spacing=4)
        box.addLayout(row)
        box.addWidget(self.said)
        self.setLayout(box)

    def hold(self, held: bool) -> None:
        """While readings are held the list takes no focus by itself: no reading is to be typed into it."""
        self.field.setFocusPolicy(Qt.FocusPolicy.ClickFocus if held else Qt.FocusPolicy.StrongFocus)

    def show_sources(self) -> None:
        """Those of the current build; what somebody is typing stays while they are the same."""
        volts, build = self._session.own_sources.volts, self._session.build
        of = "mains" if build.mains is not None else "the battery" if build.supply.battery is not None else "each rail"
        self.field.setPlaceholderText(f"{_example(build.supply.rough_rail_v, of)} V")
        self.field.setToolTip(f"Volts of {of}, as many as you like: each is a line of its own")
        shown = (self._session.stored.id, volts)
        if shown != self._shown:
            self._shown = shown
            self.field.setText(sources_text(volts))
            self.said.hide()

    def keep(self) -> None:
        """Keep the list; a list that is none stays typed, with a sentence."""
        sentence = self._session.own_sources.take(self.field.text())
        self.said.setText(sentence)
        self.said.setVisible(bool(sentence))
        if not sentence:
            self.show_sources()
            self.taken.emit()


def _example(rail_v: float, of: str) -> str:
    if of == "mains":
        return "195 210 250"
    return " ".join(f"{share * rail_v:.0f}" for share in (0.5, 0.7, 0.9))
