"""A test of a kind of part before it is soldered in: what is measured of each piece, judged at once, matched."""

import dataclasses
import datetime as dt
import enum
from collections.abc import Callable, Mapping, Sequence

from plinth.builds.instruments import BenchKit, Role
from plinth.guide.judging import understood_words
from plinth.guide.part_tests.matching import Sets, best_pairs, best_sets
from plinth.judge.state import State
from plinth.judge.window import Window, judge_reading
from plinth.record.book import RecordBook
from plinth.record.conditions import Conditions
from plinth.record.meaning import meaning_of, reading_of
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.subject import Kind, Subject, read_subject
from plinth.units.bounds import Bound
from plinth.units.shown import shown

# More pieces of one kind than this are not measured into one workshop.
MOST_PIECES = 200


class Aim(enum.StrEnum):
    """What pieces are matched for."""

    SETS = "sets"
    PAIRS = "pairs"


# What a set's values do to the build, in one number: the smaller the better.
Effect = Callable[[Sequence[float]], float]


@dataclasses.dataclass(frozen=True)
class Matching:
    """``sets`` by name (a channel each), of ``size`` pieces; ``partner`` the test whose pieces are paired with these.

    ``effect`` of what stays unlike in a set, said with ``words`` (``{worst}`` and ``{bag}`` as shares of one).
    """

    aim: Aim
    sets: tuple[str, ...]
    size: int
    effect: Effect
    words: str
    partner: str = ""


@dataclasses.dataclass(frozen=True)
class PartTest:
    """``pieces`` how many the build needs; ``aged`` a wider window in which it is old, and what that means.

    ``conditions``: of which part its readings tell.
    """

    key: str
    station: str
    title: str
    ask: str
    unit: str
    bare_prefix: str
    role: Role
    pieces: int
    window: Window
    aged: Window | None = None
    aged_words: str = ""
    bad_words: str = ""
    matching: Matching | None = None
    conditions: Conditions = dataclasses.field(default_factory=dict)

    def subject(self, piece: int) -> str:
        """What a reading of a piece is about, as the file keeps it."""
        return Subject(Kind.PART, self.key, str(piece)).text

    def request(self, piece: int) -> Request:
        """What is asked of one piece."""
        return Request(
            about=Subject(Kind.PART, self.key, str(piece)), title=f"{self.title}, piece {piece}", ask=self.ask,
            conditions=self.conditions, unit=self.unit, window=self.window, wide=self.aged, role=self.role,
            form="resistance" if self.unit == "ohm" else "plain", bare_prefix=self.bare_prefix,
        )  # fmt: skip


@dataclasses.dataclass(frozen=True)
class PieceVerdict:
    """Of one piece: its state and what is said of it."""

    state: State
    words: str


def reading_of_piece(test: PartTest, piece: int, typed: str, kit: BenchKit, at: dt.datetime) -> Reading:
    """What was typed of a piece. Raises QuantityError with a sentence for nonsense."""
    reading = reading_of(meaning_of(typed, test.request(piece), kit), typed, at)
    return dataclasses.replace(reading, state=verdict_of(test, reading).state)


def verdict_of(test: PartTest, reading: Reading) -> PieceVerdict:
    """Inside its tolerance, old but of use, or not to be soldered in."""
    fresh = judge_reading(reading.value, reading.u, test.window, reading.bound)
    if fresh.state is not State.OVER or test.aged is None:
        words = test.bad_words if fresh.state is State.OVER else ""
        return PieceVerdict(fresh.state, f"{fresh.words}. {words}".strip())
    aged = judge_reading(reading.value, reading.u, test.aged, reading.bound)
    if aged.state is State.OVER:
        return PieceVerdict(State.OVER, f"{fresh.words}, more than age explains. {test.bad_words}".strip())
    return PieceVerdict(State.CLOSE, f"{fresh.words}, as aged ones are. {test.aged_words}".strip())


def sentence_of(reading: Reading) -> str:
    """What was said of a piece when it was measured, from what was kept."""
    window = Window(reading.low, reading.high, reading.unit, "")
    verdict = judge_reading(reading.value, reading.u, window, reading.bound)
    aged = ", as aged ones are" if verdict.state is State.OVER and reading.state is State.CLOSE else ""
    return f"{verdict.words}{aged}: expected {window.words()}. {understood_words(reading)}."


def measured(test: PartTest, book: RecordBook) -> dict[int, Reading]:
    """The readings that count of each piece of a test, by its number, judged by today's window."""
    readings: dict[int, Reading] = {}
    begin = Subject(Kind.PART, test.key).text + "/"
    for subject in book:
        if subject.startswith(begin) and (about := read_subject(subject)).what.isdecimal():
            record = book.counting(subject, test.conditions)
            if isinstance(record, Reading):
                readings[int(about.what)] = dataclasses.replace(record, state=verdict_of(test, record).state)
    return dict(sorted(readings.items()))


def next_piece(pieces: Mapping[int, Reading]) -> int:
    """The number of the piece to be measured next."""
    return next(number for number in range(1, MOST_PIECES + 2) if number not in pieces)


@dataclasses.dataclass(frozen=True)
class Matched:
    """``sets`` of piece numbers by name, and what is said of them; for pairs the second number is the partner's."""

    sets: tuple[tuple[str, tuple[int, ...]], ...]
    words: str


def matched(test: PartTest, pieces: Mapping[int, Reading], partners: Mapping[int, Reading]) -> Matched | None:
    """The best sets of what was measured; None where nothing is matched, or too little was measured yet.

    Bounds, and pieces that are not to be soldered in, stay out of it.
    """
    matching = test.matching
    if matching is None:
        return None
    values, others = _usable(pieces), _usable(partners)
    sets: Sets
    bag: Sets
    if matching.aim is Aim.PAIRS:
        sets = best_pairs(values, others, len(matching.sets) * matching.size)
        bag = tuple(zip(sorted(values), sorted(others), strict=False))
    else:
        sets = best_sets(values, len(matching.sets), matching.size)
        bag = _in_order(sorted(values), matching.size)
    if not sets:
        return None

    def effect(places: tuple[int, ...]) -> float:
        if matching.aim is Aim.PAIRS:
            return matching.effect((values[places[0]], others[places[1]]))
        return matching.effect([values[piece] for piece in places])

    wanted = len(sets)
    worst = max(effect(piece) for piece in sets)
    as_they_lay = max((effect(piece) for piece in bag[:wanted]), default=worst)
    names = [name for name in matching.sets for _ in range(wanted // len(matching.sets))]
    words = matching.words.format(worst=_share(worst), bag=_share(as_they_lay))
    return Matched(tuple(zip(names, sets, strict=True)), words)


def _usable(pieces: Mapping[int, Reading]) -> dict[int, float]:
    return {
        number: piece.value
        for number, piece in pieces.items()
        if piece.bound is Bound.NONE and piece.state is not State.OVER
    }


def _in_order(numbers: Sequence[int], size: int) -> Sets:
    return tuple(tuple(numbers[at : at + size]) for at in range(0, len(numbers) - size + 1, size))


def _share(value: float) -> str:
    return shown(100.0 * value, "%", 2)
