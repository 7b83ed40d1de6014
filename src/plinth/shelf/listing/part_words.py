"""What listings of transformers, reservoirs and modules say besides power: which words, which property."""

import re
from collections.abc import Iterator

from plinth.shelf.listing import vocabulary as v
from plinth.shelf.listing.numbers import NUM, meanings, possible
from plinth.shelf.listing.words import OHM, ListingWords, Pattern, Reader, pattern, plain, scaled, word

_GAP = r"[^\d\n±+;]{0,28}?"
_PM = r"(?:±|\+\s*/?\s*[-−]|plus/minus\s*)"
_V = r"V(?:DC|AC|olts?)?(?![a-zA-Z])"


# What mains are called, V: two windings for one of them are a primary.
_MAINS_V = frozenset({100.0, 110.0, 115.0, 117.0, 120.0, 220.0, 230.0, 240.0})


def _halves(kind: str) -> Reader:
    def read(match: re.Match[str]) -> Iterator[ListingWords]:
        if kind == "two" and meanings(match[1])[0] in _MAINS_V:
            yield "v_primary_rms", possible(match[1], "v_primary_rms")
            return
        yield "secondaries", kind
        yield "v_secondary_rms", possible(match[1], "v_secondary_rms")

    return read


def _twice(match: re.Match[str]) -> Iterator[ListingWords]:
    if match[1] == match[2]:
        volts = possible(match[1], "v_secondary_rms")
        if volts and volts[0] < 90.0:
            yield "secondaries", "two"
            yield "v_secondary_rms", volts


def _primaries(match: re.Match[str]) -> Iterator[ListingWords]:
    yield "v_primary_rms", possible(match[1], "v_primary_rms")


def _winding_amperes(match: re.Match[str]) -> Iterator[ListingWords]:
    if not re.search(r"(?:fuse|sicherung|fusible|fusibile)\D{0,12}$", match.string[: match.start()], re.IGNORECASE):
        yield "amperes", possible(match[1], "amperes")


def _rails(match: re.Match[str]) -> Iterator[ListingWords]:
    ends = [possible(match[place], "v_rail_min") for place in (1, 2)]
    if all(ends):
        low, high = sorted(end[0] for end in ends)
        yield "v_rail_min", low
        yield "v_rail_max", high


def _band(match: re.Match[str]) -> Iterator[ListingWords]:
    yield "f_low_hz", possible(match[1], "f_low_hz")
    yield "f_high_hz", possible(match[2], "f_high_hz", 1e3 if (match[3] or "").lower() == "k" else 1.0)


def _bias(match: re.Match[str]) -> Iterator[ListingWords]:
    yield "bias.listed_mv", possible(match[1], "bias.listed_mv")
    yield "bias.r_listed_ohm", possible(match[2], "bias.r_listed_ohm")


def _gain_db(match: re.Match[str]) -> Iterator[ListingWords]:
    yield "gain", round(10.0 ** (meanings(match[1])[0] / 20.0), 2)


def _distortion(match: re.Match[str]) -> Iterator[ListingWords]:
    percent = possible(match[1], "thd_percent")
    yield "thd_percent", percent
    # One and ten per cent say how far a power was driven.
    if percent not in ((1.0,), (10.0,)) and not re.search(rf"\d\s*{OHM}", match.group(), re.IGNORECASE):
        yield "thd_without_load", match.group().strip()


_LOADS = rf"{NUM}\s*(?:{OHM})?\s*{v.TO}\s*\d{{1,2}}(?:[.,]\d)?\s*{OHM}"
TRANSFORMER: tuple[Pattern, ...] = (
    pattern(rf"{NUM}\s*(k?)VA\b", scaled("va", {"": 1.0, "k": 1e3})),
    pattern(rf"{v.PRIMARY}{_GAP}{NUM}\s*V", _primaries),
    pattern(rf"{NUM}\s*V(?:AC)?\s*{v.PRIMARY}", _primaries),
    pattern(rf"\b0\s*V?\s*-\s*{NUM}\s*V?\s*[,/+ ]\s*0\s*V?\s*-\s*{NUM}\s*V", _twice),
    pattern(rf"\b{NUM}\s*V?\s*-\s*0\s*-\s*\d+(?:[.,]\d+)?\s*V?", _halves("centre_tap")),
    pattern(rf"\b{NUM}\s*V\s*\+\s*{NUM}\s*V", _twice),
    pattern(rf"(?:\b2\s*[x×*]\s*|\b{v.TWO}\s+(?:{v.SECONDARY}\s+)?(?:de|da|zu|of)?\s*){NUM}\s*V", _halves("two")),
    pattern(rf"{NUM}\s*V\s*{v.TWO}\b", _halves("two")),
    pattern(r"\b(2[234]0|1[12][057])\s*V", _primaries),
    pattern(rf"{v.REGULATION}{_GAP}{NUM}\s*%", plain("regulation", 0.01)),
    pattern(v.TOROID, word("core", "toroid")),
    pattern(v.LAMINATED, word("core", "ei")),
    pattern(rf"{NUM}\s*A(?![a-zA-Z])", _winding_amperes),
)
RESERVOIR: tuple[Pattern, ...] = (
    pattern(rf"{NUM}\s*(u|µ|μ|m|)F(?![a-zA-Z])", scaled("c_f", {"u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0})),
    pattern(rf"{NUM}\s*(?:MFD|mfd|MF)\b", plain("c_f", 1e-6)),
    pattern(rf"{NUM}\s*W?V(?:DC)?\b", plain("v_rated")),
    pattern(rf"ESR{_GAP}{NUM}\s*(m?)\s*{OHM}", scaled("esr_ohm", {"": 1.0, "m": 1e-3})),
    pattern(rf"{v.RIPPLE}{_GAP}{NUM}\s*(m?)A", scaled("i_ripple_rated_a", {"": 1.0, "m": 1e-3})),
    pattern(rf"{_PM}\s*{NUM}\s*%", plain("c_tol", 0.01)),
)
MODULE: tuple[Pattern, ...] = (
    pattern(rf"{v.DISTORTION}{_GAP}{NUM}\s*%[^\n;±+]{{0,40}}", _distortion),
    pattern(rf"{v.RESPONSE}{_GAP}{NUM}\s*(?:Hz)?\s*{v.TO}\s*{NUM}\s*(k?)Hz", _band),
    pattern(rf"{_PM}\s*{NUM}\s*(?:{_V})?\s*{v.TO}\s*(?:{_PM})?\s*{NUM}\s*{_V}", _rails),
    pattern(rf"(?:{v.MOST}){_GAP}{_PM}\s*{NUM}\s*{_V}", plain("v_rail_max")),
    pattern(rf"{_PM}\s*{NUM}\s*{_V}\s*\(?{v.MOST}", plain("v_rail_max")),
    pattern(rf"{_PM}\s*{NUM}\s*{_V}", plain("v_rail_nominal")),
    pattern(rf"{v.OFFSET}{_GAP}(?:\d{{1,3}}(?:[.,]\d)?\s*{v.TO}\s*)?{NUM}\s*mV", plain("offset_max_v", 1e-3)),
    pattern(rf"{v.GAIN}{_GAP}{NUM}\s*dB", _gain_db),
    pattern(rf"{v.GAIN}{_GAP}{NUM}(?!\s*dB|[\d.,]*\s*dB)\s*{v.TIMES}?", plain("gain")),
    pattern(rf"{v.SENSITIVITY}{_GAP}{NUM}\s*(m?)V", scaled("sensitivity_v_rms", {"": 1.0, "m": 1e-3})),
    pattern(rf"{v.INPUT_RESISTANCE}{_GAP}{NUM}\s*(k?)\s*{OHM}?", scaled("r_input_ohm", {"": 1.0, "k": 1e3})),
    pattern(rf"{v.SLEW}{_GAP}{NUM}\s*V\s*/\s*[uµμ]s", plain("slew_v_per_s", 1e6)),
    pattern(rf"{v.SWITCHING}{_GAP}{NUM}\s*(k|M)Hz", scaled("f_switching_hz", {"k": 1e3, "m": 1e6})),
    pattern(rf"{NUM}\s*mV\s*{v.ACROSS}\s*(?:the |a |each )?{NUM}\s*{OHM}", _bias),
    pattern(rf"{v.QUIESCENT}{_GAP}{NUM}\s*(m?)A\b", scaled("i_quiescent_stated_a", {"": 1.0, "m": 1e-3})),
    pattern(rf"(?:{v.LEAST}[- ]?{v.LOAD}|{v.LOAD}\s*{v.LEAST}|≥){_GAP}{NUM}\s*{OHM}", plain("r_load_min_ohm")),
    pattern(rf"{v.LOAD}{_GAP}{_LOADS}", plain("r_load_min_ohm")),
    pattern(rf"{v.EFFICIENCY}{_GAP}{NUM}\s*%", plain("efficiency", 0.01)),
    pattern(v.MUSIC, word("pmpo", "yes")),
    pattern(rf"\b{v.CLASS}[- ]?AB\b", word("class", "AB")),
    pattern(rf"\b{v.CLASS}[- ]?D\b", word("class", "D")),
    pattern(rf"\b{v.CLASS}[- ]?A\b(?!B)", word("class", "A")),
)
# One rail: a range without a sign of both, where only one supply is spoken of.
SINGLE_RAIL: tuple[Pattern, ...] = (
    pattern(rf"(?<![±+\-−\d.,])\b{NUM}\s*(?:{_V})?\s*{v.TO}\s*{NUM}\s*{_V}", _rails),
    pattern(rf"(?:{v.SINGLE}|{v.SUPPLY}|DC){_GAP}{NUM}\s*{_V}", plain("v_rail_nominal")),
)
CLASS_D: tuple[Pattern, ...] = (
    pattern(v.HALF_BRIDGE, word("bridge", "half")),
    pattern(v.FULL_BRIDGE, word("bridge", "full")),
    *MODULE,
)
