"""Figures of a capture as a screen and a paper show them."""

from plinth.captures.figure import CaptureFigure
from plinth.captures.words import shown_unit
from plinth.units.shown import MINUS, shown, shown_with_spread, split

# What any capture has, whatever it is of.
OF_ANY = frozenset({"rows", "rows_used", "missing", "sample_rate_hz", "mean", "rms_ac"})


def value_words(figure: CaptureFigure) -> str:
    """A value with its spread, a ratio in decibels also as a share; no more digits than are known, and six at most."""
    unit = shown_unit(figure.name, figure.unit)
    if unit == "" and figure.spread == 0.0:
        return f"{figure.value:.10g}"
    if figure.spread < 1e-4 * abs(figure.value) and unit != "dB":
        words = shown(figure.value, unit, 6)
    elif figure.spread > abs(figure.value) > 0.0:
        # In the spread's own unit: microvolts known to millivolts are none.
        number, sign = split(figure.spread, unit, 2)
        own = figure.value * float(number) / figure.spread
        words = f"{own:.1f} ±{number} {sign}".strip().replace("-", MINUS)
    else:
        words = shown_with_spread(figure.value, figure.spread, unit)
    if unit == "dB" and ("thd" in figure.name or figure.name.startswith("h")) and figure.value < -6.0:
        words += f" ({100.0 * 10.0 ** (figure.value / 20.0):.3g} %)"
    return words
