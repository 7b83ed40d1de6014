"""Powers and the loads they are listed for: which watts belong to which ohms, and what defines them.

Watts and ohms stand in either order, one by one or in two rows; a distortion of 1 or 10 % beside them says how far the
output was driven; behind any other distortion they are how that was measured, and no power that is claimed.
"""

import dataclasses
import itertools
import re
from collections.abc import Iterator, Sequence

from plinth.shelf.listing import vocabulary as v
from plinth.shelf.listing.numbers import NUM, possible
from plinth.shelf.listing.words import LONGEST, OHM, ListedValue

_TOKEN = re.compile(
    rf"(?P<load>{v.LOAD}[^\d\n;]{{0,12}})?(?P<ohms>(?<![\d.,]){NUM}\s*(?:{OHM})?\s*(?:-|–|to|bis|à|a|/)\s*\d{{1,2}}(?:[.,]\d)?\s*{OHM})"
    rf"|(?P<watts>{NUM}\s*W?\s*/\s*\d{{1,4}}(?:[.,]\d)?\s*W(?:atts?|rms)?(?![a-zA-Z]))|(?P<watt>{NUM}\s*W(?:atts?|rms)?(?![a-zA-Z]))|(?P<ohm>{NUM}\s*{OHM})"
    rf"|(?P<thd>{NUM}\s*%[^\n;,()]{{0,8}}?{v.DISTORTION}|{v.DISTORTION}[^\d\n;]{{0,12}}?{NUM}\s*%)"
    rf"|(?P<rail>(?:on|at|@|bei|an|sous|à|con|a|su|mit|with)\s*(?:±|\+/?-)?\s*{NUM}\s*V(?![a-zA-Z]))",
    re.IGNORECASE,
)
_NO_OUTPUT = re.compile(rf"{v.NO_OUTPUT}[^\d\n;,.]{{0,24}}$", re.IGNORECASE)
_NO_OUTPUT_AFTER = re.compile(r"^\s*(?:PMPO|music|musik|peak music|recommended|empfohlen)", re.IGNORECASE)
_CLAUSE = re.compile(r"[;\n•|]|\.\s|,\s*(?=(?:gain|supply|THD\b))")
# So far apart watts and ohms still belong together.
_REACH = 40


@dataclasses.dataclass(frozen=True)
class ListedPower:
    """``watts`` into ``ohms``; ``percent`` of distortion where that defines it; ``rails`` what its supply may be."""

    watts: float
    ohms: float
    percent: float | None
    rails: tuple[float, ...]
    words: str
    span: tuple[int, int]

    @property
    def text(self) -> str:
        """As it is typed: ``60 W 8 Ω at 10 %``."""
        at = "" if self.percent is None else f" at {self.percent:g} %"
        rail = f" on {self.rails[0]:g} V" if len(self.rails) == 1 else ""
        return f"{self.watts:g} W {self.ohms:g} Ω{at}{rail}"


@dataclasses.dataclass(frozen=True)
class _Token:
    kind: str
    value: float
    text: str
    begin: int
    end: int
    signed: bool = False


def powers(text: str) -> tuple[ListedPower, ...]:
    """All powers with a load, in the order of the text; the same said twice stands once."""
    listed: list[ListedPower] = []
    begin = 0
    text = text[:LONGEST]
    for cut in [*(match.span() for match in _CLAUSE.finditer(text)), (len(text), len(text))]:
        clause = text[begin : cut[0]]
        for fact in _in_clause(clause, begin):
            if not any((p.watts, p.ohms, p.percent) == (fact.watts, fact.ohms, fact.percent) for p in listed):
                listed.append(fact)
        begin = cut[1]
    return tuple(listed)


def _tokens(clause: str) -> Iterator[_Token]:
    for match in _TOKEN.finditer(clause):
        kind = match.lastgroup or ""
        kind = next(name for name in ("ohms", "watts", "watt", "ohm", "thd", "rail") if match[name])
        number = re.search(NUM, match[kind])
        assert number is not None, "every token has a number"
        if kind == "watts" or (kind == "ohms" and not match["load"] and "/" in match[kind]):
            # "60/100 W into 8/4 ohm" are two powers, in the order of their loads.
            for part in re.finditer(NUM, match[kind]):
                yield from _token(kind.removesuffix("s"), part[1], match, match[kind])
            continue
        yield from _token(kind, number[1], match, match[kind])


def _token(kind: str, number: str, match: re.Match[str], words: str) -> Iterator[_Token]:
    path = {"watt": "power_w", "thd": "thd_percent", "rail": "v_rail_max"}.get(kind, "r_load_ohm")
    values = possible(number, path)
    if values:
        signed = bool(re.search(r"±|\+/?-", words))
        yield _Token(kind, values[0], words, match.start(), match.end(), signed)


def _in_clause(clause: str, at: int) -> Iterator[ListedPower]:
    tokens: list[_Token] = []
    percent: float | None = None
    behind_distortion = False
    for token in _tokens(clause):
        if token.kind == "thd":
            defines = token.value in (1.0, 10.0)
            if not defines and not any(t.kind == "watt" for t in tokens):
                behind_distortion = True
            tokens.append(token)
            percent = token.value if defines and percent is None else percent
        elif token.kind == "watt" and (
            behind_distortion
            or _NO_OUTPUT.search(clause[: token.begin])
            or _NO_OUTPUT_AFTER.search(clause[token.end :])
        ):
            continue
        elif token.kind != "ohms":
            tokens.append(token)
    for watt, ohm in _pairs([token for token in tokens if token.kind in ("watt", "ohm")]):
        begin, end = min(watt.begin, ohm.begin), max(watt.end, ohm.end)
        own = _own_percent(tokens, watt, percent)
        rail = next((token for token in tokens if token.kind == "rail" and end <= token.begin <= end + 12), None)
        if rail is not None:
            end = rail.end
        rails = () if rail is None else (rail.value,) if rail.signed else (rail.value / 2.0, rail.value)
        yield ListedPower(
            watt.value, ohm.value, own, rails, " ".join(clause[begin:end].split()), (at + begin, at + end)
        )


def _own_percent(tokens: Sequence[_Token], watt: _Token, of_all: float | None) -> float | None:
    """The distortion that defines a power: the next one behind it before another power, else the clause's."""
    for token in tokens[tokens.index(watt) + 1 :]:
        if token.kind == "thd":
            return token.value if token.value in (1.0, 10.0) else None
        if token.kind == "watt":
            break
    return of_all


def _pairs(tokens: Sequence[_Token]) -> Iterator[tuple[_Token, _Token]]:
    """Each power with its load: in two rows, one by one from whichever comes first, else the nearest behind it."""
    watts, ohms = ([token for token in tokens if token.kind == kind] for kind in ("watt", "ohm"))
    if not watts or not ohms:
        return
    kinds = [token.kind for token in tokens]
    if len(watts) == len(ohms):
        rows = kinds in (["watt"] * len(watts) + ["ohm"] * len(ohms), ["ohm"] * len(ohms) + ["watt"] * len(watts))
        alternating = all(a != b for a, b in itertools.pairwise(kinds))
        if rows or alternating:
            yield from ((w, o) for w, o in zip(watts, ohms, strict=True) if abs(w.begin - o.begin) < 3 * _REACH)
            return
    for watt in watts:
        near = [ohm for ohm in ohms if watt.end <= ohm.begin <= watt.end + _REACH]
        if near:
            yield watt, near[0]


def claims_of(listed: Sequence[ListedPower]) -> list[ListedValue]:
    """Powers as what is found."""
    return [
        ListedValue("claim", fact.text, fact.words, fact.rails if len(fact.rails) > 1 else (), fact.span[0])
        for fact in listed
    ]
