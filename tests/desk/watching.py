"""What no window may do: show widgets as windows of their own, or let an exception out of a slot."""

import sys
import types
from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtWidgets import QApplication, QWidget

# What is a window by its nature. Everything else belongs into one.
_WINDOWS = {Qt.WindowType.Dialog, Qt.WindowType.Popup, Qt.WindowType.ToolTip}


class StrayWindows(QObject):
    """Counts widgets shown as windows of their own that are neither the main window, a dialog, nor a menu or tip."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[str] = []

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow():
            kind = watched.windowFlags() & Qt.WindowType.WindowType_Mask
            if kind not in _WINDOWS and type(watched).__name__ != "PlinthWindow":
                self.found.append(f"{type(watched).__name__} {watched.accessibleName() or watched.objectName()}")
        return False


@contextmanager
def no_stray_windows() -> Iterator[StrayWindows]:
    application = QApplication.instance()
    assert application is not None
    watch = StrayWindows()
    application.installEventFilter(watch)
    try:
        yield watch
    finally:
        application.removeEventFilter(watch)
    assert watch.found == []


@contextmanager
def no_faults() -> Iterator[list[BaseException]]:
    """Exceptions that leave a slot come here; pytest-qt does the same within tests, this serves programs too."""
    found: list[BaseException] = []
    before = sys.excepthook

    def take(_kind: type[BaseException], error: BaseException, _trace: types.TracebackType | None) -> None:
        found.append(error)

    sys.excepthook = take
    try:
        yield found
    finally:
        sys.excepthook = before
