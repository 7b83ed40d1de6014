"""A new build from a requirement: watts into ohms, channels, supply, mains. Four answers; for most Enter is enough.

A module or a supply that one has can be named in place of the watts and of the kind of supply.
"""

import dataclasses
from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QCompleter, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.build import Build
from plinth.builds.makeup import read_channels
from plinth.builds.modules import MODULE_KINDS
from plinth.desk.dialog import Dialog
from plinth.desk.habits import usual_mains
from plinth.desk.labels import answer_row, button, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.physics.numbers.errors import PhysicsError
from plinth.session.runner import words_of
from plinth.shelf.from_zero import from_zero
from plinth.shelf.requirement import (
    MAINS,
    SOURCES,
    SUPPLY_KINDS,
    Requirement,
    SourcePart,
    Spoken,
    SupplyKind,
    read_requirement,
)
from plinth.shelf.spoken_build import build_of, read_spoken
from plinth.units.errors import QuantityError

SUPPLY_WORDS = {
    "transformer": "transformer and rectifier", "switcher": "mains switcher", "battery": "battery and converter",
    "bench": "bench supplies",
}  # fmt: skip


class RequirementDialog(Dialog):
    """A requirement in a few fields. It stays open with what was typed until the build is made and kept."""

    grows = True

    def __init__(self, parent: QWidget, session: BenchSession, *, from_parts: bool = False) -> None:
        super().__init__(parent)
        self._session, self._from_parts = session, from_parts
        self.setWindowTitle("New build")
        self.requirement, self.channels = QLineEdit(), QLineEdit("left, right")
        self.supply, self.mains = QComboBox(), QComboBox()
        parts = "2x18 160VA, 2 chips 50W 8R, 10m"
        self.requirement.setPlaceholderText(parts if from_parts else f"60 W 4R, or {parts}")
        self.requirement.setMinimumWidth(look.px(430))
        self._modules = [item.part for item in session.shelf.items(MODULE_KINDS) if isinstance(item.part, MODULE_KINDS)]
        names = QCompleter([part.name for part in self._modules], self)
        names.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        names.setFilterMode(Qt.MatchFlag.MatchContains)
        self.requirement.setCompleter(names)
        for kind in SUPPLY_KINDS:
            self.supply.addItem(SUPPLY_WORDS[kind], kind)
        self.supply.insertSeparator(self.supply.count())
        for item in session.shelf.items(tuple(SOURCES)):
            if not item.stock.hidden:
                self.supply.addItem(item.part.name, item.part)
        self.mains.addItems([f"{volts:g} V, {hertz:g} Hz" for volts, hertz in MAINS])
        self.mains.setCurrentIndex(MAINS.index(usual_mains()))
        self.said, self.understood = label("", "over", wrap=True), label("", "soft", wrap=True)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("What you have" if from_parts else "How much into what, or what you have", self.requirement),
            ("Channels, with commas between", self.channels),
            ("Fed by", self.supply), ("The mains is", self.mains),
        )  # fmt: skip
        grid = QGridLayout()
        for row, (words, field) in enumerate(rows):
            field.setAccessibleName(words)
            grid.addWidget(label(words), row, 0)
            grid.addWidget(field, row, 1)
        for line in (self.requirement, self.channels):
            line.returnPressed.connect(self.take)
        self.supply.currentIndexChanged.connect(self._mains_matters)
        self.requirement.textChanged.connect(self._say_understood)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("A build from what you have" if from_parts else "A build from a requirement", "title"))
        box.addWidget(
            label(
                "Parts of usual values are put together until they give this, or around the parts that you have. What "
                "you do not say is marked as assumed; exchange it for your own along the shelf.",
                "soft",
                wrap=True,
            )
        )  # fmt: skip
        box.addLayout(grid)
        box.addWidget(self.understood)
        box.addWidget(self.said)
        self.same_button = button("The parts of this build, under another name …", "flat")
        self.same = False
        self.same_button.clicked.connect(self._same_parts)
        box.addLayout(answer_row(self, "Make it", self.take))
        box.addWidget(self.same_button)
        self.requirement.setFocus()

    def _mains_matters(self) -> None:
        self.mains.setEnabled(self._fed_by[0] in ("transformer", "switcher"))

    @property
    def _fed_by(self) -> tuple[SupplyKind, SourcePart | None]:
        """The kind of supply, and the very one where one of the shelf was chosen."""
        chosen: SupplyKind | SourcePart = self.supply.currentData()
        return (chosen, None) if isinstance(chosen, str) else (SOURCES[type(chosen)], chosen)

    def _same_parts(self) -> None:
        self.same = True
        self.reject()

    def _say_understood(self, text: str) -> None:
        self.said.setText("")
        try:
            spoken = None if self._is_requirement(text) or not text.strip() else read_spoken(text, self._modules)
        except QuantityError:
            # Half of it is typed: what is wrong with it is said when it is to be made.
            spoken = None
        self.understood.setText("" if spoken is None else f"Understood: {spoken.words}. The rest is assumed.")

    def _is_requirement(self, text: str) -> bool:
        try:
            read_requirement(text, self._modules)
        except QuantityError:
            return False
        return True

    @property
    def asked(self) -> Callable[[], Build]:
        """What makes the build that was typed, on whichever thread. Raises QuantityError."""
        text, channels = self.requirement.text().strip(), read_channels(self.channels.text())
        if not text and not self._from_parts:
            text = "60 W 4R"
        if self._is_requirement(text):
            requirement = self._requirement(read_requirement(text, self._modules), channels)
            return lambda: from_zero(requirement)
        spoken, (kind, source) = read_spoken(text, self._modules), self._fed_by
        if source is not None:
            if spoken.source is not None:
                raise QuantityError(f"found {spoken.source.name} and {source.name}, expected one supply")
            spoken = dataclasses.replace(spoken, source=source)
        mains_v = MAINS[self.mains.currentIndex()][0]
        return lambda: build_of(spoken, channels, mains_v, kind)

    def _requirement(self, spoken: Spoken, channels: tuple[str, ...]) -> Requirement:
        kind, source = self._fed_by
        return Requirement(
            spoken.power_w or 0.0,
            spoken.r_ohm,
            channels,
            supply=kind,
            stage=spoken.stage or "AB",
            mains_v=MAINS[self.mains.currentIndex()][0],
            module=spoken.module,
            source=source,
        )

    def take(self) -> None:
        """Make the build, off this thread; or say what is wrong."""
        try:
            make = self.asked
        except QuantityError as error:
            self.said.setText(f"{str(error)[0].upper()}{str(error)[1:]}.")
            return
        self.said.setText("Putting parts together …")
        self._session.jobs.ask("requirement", lambda _task: make(), self._made, self._failed, long=True)

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
        self._session.jobs.cancel("requirement")
        super().done(answer)
