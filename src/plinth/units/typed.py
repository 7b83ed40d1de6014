"""Reading typed quantities: ``4k7``, ``6800u``, ``0R22``, ``26,4``, ``7.4mV``, ``1.2 kohm``, ``35-0-35``, ``>100``.

What could be meant in two ways is never taken in one of them without a question: ``1,200`` (a comma for a point, or
for thousands), a capital M or K where the unit hardly has it. What no bench can show is refused.
"""

import dataclasses
import math
import re

from plinth.units.bounds import Bound
from plinth.units.errors import AmbiguousError, QuantityError
from plinth.units.prefixes import table_of
from plinth.units.shown import shown

LONGEST = 48
# In SI units: below this nothing at a bench is told from 0 (a picofarad is a thousand times as much).
SMALLEST = 1e-15

_SIGNS = "pnuµμmkKMG"
_PREFIX = table_of(_SIGNS)
_UNITS = {
    "ohm": ("ohm", "ohms", "Ω", "Ω", "r"),
    "V": ("v", "volt", "volts"),
    "A": ("a", "amp", "amps"),
    "W": ("w", "watt", "watts"),
    "VA": ("va",),
    "F": ("f", "farad"),
    "H": ("h", "henry"),
    "Hz": ("hz", "hertz"),
    "s": ("s", "sec", "seconds"),
    "°C": ("°c", "c", "degc", "℃"),
    "dB": ("db",),
    "%": ("%",),
    "": (),
}


@dataclasses.dataclass(frozen=True)
class _Kind:
    """Prefixes that a unit really has at the bench, and the least and most that a reading of it can be."""

    prefixes: str
    least: float
    most: float


_KINDS = {
    "ohm": _Kind("mkKMG", -1.0, 1e12),
    "V": _Kind("uµμmkK", -5e3, 5e3),
    "A": _Kind("nuµμm", -1e3, 1e3),
    "W": _Kind("uµμmkK", -1e5, 1e5),
    "VA": _Kind("mkK", -1e5, 1e5),
    "F": _Kind("pnuµμm", 0.0, 1e3),
    "H": _Kind("nuµμm", 0.0, 1e3),
    "Hz": _Kind("mkKMG", 0.0, 1e9),
    "s": _Kind("nuµμm", 0.0, 1e7),
    "°C": _Kind("", -273.15, 3e3),
    "dB": _Kind("", -300.0, 300.0),
    "%": _Kind("", -1e4, 1e6),
    "": _Kind("mkKM", -1e12, 1e12),
}
_KELVIN = 273.15
_NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d*)*|[.,]\d+)(?:[eE][+-]?\d+)?"
_INFIX = re.compile(r"^([+\-−]?\d+)([pnuµμmkKMGRrΩ])(\d+)(?![\d.,])\s*(.*)$")
_PLAIN = re.compile(rf"^({_NUMBER})\s*(.*)$")
_SPACED = re.compile(r"(?<=\d) (?=\d{3}(?!\d))")
_COMMA = re.compile(r"[+-]?[1-9]\d{0,2},\d{3}")
_BOUNDS = (
    (Bound.ABOVE, (">=", "≥", ">", "over", "above", "more than")),
    (Bound.BELOW, ("<=", "≤", "<", "under", "below", "less than")),
    (Bound.ABOUT, ("≈", "~", "about", "around", "some", "ca.", "ca")),
)
OVERLOAD = ("ol", "o.l", "0l", "0.l", ".ol", "overload", "over range", "open", "∞")


@dataclasses.dataclass(frozen=True)
class Quantity:
    """``value`` in SI, and whether it is only a bound. ``overload``: beyond the meter's range, ``value`` means nothing.

    ``note`` says how something unusual was understood (empty: nothing was). ``bare``: no unit, no prefix typed.
    """

    value: float
    bound: Bound = Bound.NONE
    overload: bool = False
    note: str = ""
    bare: bool = False


def read_number(text: str) -> float:
    """A number with either decimal sign: ``26.4``, ``26,4``, ``−4``, ``1e-3``. Raises QuantityError.

    AmbiguousError for one comma before just three digits: it may be a point, or part thousands.
    """
    shown_text = _short(text)
    cleaned = text.strip().replace("−", "-").replace("\u202f", "").replace("\u00a0", "").replace(" ", "")
    if len(cleaned) > LONGEST:
        raise QuantityError(f"found {len(cleaned)} characters, expected a number such as 26.4 or 26,4")
    if _COMMA.fullmatch(cleaned):
        point, thousands = cleaned.replace(",", "."), cleaned.replace(",", "")
        raise AmbiguousError(
            f"found {shown_text}, expected to know whether its comma is a point ({float(point):g}) or parts thousands: "
            f"type {point.rstrip('0').rstrip('.')} or {thousands}",
            (float(point), float(thousands)),
        )
    if re.fullmatch(r"[+-]?[1-9]\d{0,2}(?:(?:,\d{3})+\.\d*|(?:,\d{3}){2,})", cleaned):
        cleaned = cleaned.replace(",", "")
    elif re.fullmatch(r"[+-]?\d{1,3}(?:\.\d{3})+,\d*", cleaned):
        cleaned = cleaned.replace(".", "").replace(",", ".")
    else:
        cleaned = cleaned.replace(",", ".")
    try:
        value = float(cleaned) if "_" not in cleaned else math.nan
    except ValueError as error:
        raise QuantityError(f"found {shown_text}, expected a number such as 26.4 or 26,4") from error
    if not math.isfinite(value):
        raise QuantityError(f"found {shown_text}, expected a finite number")
    return value


def read_quantity(text: str, unit: str, bare_prefix: str = "") -> float:
    """The value in SI of a text typed where ``unit`` (``ohm``, ``V``, ``A``, ...) is asked for.

    ``bare_prefix`` is the prefix meant when none is typed (``m`` where the meter shows millivolts).
    Raises QuantityError, naming what was found and what was expected; bounds are refused.
    """
    quantity = understand_quantity(text, unit, bare_prefix)
    if quantity.bound is not Bound.NONE or quantity.overload:
        raise QuantityError(f"found {_short(text)}, which is only a bound, expected a value in {unit}")
    return quantity.value


def understand_quantity(text: str, unit: str, bare_prefix: str = "") -> Quantity:
    """As ``read_quantity``, for readings: bounds (``>100``, ``about 30``) and ``OL`` are understood as such."""
    stripped = " ".join(text.split()) if len(text) <= 4 * LONGEST else text.strip()
    if len(stripped) > LONGEST:
        raise QuantityError(f"found {len(stripped)} characters, expected a value such as {_example(unit, bare_prefix)}")
    if not stripped:
        raise QuantityError(f"found nothing, expected a value in {bare_prefix}{unit}")
    bound, rest = without_bound(stripped)
    if rest.lower() in OVERLOAD:
        if unit not in ("ohm", "F") and rest.lower() in ("open", "∞"):
            raise QuantityError(f"found {stripped!r}, expected a value in {unit}")
        return Quantity(0.0, Bound.ABOVE, True)
    value, note = _value(rest, unit, bare_prefix)
    kind = _KINDS[unit]
    if not kind.least <= value <= kind.most:
        raise QuantityError(
            f"found {stripped!r}, which is {shown(value, unit)}, expected {shown(kind.least, unit)} to "
            f"{shown(kind.most, unit)}: no reading at a bench lies outside"
        )
    if 0.0 < abs(value) < SMALLEST:
        raise QuantityError(f"found {stripped!r}, expected 0 or a value that a bench can show: no reading is so small")
    plain = _PLAIN.match(_SPACED.sub("", rest))
    return Quantity(value, bound, False, note, bare=plain is not None and not plain[2])


def without_bound(text: str) -> tuple[Bound, str]:
    """What bound a typed text begins with, and the rest of it."""
    lowered = text.lower()
    for bound, words in _BOUNDS:
        for word in words:
            rest = text[len(word) :].strip()
            if lowered.startswith(word) and rest and (not word[-1].isalpha() or not rest[0].isalpha()):
                return bound, rest
    return Bound.NONE, text


def _value(text: str, unit: str, bare_prefix: str) -> tuple[float, str]:
    text = _SPACED.sub("", text)
    infix = _INFIX.match(text)
    if infix:
        whole, letter, part, rest = infix.groups()
        if _read_suffix(rest, unit, text):
            raise QuantityError(f"found {text!r} with two prefixes, expected one, such as {_example(unit, '')}")
        if letter in "RrΩ" and unit != "ohm":
            raise QuantityError(f"found {text!r} (ohms), expected a value in {bare_prefix}{unit}")
        scale = 1.0 if letter in "RrΩ" else _PREFIX[letter]
        if letter not in "RrΩ":
            _hold_to_bench(letter, unit, text, read_number(f"{whole}.{part}"))
        return read_number(f"{whole}.{part}") * scale, ""
    plain = _PLAIN.match(text)
    if not plain:
        raise QuantityError(
            f"found {text!r}, expected a number with or without a unit, such as {_example(unit, bare_prefix)}"
        )
    number, rest = plain.groups()
    if unit == "°C" and rest in ("K", "k", "°K", "kelvin"):
        kelvin = read_number(number)
        return kelvin - _KELVIN, f"{kelvin:g} K taken as kelvin, {kelvin - _KELVIN:.3g} °C"
    prefix = _read_suffix(rest, unit, text)
    if prefix:
        _hold_to_bench(prefix, unit, text, _tolerant(number))
    try:
        return read_number(number) * _PREFIX[bare_prefix if prefix is None else prefix], ""
    except AmbiguousError as error:
        scale = _PREFIX[bare_prefix if prefix is None else prefix]
        raise AmbiguousError(str(error), tuple(value * scale for value in error.values)) from error


def _tolerant(number: str) -> float:
    try:
        return read_number(number)
    except AmbiguousError as error:
        return error.values[0]


def _hold_to_bench(prefix: str, unit: str, text: str, number: float) -> None:
    """Refuse a prefix that the unit hardly has, and offer the one that was probably meant."""
    if prefix in _KINDS[unit].prefixes:
        return
    meant = {"M": "um" if unit == "F" else "m", "G": "", "p": "", "n": "u", "K": "", "k": ""}.get(prefix, "")
    offered = [sign for sign in meant if sign in _KINDS[unit].prefixes]
    words = " or ".join(f"{number:g} {sign.replace('u', 'µ')}{unit}" for sign in offered)
    wide = {"M": "mega", "G": "giga", "p": "pico", "n": "nano", "k": "kilo", "K": "kilo"}.get(prefix, prefix)
    raise AmbiguousError(
        f"found {text!r}, with {prefix} for {wide}, which a reading in {unit} hardly has"
        + (f"; expected {words}: type which was meant" if words else f", expected such as {_example(unit, '')}"),
        tuple(number * _PREFIX[sign] for sign in offered),
    )


def _read_suffix(rest: str, unit: str, whole: str) -> str | None:
    """The prefix in what follows the number; None where nothing follows."""
    rest = rest.strip()
    if not rest:
        return None
    names = {name.lower() for name in _UNITS[unit]}
    if rest.lower() in names:
        return ""
    for prefix in _SIGNS:
        if rest.startswith(prefix):
            tail = rest[1:].strip().lower()
            if tail in names or tail == "":
                return prefix
    others = {name.lower(): label for label, many in _UNITS.items() for name in many}
    tail = (rest[1:] if len(rest) > 1 and rest[0] in _SIGNS else rest).strip().lower()
    meant = others.get(rest.lower()) or others.get(tail)
    if meant and meant != unit:
        raise QuantityError(f"found {whole!r} (in {meant}), expected a value in {unit}")
    raise QuantityError(f"found {whole!r}, expected a value in {unit} such as {_example(unit, '')}")


def _example(unit: str, prefix: str) -> str:
    return {"ohm": "0R22 or 4k7", "F": "6800u", "V": "7.4mV" if prefix == "m" else "26.4 V"}.get(
        unit, f"12.5 {prefix}{unit}".strip()
    )


def _short(text: str) -> str:
    stripped = text.strip()
    return repr(stripped) if len(stripped) <= LONGEST else f"{stripped[:20]!r} and {len(stripped) - 20} more characters"


def read_secondary(text: str) -> tuple[float, bool]:
    """Transformer secondaries as spoken: ``35-0-35`` or ``2x25``; (volts per half, has a centre tap)."""
    if len(text.strip()) > LONGEST:
        raise QuantityError(f"found {len(text.strip())} characters, expected a secondary such as 35-0-35 or 2x25")
    cleaned = text.strip().lower().rstrip("v").strip()
    tap = re.fullmatch(rf"({_NUMBER})\s*[-–]\s*0\s*[-–]\s*({_NUMBER})", cleaned)
    if tap:
        left, right = read_number(tap[1]), read_number(tap[2])
        if left != right:
            raise QuantityError(f"found {text.strip()!r}, expected two equal halves such as 35-0-35")
        return left, True
    two = re.fullmatch(rf"2\s*[x×]\s*({_NUMBER})", cleaned)
    if two:
        return read_number(two[1]), False
    raise QuantityError(f"found {text.strip()!r}, expected a secondary such as 35-0-35 or 2x25")
