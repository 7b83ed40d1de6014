"""What a listing says, found anywhere in its text: in a table, a sentence or a title line, with point or comma."""

import dataclasses
import re
from collections.abc import Callable, Iterator

# Whole numbers, never the tail of one; none is longer, so that a page of digits is passed over at once.
NUM = r"((?<!\d)\d{1,9}(?:[.,]\d{1,9})?)"
OHM = r"(?:Ω|Ω|ohms?\b|R\b)"
_GAP = r"[^\d\n±+]{0,28}?"


@dataclasses.dataclass(frozen=True)
class Found:
    """A property at (dotted) ``path`` (or a fact that is none), its SI value, and the words it came from."""

    path: str
    value: float | str
    words: str


Reader = Callable[[re.Match[str]], Iterator[tuple[str, float | str]]]


@dataclasses.dataclass(frozen=True)
class Pattern:
    """``form`` what is looked for, ``read`` what it says."""

    form: re.Pattern[str]
    read: Reader


def number(text: str) -> float:
    """A number with either decimal sign."""
    return float(text.replace(",", "."))


def _plain(path: str, factor: float = 1.0) -> Reader:
    def read(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
        yield path, number(match[1]) * factor

    return read


def _scaled(path: str, sizes: dict[str, float]) -> Reader:
    def read(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
        yield path, number(match[1]) * sizes[(match[2] or "").lower()]

    return read


def _word(path: str, value: str) -> Reader:
    def read(_match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
        yield path, value

    return read


def _pattern(form: str, read: Reader) -> Pattern:
    return Pattern(re.compile(form, re.IGNORECASE), read)


def _halves(kind: str) -> Reader:
    def read(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
        yield "secondaries", kind
        yield "v_secondary_rms", number(match[1])

    return read


def _rails(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
    low, high = number(match[1]), number(match[2])
    yield "v_rail_min", min(low, high)
    yield "v_rail_max", max(low, high)


def _band(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
    yield "f_low_hz", number(match[1])
    yield "f_high_hz", number(match[2]) * (1e3 if (match[3] or "").lower() == "k" else 1.0)


def _claim(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
    yield "claim", f"{number(match[1]):g}/{number(match[2]):g}"


def _bias(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
    yield "bias.listed_mv", number(match[1])
    yield "bias.r_listed_ohm", number(match[2])


def _gain_db(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
    yield "gain", round(10.0 ** (number(match[1]) / 20.0), 2)


def _distortion(match: re.Match[str]) -> Iterator[tuple[str, float | str]]:
    yield "thd_percent", number(match[1])
    if not re.search(rf"\d\s*{OHM}", match.group(), re.IGNORECASE):
        yield "thd_without_load", match.group().strip()


TRANSFORMER = (
    _pattern(rf"{NUM}\s*(k?)VA\b", _scaled("va", {"": 1.0, "k": 1e3})),
    _pattern(rf"\b{NUM}\s*V?\s*-\s*0\s*-\s*\d+(?:[.,]\d+)?\s*V?", _halves("centre_tap")),
    _pattern(rf"(?:\b2\s*[x×*]\s*|\bdual\s+|\btwo\s+){NUM}\s*V", _halves("two")),
    _pattern(rf"{NUM}\s*V(?:AC)?\s*(?:primary|input|mains)", _plain("v_primary_rms")),
    _pattern(rf"(?:primary|input|mains){_GAP}{NUM}\s*V", _plain("v_primary_rms")),
    _pattern(rf"regulation{_GAP}{NUM}\s*%", _plain("regulation", 0.01)),
    _pattern(r"\btoroid(?:al)?\b", _word("core", "toroid")),
    _pattern(r"\bEI\b(?:[- ]core)?|\blaminated\b", _word("core", "ei")),
    _pattern(rf"(?:current|output|secondary|each|at){_GAP}(?:2\s*[x×*]\s*)?{NUM}\s*A\b", _plain("amperes")),
)  # fmt: skip
RESERVOIR = (
    _pattern(rf"{NUM}\s*(u|µ|μ|m)F\b", _scaled("c_f", {"u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3})),
    _pattern(rf"{NUM}\s*V(?:DC)?\b", _plain("v_rated")),
    _pattern(rf"ESR{_GAP}{NUM}\s*(m?){OHM}", _scaled("esr_ohm", {"": 1.0, "m": 1e-3})),
    _pattern(rf"ripple{_GAP}{NUM}\s*(m?)A", _scaled("i_ripple_rated_a", {"": 1.0, "m": 1e-3})),
)  # fmt: skip
MODULE = (
    _pattern(rf"{NUM}\s*W(?:atts?)?\b(?:\s*(?:rms|continuous))?\s*(?:into|in|at|@|,|/|\()?\s*{NUM}\s*{OHM}\)?", _claim),
    _pattern(rf"(?:±|\+/-|\+-)\s*{NUM}\s*V?\s*(?:to|-|–|\.\.+|…)\s*(?:±|\+/-|\+-)?\s*{NUM}\s*V", _rails),
    _pattern(rf"(?:±|\+/-|\+-)\s*{NUM}\s*V", _plain("v_rail_nominal")),
    _pattern(rf"gain{_GAP}{NUM}\s*dB", _gain_db),
    _pattern(rf"gain{_GAP}{NUM}(?!\s*dB|[\d.,]*\s*dB)\s*(?:x|times|V/V)?", _plain("gain")),
    _pattern(rf"sensitivity{_GAP}{NUM}\s*(m?)V", _scaled("sensitivity_v_rms", {"": 1.0, "m": 1e-3})),
    _pattern(rf"input (?:impedance|resistance){_GAP}{NUM}\s*(k?){OHM}?", _scaled("r_input_ohm", {"": 1.0, "k": 1e3})),
    _pattern(rf"(?:response|bandwidth){_GAP}{NUM}\s*Hz?\s*(?:to|-|–|\.\.+|…)\s*{NUM}\s*(k?)Hz", _band),
    _pattern(rf"quiescent{_GAP}{NUM}\s*(m?)A\b", _scaled("i_quiescent_stated_a", {"": 1.0, "m": 1e-3})),
    _pattern(rf"{NUM}\s*mV\s*(?:across|over|on|at)\s*(?:the |a |each )?{NUM}\s*{OHM}", _bias),
    _pattern(rf"(?:minimum|lowest|min\.?) load{_GAP}{NUM}\s*{OHM}", _plain("r_load_min_ohm")),
    _pattern(rf"efficiency{_GAP}{NUM}\s*%", _plain("efficiency", 0.01)),
    _pattern(rf"THD{_GAP}{NUM}\s*%[^\n;]{{0,40}}", _distortion),
    _pattern(r"\bPMPO\b|\bpeak music power\b|\bmusic power\b", _word("pmpo", "yes")),
    _pattern(r"\bclass[- ]?AB\b", _word("class", "AB")),
    _pattern(r"\bclass[- ]?D\b", _word("class", "D")),
    _pattern(r"\bclass[- ]?A\b(?!B)", _word("class", "A")),
)  # fmt: skip

LONGEST = 20_000


def find(text: str, patterns: tuple[Pattern, ...]) -> list[Found]:
    """All that is said, in the order of the text; the same said twice stands once."""
    found: list[tuple[int, Found]] = []
    taken: list[tuple[int, int]] = []
    for pattern in patterns:
        for match in pattern.form.finditer(text[:LONGEST]):
            if any(match.start() < end and begin < match.end() for begin, end in taken):
                continue
            taken.append(match.span())
            words = " ".join(match.group().split())
            for path, value in pattern.read(match):
                one = Found(path, value, words)
                if not any((f.path, f.value) == (path, value) for _, f in found):
                    found.append((match.start(), one))
    return [one for _, one in sorted(found, key=lambda pair: pair[0])]
