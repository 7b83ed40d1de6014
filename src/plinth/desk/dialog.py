"""What every dialog is made of: dressed in the look in force before there is anything in it."""

from PySide6.QtWidgets import QDialog, QWidget

from plinth.desk.look import look


class Dialog(QDialog):
    """A dialog in the look in force. The window's parts are dressed one by one, so it takes none from its parent."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setStyleSheet(look.style_sheet())
