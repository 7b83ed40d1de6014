"""The bar along the bottom while power is on, and the count-down until the capacitors are safe."""

from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.bringup.expectations import BleedDown, board_bleed_down, full_rail_v
from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.units.shown import shown
from plinth.workshop.store import now


class StopBar(QWidget):
    """Visible while the supply is on, and after Stop until the computed discharge is over and it is put away."""

    stopped = Signal()

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.words, self.detail = label("", "over"), label("", "", wrap=True)
        self.words.setStyleSheet("font-weight: bold;")
        self.stop_button = button("Stop    Esc", "stop")
        self.away_button = button("Measured, put away")
        self.stop_button.clicked.connect(self.stop)
        self.away_button.clicked.connect(self._put_away)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 5, 18, 5)
        box.setSpacing(24)
        box.addWidget(self.words)
        box.addWidget(self.detail, 1)
        box.addWidget(self.stop_button)
        box.addWidget(self.away_button)
        self._clock = QTimer(self)
        self._clock.setInterval(500)
        self._clock.timeout.connect(self._count)
        self._away = True
        session.power_changed.connect(self._changed)
        session.build_switched.connect(self._switched)
        self._changed()
        if session.stopped_at() is not None:
            self._put_away()

    def bleed(self) -> BleedDown | None:
        """The computed discharge of the board in hand; None where the build cannot run."""
        idle = self._session.idle_rail_v()
        if idle is None:
            return None
        module = self._session.build.module
        return board_bleed_down(module, full_rail_v(module, idle))

    def stop(self) -> None:
        """Stop: written down, and the count-down begins."""
        if self._session.power_since() is None:
            return
        self._session.note("power_off", "Stopped: supply switched off.", "power")
        self.stopped.emit()

    def _switched(self) -> None:
        self._changed()
        if self._session.power_since() is None:
            self._put_away()

    def _changed(self) -> None:
        on, off = self._session.power_since(), self._session.stopped_at()
        bleed = self.bleed()
        self.stop_button.setVisible(on is not None)
        self.away_button.setVisible(on is None)
        self._away = False
        if on is not None:
            self._clock.stop()
            self.words.setText("Power is on")
            self.detail.setText(_on_words(bleed))
            self.show()
        elif off is not None:
            self._count()
            self._clock.start()
            self.show()
        else:
            self._put_away()

    def _count(self) -> None:
        off, bleed = self._session.stopped_at(), self.bleed()
        if off is None:
            return
        if bleed is None:
            self.words.setText("Stopped")
            self.detail.setText("No discharge time could be computed. Measure before you touch.")
            return
        passed = (now() - off.at).total_seconds()
        left = bleed.seconds - passed
        about = "estimated " if bleed.estimated else ""
        if left > 0:
            self.words.setText(f"Stopped. {left:.0f} s until below 5 V")
            self.detail.setText(
                f"By now {about}{shown(bleed.volts_after(passed), 'V', 2)} on each rail, computed, not measured. "
                "Hands off; measure before you touch."
            )
        else:
            self.words.setText("Stopped")
            self.detail.setText("Below 5 V by computation. Measure from + rail to − rail before you touch.")
            self._clock.stop()

    def _put_away(self) -> None:
        self._clock.stop()
        self._away = True
        self.hide()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        on = self._session.power_since() is not None
        painter.fillRect(self.rect(), look.token("over_fill" if on else "close_fill"))
        painter.end()

    @property
    def counting(self) -> bool:
        """Whether the discharge is being counted down."""
        return self.isVisibleTo(self.parentWidget() or self) and self._session.power_since() is None


def _on_words(bleed: BleedDown | None) -> str:
    if bleed is None:
        return "Stop is one key away."
    about = "an estimated " if bleed.estimated else ""
    return (
        f"The board's capacitors hold up to {shown(2 * bleed.v_start, 'V', 2)} end to end. "
        f"After switching off they need {about}{bleed.seconds:.0f} s to fall below 5 V."
    )
