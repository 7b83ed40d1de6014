"""Parameters: numbers with units, switches, words."""

import math
import re

from plinth.simulated_bench.scpi.errors import ScpiError

_NUMBER = re.compile(r"^([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([A-Za-z]*)$")
# IEEE 488.2, 7.7.3: M is a thousandth, but a million before HZ and OHM; MA a million anywhere.
_MULTIPLIERS = {"": 1.0, "EX": 1e18, "PE": 1e15, "T": 1e12, "G": 1e9, "MA": 1e6, "K": 1e3, "M": 1e-3, "U": 1e-6,
                "N": 1e-9, "P": 1e-12}  # fmt: skip


def number(text: str, unit: str, low: float, high: float, default: float) -> float:
    """A number in ``unit`` (capitals) between bounds; MINimum, MAXimum and DEFault stand for theirs.

    Raises ScpiError: -104 where it is none, -131 for another unit, -222 outside.
    """
    word = text.upper()
    for short, whole, value in (("MIN", "MINIMUM", low), ("MAX", "MAXIMUM", high), ("DEF", "DEFAULT", default)):
        if word in (short, whole):
            return value
    match = _NUMBER.match(text.strip())
    if match is None:
        raise ScpiError(-104, f"found {text[:20]}, expected a number")
    value = float(match.group(1)) * _multiplier(match.group(2).upper(), unit)
    if not math.isfinite(value) or not low <= value <= high:
        raise ScpiError(-222, f"found {value:g}, expected {low:g} to {high:g}")
    return value


def _multiplier(suffix: str, unit: str) -> float:
    if not suffix:
        return 1.0
    if not unit or not suffix.endswith(unit):
        raise ScpiError(-131, f"found {suffix}, expected {unit or 'none'}")
    prefix = suffix[: len(suffix) - len(unit)]
    if prefix == "M" and unit in ("HZ", "OHM"):
        return 1e6
    if prefix not in _MULTIPLIERS:
        raise ScpiError(-131, f"found {suffix}, expected {unit}")
    return _MULTIPLIERS[prefix]


def switch(text: str) -> bool:
    """ON, OFF or a number, 0 for off. Raises ScpiError -104."""
    word = text.upper()
    if word in ("ON", "OFF"):
        return word == "ON"
    match = _NUMBER.match(word)
    if match is None or match.group(2):
        raise ScpiError(-104, f"found {text[:20]}, expected ON or OFF")
    return round(float(match.group(1))) != 0


def choice(text: str, forms: tuple[str, ...]) -> str:
    """The word of ``forms`` (their short form in capitals) that ``text`` is. Raises ScpiError -141."""
    word = text.upper()
    for form in forms:
        if word in (form.upper(), "".join(letter for letter in form if not letter.islower())):
            return form
    raise ScpiError(-141, f"found {text[:20]}, expected {', '.join(forms)}")


def shown(value: float) -> str:
    """As NR3, with a digit for every ten millionth."""
    return f"{value:+.7E}" if math.isfinite(value) else "+9.9E37"
