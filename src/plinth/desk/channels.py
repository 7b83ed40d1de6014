"""The choice of a channel, as a row of buttons."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QWidget

from plinth.desk.labels import button, put_away
from plinth.desk.session import BenchSession
from plinth.session.current_channel import CurrentChannel


class ChannelChoice(QWidget):
    """``chosen`` tells the channel's name."""

    chosen = Signal(str)

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self._box = QHBoxLayout(self)
        self._box.setContentsMargins(0, 0, 0, 0)
        self._group = QButtonGroup(self)
        self._current = CurrentChannel(session)
        session.build_switched.connect(self._make)
        self._make()

    def _make(self) -> None:
        for one in self._group.buttons():
            self._group.removeButton(one)
            put_away(one)
        for name in self._session.build.channels:
            one = button(name.capitalize(), "row")
            one.setCheckable(True)
            one.setChecked(name == self.channel)
            one.setAccessibleName(f"Channel {name}")
            one.clicked.connect(lambda _checked=False, name=name: self.choose(name))
            self._group.addButton(one)
            self._box.addWidget(one)

    @property
    def channel(self) -> str:
        """The current channel, as it is called today."""
        return self._current.name

    def choose(self, name: str) -> None:
        """Go to a channel."""
        self._current.take(name)
        for one, channel in zip(self._group.buttons(), self._session.build.channels, strict=True):
            one.setChecked(channel == name)
        self.chosen.emit(name)
