"""Lines of all diaries, found by words, numbers, units, dates and outcomes: a full-text index in memory.

It is made from the sealed lines themselves whenever it is asked for, and never kept: it cannot say otherwise than they.
"""

import dataclasses
import re
import sqlite3
from collections.abc import Sequence

from plinth.builds.build import Build
from plinth.record.diary import DiaryEntry
from plinth.report.reading_words import reading_words, sentence_of
from plinth.report.subject_words import subject_words

# A word as short as this is a unit or a sign, and is meant as it stands; longer ones may be beginnings.
_SHORT = 2
# Lines that say nothing without what they are about.
_OF_A_SUBJECT = frozenset({"override", "confirmed", "sound", "doubt", "bad"})
_QUOTES = re.compile(r'"([^"]+)"')


@dataclasses.dataclass(frozen=True)
class DiaryHit:
    """A line that was found: of which build, its place in that diary (from 0), and what it says."""

    build_id: int
    line: int
    at: str
    words: str


class DiaryIndex:
    """Grows by lines; each is known by its build and its place."""

    def __init__(self) -> None:
        self._held = sqlite3.connect(":memory:", check_same_thread=False)
        columns = "text, build UNINDEXED, line UNINDEXED, at UNINDEXED, words UNINDEXED, moment UNINDEXED"
        self._held.execute(
            f"CREATE VIRTUAL TABLE lines USING fts5({columns}, tokenize = 'unicode61 remove_diacritics 2')"
        )

    def add(self, build_id: int, build: Build, first: int, lines: Sequence[DiaryEntry]) -> None:
        """Take lines of a diary from the place ``first`` on."""
        rows = []
        for place, entry in enumerate(lines, first):
            words = _words(entry, build)
            at = f"{entry.at.astimezone():%Y-%m-%d %H:%M}"
            text = f"{at} {build.name} {words} {_more(entry, build)}"
            rows.append((text, build_id, place, at, words, entry.at.isoformat()))
        with self._held:
            self._held.executemany("INSERT INTO lines VALUES (?, ?, ?, ?, ?, ?)", rows)

    def forget(self, build_id: int) -> None:
        """Leave out a build: its channels or loads are called otherwise now."""
        with self._held:
            self._held.execute("DELETE FROM lines WHERE build = ?", (build_id,))

    def find(self, text: str, most: int = 200) -> tuple[DiaryHit, ...]:
        """The lines that hold every word of a text, the newest first; ``"two words"`` stand beside each other."""
        query = _query(text)
        if not query:
            return ()
        rows = self._held.execute(
            "SELECT build, line, at, words FROM lines WHERE lines MATCH ? ORDER BY moment DESC, line DESC LIMIT ?",
            (query, most),
        )
        return tuple(DiaryHit(*row) for row in rows)


def _query(text: str) -> str:
    """A text as somebody types it, as the index understands it: nothing in it is a command."""
    text = text.replace("\0", " ")
    together = _QUOTES.findall(text)
    single = _QUOTES.sub(" ", text).replace('"', " ").split()
    terms = [f'"{words}"' for words in together if _has_letters(words)]
    for word in single:
        if not _has_letters(word):
            continue
        begins = "*" if len(word) > _SHORT else ""
        terms.append(f'"{word}"{begins}')
    return " ".join(terms)


def _has_letters(word: str) -> bool:
    """Whether the index sees anything in it: signs alone are no words."""
    return any(letter.isalnum() for letter in word)


def _words(entry: DiaryEntry, build: Build) -> str:
    """What a line says, as the diary shows it."""
    if entry.reading is not None:
        return f"{entry.words}: {reading_words(entry.reading)}, {entry.reading.state}"
    if entry.kind in _OF_A_SUBJECT:
        return f"{subject_words(entry.subject, build)}: {entry.words}".rstrip(": ")
    return entry.words


def _more(entry: DiaryEntry, build: Build) -> str:
    """What else a line is found by."""
    reading = entry.reading
    told = [entry.kind.replace("_", " "), *(str(value) for value in (entry.conditions or {}).values())]
    if reading is None:
        return " ".join(told)
    return " ".join(
        [*told, reading.typed, reading.unit, f"{reading.value:.6g}", reading.instrument, sentence_of(reading),
         subject_words(reading.subject, build), build.module.name]
    )  # fmt: skip
