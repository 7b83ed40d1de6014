"""A second start on a workshop that is open: the window that has it comes to the front, and the second one ends.

Each Plinth listens under its own process number, for its own user alone; who finds a workshop in use knows the number.
"""

import contextlib
import os
from collections.abc import Callable

from PySide6.QtCore import QObject
from PySide6.QtNetwork import QLocalServer, QLocalSocket

# So long an answer may take; a window that is busy is not waited for longer.
ANSWER_MS = 2000
COME, HERE = b"come to the front\n", b"here\n"


def _name(process: int) -> str:
    return f"plinth-{os.getuid()}-{process}"


class FrontCalls(QObject):
    """Hears from other starts that this process's window is wanted; ``come`` brings it to the front."""

    def __init__(self, come: Callable[[], None]) -> None:
        super().__init__()
        self._come = come
        self._server = QLocalServer(self)
        self._server.setSocketOptions(QLocalServer.SocketOption.UserAccessOption)
        self._server.newConnection.connect(self._called)
        # What a killed process of the same number left behind.
        QLocalServer.removeServer(_name(os.getpid()))
        self._server.listen(_name(os.getpid()))

    def _called(self) -> None:
        line = self._server.nextPendingConnection()
        if line is not None:
            line.readyRead.connect(lambda: self._answer(line))
            line.disconnected.connect(line.deleteLater)
            if line.canReadLine():
                self._answer(line)

    def _answer(self, line: QLocalSocket) -> None:
        if line.canReadLine() and bytes(line.readLine().data()) == COME:
            self._come()
            line.write(HERE)
            line.flush()

    def end(self) -> None:
        """Hear nothing more."""
        with contextlib.suppress(RuntimeError):
            self._server.close()


def brought_to_front(process: int | None) -> bool:
    """Ask the Plinth of that process number to show its window; whether it answered."""
    if process is None:
        return False
    line = QLocalSocket()
    line.connectToServer(_name(process))
    if not line.waitForConnected(ANSWER_MS):
        return False
    line.write(COME)
    line.flush()
    answered = line.waitForReadyRead(ANSWER_MS) and bytes(line.readAll().data()) == HERE
    line.abort()
    return answered
