"""The tests that are one sheet each, by the key that their readings carry."""

import dataclasses
import functools
from collections.abc import Callable

from plinth.bench import gain, heat_run, hum_noise, mains_side, output_impedance, protection, rails, square_wave
from plinth.bench.sheet import Readings, Sheet
from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.record.book import RecordBook
from plinth.record.reading import Reading
from plinth.record.request import Request
from plinth.record.subject import Kind, read_subject


@dataclasses.dataclass(frozen=True)
class SheetKind:
    """``name`` on its button, ``command`` what the finder calls it, ``make`` its sheet for a channel of a build."""

    key: str
    name: str
    command: str
    make: Callable[[Build, str, Situation], Sheet]


SHEETS = (
    SheetKind(rails.TEST, "Rails", "rails", rails.sheet),
    SheetKind(gain.TEST, "Gain, match", "gain and sensitivity", gain.sheet),
    SheetKind(output_impedance.TEST, "Output impedance", "output impedance and damping", output_impedance.sheet),
    SheetKind(square_wave.TEST, "Square wave", "square wave", square_wave.sheet),
    SheetKind(protection.TEST, "Protection", "protection", protection.sheet),
    SheetKind(mains_side.TEST, "Mains side", "mains side", mains_side.sheet),
    SheetKind(hum_noise.TEST, "Hum and noise", "hum and noise", hum_noise.sheet),
    SheetKind(heat_run.TEST, "Heat run", "heat run", heat_run.sheet),
)


def kind_of(key: str) -> SheetKind:
    """The sheet of that key. Raises KeyError where there is none."""
    return {kind.key: kind for kind in SHEETS}[key]


def readings_for(sheet: Sheet, book: RecordBook) -> Readings:
    """The readings of a sheet that count today, by the key of what was asked.

    Which are asked may depend on what was read, so they are looked up until nothing more comes.
    """
    readings: dict[str, tuple[Reading, ...]] = {}
    for _ in range(3):
        by_request: dict[str, tuple[Reading, ...]] = {}
        for request in sheet.asked(readings):
            held = book.series(request.subject, request.conditions)
            if held:
                by_request[request.key] = held
        if by_request.keys() == readings.keys():
            return by_request
        readings = by_request
    return readings


# Books are frozen: every reading kept makes a new one, which all tests then ask about.
@functools.lru_cache(maxsize=2)
def read_by_test(book: RecordBook) -> dict[str, int]:
    """How many things were ever read at each test, by its key."""
    counts: dict[str, int] = {}
    for text in book:
        about = read_subject(text)
        if about.kind is Kind.TEST:
            test = about.what.partition(":")[0]
            counts[test] = counts.get(test, 0) + 1
    return counts


def conditions_differ(asked: Request, book: RecordBook) -> str:
    """Why the last reading of what is asked no longer counts; empty where it does, or there is none."""
    return book.why_not(asked.subject, asked.conditions)
