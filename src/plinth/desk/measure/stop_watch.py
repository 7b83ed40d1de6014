"""A stop watch as a button: pressed it starts, pressed again it stops and tells its seconds."""

import time

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QPushButton, QWidget

TICK_MS = 100


class StopWatch(QPushButton):
    """``stopped`` with the seconds that it ran."""

    stopped = Signal(float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setProperty("role", "flat")
        self.setToolTip("Starts, and stops into the field (Ctrl+Space)")
        self._begun: float | None = None
        self._ticking = QTimer(self)
        self._ticking.setInterval(TICK_MS)
        self._ticking.timeout.connect(self._show)
        self.clicked.connect(self.press)
        self._show()

    @property
    def running(self) -> bool:
        """Whether it runs."""
        return self._begun is not None

    def press(self) -> None:
        """Start it; pressed again, stop it and tell."""
        if self._begun is None:
            self._begun = time.monotonic()
            self._ticking.start()
            self._show()
            return
        seconds = time.monotonic() - self._begun
        self.reset()
        self.stopped.emit(seconds)

    def reset(self) -> None:
        """Stop it without telling."""
        self._begun = None
        self._ticking.stop()
        self._show()

    def _show(self) -> None:
        words = "Stop watch" if self._begun is None else f"Stop at {time.monotonic() - self._begun:.1f} s"
        self.setText(f"{words}  Ctrl+Space")
        # A button that is given another text forgets its key.
        self.setShortcut("Ctrl+Space")
