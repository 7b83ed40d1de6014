"""What a listing says, found anywhere in its text: in a table, a sentence or a title line, in five languages."""

import dataclasses
import re
from collections.abc import Callable, Iterator

from plinth.shelf.listing.numbers import possible

OHM = r"(?:(?:Ω|Ω|ohmios|ohms?)(?![a-zA-Z])|R\b)"


@dataclasses.dataclass(frozen=True)
class ListedValue:
    """A property at (dotted) ``path`` (or a fact that is none), its SI value, and the words it came from.

    ``choices``: what else it may mean, where that must be asked; ``value`` is then the first of them. ``place``: where
    in the text.
    """

    path: str
    value: float | str
    words: str
    choices: tuple[float, ...] = ()
    place: int = dataclasses.field(default=0, compare=False)


ListingWords = tuple[str, float | str | tuple[float, ...]]
Reader = Callable[[re.Match[str]], Iterator[ListingWords]]


@dataclasses.dataclass(frozen=True)
class Pattern:
    """``form`` what is looked for, ``read`` what it says."""

    form: re.Pattern[str]
    read: Reader


def pattern(form: str, read: Reader) -> Pattern:
    """A pattern that does not mind capitals."""
    return Pattern(re.compile(form, re.IGNORECASE), read)


def plain(path: str, factor: float = 1.0) -> Reader:
    """The first group as a number."""

    def read(match: re.Match[str]) -> Iterator[ListingWords]:
        yield path, possible(match[1], path, factor)

    return read


def scaled(path: str, sizes: dict[str, float]) -> Reader:
    """The first group as a number, the second its size."""

    def read(match: re.Match[str]) -> Iterator[ListingWords]:
        yield path, possible(match[1], path, sizes[(match[2] or "").lower()])

    return read


def word(path: str, value: str) -> Reader:
    """That it is so."""

    def read(_match: re.Match[str]) -> Iterator[ListingWords]:
        yield path, value

    return read


LONGEST = 20_000


def find(
    text: str, patterns: tuple[Pattern, ...], spoken_for: list[tuple[int, int]] | None = None
) -> list[ListedValue]:
    """All that is said, in the order of the text; the same said twice stands once.

    ``spoken_for`` the places that say something else already.
    """
    values: list[ListedValue] = []
    taken = list(spoken_for or ())
    for expression in patterns:
        for match in expression.form.finditer(text[:LONGEST]):
            if any(match.start() < end and begin < match.end() for begin, end in taken):
                continue
            words = " ".join(match.group().split())
            said = [fact for fact in expression.read(match) if fact[1] != ()]
            if said:
                taken.append(match.span())
            for path, value in said:
                several = value if isinstance(value, tuple) else (value,)
                choices = tuple(number for number in several if isinstance(number, float)) if len(several) > 1 else ()
                fact = ListedValue(path, several[0], words, choices, match.start())
                if not any((f.path, f.value) == (path, fact.value) for f in values):
                    values.append(fact)
    return sorted(values, key=lambda fact: fact.place)
