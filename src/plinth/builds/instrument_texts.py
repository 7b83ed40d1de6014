"""An instrument's accuracy as its data sheet states it, read and written: ``2 mV``, ``3 digits``, ``4 V/1 mV``."""

import re

from plinth.builds.instruments import Instrument, Range
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_number, read_quantity

MOST_SHARE = 0.9
MOST_DIGITS = 1000.0
LEAST_BANDWIDTH_HZ = 100.0
_DIGITS = re.compile(r"(?P<number>[\d.,]+)\s*(?:digits?|dgts?|counts?)", re.IGNORECASE)


def read_accuracy(text: str) -> float | None:
    """Per cent of the reading, as a share; None of an empty text: not stated. Raises QuantityError."""
    if not text.strip():
        return None
    share = read_number(text.strip().rstrip("% ")) / 100.0
    if not 0.0 <= share <= MOST_SHARE:
        raise QuantityError(f"found {text.strip()}, expected 0 to 90 %")
    return share


def read_fixed(text: str, unit: str) -> tuple[float, float]:
    """The fixed part: (in its unit, in last digits), one or both: ``2 mV``, ``3 digits``, ``2 mV + 3 digits``.

    Raises QuantityError.
    """
    floor = digits = 0.0
    for part in (entry.strip() for entry in text.split("+")):
        counted = _DIGITS.fullmatch(part)
        if counted is not None:
            digits += read_number(counted["number"])
        elif part:
            floor += read_quantity(part, unit)
    if floor < 0.0:
        raise QuantityError(f"found {text.strip()}, expected 0 or more")
    if digits > MOST_DIGITS:
        raise QuantityError(f"found {digits:g} digits, expected at most {MOST_DIGITS:g}")
    return floor, digits


def read_ranges(text: str, unit: str) -> tuple[Range, ...]:
    """Ranges, each its top and its last digit: ``4 V/1 mV; 40 V/10 mV``. Raises QuantityError."""
    ranges = []
    for part in (entry.strip() for entry in re.split(r"[;\n]", text)):
        if not part:
            continue
        top, slash, digit = part.partition("/")
        if not slash:
            raise QuantityError(f"found {part!r}, expected a range's top and its last digit, such as 4/0.001")
        top_and_digit = Range.model_construct(top=read_quantity(top, unit), digit=read_quantity(digit, unit))
        if not 0.0 < top_and_digit.digit < top_and_digit.top:
            raise QuantityError(f"found {part!r}, expected a last digit above 0 and below the range's top")
        ranges.append(top_and_digit)
    tops = [span.top for span in ranges]
    if len(set(tops)) < len(tops):
        raise QuantityError(f"found {text.strip()!r}, expected each range once")
    return tuple(sorted(ranges, key=lambda span: span.top))


def read_bandwidth(text: str) -> float | None:
    """Where its own reading of AC volts has fallen by 3 dB, Hz; None of an empty text. Raises QuantityError."""
    if not text.strip():
        return None
    hertz = read_quantity(text, "Hz")
    if hertz < LEAST_BANDWIDTH_HZ:
        raise QuantityError(f"found {text.strip()}, expected a bandwidth of at least {LEAST_BANDWIDTH_HZ:g} Hz")
    return hertz


def accuracy_text(instrument: Instrument) -> str:
    """As ``read_accuracy`` reads it; empty where it is not stated."""
    return "" if instrument.accuracy is None else f"{100 * instrument.accuracy:g}"


def fixed_text(instrument: Instrument) -> str:
    """As ``read_fixed`` reads it."""
    digits = f"{instrument.digits:g} digits" if instrument.digits else ""
    floor = "" if digits and not instrument.floor else _plain(instrument.floor, instrument.role.unit)
    return " + ".join(part for part in (floor, digits) if part)


def ranges_text(instrument: Instrument) -> str:
    """As ``read_ranges`` reads it."""
    unit = instrument.role.unit
    return "; ".join(f"{_plain(span.top, unit)}/{_plain(span.digit, unit)}" for span in instrument.ranges)


def bandwidth_text(instrument: Instrument) -> str:
    """As ``read_bandwidth`` reads it; empty where it is not stated."""
    return "" if instrument.bandwidth_hz is None else shown(instrument.bandwidth_hz, "Hz")


def _plain(value: float, unit: str) -> str:
    return f"{value:g} {unit}".strip()
