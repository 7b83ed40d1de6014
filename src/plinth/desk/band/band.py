"""The band across the window: the build's power path, drawing above, stations below."""

import math
from functools import partial

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from plinth.builds.stations import STATIONS
from plinth.desk.band.contents import station_contents
from plinth.desk.band.drawing import draw_path
from plinth.desk.band.station_button import StationButton
from plinth.desk.labels import check, on_chosen, plain_tip
from plinth.desk.look import look
from plinth.desk.session import BenchSession

DRAWING_PX, STATION_PX = 132, 66
# Where another page has the word: a thin drawing over one line of figures.
SLIM_DRAWING_PX, SLIM_STATION_PX = 30, 26


class PowerPathBand(QWidget):
    """Fixed structure, live content: it follows every prediction, also while a slider is dragged.

    Slim it leaves its room to the page; ``whole_asked`` by a click on it then.
    """

    whole_asked = Signal()

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self.setObjectName("band")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Power path, wall to load")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._session, self.is_whole = session, True
        self.stations = {station.key: StationButton(station, self) for station in STATIONS}
        for key, button in self.stations.items():
            on_chosen(button, partial(self._clicked, key))
        session.predicted.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        session.records_changed.connect(self._take_figures)
        session.station_chosen.connect(self._choose)
        look.changed.connect(self._resize)
        self._choose(session.station)
        self._resize()
        self.refresh()

    def show_whole(self, whole: bool) -> None:
        """Whole, with every figure of each station; or slim, with the one that matters most."""
        if whole == self.is_whole:
            return
        self.is_whole = whole
        for button in self.stations.values():
            button.show_slim(not whole)
        self.setToolTip("" if whole else plain_tip("A click, or Ctrl+H, brings the whole power path back"))
        self._resize()
        self.update()

    def _clicked(self, key: str) -> None:
        self._session.choose_station(key)
        if not self.is_whole:
            self.whole_asked.emit()

    def refresh(self) -> None:
        """Take figures and waveforms anew."""
        self._take_figures()
        self.update()

    def _take_figures(self) -> None:
        """What was read stands beside the figures; the drawing is of what is predicted."""
        for key, content in station_contents(self._session).items():
            self.stations[key].show_content(content)

    def _choose(self, key: str) -> None:
        check(self.stations[key])
        self.update()

    def _resize(self) -> None:
        # Bigger text needs room below; the drawing gives some of its own up, so that the page keeps enough.
        self.setFixedHeight(self._drawing_height() + self._station_height() + 8)
        self.updateGeometry()
        self._place()

    def _drawing_height(self) -> int:
        high = DRAWING_PX if self.is_whole else SLIM_DRAWING_PX
        return round(high / math.pow(max(1.0, look.scale), 0.6))

    def _station_height(self) -> int:
        return look.px(STATION_PX if self.is_whole else SLIM_STATION_PX)

    def sizeHint(self) -> QSize:
        return QSize(1280, self.height())

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(640), self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def _edges(self) -> list[float]:
        left, right = look.px(12), self.width() - look.px(12)
        return [left + (right - left) * i / 8 for i in range(9)]

    def _place(self) -> None:
        edges = self._edges()
        top = self._drawing_height()
        for i, station in enumerate(STATIONS):
            x0, x1 = round(edges[i]), round(edges[i + 1])
            self.stations[station.key].setGeometry(x0, top, x1 - x0, self._station_height())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        # The drawing above a station is that station's too.
        edges = self._edges()
        for i, station in enumerate(STATIONS):
            if edges[i] <= event.position().x() < edges[i + 1]:
                self._clicked(station.key)
                return
        super().mousePressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        edges = self._edges()
        chosen = [s.key for s in STATIONS].index(self._session.station)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.token("sunk"))
        shade = QRectF(edges[chosen], 4, edges[chosen + 1] - edges[chosen], self.height() - 8)
        painter.drawRoundedRect(shade, 5, 5)
        painter.setPen(QPen(look.token("rule"), 1))
        top = self._drawing_height()
        for x in edges[1:8] if self.is_whole else ():
            painter.drawLine(round(x), top + look.px(6), round(x), top + look.px(58))
        prediction, view = self._session.predictions.prediction, self._session.predictions.supply_shown
        if prediction is not None and view is not None:
            box = QRectF(0, 8, self.width(), top - 12) if self.is_whole else QRectF(0, 4, self.width(), top - 4)
            draw_path(painter, box, edges, prediction, view, muted=self._session.situation.level == 0.0)
        elif self._session.predictions.problem:
            painter.setPen(look.token("over"))
            painter.setFont(look.font(14 if self.is_whole else 12, bold=True))
            box = QRectF(edges[0], 0, edges[8] - edges[0], top)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._session.predictions.problem
            )
        painter.end()
