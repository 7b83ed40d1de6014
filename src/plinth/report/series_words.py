"""What a plot shows, in words: for whoever hears it instead of seeing it."""

from collections.abc import Sequence

import numpy as np

from plinth.drawing.series import Series
from plinth.units.shown import shown

MOST_NAMED = 8


def series_words(series: Sequence[Series], x_name: str, x_unit: str) -> str:
    """Each curve with its range and its ends, readings by their number; that nothing is drawn, where nothing is."""
    told = [_curve_words(trace, x_unit) for trace in series[:MOST_NAMED] if len(trace.x)]
    if not told:
        return "Nothing is drawn yet."
    first = min(float(np.min(trace.x)) for trace in series if len(trace.x))
    last = max(float(np.max(trace.x)) for trace in series if len(trace.x))
    further = len(series) - MOST_NAMED
    more = f" And {further} more." if further > 0 else ""
    return f"Over {x_name} from {shown(first, x_unit)} to {shown(last, x_unit)}. {' '.join(told)}{more}"


def _curve_words(trace: Series, x_unit: str) -> str:
    x, y = np.asarray(trace.x, dtype=float), np.asarray(trace.y, dtype=float)
    seen = np.isfinite(x) & np.isfinite(y)
    if not seen.any():
        return f"{trace.name}: no values."
    x, y = x[seen], y[seen]
    if trace.discs:
        at = "; ".join(
            f"{shown(float(v), trace.unit)} at {shown(float(t), x_unit)}" for t, v in zip(x[:6], y[:6], strict=True)
        )
        return f"{trace.name}, {len(y)} reading{'s' * (len(y) != 1)}: {at}."
    low, high = float(y.min()), float(y.max())
    if low == high:
        return f"{trace.name}: {shown(low, trace.unit)} throughout."
    return (
        f"{trace.name}: {shown(low, trace.unit)} to {shown(high, trace.unit)}, begins at "
        f"{shown(float(y[0]), trace.unit)}, ends at {shown(float(y[-1]), trace.unit)}."
    )
