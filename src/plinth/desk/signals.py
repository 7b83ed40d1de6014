"""Signals of the system that ask a program to end (Ctrl+C in its terminal, a session that logs off): told to Qt.

Python handles a signal between two of its own instructions, and the event loop runs none while nothing happens; so the
system writes a byte to a socket that the loop watches.
"""

import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier

ENDING = (signal.SIGINT, signal.SIGTERM)


class EndingSignals(QObject):
    """Calls ``ended`` in the window's thread when the program is asked to end; ``came`` whether it was.

    ``let_go`` puts back what was before.
    """

    def __init__(self, ended: Callable[[], None]) -> None:
        super().__init__()
        self._ended, self.came = ended, False
        self._read, self._write = socket.socketpair()
        self._read.setblocking(False)
        self._write.setblocking(False)
        self._fd_before = signal.set_wakeup_fd(self._write.fileno(), warn_on_full_buffer=False)
        self._before = {number: signal.signal(number, lambda _number, _frame: None) for number in ENDING}
        self._notifier = QSocketNotifier(self._read.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._take)

    def _take(self) -> None:
        came = self._read.recv(64)
        if any(number in came for number in ENDING):
            self.came = True
            self._ended()

    def let_go(self) -> None:
        """Listen no more."""
        self._notifier.setEnabled(False)
        signal.set_wakeup_fd(self._fd_before)
        for number, handler in self._before.items():
            signal.signal(number, handler)
        self._read.close()
        self._write.close()
