"""Reading typed quantities: ``4k7``, ``6800u``, ``0R22``, ``31,2``, ``7.4mV``, ``1.2 kohm``, ``35-0-35``."""

import math
import re

from plinth.units.errors import QuantityError

_PREFIX = {
    "p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0,
    "k": 1e3, "K": 1e3, "M": 1e6, "G": 1e9,
}  # fmt: skip
_UNITS = {
    "ohm": ("ohm", "ohms", "Ω", "Ω", "r"),
    "V": ("v", "volt", "volts"),
    "A": ("a", "amp", "amps"),
    "W": ("w", "watt", "watts"),
    "F": ("f", "farad"),
    "Hz": ("hz", "hertz"),
    "s": ("s", "sec", "seconds"),
    "°C": ("°c", "c", "degc", "℃"),
    "dB": ("db",),
    "%": ("%",),
    "": (),
}
_NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?"
_INFIX = re.compile(r"^([+\-−]?\d+)([pnuµμmkKMGRrΩ])(\d+)\s*(.*)$")
_PLAIN = re.compile(rf"^({_NUMBER})\s*(.*)$")


def read_number(text: str) -> float:
    """A number with either decimal sign: ``31.2``, ``31,2``, ``−4``, ``1e-3``. Raises QuantityError."""
    cleaned = text.strip().replace("−", "-").replace("\u202f", "").replace("\u00a0", "").replace(" ", "")
    if re.fullmatch(r"[+-]?\d{1,3}(?:,\d{3})+\.\d*", cleaned):
        cleaned = cleaned.replace(",", "")
    elif re.fullmatch(r"[+-]?\d{1,3}(?:\.\d{3})+,\d*", cleaned):
        cleaned = cleaned.replace(".", "").replace(",", ".")
    else:
        cleaned = cleaned.replace(",", ".")
    try:
        value = float(cleaned)
    except ValueError as error:
        raise QuantityError(f"found {text.strip()!r}, expected a number such as 31.2 or 31,2") from error
    if not math.isfinite(value):
        raise QuantityError(f"found {text.strip()!r}, expected a finite number")
    return value


def read_quantity(text: str, unit: str, bare_prefix: str = "") -> float:
    """The value in SI of a text typed where ``unit`` (``ohm``, ``V``, ``A``, ...) is asked for.

    ``bare_prefix`` is the prefix meant when none is typed (``m`` where the meter shows millivolts).
    Raises QuantityError, naming what was found and what was expected.
    """
    stripped = text.strip()
    if not stripped:
        raise QuantityError(f"found nothing, expected a value in {bare_prefix}{unit}")
    infix = _INFIX.match(stripped)
    if infix:
        whole, letter, part, rest = infix.groups()
        _read_suffix(rest, unit, stripped)
        if letter in "RrΩ" and unit != "ohm":
            raise QuantityError(f"found {stripped!r} (ohms), expected a value in {bare_prefix}{unit}")
        scale = 1.0 if letter in "RrΩ" else _PREFIX[letter]
        return read_number(f"{whole}.{part}") * scale
    plain = _PLAIN.match(stripped)
    if not plain:
        raise QuantityError(
            f"found {stripped!r}, expected a number with or without a unit, such as {_example(unit, bare_prefix)}"
        )
    number, rest = plain.groups()
    prefix = _read_suffix(rest, unit, stripped)
    if prefix is None:
        prefix = bare_prefix
    return read_number(number) * _PREFIX[prefix]


def _read_suffix(rest: str, unit: str, whole: str) -> str | None:
    """The prefix in what follows the number; None where nothing follows."""
    rest = rest.strip()
    if not rest:
        return None
    names = _UNITS[unit]
    for prefix in sorted(_PREFIX, key=len, reverse=True):
        if not rest.startswith(prefix):
            continue
        tail = rest[len(prefix) :].strip().lower()
        if tail in {name.lower() for name in names} or (tail == "" and prefix):
            return prefix
    others = {name.lower(): label for label, many in _UNITS.items() for name in many}
    tail = re.sub(r"^[pnuµμmkKMG]?(?=.)", "", rest).lower() or rest.lower()
    meant = others.get(rest.lower()) or others.get(tail)
    if meant and meant != unit:
        raise QuantityError(f"found {whole!r} (in {meant}), expected a value in {unit}")
    raise QuantityError(f"found {whole!r}, expected a value in {unit} such as {_example(unit, '')}")


def _example(unit: str, prefix: str) -> str:
    return {"ohm": "0R22 or 4k7", "F": "6800u", "V": "7.4mV" if prefix == "m" else "31.2 V"}.get(
        unit, f"12.5 {prefix}{unit}"
    )


def read_secondary(text: str) -> tuple[float, bool]:
    """Transformer secondaries as spoken: ``35-0-35`` or ``2x25``; (volts per half, has a centre tap)."""
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
