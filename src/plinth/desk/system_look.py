"""Light or dark as the desktop has it, until somebody chooses otherwise here."""

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QGuiApplication

from plinth.desk import preferences
from plinth.desk.look import look


def system_is_dark() -> bool:
    """Whether the desktop is dark; not where it does not say."""
    return QGuiApplication.styleHints().colorScheme() is Qt.ColorScheme.Dark


class SystemLook(QObject):
    """Follows the desktop while it runs; what was chosen here stays."""

    def __init__(self) -> None:
        super().__init__()
        QGuiApplication.styleHints().colorSchemeChanged.connect(self.follow)

    def follow(self) -> None:
        """Take the desktop's, where none was chosen."""
        if "dark" not in preferences.load_checked()[0]:
            look.set(dark=system_is_dark())


def as_the_system() -> None:
    """Forget what was chosen here."""
    preferences.forget_dark()
    look.set(dark=system_is_dark())
