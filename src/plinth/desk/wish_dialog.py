"""A new build from a wish: watts into ohms, channels, supply, mains. Four answers; for most Enter is enough."""

from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.build import Build
from plinth.builds.makeup import read_channels
from plinth.desk.labels import answer_row, button, label
from plinth.desk.session import BenchSession
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.runner import words_of
from plinth.shelf.from_zero import MAINS, SUPPLY_KINDS, Wish, from_zero, read_wish
from plinth.units.errors import QuantityError

SUPPLY_WORDS = {
    "transformer": "transformer and rectifier", "switcher": "mains switcher", "battery": "battery and converter",
    "bench": "bench supplies",
}  # fmt: skip


class WishDialog(QDialog):
    """See the module. It stays open with what was typed until the build is made and kept."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("New build")
        self.wish, self.channels = QLineEdit(), QLineEdit("left, right")
        self.supply, self.mains = QComboBox(), QComboBox()
        self.wish.setPlaceholderText("60 W 4R")
        self.wish.setMinimumWidth(320)
        self.supply.addItems([SUPPLY_WORDS[kind] for kind in SUPPLY_KINDS])
        self.mains.addItems([f"{volts:g} V, {hertz:g} Hz" for volts, hertz in MAINS])
        self.said = label("", "over", wrap=True)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("How much into what, each channel", self.wish), ("Channels, with commas between", self.channels),
            ("Fed by", self.supply), ("The mains is", self.mains),
        )  # fmt: skip
        grid = QGridLayout()
        for row, (words, field) in enumerate(rows):
            field.setAccessibleName(words)
            grid.addWidget(label(words), row, 0)
            grid.addWidget(field, row, 1)
        for line in (self.wish, self.channels):
            line.returnPressed.connect(self.take)
        self.supply.currentIndexChanged.connect(self._mains_matters)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("A build from a wish", "title"))
        box.addWidget(
            label(
                "Parts of usual values are put together until they give this. Every value is marked as assumed; "
                "exchange them for your own along the shelf.",
                "soft",
                wrap=True,
            )
        )  # fmt: skip
        box.addLayout(grid)
        box.addWidget(self.said)
        self.same_button = button("The parts of this build, under another name …", "flat")
        self.same = False
        self.same_button.clicked.connect(self._same_parts)
        box.addLayout(answer_row(self, "Make it", self.take))
        box.addWidget(self.same_button)
        self.wish.setFocus()

    def _mains_matters(self) -> None:
        self.mains.setEnabled(SUPPLY_KINDS[self.supply.currentIndex()] in ("transformer", "switcher"))

    def _same_parts(self) -> None:
        self.same = True
        self.reject()

    @property
    def asked(self) -> Wish:
        """The wish as typed. Raises QuantityError."""
        power, ohm, stage = read_wish(self.wish.text() or self.wish.placeholderText())
        return Wish(
            power, ohm, read_channels(self.channels.text()), SUPPLY_KINDS[self.supply.currentIndex()], stage or "AB",
            MAINS[self.mains.currentIndex()][0],
        )  # fmt: skip

    def take(self) -> None:
        """Make the build, off this thread; or say what is wrong."""
        try:
            wish = self.asked
        except QuantityError as error:
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self.said.setText("Putting parts together …")
        self._session.jobs.ask("wish", lambda _task: from_zero(wish), self._made, self._failed)

    def _made(self, found: object) -> None:
        assert isinstance(found, Build)
        if self._session.add_new(found):
            self.accept()
        else:
            self.said.setText("It could not be kept: see the window.")

    def _failed(self, error: Exception) -> None:
        self.said.setText(f"{error}." if isinstance(error, PhysicsError) else words_of(error))

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._session.jobs.cancel("wish")
        super().done(answer)
