"""The diary along time, in one strip: bars under power, marks for what was changed, read, looked at and noted."""

import datetime as dt

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plinth.desk.labels import plain_tip
from plinth.desk.look import look
from plinth.report.time_line import TimeLine, TimeMark, merged

# Dots within which the mouse means a mark; of a short stretch what is still seen.
_NEAR, _LEAST = 6, 2.0
_WORDS = {"changed": "changed", "reading": "read", "inspected": "looked at", "note": "noted"}


class TimeStrip(QWidget):
    """``chosen`` the line of the diary whose mark was pressed."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.line: TimeLine | None = None
        self._held: tuple[int, list[tuple[float, TimeMark]]] | None = None
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        look.follow(self._restyle)

    def _restyle(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(look.px(400), look.px(44))

    def show_line(self, line: TimeLine | None) -> None:
        """Show another time line; nothing where there is none, or all of it is one moment."""
        self.line, self._held = (line if line is not None and line.last > line.first else None), None
        self.setVisible(self.line is not None)
        if self.line is not None:
            changed = sum(mark.what == "changed" for mark in self.line.marks)
            self.setAccessibleName(
                f"Time line from {self.line.first:%Y-%m-%d} to {self.line.last:%Y-%m-%d}. {self.line.sentence} "
                f"Changed {changed} times."
            )
        self.update()

    def _x(self, at: dt.datetime) -> float:
        assert self.line is not None, "drawn only then"
        edge = float(look.px(6))
        share = (at - self.line.first) / (self.line.last - self.line.first)
        return edge + share * (self.width() - 2.0 * edge)

    def _drawn(self) -> list[tuple[float, TimeMark]]:
        """Marks and their places, one of a kind for each dot: of a long diary no more than a screen can show."""
        assert self.line is not None, "drawn only then"
        if self._held is None or self._held[0] != self.width():
            seen: dict[tuple[int, str], tuple[float, TimeMark]] = {}
            for mark in self.line.marks:
                x = self._x(mark.at)
                seen.setdefault((round(x), mark.what), (x, mark))
            self._held = self.width(), list(seen.values())
        return self._held[1]

    def mark_at(self, x: float) -> TimeMark | None:
        """The mark that is nearest to a place, if it is near; a change before all others."""
        if self.line is None:
            return None
        near = [(abs(at - x), mark) for at, mark in self._drawn() if abs(at - x) <= look.px(_NEAR)]
        return min(near, key=lambda pair: (pair[1].what != "changed", pair[0]), default=(0.0, None))[1]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        mark = self.mark_at(event.position().x())
        if mark is not None:
            self.chosen.emit(mark.line)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        mark = self.mark_at(event.position().x())
        self.setCursor(Qt.CursorShape.ArrowCursor if mark is None else Qt.CursorShape.PointingHandCursor)
        when = "" if mark is None else f"{mark.at.astimezone():%Y-%m-%d %H:%M}, {_WORDS[mark.what]}"
        self.setToolTip(plain_tip(when))

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self.line is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top, middle, bottom = look.px(4), look.px(13), look.px(22)
        painter.setPen(look.token("rule"))
        painter.drawLine(QPointF(0.0, middle), QPointF(self.width(), middle))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.token("claim"))
        for stretch in merged(self.line.stretches):
            left, right = self._x(stretch.begin), self._x(stretch.end)
            painter.drawRect(QRectF(left, middle - look.px(4), max(right - left, _LEAST), look.px(8)))
        ink = look.token("ink")
        for x, mark in self._drawn():
            if mark.what == "changed":
                half = float(look.px(5))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(ink)
                corners = ((x, top), (x + half, top + half), (x, top + 2.0 * half), (x - half, top + half))
                painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in corners]))
            else:
                painter.setPen(look.token("ink" if mark.what == "reading" else "ink2"))
                low = bottom if mark.what == "reading" else middle + look.px(4)
                painter.drawLine(QPointF(x, middle + look.px(4) if mark.what == "reading" else top), QPointF(x, low))
        painter.setFont(look.font(11))
        painter.setPen(look.token("ink2"))
        words = QRectF(0.0, bottom, self.width(), self.height() - bottom)
        for at, side in ((self.line.first, Qt.AlignmentFlag.AlignLeft), (self.line.last, Qt.AlignmentFlag.AlignRight)):
            painter.drawText(words, side | Qt.AlignmentFlag.AlignBottom, f"{at.astimezone():%Y-%m-%d}")
        painter.drawText(words, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom, self.line.sentence)
        painter.end()
