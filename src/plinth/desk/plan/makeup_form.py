"""How this build is made: name, channels, wiring, supply and modules, asked all at once, as some go only together."""

from collections.abc import Callable, Sequence
from typing import TypeVar

from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from plinth.builds.makeup import Makeup, SourcePart, makeup_of, read_channels
from plinth.builds.modules import MODULE_KINDS
from plinth.builds.short_words import short_words
from plinth.builds.supplies import SUPPLY_KINDS
from plinth.builds.supply_parts import Battery, BatteryConverter, Smoothing, Transformer
from plinth.desk.dialog import Dialog
from plinth.desk.labels import answer_row, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.units.errors import QuantityError

P = TypeVar("P")
_SOURCES: tuple[type[SourcePart], ...] = tuple(kind.source_type() for kind in SUPPLY_KINDS)


def _kind(source: SourcePart) -> str:
    return next(kind.source_name for kind in SUPPLY_KINDS if kind.source_type() is type(source))


class MakeupForm(Dialog):
    """Accepted once ``keep`` has kept what is asked for; it says what is wrong otherwise (an empty text: kept)."""

    def __init__(self, parent: QWidget, session: BenchSession, keep: Callable[[Makeup], str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("How this build is made")
        look.size(self, 640, 440)
        self._session, self._keep = session, keep
        now = makeup_of(session.build)
        self._sources = _with(now.source, [part for kind in _SOURCES for part in session.shelf.parts(kind)], _SOURCES)
        self._modules = _with(
            now.module, [part for kind in MODULE_KINDS for part in session.shelf.parts(kind)], MODULE_KINDS
        )
        self._stages = _with(now.smoothing, session.shelf.parts(Smoothing), (Smoothing,))
        self._batteries = _with(now.battery, session.shelf.parts(Battery), (Battery,))
        self.name, self.channels = QLineEdit(now.name), QLineEdit(", ".join(now.channels))
        self.name.setMaxLength(120)
        self.wiring = _choice(["one module for each channel", "two modules in bridge for each channel"])
        self.wiring.setCurrentIndex(int(now.bridged))
        self.source = _choice([f"{_kind(source)}: {short_words(source)}" for source in self._sources])
        self.source.setCurrentIndex(self._sources.index(now.source))
        self.battery = _choice([short_words(battery) for battery in self._batteries] or ["none on the shelf"])
        self.module = _choice([short_words(module) for module in self._modules])
        self.module.setCurrentIndex(self._modules.index(now.module))
        self.each = _choice(["one supply for all channels", "a whole supply for each channel"])
        self.each.setCurrentIndex(int(now.per_channel))
        self.stage = _choice(["none", *(short_words(stage) for stage in self._stages)])
        self.stage.setCurrentIndex(0 if now.smoothing is None else 1 + self._stages.index(now.smoothing))
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Name", self.name), ("Channels, with commas between", self.channels), ("Each load hangs on", self.wiring),
            ("Modules", self.module), ("What makes the rails", self.source), ("Battery of a converter", self.battery),
            ("Supplies (transformers)", self.each), ("Second filter stage", self.stage),
        )  # fmt: skip
        for row, (words, widget) in enumerate(rows):
            widget.setAccessibleName(words)
            grid.addWidget(label(words), row, 0)
            grid.addWidget(widget, row, 1)
        for field in (self.name, self.channels):
            field.returnPressed.connect(self.take)
        self.said = label("", "over", wrap=True)
        box = QVBoxLayout(self)
        box.setSpacing(10)
        box.addWidget(label("How this build is made", "title"))
        box.addWidget(
            label(
                "A single rail (one winding, a single switcher) serves a full bridge, or chips in bridge. Readings "
                "belong to a channel by its name: a channel with another name begins anew.",
                "soft", wrap=True,
            )
        )  # fmt: skip
        box.addLayout(grid)
        box.addStretch()
        box.addWidget(self.said)
        box.addLayout(answer_row(self, "Keep", self.take))

    def take(self) -> None:
        """Keep what is asked for, or say why it does not go together; nothing typed is lost."""
        try:
            channels = read_channels(self.channels.text())
        except QuantityError as error:
            self.said.setText(f"Channels: {error}.")
            return
        name = self.name.text().strip()
        if not name:
            self.said.setText("Found no name, expected one that you will know the build by.")
            return
        at = self.stage.currentIndex()
        source = self._sources[self.source.currentIndex()]
        battery = self._batteries[self.battery.currentIndex()] if self._batteries else None
        made = Makeup(
            name,
            channels,
            bool(self.wiring.currentIndex()),
            source=source,
            module=self._modules[self.module.currentIndex()],
            per_channel=bool(self.each.currentIndex()) and isinstance(source, Transformer),
            smoothing=self._stages[at - 1] if at and isinstance(source, Transformer) else None,
            battery=battery if isinstance(source, BatteryConverter) else None,
        )
        wrong = self._keep(made)
        if wrong:
            self.said.setText(wrong)
        else:
            self.accept()


def _choice(texts: Sequence[str]) -> QComboBox:
    made = QComboBox()
    made.addItems(list(texts))
    made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    return made


def _with(now: P | None, shelf: Sequence[object], kinds: tuple[type[P], ...]) -> list[P]:
    """The parts of these kinds on the shelf, before them the current one where it is not among them."""
    parts = [part for part in shelf if isinstance(part, kinds)]
    return parts if now is None or now in parts else [now, *parts]
