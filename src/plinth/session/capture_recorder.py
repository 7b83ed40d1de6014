"""The recorder's own share, from its kept loop-backs, taken off what it recorded."""

import dataclasses
from typing import TYPE_CHECKING

from plinth.captures.figure import Analysis, CaptureFigure, ChannelFigures
from plinth.captures.recorder import without_recorder
from plinth.record.kept_capture import KeptCapture
from plinth.session.capture_view import CaptureView

if TYPE_CHECKING:
    from plinth.session.captures import Captures

# What a loop-back is of.
RECORDER = "recorder"


@dataclasses.dataclass(frozen=True)
class RecorderOff:
    """The view with the recorder's share taken off, or as it is; ``words`` which loop-back was used."""

    view: CaptureView
    words: str


def with_recorder_off(captures: "Captures", view: CaptureView) -> RecorderOff:
    """Take the last loop-back of the same kind and rate off; a loop-back itself is shown as it is."""
    if view.capture is None:
        return RecorderOff(view, "")
    rate = view.capture.sample_rate_hz
    loops = [
        kept
        for kept in captures.of(RECORDER)
        if kept.facts.kind == view.analysis.kind and abs(kept.facts.sample_rate_hz / rate - 1.0) < 1e-3
    ]
    if not loops or any(kept.name == view.content.name and kept.size == len(view.content.data) for kept in loops):
        return RecorderOff(view, "")
    analysis = without_recorder(view.analysis, analysis_of(loops[-1]))
    words = f"The recorder's own share is taken off, by {loops[-1].title} of {loops[-1].at:%Y-%m-%d}."
    return RecorderOff(dataclasses.replace(view, analysis=analysis), words)


def analysis_of(kept: KeptCapture) -> Analysis:
    """The figures that were kept with a capture."""
    channels = []
    for channel, figures in kept.facts.figures.items():
        each = (CaptureFigure(name, float(v), float(spread), unit, "") for name, (v, spread, unit) in figures.items())
        channels.append(ChannelFigures(channel, tuple(each)))
    return Analysis(kept.facts.kind, tuple(channels), ())
