"""What is expected at a step: its window, the listing's figure beside it, and both on a ruler with the reading."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QBoxLayout, QWidget

from plinth.desk.labels import column, label
from plinth.desk.ruler import LimitRuler, RulerContent, scale_for
from plinth.guide.step import Step
from plinth.judge.state import State
from plinth.judge.window import Window
from plinth.record.reading import Reading


class ExpectedSheet(QWidget):
    """Hidden at a step that asks for no figure."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.window_words, self.why = label("", "pred_figure"), label("", "soft", wrap=True)
        self.claim, self.becomes = label("", "claim"), label("", "soft", wrap=True)
        self.ruler = LimitRuler(tall=True)
        self._first = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._first.addWidget(self.window_words)
        self._first.addStretch()
        self._first.addWidget(self.claim)
        inner = column(label("Expect", "soft"), spacing=6, margins=(20, 12, 20, 12))
        inner.addLayout(self._first)
        for widget in (self.ruler, self.why, self.becomes):
            inner.addWidget(widget)
        self.setLayout(inner)

    def fit(self, direction: QBoxLayout.Direction) -> None:
        """Side by side, or at large text below each other."""
        self.window_words.setWordWrap(direction is QBoxLayout.Direction.TopToBottom)
        self._first.setDirection(direction)

    def show_step(self, step: Step) -> None:
        """The window of a step."""
        self.setVisible(step.window is not None)
        self.becomes.setText(step.becomes)
        self.becomes.setVisible(bool(step.becomes))
        if step.window is None:
            return
        self.window_words.setText(step.window.words())
        estimated = f" Estimated: {', '.join(step.window.estimated)}." if step.window.estimated else ""
        self.why.setText(step.window.why + estimated)
        self.claim.setText(step.claim_words)
        self.claim.setVisible(bool(step.claim_words))

    def show_reading(self, step: Step, reading: Reading | None) -> None:
        """The reading over the window; None: none yet, or none that is understood."""
        window = step.window
        if window is None:
            return
        self.ruler.setAccessibleName(f"Window {window.words()}")
        value = None if reading is None else reading.value
        scale = scale_of(window, step.claim, value)
        self.ruler.show_content(
            RulerContent(
                scale=scale,
                state=reading.state if reading else State.UNKNOWN,
                sentence=f"Expected {window.words()}. {window.why}",
                window=(
                    scale[0] if window.low is None else window.low, scale[1] if window.high is None else window.high
                ),
                estimated=bool(window.estimated),
                claim=step.claim,
                reading=value,
                reading_spread=2.0 * (reading.u or 0.0) if reading else 0.0,
                simulated=bool(reading and reading.simulated),
            )
        )  # fmt: skip


def scale_of(window: Window, claim: float | None, value: float | None) -> tuple[float, float]:
    """What a ruler must reach over: window, claim and reading; a window without an end goes on to three times it."""
    if window.high is None and window.low is not None:
        return 0.0, max(window.low * 3.0, (value or 0.0) * 1.1)
    return scale_for(window.low, window.high, claim, value)
