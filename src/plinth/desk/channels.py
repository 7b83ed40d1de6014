"""The choice of a channel, as a row of buttons."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QWidget

from plinth.desk.labels import button, check, on_chosen, put_away
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
        for push in self._group.buttons():
            self._group.removeButton(push)
            put_away(push)
        for name in self._session.build.channels:
            push = button(name.capitalize(), "row")
            push.setCheckable(True)
            check(push, name == self.channel)
            push.setAccessibleName(f"Channel {name}")
            on_chosen(push, partial(self.choose, name))
            self._group.addButton(push)
            self._box.addWidget(push)

    @property
    def channel(self) -> str:
        """The current channel, as it is called today."""
        return self._current.name

    def choose(self, name: str) -> None:
        """Go to a channel."""
        self._current.take(name)
        for push, channel in zip(self._group.buttons(), self._session.build.channels, strict=True):
            check(push, channel == name)
        self.chosen.emit(name)
