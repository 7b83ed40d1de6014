"""What may be behind the readings so far: likely faults with their share, what to do next, whether to switch off."""

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from plinth.desk.labels import clear, column, label
from plinth.desk.look import look
from plinth.guide.causes import Causes
from plinth.units.shown import shown


class CausesView(QWidget):
    """Hidden while no reading lies outside its window."""

    def __init__(self) -> None:
        super().__init__()
        self.off = label("Switch off now.", "problem", wrap=True)
        self.next = label("", "soft", wrap=True)
        self._rows = column(spacing=5)
        self.stops = label("", "soft", wrap=True)
        box = column(self.off, self.stops, label("What may be behind it", "title"), spacing=6)
        box.addLayout(self._rows)
        box.addWidget(self.next)
        self.setLayout(box)
        self.hide()

    def show_causes(self, causes: Causes | None, *, power_is_on: bool) -> None:
        """Show these; nothing where there are none. What is off already need not be switched off."""
        self.setVisible(causes is not None)
        clear(self._rows)
        if causes is None:
            return
        self.off.setText(f"Switch off now. {causes.off_words}")
        self.off.setVisible(causes.off_now and power_is_on)
        self.stops.setText(_stops_words(causes))
        if not causes.ranked:
            self._rows.addWidget(label("None of the faults known here explains these readings.", "name", wrap=True))
            self._rows.addWidget(label(_look_words(causes), "soft", wrap=True))
        for cause in causes.ranked:
            row = QHBoxLayout()
            row.addWidget(_Share(cause.share))
            row.addWidget(label(cause.fault.words, "name", wrap=True), 1)
            held = QWidget()
            held.setLayout(row)
            row.setContentsMargins(0, 0, 0, 0)
            held.setAccessibleName(f"{100 * cause.share:.0f} %: {cause.fault.words}")
            self._rows.addWidget(held)
            self._rows.addWidget(label(cause.fault.check, "soft", wrap=True))
        self.next.setText(_next_words(causes))
        self.next.setVisible(bool(self.next.text()))


def _stops_words(causes: Causes) -> str:
    titles = ", ".join(step.title for step in causes.outside)
    return f"Nothing further is connected until this is inside: {titles}."


def _look_words(causes: Causes) -> str:
    odd = [hint.check for step in causes.outside for hint in step.hints if hint.side == 0]
    return " ".join(["Read it once more, with another range and another instrument.", *odd[:2]])


def _next_words(causes: Causes) -> str:
    step = causes.next_step
    if step is None:
        return ""
    tells = "; ".join(f"{shown(value, step.unit)} with {words}" for words, value in causes.tells)
    return f"What tells most apart next: {step.title}. It would show {tells}."


class _Share(QWidget):
    """A share of the weight as a bar, and in words beside it for whoever cannot see it."""

    def __init__(self, share: float) -> None:
        super().__init__()
        self._share = share
        self.setFixedSize(look.px(58), look.px(16))
        self.setToolTip(f"{100 * share:.0f} % of the weight: how usual it is, and how well it explains all readings")

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        bar = self.rect().adjusted(0, 0, -look.px(34), 0)
        painter.fillRect(bar, look.token("sunk"))
        painter.fillRect(bar.adjusted(0, round(bar.height() * (1.0 - self._share)), 0, 0), look.token("ink2"))
        painter.setPen(look.token("ink"))
        painter.setFont(look.font(12))
        painter.drawText(self.rect().adjusted(bar.width() + 3, 0, 0, 0), 0x81, f"{100 * self._share:.0f} %")
        painter.end()
