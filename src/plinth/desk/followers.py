"""Widgets that follow a change of look, a few in each turn of the event loop, those in sight first.

All of them at once would stop the window for half a second.
"""

import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from weakref import ref

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

# Between two of them: what is typed and drawn meanwhile goes first.
TURN_MS = 1
# Small ones share a turn until it has lasted so long: each turn lays out and paints the window anew.
LASTS_S = 0.01


@dataclass(frozen=True)
class Follower:
    """A widget, what is to be called with it, and whether that dresses it: what fits itself does so afterwards."""

    owner: "ref[QWidget]"
    call: Callable[[QWidget], None]
    dresses: bool

    @property
    def widget(self) -> QWidget | None:
        """The widget; none where it is gone, here or in Qt."""
        widget = self.owner()
        return widget if widget is not None and isValid(widget) else None

    def turn(self) -> None:
        """Take the turn."""
        widget = self.widget
        if widget is not None:
            self.call(widget)


class Followers(QObject):
    """All of them, and those that still wait for their turn."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._every: list[Follower] = []
        self._waiting: deque[Follower] = deque()

    def add(self, widget: QWidget, call: Callable[[QWidget], None], *, dresses: bool = False) -> None:
        """``call`` is called with ``widget`` after each change; neither is kept alive by it."""
        # Plots of dialogs come and go without the look ever being changed.
        self._every = [*self._living(), Follower(ref(widget), call, dresses)]

    def _living(self) -> list[Follower]:
        return [follower for follower in self._every if follower.widget is not None]

    def begin(self) -> None:
        """Give everybody a turn from now on, once, however many changes came before it."""
        self._every = self._living()
        begins = not self._waiting
        self._waiting = deque(sorted(self._every, key=_order))
        if begins and self._waiting:
            QTimer.singleShot(TURN_MS, self, self._next)

    def settle(self, within: QWidget | None = None) -> None:
        """Give at once their turn to all who wait for it, or to those within a widget."""
        waiting, self._waiting = self._waiting, deque()
        for follower in waiting:
            widget = follower.widget
            if within is None or (widget is not None and (widget is within or within.isAncestorOf(widget))):
                follower.turn()
            else:
                self._waiting.append(follower)

    def _next(self) -> None:
        begun = time.monotonic()
        try:
            while self._waiting:
                self._waiting.popleft().turn()
                if time.monotonic() - begun >= LASTS_S:
                    break
        finally:
            # A fault in one of them is told where such are, and keeps no other from its turn.
            if self._waiting:
                QTimer.singleShot(TURN_MS, self, self._next)


def _order(follower: Follower) -> tuple[bool, bool]:
    widget = follower.widget
    return widget is None or not widget.isVisible(), not follower.dresses
