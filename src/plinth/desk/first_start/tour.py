"""A tour of five stops around the window. Enter goes on; any other key, or a click beside it, leaves."""

import dataclasses
from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QRegion
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from plinth.desk.labels import button, label
from plinth.desk.look import look

_GAP_PX, _VEIL = 12, 150


@dataclasses.dataclass(frozen=True)
class Stop:
    """``place`` gives what it is about; it is asked for when the tour gets there."""

    title: str
    words: str
    place: Callable[[], QWidget]


class Bubble(QWidget):
    """What is said at a stop."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("bubble")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.title, self.words = label("", "title"), label("", wrap=True)
        self.onward, self.leave = button("", "main"), button("Leave  Esc", "flat")
        for push in (self.onward, self.leave):
            push.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        row = QHBoxLayout()
        row.addWidget(self.onward)
        row.addWidget(self.leave)
        row.addStretch()
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        box.addWidget(self.title)
        box.addWidget(self.words)
        box.addLayout(row)


def _bring_into_sight(place: QWidget) -> None:
    """Scroll to it, where it lies in an area that scrolls."""
    above = place.parentWidget()
    while above is not None and not isinstance(above, QScrollArea):
        above = above.parentWidget()
    inner = None if above is None else above.widget()
    if above is not None and inner is not None:
        above.verticalScrollBar().setValue(place.mapTo(inner, QPoint(0, 0)).y())


class Tour(QWidget):
    """Lies over the whole window, which shows through a veil; what the stop is about is left free of it."""

    def __init__(self, window: QWidget, stops: Sequence[Stop]) -> None:
        super().__init__(window)
        self._window, self._stops, self.at = window, tuple(stops), 0
        self.setAccessibleName("Tour")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bubble = Bubble(self)
        self.bubble.onward.clicked.connect(self.go_on)
        self.bubble.leave.clicked.connect(self.leave)
        window.installEventFilter(self)
        look.changed.connect(self._dress)
        self._dress()
        self.show()
        self.raise_()
        self.setFocus()

    def go_on(self) -> None:
        """To the next stop; from the last one, out."""
        if self.at + 1 == len(self._stops):
            self.leave()
            return
        self.at += 1
        self._lay()

    def leave(self) -> None:
        """End it; the window is as it was."""
        self._window.removeEventFilter(self)
        self.hide()
        self._window.setFocus()
        self.deleteLater()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space, Qt.Key.Key_Right):
            self.go_on()
        elif event.key() not in (Qt.Key.Key_Shift, Qt.Key.Key_Control, Qt.Key.Key_Alt, Qt.Key.Key_AltGr):
            self.leave()

    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.leave()

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._lay()
        return False

    def _dress(self) -> None:
        self.setStyleSheet(
            look.style_sheet() + f"#bubble {{ background: {look.token('sheet').name()}; border: 2px solid "
            f"{look.token('ink').name()}; border-radius: 4px; }}"
        )
        self._lay()

    def _free(self) -> QRect:
        """What the stop is about, as it lies in the window."""
        place = self._stops[self.at].place()
        seen = place.visibleRegion().boundingRect()
        return (
            QRect(place.mapTo(self._window, seen.topLeft()), seen.size())
            .adjusted(-6, -4, 6, 4)
            .intersected(self.rect())
        )

    def _lay(self) -> None:
        self.setGeometry(self._window.rect())
        stop, last = self._stops[self.at], self.at + 1 == len(self._stops)
        _bring_into_sight(stop.place())
        self.bubble.title.setText(f"{self.at + 1} of {len(self._stops)}   {stop.title}")
        self.bubble.words.setText(stop.words)
        self.bubble.onward.setText("Begin  ⏎" if last else "Next  ⏎")
        self.bubble.setAccessibleDescription(f"{stop.title}. {stop.words}")
        self.bubble.setFixedWidth(min(look.px(400), max(self.width() - 40, 200)))
        self.bubble.setFixedHeight(self.bubble.heightForWidth(self.bubble.width()))
        self.bubble.move(self._beside(self._free()))
        self.update()

    def _beside(self, free: QRect) -> QPoint:
        """Below what it is about where there is room, else above, else beside it; always inside the window."""
        size, room = self.bubble.size(), self.rect()
        if free.bottom() + _GAP_PX + size.height() < room.bottom():
            corner = QPoint(free.left(), free.bottom() + _GAP_PX)
        elif free.top() - _GAP_PX - size.height() > room.top():
            corner = QPoint(free.left(), free.top() - _GAP_PX - size.height())
        elif free.right() + _GAP_PX + size.width() < room.right():
            corner = QPoint(free.right() + _GAP_PX, free.top())
        else:
            corner = QPoint(free.left() - _GAP_PX - size.width(), free.top())
        return QPoint(
            max(8, min(corner.x(), room.right() - size.width() - 8)),
            max(8, min(corner.y(), room.bottom() - size.height() - 8)),
        )

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, free = QPainter(self), self._free()
        veil = QColor(look.token("paper"))
        veil.setAlpha(_VEIL)
        painter.setClipRegion(QRegion(self.rect()).subtracted(QRegion(free)))
        painter.fillRect(self.rect(), veil)
        painter.setClipping(False)
        painter.setPen(QPen(look.token("ink"), 3))
        painter.drawRect(free.adjusted(1, 1, -2, -2))
