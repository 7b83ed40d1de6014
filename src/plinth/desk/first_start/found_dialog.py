"""An amplifier that somebody else built, from what can be read on it: a few fields, all but one may stay empty."""

from collections.abc import Callable

from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.build import Build
from plinth.builds.makeup import read_channels
from plinth.builds.taken_in import TakenIn
from plinth.desk.dialog import Dialog
from plinth.desk.habits import usual_mains
from plinth.desk.labels import answer_row, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.runner import words_of
from plinth.shelf.found_amplifier import USUAL_NAME, found_build, read_found, read_year
from plinth.shelf.requirement import MAINS
from plinth.units.errors import QuantityError


class FoundDialog(Dialog):
    """It stays open with what was typed until the build is made and kept."""

    grows = True

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("An amplifier taken in")
        self.read, self.complaint, self.year = QLineEdit(), QLineEdit(), QLineEdit()
        self.name, self.channels, self.mains = QLineEdit(), QLineEdit("left, right"), QComboBox()
        self.mains.addItems([f"{volts:g} V, {hertz:g} Hz" for volts, hertz in MAINS])
        self.mains.setCurrentIndex(MAINS.index(usual_mains()))
        self.read.setPlaceholderText("2x30 225VA, 2x10m 50V, rails 42 V, 60 W 8R")
        self.read.setMinimumWidth(look.px(430))
        self.complaint.setPlaceholderText("left is silent, hums")
        self.complaint.setMaxLength(400)
        self.year.setPlaceholderText("on a can, a chip or the plate; empty where nothing tells")
        self.name.setPlaceholderText(USUAL_NAME)
        self.name.setMaxLength(120)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("What can be read on it", self.read), ("What is wrong, as far as anybody says", self.complaint),
            ("Made in", self.year), ("What you call it", self.name), ("Channels, with commas between", self.channels),
            ("The mains is", self.mains),
        )  # fmt: skip
        grid = QGridLayout()
        for row, (words, field) in enumerate(rows):
            field.setAccessibleName(words)
            grid.addWidget(label(f"{words} *" if field is self.read else words), row, 0)
            grid.addWidget(field, row, 1)
            if isinstance(field, QLineEdit):
                field.returnPressed.connect(self.take)
        self.understood, self.said = label("", "soft", wrap=True), label("", "over", wrap=True)
        self.read.textChanged.connect(self._say_understood)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("An amplifier that somebody else built", "title"))
        box.addWidget(
            label(
                "Plug out before the lid comes off, and a meter on the cans before a finger: they may hold their "
                "charge for days. Type whatever is marked: transformer, cans, volts on the board, watts on the "
                "back. What nobody can read is assumed, and marked so.",
                "caution",
                wrap=True,
            )
        )  # fmt: skip
        box.addLayout(grid)
        box.addWidget(self.understood)
        box.addWidget(self.said)
        box.addWidget(label("* required; the rest may stay empty", "small"))
        box.addLayout(answer_row(self, "Take it in", self.take))
        self.read.setFocus()

    def _say_understood(self, text: str) -> None:
        self.said.setText("")
        try:
            found = read_found(text) if text.strip() else None
        except QuantityError:
            # Half of it is typed: what is wrong with it is said when it is to be made.
            found = None
        self.understood.setText("" if found is None else f"Understood: {found.words}. The rest is assumed.")

    @property
    def asked(self) -> Callable[[], Build]:
        """What makes the build that was typed, on whichever thread. Raises QuantityError."""
        found, channels = read_found(self.read.text()), read_channels(self.channels.text())
        taken_in = TakenIn(
            complaint=" ".join(self.complaint.text().split()),
            year=read_year(self.year.text(), self._session.now().year),
        )
        name, mains_v = self.name.text(), MAINS[self.mains.currentIndex()][0]
        return lambda: found_build(found, taken_in, name=name, channels=channels, mains_v=mains_v)

    def take(self) -> None:
        """Make the build, off this thread; or say what is wrong."""
        try:
            make = self.asked
        except QuantityError as error:
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self.said.setText("Putting it together …")
        self._session.jobs.ask("found", lambda _task: make(), self._made, self._failed, long=True)

    def _made(self, answer: object) -> None:
        assert isinstance(answer, Build)
        if self._session.plan.add_new(answer):
            self.accept()
        else:
            self.said.setText("It could not be kept: see the window.")

    def _failed(self, error: Exception) -> None:
        words = f"{error}." if isinstance(error, PhysicsError | QuantityError) else words_of(error)
        self.said.setText(f"{words[:1].upper()}{words[1:]}")

    def done(self, answer: int) -> None:
        """Close, in whichever way; what is under way ends."""
        self._session.jobs.cancel("found")
        super().done(answer)
