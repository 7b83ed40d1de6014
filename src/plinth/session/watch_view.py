"""The readings of a watched step as a plot shows them: over their window, with where they are bound."""

import numpy as np
from numpy.typing import NDArray

from plinth.drawing.series import Series
from plinth.guide.step import Step
from plinth.guide.watching import Watched
from plinth.session.views import Picture

Array = NDArray[np.float64]

# Millivolts below this, volts above.
_MILLI_BELOW_V = 0.5
# From this long on minutes are counted, then hours.
_MINUTES_FROM_S, _HOURS_FROM_S = 180.0, 3.0 * 3600.0


def watch_picture(step: Step, watched: Watched) -> Picture:
    """Readings as discs, the window (from a known start: the course to it) as a band, the fit going on from them."""
    assert step.watch is not None, "it is watched"
    t = np.array([point.t_s for point in watched.points])
    y = np.array([point.reading.value for point in watched.points])
    last = max(float(t[-1]) * 1.15, step.wait_s * 1.05, 3.0 * step.watch.tau_s, 1.0)
    if watched.left_s:
        last = max(last, min(float(t[-1]) + watched.left_s, 4.0 * last))
    x = np.linspace(0.0, last, 160)
    low, high = _window_shown(step, y)
    scale, unit = (1e3, "mV") if step.unit == "V" and max(abs(low), abs(high)) < _MILLI_BELOW_V else (1.0, step.unit)
    series = [_expected(step, x, low, high, scale, unit)]
    if watched.fit is not None:
        ahead = x[x >= t[-1]]
        gone = np.exp(-(ahead - t[-1]) / watched.fit.tau_s)
        spread = 2.0 * watched.fit.u_end * (1.0 - gone) * scale
        going = (watched.fit.end - watched.fit.off * gone) * scale
        series.append(
            Series("from the readings", ahead, going, role="ink2", unit=unit, label="", label_at="above", spread=spread)
        )
    series.append(Series("read", t, y * scale, "ink", unit, discs=True))
    per, name, axis = _axis(last)
    return Picture("Over time", tuple(series), f"{unit} over {name}", per, "t", axis)


def _axis(last_s: float) -> tuple[float, str, str]:
    if last_s > _HOURS_FROM_S:
        return 1.0 / 3600.0, "hours", "s"
    return (1.0 / 60.0, "minutes", "s") if last_s > _MINUTES_FROM_S else (1.0, "seconds", "s")


def _window_shown(step: Step, y: Array) -> tuple[float, float]:
    window = step.window
    assert window is not None, "what is watched is read"
    low = window.low if window.low is not None else float(np.min(y))
    return low, window.high if window.high is not None else float(np.max(y))


def _expected(step: Step, x: Array, low: float, high: float, scale: float, unit: str) -> Series:
    """The window; where it begins is known, the way to it, narrow at first."""
    watch = step.watch
    assert watch is not None
    middle, half = (low + high) / 2.0, (high - low) / 2.0
    come = np.ones_like(x) if watch.start is None else 1.0 - np.exp(-x / watch.tau_s)
    start = middle if watch.start is None else watch.start
    centre = start + (middle - start) * come
    spread = np.maximum(half * come, watch.within)
    return Series("expected", x, centre * scale, "pred", unit, spread=spread * scale)
