"""A line of commands taken apart (IEEE 488.2, chapter 7; SCPI-1999, volume 1, chapter 6)."""

import re
from dataclasses import dataclass

from plinth.simulated_bench.scpi.errors import ScpiError

_HEADER = re.compile(r"^(\*[A-Za-z]+|:?[A-Za-z][A-Za-z0-9_]*(?::[A-Za-z][A-Za-z0-9_]*)*)(\?)?(?:\s+(.*))?$", re.DOTALL)


@dataclass(frozen=True)
class Command:
    """``header`` from the root in capitals (``SOURCE:VOLTAGE``, ``*IDN``), whether it asks, and its parameters."""

    header: str
    query: bool
    parameters: tuple[str, ...]


def commands_of(line: str) -> list["Command | ScpiError"]:
    """The commands of a line, in order; what is none stands as the error that it is, and ends the line.

    A header without a leading colon goes on from where the one before it in the line stands.
    """
    found: list[Command | ScpiError] = []
    path: list[str] = []
    for unit in _split(line, ";"):
        text = unit.strip()
        if not text:
            continue
        match = _HEADER.match(text)
        if match is None:
            bad = any(ord(letter) < 32 or ord(letter) > 126 for letter in text)
            found.append(ScpiError(-101 if bad else -102, text[:40]))
            break
        header, query, rest = match.group(1).upper(), bool(match.group(2)), match.group(3)
        parameters = () if rest is None else tuple(part.strip() for part in _split(rest, ","))
        if header.startswith("*"):
            found.append(Command(header, query, parameters))
            continue
        nodes = header.lstrip(":").split(":")
        full = nodes if header.startswith(":") else [*path, *nodes]
        path = full[:-1]
        found.append(Command(":".join(full), query, parameters))
    return found


def _split(text: str, sign: str) -> list[str]:
    """At each ``sign`` that stands outside quotes."""
    parts, start, quote = [], 0, ""
    for index, letter in enumerate(text):
        if quote:
            quote = "" if letter == quote else quote
        elif letter in "'\"":
            quote = letter
        elif letter == sign:
            parts.append(text[start:index])
            start = index + 1
    parts.append(text[start:])
    return parts
