"""The bar along the bottom while power is on, and the count-down until the capacitors are safe."""

from PySide6.QtCore import QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.labels import button, label
from plinth.desk.look import look
from plinth.desk.session import BenchSession
from plinth.guide.bleeding import BleedDown
from plinth.guide.interlock import LivePower
from plinth.physics.rails.transients import SAFE_V
from plinth.units.moments import clock
from plinth.units.shown import shown


class StopBar(QWidget):
    """Visible in every stage and for every build while anything is on, and after Stop until it is put away."""

    def __init__(self, session: BenchSession) -> None:
        super().__init__()
        self._session = session
        self.words, self.detail = label("", "stop_words"), label("", wrap=True)
        self.stop_button = button("Stop    Esc", "stop")
        self.away_button = button("Measured, put away")
        self.stop_button.clicked.connect(session.power.switch_off)
        self.away_button.clicked.connect(session.power.put_away)
        box = QHBoxLayout(self)
        box.setContentsMargins(18, 5, 18, 5)
        box.setSpacing(24)
        box.addWidget(self.words)
        box.addWidget(self.detail, 1)
        box.addWidget(self.stop_button)
        box.addWidget(self.away_button)
        self._clock = QTimer(self)
        self._clock.setInterval(500)
        self._clock.timeout.connect(self.refresh)
        session.power_changed.connect(self.refresh)
        self.refresh()

    def bleed(self, power: LivePower) -> BleedDown | None:
        """The computed discharge of what is under power; None where its build cannot run."""
        return self._session.bring_up.bleed_down(power.build_id)

    def refresh(self) -> None:
        """Show what is on, or what is counted down, or nothing."""
        power, stopped = self._session.power.live, self._session.power.stopped
        self.stop_button.setVisible(power is not None)
        self.away_button.setVisible(power is None)
        if power is not None:
            self._show_on(power)
            self._clock.stop()
        elif stopped is not None:
            left = self._count(stopped.power, (self._session.now() - stopped.at).total_seconds())
            if left > 0.0 and not self._clock.isActive():
                self._clock.start()
            elif left <= 0.0:
                self._clock.stop()
        else:
            self._clock.stop()
        self.setVisible(power is not None or stopped is not None)
        self.update()

    def _show_on(self, power: LivePower) -> None:
        self.words.setText(f"Power is on: {self._session.power.words}")
        if power.found:
            self.detail.setText(
                f"It was on when Plinth was closed, since {clock(power.at.astimezone())}. Look at the supply; if it is "
                "off, press Stop to write that down."
            )
            return
        bleed = self.bleed(power)
        if bleed is None:
            self.detail.setText("Stop is one key away.")
            return
        about = "an estimated " if bleed.estimated else ""
        self.detail.setText(
            f"The capacitors hold up to {self._held_words(power, bleed.v_start)}. "
            f"After switching off they need {about}{bleed.seconds:.0f} s to fall below {SAFE_V:g} V."
        )

    def _single(self, power: LivePower) -> bool:
        return self._session.build_of(power.build_id).supply.single_rail

    def _rails_words(self, power: LivePower) -> str:
        return "the rail" if self._single(power) else "each rail"

    def _held_words(self, power: LivePower, v_start: float) -> str:
        if self._single(power):
            return f"{shown(v_start, 'V', 2)}, rail to 0 V"
        return f"{shown(2 * v_start, 'V', 2)} end to end"

    def _count(self, power: LivePower, passed_s: float) -> float:
        bleed = self.bleed(power)
        if bleed is None:
            self.words.setText("Stopped")
            self.detail.setText("No discharge time could be computed. Measure before you touch.")
            return 0.0
        left = bleed.seconds - passed_s
        if left > 0.0:
            about = "an estimated " if bleed.estimated else ""
            self.words.setText(f"Stopped. {left:.0f} s until below {SAFE_V:g} V")
            self.detail.setText(
                f"By now {about}{shown(bleed.volts_after(passed_s), 'V', 2)} on {self._rails_words(power)}, computed, "
                "not measured. "
                "Hands off; measure before you touch."
            )
        else:
            self.words.setText("Stopped")
            between = "the rail to 0 V" if self._single(power) else "+ rail to − rail"
            self.detail.setText(f"Below {SAFE_V:g} V by computation. Measure from {between} before you touch.")
        return left

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), look.token("over_fill" if self._session.power.live else "close_fill"))
        painter.end()
