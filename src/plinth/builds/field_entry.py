"""A part's field as it is written and typed: in units of the trade (mH, V/µs, mm², cm²), and as one says it.

What may mean two things is asked, with both to type: ``2x10000u`` (two on each rail, or one), ``0.3`` farad.
"""

import re

from plinth.builds.fields import YES_OR_NO, PartField
from plinth.builds.listed import LISTED
from plinth.builds.parts import Part
from plinth.builds.supply_parts import Transformer
from plinth.units.errors import AmbiguousError, QuantityError
from plinth.units.shown import MINUS, shown, split, unit_sign
from plinth.units.typed import read_number, read_quantity, read_secondary

# Units that engineers put a prefix to.
_PREFIXED = ("ohm", "V", "A", "W", "F", "Hz", "s", "H")
# Units of the trade: how a field is written, and what else it may be typed in; sizes in the field's own unit.
_AREA = {"m²": 1.0, "m2": 1.0, "cm²": 1e-4, "cm2": 1e-4, "mm²": 1e-6, "mm2": 1e-6, "qmm": 1e-6}
_LENGTH = {"m": 1.0, "cm": 1e-2, "mm": 1e-3, "µm": 1e-6, "um": 1e-6}
_SLEW = {"V/µs": 1e6, "V/us": 1e6, "V/μs": 1e6, "V/s": 1.0, "kV/s": 1e3, "V/ms": 1e3}
_TRADE: dict[str, tuple[str, dict[str, float]]] = {
    "slew_v_per_s": ("V/µs", _SLEW),
    "a_m2": ("mm²", _AREA), "a_cable_m2": ("mm²", _AREA), "a_device_m2": ("mm²", _AREA),
    "a_core_m2": ("mm²", _AREA), "area_m2": ("cm²", _AREA),
    "air_gap_m": ("mm", _LENGTH), "d_wire_m": ("mm", _LENGTH), "cable_m": ("m", _LENGTH), "length_m": ("m", _LENGTH),
}  # fmt: skip
# A bare number in these is never what is meant: nobody winds a henry or buys a farad without saying so.
_NEVER_BARE = ("F", "H")


def trade_unit(field: PartField) -> str:
    """The unit that a field is written in; empty for words, and where a prefix goes with the value."""
    if field.path in _TRADE:
        return _TRADE[field.path][0]
    return "" if field.unit in _PREFIXED else unit_sign(field.unit)


def field_text(field: PartField, value: object) -> str:
    """A value as it stands in its field: ``10 mF``, ``18 V/µs``, ``1.5 mm²``; a fraction is in per cent."""
    if value is None:
        return ""
    if field.path in LISTED:
        return LISTED[field.path][0](value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if not isinstance(value, float):
        return str(value)
    if field.per_cent:
        return f"{100.0 * value:g} %"
    if field.path in _TRADE:
        sign, sizes = _TRADE[field.path]
        return f"{value / sizes[sign]:g} {sign}"
    if field.unit in _PREFIXED:
        number, sign = split(value, field.unit, 6)
        return f"{number.rstrip('0').rstrip('.') if '.' in number else number} {sign}".replace(MINUS, "-")
    return f"{value:g} {unit_sign(field.unit)}".strip()


def field_value(field: PartField, text: str, part: Part | None = None) -> object:
    """The value of a typed text; ``part`` whose it is, where that says more of what was meant.

    Raises QuantityError for nonsense, AmbiguousError for what may be two things; empty is None where that is allowed.
    """
    text = text.strip()
    if field.path in LISTED:
        return LISTED[field.path][1](text)
    if not text and field.optional:
        return None
    if field.choices == YES_OR_NO:
        return text == "yes"
    if not field.number:
        return text
    if field.path == "v_secondary_rms" and any(sign in text for sign in "-–x×"):
        return read_secondary(text)[0]
    if field.per_cent:
        return read_number(text.rstrip("% ")) / 100.0
    if field.path in _TRADE:
        return _of_the_trade(field.path, text)
    if field.path.startswith("turns_") and "+" in text:
        return _halves(text)
    if field.path == "va" and re.search(r"\d\s*m?A$", text):
        raise _amperes_for_va(text, part)
    if field.unit == "F" and (several := re.fullmatch(r"(\d)\s*[x×*]\s*(.+)", text)):
        raise _several(several, text)
    if field.unit in _NEVER_BARE and re.fullmatch(r"[\d.,]*[1-9][\d.,]*", text):
        offered = ", ".join(f"{text} {prefix}{field.unit}" for prefix in ("µ", "m", ""))
        raise AmbiguousError(f"found {text!r} without a unit, expected one of {offered}: type which", ())
    if field.unit in _PREFIXED:
        return read_quantity(text, field.unit)
    return read_number(text.removesuffix(field.unit).removesuffix(unit_sign(field.unit)).strip() or text)


def _of_the_trade(path: str, text: str) -> float:
    sign, sizes = _TRADE[path]
    for name in sorted(sizes, key=len, reverse=True):
        if text.endswith(name):
            return read_number(text[: -len(name)].strip()) * sizes[name]
    return read_number(text) * sizes[sign]


def _halves(text: str) -> float:
    """``3+3`` turns: of each half."""
    halves = [read_number(entry) for entry in text.split("+")]
    if len(halves) != 2 or halves[0] != halves[1]:
        raise QuantityError(f"found {text!r}, expected the turns of each half, alike: 3+3, or 3")
    return halves[0]


def _several(match: re.Match[str], text: str) -> AmbiguousError:
    count, each = int(match[1]), read_quantity(match[2], "F")
    return AmbiguousError(
        f"found {text!r}, expected to know whether {count} stand in parallel ({shown(count * each, 'F')} in all) or "
        f"one on each rail ({shown(each, 'F')}): type {shown(count * each, 'F')} or {shown(each, 'F')}",
        (count * each, each),
    )


def _amperes_for_va(text: str, part: Part | None) -> QuantityError:
    """A small transformer is sold by its amperes: what that is in volt-amperes, to type."""
    said = re.fullmatch(r"(?:2\s*[x×*]\s*)?(.+)", text)
    amperes = read_quantity(said[1] if said else text, "A")
    if not isinstance(part, Transformer):
        return QuantityError(f"found {text!r}, expected volt-amperes: all windings' volts times their amperes")
    volts, halves = part.v_secondary_rms, 1 if part.secondaries == "one" else 2
    sum_ = f"{halves} × {volts:g} V" if halves > 1 else f"{volts:g} V"
    return QuantityError(
        f"found {text!r}, expected volt-amperes: with {sum_} that is {halves * volts * amperes:.3g} VA; type that"
    )
