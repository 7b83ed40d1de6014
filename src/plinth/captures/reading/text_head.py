"""What the lines above a table of numbers say: names, units, the rate."""

import re
from dataclasses import dataclass

from plinth.captures.options import TIME_UNITS

_UNIT = re.compile(r"^(?P<prefix>[munµμkM]?)(?P<base>V|A|Hz|s|Ω|W)$")
_PREFIX = {"": 1.0, "m": 1e-3, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "n": 1e-9, "k": 1e3, "M": 1e6}
_WORDS = {
    "volt": "V", "volts": "V", "v": "V", "amp": "A", "amps": "A", "ampere": "A", "amperes": "A", "a": "A",
    "second": "s", "seconds": "s", "sec": "s", "millisecond": "ms", "milliseconds": "ms", "microsecond": "us",
    "microseconds": "us", "mv": "mV", "uv": "uV", "ma": "mA", "us": "us", "ms": "ms", "ns": "ns", "s": "s",
    "millivolt": "mV", "millivolts": "mV", "kv": "kV",
}  # fmt: skip
_IN_BRACKETS = re.compile(r"[\[(]\s*([^\])]+?)\s*[\])]")
_NUMBER = r"([+-]?\d+(?:[.,]\d+)?(?:[eE][+-]?\d+)?)"
_RATE = re.compile(
    r"(?:sampl\w*[\s_-]*(?:rate|freq\w*)|abtastrate|\bfs\b|\brate\b|sample_rate_hz|fr[ée]quence d.[ée]chantillonnage)"
    r"[^\d+-]{0,12}" + _NUMBER + r"[\s,;\t\"]*(k|M|G)?(?:Hz|Sa/s|S/s|sps|Sps)?",
    re.IGNORECASE,
)
_INTERVAL = re.compile(
    r"(?:(?:sampl\w*|time)[\s_-]*(?:interval|period|step|increment)|abtastintervall|xinc\w*|x[\s_-]*increment|\bdt\b|"
    r"\binterval\b|\bincrement\b)[^\d+-]{0,12}" + _NUMBER + r"[\s,;\t\"]*(ns|us|µs|μs|ms|s)?\b",
    re.IGNORECASE,
)
_TIME_NAMES = {"t", "time", "times", "zeit", "temps", "tiempo", "tempo", "seconds", "second", "x", "tid", "timestamp"}
_COUNT_NAMES = {"n", "index", "sample", "samples", "point", "points", "no", "nr", "#", "i"}


@dataclass(frozen=True)
class ColumnHead:
    """What the head says of a column: its name; the factor to V, A or s, and which of these (None: it does not say)."""

    name: str
    factor: float | None = None
    base: str | None = None

    @property
    def is_time(self) -> bool:
        """Whether it says that the column holds times."""
        return self.base == "s" or _bare(self.name) in _TIME_NAMES

    @property
    def is_count(self) -> bool:
        """Whether it says that the column counts the rows."""
        return _bare(self.name) in _COUNT_NAMES


def column_heads(lines: list[list[str]], columns: int) -> list[ColumnHead]:
    """Names and units of the columns, from the last lines of the head that have one word a column."""
    fitting = [parts for parts in lines if len(parts) == columns and any(part.strip() for part in parts)]
    names = [""] * columns
    units = [""] * columns
    if fitting:
        names = fitting[-1]
        if len(fitting) > 1 and all(not name.strip() or _unit(_unwrapped(name)) for name in names):
            names, units = fitting[-2], fitting[-1]
    return [_head(name, unit) for name, unit in zip(names, units, strict=True)]


def stated_rate_hz(lines: list[str]) -> float | None:
    """The sample rate that the head states, by itself or as the time from sample to sample; None where it does not."""
    for line in lines:
        match = _RATE.search(line)
        if match:
            factor = {"k": 1e3, "m": 1e6, "g": 1e9}.get((match.group(2) or "").lower(), 1.0)
            value = _float(match.group(1)) * factor
            if value > 0.0:
                return value
        match = _INTERVAL.search(line)
        if match:
            unit = (match.group(2) or "s").replace("μ", "µ").lower()
            value = _float(match.group(1)) * TIME_UNITS[unit]
            if value > 0.0:
                return 1.0 / value
    return None


def _head(name: str, unit: str) -> ColumnHead:
    name = name.strip()
    candidates = [_unwrapped(unit)] if unit.strip() else []
    bracket = _IN_BRACKETS.search(name)
    if bracket:
        candidates.append(bracket.group(1))
        name = _IN_BRACKETS.sub("", name).strip()
    candidates += [name.rsplit(sign, 1)[1].strip() for sign in ("/", " in ", "_", " ") if sign in name]
    candidates.append(name)
    for candidate in candidates:
        known = _unit(candidate)
        if known is not None:
            if candidate != name and name.endswith(candidate) and name != candidate:
                name = re.sub(r"(\s*/\s*|\s+in\s+|_|\s+)$", "", name[: -len(candidate)])
            return ColumnHead(name or candidate, *known)
    return ColumnHead(name)


def _unit(text: str) -> tuple[float, str] | None:
    text = text.strip()
    match = _UNIT.match(text) or _UNIT.match(_WORDS.get(text.lower(), ""))
    if match is None:
        return None
    return _PREFIX[match.group("prefix")], match.group("base")


def _unwrapped(text: str) -> str:
    return text.strip().strip("[]()").strip()


def _bare(name: str) -> str:
    return re.sub(r"[^\w#]", "", name.split("[")[0].split("(")[0]).lower()


def _float(text: str) -> float:
    return float(text.replace(",", "."))
