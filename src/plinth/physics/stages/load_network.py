"""A dummy load made of resistors in series and parallel, written as it is spoken: ``(8.2+8.2)||(8.2+8.2)``."""

import dataclasses
import re


@dataclasses.dataclass(frozen=True)
class LoadNetwork:
    """``r_ohm`` in all; ``shares`` of the power that each resistor takes, in the order written; they sum to 1."""

    r_ohm: float
    shares: tuple[float, ...]

    @property
    def hottest_share(self) -> float:
        """The largest share that one resistor takes."""
        return max(self.shares)


def read_network(text: str) -> LoadNetwork:
    """Resistance and power shares of a network: ``+`` in series, ``||`` in parallel, brackets, ohms as numbers.

    Parallel binds more closely than series, as in ``3.9 + 8.2||8.2``. Raises ValueError with what was found.
    """
    tokens = re.findall(r"\d+(?:\.\d+)?|\|\||[+()]|\S", text.replace(",", "."))
    network, rest = _series(tokens, text)
    if rest:
        raise ValueError(f"found {rest[0]!r} in {text!r}, expected ohms with + for series and || for parallel")
    return network


def _series(tokens: list[str], text: str) -> tuple[LoadNetwork, list[str]]:
    parts = []
    branch, tokens = _parallel(tokens, text)
    parts.append(branch)
    while tokens and tokens[0] == "+":
        branch, tokens = _parallel(tokens[1:], text)
        parts.append(branch)
    total = sum(p.r_ohm for p in parts)
    shares = tuple(share * p.r_ohm / total for p in parts for share in p.shares)
    return LoadNetwork(total, shares), tokens


def _parallel(tokens: list[str], text: str) -> tuple[LoadNetwork, list[str]]:
    parts = []
    part, tokens = _single(tokens, text)
    parts.append(part)
    while tokens and tokens[0] == "||":
        part, tokens = _single(tokens[1:], text)
        parts.append(part)
    conductance = sum(1.0 / p.r_ohm for p in parts)
    shares = tuple(share / (p.r_ohm * conductance) for p in parts for share in p.shares)
    return LoadNetwork(1.0 / conductance, shares), tokens


def _single(tokens: list[str], text: str) -> tuple[LoadNetwork, list[str]]:
    if not tokens:
        raise ValueError(f"found an end in {text!r}, expected a resistor: write ohms, + for series, || for parallel")
    head, *rest = tokens
    if head == "(":
        inner, rest = _series(rest, text)
        if not rest or rest[0] != ")":
            raise ValueError(f"found an open bracket in {text!r}, expected it closed")
        return inner, rest[1:]
    try:
        r = float(head)
    except ValueError:
        raise ValueError(f"found {head!r} in {text!r}, expected ohms with + for series and || for parallel") from None
    if r <= 0.0:
        raise ValueError(f"found {head} ohm in {text!r}, expected a resistor above 0 ohm")
    return LoadNetwork(r, (1.0,)), rest
