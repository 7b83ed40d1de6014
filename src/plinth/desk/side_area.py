"""A scrolling column beside the main one: it asks for little, so that it never makes the whole page scroll."""

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QWidget

from plinth.desk.look import look


class SideArea(QScrollArea):
    """Scrolls up and down only."""

    def __init__(self, inner: QWidget) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(inner)

    def sizeHint(self) -> QSize:
        return QSize(look.px(240), look.px(160))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(120), look.px(120))


def lay_columns(page: QWidget, left: QWidget, middle: QWidget, right: QWidget) -> None:
    """A page at the bench: what there is to do at the left, the one question in the middle, what helps at the right."""
    box = QHBoxLayout(page)
    box.setContentsMargins(18, 12, 18, 12)
    box.setSpacing(28)
    box.addWidget(left)
    box.addWidget(middle, 1)
    box.addWidget(right)
