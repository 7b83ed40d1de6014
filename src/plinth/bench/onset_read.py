"""An onset of clipping as it is read: by an eye on a screen, whose volts a meter or the scope itself then tells.

Power predicted or claimed stays at the onset, where the wave just touches. An eye sees its top flatten a little later,
and what it reads there is held against what is expected of such a reading.
"""

import functools
import math

from plinth.bench.clip_verdict import Band
from plinth.physics.stages.clipped_sine import power_ratio_at
from plinth.predict.figure import Figure
from plinth.units.level import Form
from plinth.units.shown import shown

# An eye sees a sine's top flatten between these shares of distortion (practice): a true rms meter reads the cut wave.
EYE_SEES = (0.005, 0.01)
# A scope's own peak and peak-to-peak take the highest point of a trace: up to two of the 256 steps of its screen, of
# which a trace fills three quarters, and the thickness of the trace.
SCREEN_HIGH = 0.03


@functools.cache
def power_ratios(form: Form) -> tuple[float, float]:
    """From how many to how many times the power at onset a reading in this form says."""
    if form is Form.RMS:
        return power_ratio_at(EYE_SEES[0]), power_ratio_at(EYE_SEES[1])
    return 1.0, (1.0 + SCREEN_HIGH) ** 2


def middle_ratio(form: Form) -> float:
    """How many times the power at onset a reading in this form says, most likely."""
    return 0.5 * sum(power_ratios(form))


def expected(onset: Figure, form: Form) -> Band:
    """What a reading of the onset in this form is expected to say, W."""
    low, high = power_ratios(form)
    times, u_eye = middle_ratio(form), 0.5 * (high - low) * onset.value / math.sqrt(3.0)
    return Band(times * onset.value, math.hypot(times * onset.u, u_eye), how(onset.value, form))


def expected_pp(onset_v_peak: float) -> float:
    """Volts peak to peak that a scope is expected to show at an onset seen by eye."""
    return 2.0 * onset_v_peak * math.sqrt(middle_ratio(Form.PEAK_TO_PEAK))


def how(onset_w: float, form: Form) -> str:
    """Why more is expected than the power at onset."""
    by = "an eye sees it at half to one per cent of distortion" if form is Form.RMS else "a scope's p-p reads high"
    return f"{shown(onset_w, 'W')} at onset; {by}"
