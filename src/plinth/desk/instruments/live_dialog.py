"""What a page that reads while it is open has in common: ten pictures a second, an end however it is closed."""

from abc import abstractmethod

from PySide6.QtCore import QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QWidget

from plinth.desk.dialog import Dialog
from plinth.desk.labels import label
from plinth.desk.session import BenchSession

PICTURE_MS = 100


class LiveDialog(Dialog):
    """Ends with the instruments. ``said`` what is to be known of it; hidden while there is nothing."""

    def __init__(self, parent: QWidget, session: BenchSession) -> None:
        super().__init__(parent)
        self._session = session
        self.said = label("", "problem", wrap=True)
        self.said.hide()
        self._clock = QTimer(self)
        self._clock.setInterval(PICTURE_MS)
        self._clock.timeout.connect(self.refresh)
        session.instruments_changed.connect(self._connected)

    @abstractmethod
    def refresh(self) -> None:
        """Show what came since."""

    @abstractmethod
    def stop_reading(self) -> None:
        """Read nothing more."""

    def _say(self, words: str) -> None:
        self.said.setText(words)
        self.said.show()

    def _connected(self) -> None:
        if not self._session.instruments.connected:
            self.close()

    def _end(self) -> None:
        self._clock.stop()
        self.stop_reading()

    def reject(self) -> None:
        self._end()
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        self._end()
        super().closeEvent(event)
