"""Moments of a day as they are spoken where one is: by twelve or by twenty-four hours."""

import datetime as dt
import functools
import os
from collections.abc import Mapping

# Territories that count by twelve hours (Unicode CLDR, preferred hour cycle ``h``), of those that languages share.
TWELVE_AT = frozenset(
    {
        "US", "CA", "AU", "NZ", "IN", "PK", "PH", "BD", "LK", "MY", "SG", "EG", "SA", "AE", "JO", "LB", "KW", "QA",
        "CO", "VE", "PR", "DO", "HN", "SV", "KR", "TW", "HK",
    }
)  # fmt: skip
# What says in which order how time is written (POSIX.1, 8.2).
_SAYS = ("LC_ALL", "LC_TIME", "LANG")


def by_twelve(environment: Mapping[str, str]) -> bool:
    """Whether hours are counted by twelve there; by twenty-four where nothing is said.

    French Canada, among those who share a territory, counts by twenty-four.
    """
    said = next((value for name in _SAYS if (value := environment.get(name, ""))), "")
    language, _, territory = said.partition(".")[0].partition("@")[0].partition("_")
    return territory in TWELVE_AT and (language, territory) != ("fr", "CA")


@functools.lru_cache(maxsize=1)
def _here() -> bool:
    return by_twelve(os.environ)


def clock(at: dt.datetime, *, twelve: bool | None = None) -> str:
    """The time of day: ``14:05``, or ``2:05 pm``; ``twelve`` None: as is usual where one is."""
    if not (_here() if twelve is None else twelve):
        return f"{at:%H:%M}"
    return f"{at.hour % 12 or 12}:{at:%M} {'am' if at.hour < 12 else 'pm'}"


def day_and_clock(at: dt.datetime, *, twelve: bool | None = None) -> str:
    """With its day: ``Tue 01 Dec, 14:05``."""
    return f"{at:%a %d %b}, {clock(at, twelve=twelve)}"
