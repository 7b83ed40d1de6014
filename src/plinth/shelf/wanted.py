"""What a builder requirements for, in one line: ``60 W 4R, sink < 75 at 35, under 120, drawer``."""

import dataclasses
import re

from plinth.units.errors import QuantityError

LONGEST = 200
_NUM = r"(\d+(?:[.,]\d+)?)"
_POWER = re.compile(
    rf"(?:>=?|≥|at least )?\s*{_NUM}\s*W\s*(?:into|in|at|/|@)?\s*{_NUM}\s*(?:ohms?|Ω|R)(?!\w)", re.IGNORECASE
)
_SINK = re.compile(rf"sink\s*(?:<=?|≤|under|below|at most)?\s*{_NUM}\s*°?C?\b", re.IGNORECASE)
_AIR = re.compile(rf"(?:\b(?:at|on a|in)\s+)?{_NUM}\s*°?C?\s*(?:day|air)\b|\bat\s+{_NUM}\s*°?C?\b", re.IGNORECASE)
_PRICE = re.compile(rf"(?:price\s*)?(?:<=?|≤|under|below|at most)\s*{_NUM}\b", re.IGNORECASE)
_DRAWER = re.compile(r"\b(?:only )?(?:from )?(?:the )?drawer\b", re.IGNORECASE)
_IDLE = frozenset({"both", "all", "no", "fan", "and", "a", "on", "only", "price", "each", "channel", "channels"})


@dataclasses.dataclass(frozen=True)
class Wanted:
    """``powers`` (watts at clip of each channel with all of them driven, ohms); ``sink_c`` at ``ambient_c``.

    ``price`` the most that is still to be paid; ``drawer_only`` nothing is bought. Nothing may be over its limit.
    """

    powers: tuple[tuple[float, float], ...] = ()
    sink_c: float | None = None
    ambient_c: float | None = None
    price: float | None = None
    drawer_only: bool = False

    @property
    def words(self) -> str:
        """How it was understood."""
        said = [f"{watts:g} W into {ohms:g} Ω, every channel" for watts, ohms in self.powers]
        if self.sink_c is not None:
            said.append(f"sink at most {self.sink_c:g} °C")
        if self.ambient_c is not None:
            said.append(f"in air of {self.ambient_c:g} °C")
        if self.price is not None:
            said.append(f"at most {self.price:g} still to pay")
        if self.drawer_only:
            said.append("only from the drawer")
        return " · ".join((*said, "nothing over its limit"))


def read_wanted(text: str) -> Wanted:
    """The requirement in a line. Raises QuantityError with what was not understood and what was expected."""
    rest = " ".join(text[:LONGEST].split())
    powers = []
    while (match := _POWER.search(rest)) is not None:
        powers.append((_number(match[1]), _number(match[2])))
        rest = _without(rest, match)
    numbers: dict[str, float] = {}
    for name, pattern in (("sink_c", _SINK), ("ambient_c", _AIR), ("price", _PRICE)):
        match = pattern.search(rest)
        if match is not None:
            numbers[name] = _number(next(group for group in match.groups() if group is not None))
            rest = _without(rest, match)
    drawer = _DRAWER.search(rest)
    if drawer is not None:
        rest = _without(rest, drawer)
    left = [word for word in re.split(r"[\s,;]+", rest) if word and word.lower() not in _IDLE]
    if left:
        raise QuantityError(
            f"found {' '.join(left)[:40]!r}, expected requirements such as 60 W 4R, sink < 75 at 35, under 120, drawer"
        )
    for watts, ohms in powers:
        if not (0.01 <= watts <= 10_000 and 0.5 <= ohms <= 1000):
            raise QuantityError(f"found {watts:g} W into {ohms:g} Ω, expected up to 10 kW into 0.5 Ω or more")
    sink, air = numbers.get("sink_c"), numbers.get("ambient_c")
    if sink is not None and sink <= (25.0 if air is None else air):
        raise QuantityError(f"found a sink of {sink:g} °C, expected it warmer than the air around it")
    if air is not None and not -40.0 <= air <= 80.0:
        raise QuantityError(f"found air of {air:g} °C, expected -40 to 80 °C")
    return Wanted(tuple(powers), sink, air, numbers.get("price"), drawer is not None)


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _without(text: str, match: re.Match[str]) -> str:
    return f"{text[: match.start()]} {text[match.end() :]}"
