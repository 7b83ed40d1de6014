"""One station under the drawing: mark and title, the figure, a line below."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QWidget

from plinth.builds.station import Station
from plinth.desk.band.contents import StationContent
from plinth.desk.labels import plain_tip
from plinth.desk.look import look
from plinth.desk.marks import draw_state, state_colour
from plinth.judge.state import State


class StationButton(QAbstractButton):
    """Checkable; the one that is checked is what the page speaks about."""

    def __init__(self, station: Station, parent: QWidget) -> None:
        super().__init__(parent)
        self.station = station
        self.content: StationContent | None = None
        self._slim = False
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(station.title)

    def show_content(self, content: StationContent) -> None:
        """Show other figures."""
        if content == self.content:
            return
        self.content = content
        words = [content.main, content.aside, content.read, content.below]
        self.setAccessibleDescription(f"{content.state}. " + ", ".join(w for w in words if w))
        self.setToolTip(plain_tip(f"{content.title}: {content.state}. " + ", ".join(w for w in words if w)))
        self.update()

    def show_slim(self, slim: bool) -> None:
        """With its mark and its figure only."""
        self._slim = slim
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(look.px(150), look.px(64))

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.content is not None:
            (self._paint_slim if self._slim else self._paint)(painter, self.content)
        if self.hasFocus():
            painter.setPen(QPen(look.token("ink"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(1, 1, self.width() - 2, self.height() - 2), 4, 4)
        painter.end()

    def _paint_slim(self, painter: QPainter, content: StationContent) -> None:
        left, middle = look.px(6), self.height() / 2
        draw_state(painter, content.state, QPointF(left + look.px(6), middle), look.px(5.5))
        main_left = left + look.px(18)
        colour = "pred" if content.predicted else "ink"
        y = middle - QFontMetricsF(look.font(13, bold=True)).height() / 2
        room = self.width() - look.px(4) - main_left
        fits = QFontMetricsF(look.font(13, bold=True)).horizontalAdvance(content.main) <= room
        main = content.main if fits or not content.brief else content.brief
        used = self._text(painter, main, main_left, y=y, width=room, size=13, colour=colour, bold=True)
        if content.read and self._fits(content.read, room - used - look.px(6)):
            # What was read there, where there is room beside what is expected.
            self._text(
                painter, content.read, main_left + used + look.px(6), y=y + 1, width=room - used - look.px(6), size=12,
                colour="ink",
            )  # fmt: skip

    def _paint(self, painter: QPainter, content: StationContent) -> None:
        left, right = look.px(6), self.width() - look.px(4)
        draw_state(painter, content.state, QPointF(left + look.px(6), look.px(11)), look.px(5.5))
        title_left = left + look.px(16)
        word = str(content.state) if content.state in (State.CLOSE, State.OVER) else ""
        word_width = QFontMetricsF(look.font(12, bold=True)).horizontalAdvance(word)
        room = right - title_left - (word_width + look.px(5) if word else 0)
        self._text(
            painter, content.title, title_left, y=look.px(4), width=room, size=12, colour="ink2", bold=self.isChecked()
        )
        word_left = right - word_width
        self._text(
            painter,
            word,
            word_left,
            y=look.px(4),
            width=word_width + 2,
            size=12,
            colour=state_colour(content.state),
            bold=True,
        )
        main_token = "pred" if content.predicted else "ink"
        used = self._text(
            painter, content.main, left, y=look.px(22), width=right - left, size=14, colour=main_token, bold=True
        )
        left_over = right - left - used - look.px(5)
        if self._fits(content.aside, left_over):
            self._text(
                painter, content.aside, left + used + look.px(5), y=look.px(24), width=left_over, size=12, colour="ink2"
            )
        below = content.read or content.below
        if content.shorter and not content.read and not self._fits(below, right - left):
            below = content.shorter
        self._text(
            painter, below, left, y=look.px(43), width=right - left, size=12, colour="ink" if content.read else "ink2"
        )

    def _fits(self, text: str, width: float) -> bool:
        return QFontMetricsF(look.font(12)).horizontalAdvance(text) <= width

    def _text(
        self, painter: QPainter, text: str, x: float, y: float, width: float, size: float, colour: str,
        *, bold: bool = False,
    ) -> float:  # fmt: skip
        """Draw one line, shortened to ``width``; the width it took."""
        if not text or width <= 0:
            return 0.0
        font = look.font(size, bold=bold)
        metrics = QFontMetricsF(font)
        shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, width)
        painter.setFont(font)
        painter.setPen(look.token(colour))
        painter.drawText(QPointF(x, y + metrics.ascent()), shown)
        return metrics.horizontalAdvance(shown)
