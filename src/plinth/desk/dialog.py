"""What every dialog is made of: dressed in the look in force before there is anything in it; F1 opens its guide."""

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QWidget

from plinth.desk.guide_places import of_dialog
from plinth.desk.look import look

# What a window manager puts above it.
TITLE_BAR_PX = 36


class Dialog(QDialog):
    """A dialog in the look in force. The window's parts are dressed one by one, so it takes none from its parent.

    ``grows``: as words come and go in it, it is as high as they and its fields need; Qt would squeeze the fields.
    """

    grows = False

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setStyleSheet(look.style_sheet())

    def guide_place(self) -> str:
        """Where in the guide F1 leads from here."""
        return of_dialog(self)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_F1:
            from plinth.desk.guide_window import open_guide

            open_guide(self, self.guide_place())
            return True
        answer = super().event(event)
        if self.grows and event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Show):
            self._grow()
        return answer

    def _grow(self) -> None:
        layout = self.layout()
        if layout is not None and layout.hasHeightForWidth():
            room = self.screen().availableGeometry().height() - TITLE_BAR_PX
            wanted = min(layout.totalHeightForWidth(self.width()), room)
            if wanted > self.height():
                self.resize(self.width(), wanted)
