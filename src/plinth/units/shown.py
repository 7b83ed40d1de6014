"""Writing quantities: engineering prefixes, sensible digits, uncertainty beside the value."""

import functools
import math

from plinth.units.prefixes import PREFIXES

_UNIT_SIGNS = {"ohm": "Ω", "K/W": "K/W"}
_NO_PREFIX = {"A²s", "K", "W/K", "m2", "V/V", "1/K", "J/K", "mV", "°C", "%", "dB", "", "deg", "°", "K/W", "×"}
MINUS = "\u2212"
# A spread of less than this share of the last digit that is shown is none.
BELOW_DIGIT = 0.01


def unit_sign(unit: str) -> str:
    """The sign shown for a unit: Ω for ohm, else the unit itself."""
    return _UNIT_SIGNS.get(unit, unit)


# The same limits and readings are written anew at every step of a slider.
@functools.lru_cache(maxsize=4096)
def split(value: float, unit: str, digits: int = 3) -> tuple[str, str]:
    """(number, unit with prefix) with ``digits`` significant digits: 0.0123 A -> ("12.3", "mA")."""
    if math.isnan(value):
        return "–", unit_sign(unit)
    if math.isinf(value):
        return ("∞" if value > 0 else f"{MINUS}∞"), unit_sign(unit)
    if (
        (abs(value) < 1e12 and (unit in _NO_PREFIX))
        or (unit == "W" and abs(value) < 1e3)
        or (unit == "VA" and abs(value) < 1e3)
    ):
        return _significant(value, digits), unit_sign(unit)
    if value == 0.0:
        return "0", unit_sign(unit)
    if not 1e-15 <= abs(value) < 1e15:
        # Beyond all prefixes: nothing that was ever kept may fail to be shown.
        return f"{value:.{digits - 1}e}".replace("-", MINUS), unit_sign(unit)
    import quantiphy  # slow to import, and not needed where figures leave as plain numbers

    text = quantiphy.Quantity(value, "").render(show_units=False, prec=digits - 1, strip_zeros=False)
    prefix = text[-1] if text[-1].isalpha() else ""
    number = text[: len(text) - len(prefix)]
    prefix = "µ" if prefix == "u" else prefix
    return number.replace("-", MINUS), prefix + unit_sign(unit)


def _significant(value: float, digits: int) -> str:
    if value == 0.0:
        return "0"
    places = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    return f"{value:.{places}f}".replace("-", MINUS)


def shown(value: float, unit: str, digits: int = 3) -> str:
    """Number and unit: ``34.6 V``, ``12.3 mA``, ``4.70 kΩ``."""
    number, sign = split(value, unit, digits)
    return f"{number} {sign}".strip()


def shown_with_spread(value: float, spread: float, unit: str) -> str:
    """Value and 95 % spread with matching digits: ``57.8 ±1.4 W``. No spread shown for 0."""
    if not math.isfinite(value) or not math.isfinite(spread) or spread <= 0.0:
        return shown(value, unit)
    scale, sign = _scale(value, unit)
    if abs(value / scale) >= 1e12 or spread / scale >= 1e12:
        return f"{shown(value, unit)} ±{shown(spread, unit)}"
    number, places = value / scale, _places(spread / scale, value / scale)
    if spread / scale < BELOW_DIGIT * 10.0**-places:
        # Binary digits, not knowledge.
        return shown(value, unit)
    return f"{number:.{places}f} ±{max(spread / scale, 10.0**-places):.{places}f} {sign}".strip().replace("-", MINUS)


def _scale(value: float, unit: str) -> tuple[float, str]:
    if unit in _NO_PREFIX or value == 0.0 or (unit in ("W", "VA") and abs(value) < 1e3):
        return 1.0, unit_sign(unit)
    _, sign = split(value, unit)
    prefix = sign[: len(sign) - len(unit_sign(unit))]
    return PREFIXES[prefix], sign


def _places(spread: float, value: float) -> int:
    """Decimals so that the spread has two figures below 3 of its leading digit, else one; at most 4 figures."""
    # By its digits: a power of ten that small or large cannot be divided by.
    mantissa, exponent = f"{spread:.15e}".split("e")
    leading = int(exponent)
    figures = 2 if float(mantissa) < 3.0 else 1
    wanted = max(0, figures - 1 - leading)
    room = max(0, 3 - (math.floor(math.log10(abs(value))) if value else 0))
    return min(wanted, room)
