"""A bench at which somebody types: one sheet, its readings kept in a book, as the page does it."""

import datetime as dt
import re
import sys

from plinth.bench.every_sheet import kind_of, readings_for
from plinth.bench.sheet import Outcome, Readings
from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit
from plinth.builds.situation import Situation
from plinth.demo.shelf import BENCH
from plinth.judge.window import Window
from plinth.record.book import RecordBook
from plinth.record.meaning import reading_of
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.slips import Understood, understand

BEGIN = dt.datetime(2026, 10, 10, 12, 0, tzinfo=dt.UTC)
NO_NUMBER = re.compile(r"\b(nan|inf|None)\b")


class TypedBench:
    """``type_in`` as at the page: a question stays unanswered and keeps nothing."""

    def __init__(
        self, test: str, build: Build, channel: str = "", situation: Situation | None = None, kit: BenchKit = BENCH
    ) -> None:
        self.sheet = kind_of(test).make(build, channel or build.channels[0], situation or Situation())
        self.book, self.kit, self.at = RecordBook(), kit, BEGIN
        self._looked_up: tuple[RecordBook, Readings, tuple[Request, ...]] | None = None

    def _look_up(self) -> tuple[RecordBook, Readings, tuple[Request, ...]]:
        """What counts and what is asked, looked up once a reading."""
        if self._looked_up is None or self._looked_up[0] is not self.book:
            readings = readings_for(self.sheet, self.book)
            self._looked_up = self.book, readings, self.sheet.asked(readings)
        return self._looked_up

    @property
    def readings(self) -> Readings:
        return self._look_up()[1]

    @property
    def asked(self) -> tuple[Request, ...]:
        return self._look_up()[2]

    def one(self, key: str) -> Request:
        return next(one for one in self.asked if one.key == key)

    def understand(self, key: str, typed: str) -> Understood:
        asked = self.one(key)
        return understand(typed, asked, [one for one in self.asked if one.key != key], self.kit)

    def type_in(self, key: str, typed: str) -> Reading | None:
        found = self.understand(key, typed)
        return None if found.taken is None else self.keep(found.taken, typed)

    def keep(self, taken: object, typed: str) -> Reading:
        self.at += dt.timedelta(seconds=30)
        reading = reading_of(taken, typed, self.at)  # type: ignore[arg-type]
        self.book = self.book.adding(reading)
        return reading

    def outcomes(self) -> dict[str, Outcome]:
        found = self.sheet.outcomes(self.readings)
        for one in found:
            for words in (one.label, one.words, one.against, one.say):
                assert not NO_NUMBER.search(words), (one.label, words)
        return {one.label: one for one in found}


def middle(window: Window) -> float:
    """A value that is as expected."""
    low = 0.0 if window.low is None else window.low
    high = 2.0 * low if window.high is None else window.high
    return 0.5 * (low + high)


def spoken(asked: Request, value: float) -> str:
    """A value as it would be typed where that is asked for."""
    scaled = value * (1e3 if asked.bare_prefix == "m" else 1e6 if asked.bare_prefix == "u" else 1.0)
    suffix = "pp" if asked.form == "ripple" else " rms" if asked.form == "level" else ""
    return f"{scaled:.5g}{suffix}"


def told(what: str, inside: int, of: int) -> float:
    """The share of benches whose true value lies inside the stated spread; written where `pytest -s` shows it."""
    sys.stdout.write(f"{what}: {100 * inside / of:.1f} % of {of} benches inside\n")
    return inside / of
