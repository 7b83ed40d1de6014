"""What is whole in a damaged workshop, as a new file; the damaged one stays untouched.

Rows are taken one by one from a copy. A line whose seal does not fit, a build whose text does not, a row on a page that
cannot be read: each is left out and named. Lines keep their order; their chain is made anew.
"""

import contextlib
import dataclasses
import datetime as dt
import json
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from plinth.builds.build import Build
from plinth.builds.files import BuildFileError, read_document
from plinth.builds.parts import PART_KINDS, Part
from plinth.builds.situation import Situation
from plinth.builds.stock import Stock
from plinth.judge.state import State
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import read_facts
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.reading import Reading
from plinth.units.bounds import Bound
from plinth.workshop import seals
from plinth.workshop.checks import check_kind, copy_of, told
from plinth.workshop.errors import DamagedWorkshopError
from plinth.workshop.kept_builds import StoredBuild
from plinth.workshop.kept_chunks import digest_of, joined
from plinth.workshop.kept_photos import photo_digest
from plinth.workshop.lock import WorkshopLock
from plinth.workshop.rows import COUNTED_SINCE, ROWS, missing_rows
from plinth.workshop.schema import CHUNKS_SINCE, SEALED_SINCE, tables
from plinth.workshop.store import Workshop, create_workshop

# So many ranges of rows are tried: pages that cannot be read halve them some sixty times each.
_MOST_TRIES = 20_000


@dataclasses.dataclass(frozen=True)
class Salvaged:
    """The new file, how many lines of diary and builds are in it, and what is not, a sentence each."""

    path: Path
    builds: int
    lines: int
    lost: tuple[str, ...]


def salvage(damaged: Path, to: Path) -> Salvaged:
    """Save what is whole in ``damaged`` as a new workshop ``to``.

    Raises FileExistsError where ``to`` is taken, and a WorkshopError where nothing could be read or written.
    """
    check_kind(damaged)
    lock = WorkshopLock(damaged)
    try:
        with _copy(damaged) as connection:
            finder = _Found(connection)
    except (sqlite3.Error, OSError) as error:
        raise told(damaged, error) from error
    finally:
        lock.release()
    if not finder.builds:
        raise DamagedWorkshopError(damaged, ["no build in it can be read, so there is nothing to save"])
    create_workshop(to, finder.fill).close()
    return Salvaged(to, len(finder.builds), len(finder.lines), tuple(finder.lost))


@contextlib.contextmanager
def _copy(damaged: Path) -> Iterator[sqlite3.Connection]:
    with copy_of(damaged) as copy:
        connection = sqlite3.connect(copy)
        connection.text_factory = bytes
        try:
            yield connection
        finally:
            connection.close()


class _Found:
    """Everything whole in a connection."""

    def __init__(self, connection: sqlite3.Connection) -> None:
        self._connection = connection
        self.lost: list[str] = []
        (version,) = connection.execute("PRAGMA user_version").fetchone()
        self._version, self._sealed = version, version >= SEALED_SINCE
        if version >= COUNTED_SINCE:
            with contextlib.suppress(sqlite3.Error):
                self.lost += [row for row in missing_rows(connection) if "missing" in row]
        self.builds = self._builds()
        self.parts = self._parts()
        self.settings = self._settings()
        self.lines = self._lines()
        self.versions = self._versions() if "versions" in tables(version) else []
        self.papers = self._papers() if "papers" in tables(version) else []
        self.photos = self._photos() if "photos" in tables(version) else []
        self.captures = self._captures() if "captures" in tables(version) else []

    def fill(self, workshop: Workshop) -> None:
        """Put everything into an empty workshop."""
        items = workshop.add_items(list(self.parts.values()))
        numbered = {old: item.number for old, item in zip(self.parts, items, strict=True)}
        workshop.restore_papers(
            [
                (numbered[part], name, note, words, content)
                for part, name, note, words, content in self.papers
                if part in numbered
            ]
        )
        for key, value in self.settings.items():
            workshop.set_setting(key, value)
        numbers = workshop.restore(list(self.builds.values()), self.lines, self.versions)
        workshop.restore_photos([(numbers[build], *rest) for build, *rest in self.photos if build in numbers])
        workshop.restore_captures([(numbers[build], *rest) for build, *rest in self.captures if build in numbers])
        shown = self.settings.get("desk", {}).get("build")
        if shown is not None:
            workshop.set_setting("desk", {"build": numbers[shown]} if shown in numbers else {})

    def _rows(self, query: str, table: str) -> Iterator[tuple[Any, ...]]:
        """Rows by number, so that a page that cannot be read loses only what is on it."""
        highest = 2**63 - 1
        unread: list[tuple[int, int]] = []
        # Ranges that are read in one go, halved where something in them cannot be: whatever numbers rows have.
        spans, tries = [(-(2**63), highest)], 0
        while spans:
            low, high = spans.pop()
            tries += 1
            if tries > _MOST_TRIES:
                unread.append((low, high))
                continue
            try:
                rows = self._connection.execute(
                    f"{query} WHERE {table}.rowid BETWEEN ? AND ? ORDER BY {table}.rowid", (low, high)
                ).fetchall()
            except (sqlite3.Error, OverflowError):
                if low == high:
                    unread.append((low, high))
                else:
                    middle = (low + high) // 2
                    spans += [(middle + 1, high), (low, middle)]
                continue
            yield from rows
        if unread:
            self.lost.append(f"{table}: {_spans(unread)} cannot be read")

    def _texts(self, table: str) -> Iterator[tuple[Any, ...]]:
        query = seals.texts(table, self._version)
        return self._rows(query if self._sealed else query.replace(" seal,", " '',"), table)

    def _builds(self) -> dict[int, StoredBuild]:
        builds = {}
        for number, mark, *texts in self._texts("builds"):
            where = f"build {number} ({_text(texts[0])})"
            try:
                self._sound(mark, texts, where)
                build = read_document(Build, _text(texts[1]), where)
                builds[number] = StoredBuild(number, build, read_document(Situation, _text(texts[2]), where))
            except BuildFileError as error:
                self.lost.append(error.sentences[0])
        return builds

    def _parts(self) -> dict[int, tuple[Part, Stock]]:
        parts = {}
        for number, mark, *texts in self._texts("parts"):
            where = f"part {number} on the shelf"
            try:
                self._sound(mark, texts, where)
                kind = PART_KINDS.get(_text(texts[0]))
                if kind is None:
                    raise BuildFileError([f"{where}: found kind {_text(texts[0])!r}, expected one that Plinth knows"])
                stock = texts[2] if len(texts) > 2 else None
                known = Stock() if stock is None else read_document(Stock, _text(stock), where)
                parts[number] = (read_document(kind, _text(texts[1]), where), known)
            except BuildFileError as error:
                self.lost.append(error.sentences[0])
        return parts

    def _papers(self) -> list[tuple[int, str, str, str, bytes]]:
        """Whole papers: the number of their part, name, note, words, content."""
        papers: list[tuple[int, str, str, str, bytes]] = []
        for number, mark, part, *texts in self._texts("papers"):
            where = f"paper {number}"
            try:
                self._sound(mark, [part, *texts], where)
                row = self._connection.execute("SELECT content FROM papers WHERE id = ?", (number,)).fetchone()
            except (BuildFileError, sqlite3.Error) as error:
                self.lost.append(error.sentences[0] if isinstance(error, BuildFileError) else f"{where} cannot be read")
                continue
            name, note, words, digest = map(_text, texts)
            if row is None or digest_of(row[0]) != digest:
                self.lost.append(f"{where} ({name}): its content is not as it was written")
                continue
            papers.append((part, name, note, words, row[0]))
        return papers

    def _photos(self) -> list[tuple[Any, ...]]:
        """Whole photos: the number of their build, subject, moment, name, words, marks, scaled, content."""
        photos: list[tuple[Any, ...]] = []
        for number, mark, build, *texts in self._texts("photos"):
            where = f"photo {number}"
            try:
                self._sound(mark, [build, *texts], where)
                row = self._connection.execute("SELECT scaled, content FROM photos WHERE id = ?", (number,)).fetchone()
            except (BuildFileError, sqlite3.Error) as error:
                self.lost.append(error.sentences[0] if isinstance(error, BuildFileError) else f"{where} cannot be read")
                continue
            subject, at, name, words, marks, digest = map(_text, texts)
            if row is not None and not row[1] and self._version >= CHUNKS_SINCE:
                row = (row[0], self._chunks(digest.split()[-1]))
            if row is None or photo_digest(row[0], row[1]) != digest:
                self.lost.append(f"{where} ({name}): its picture is not as it was written")
                continue
            photos.append((build, subject, at, name, words, marks, *row))
        return photos

    def _captures(self) -> list[tuple[Any, ...]]:
        """Whole captures: the number of their build, subject, moment, name, words, facts, content."""
        captures: list[tuple[Any, ...]] = []
        for number, mark, build, *texts in self._texts("captures"):
            where = f"capture {number}"
            try:
                self._sound(mark, [build, *texts], where)
                subject, at, name, words, facts, digest = map(_text, texts[:-1])
                read_facts(facts)
                dt.datetime.fromisoformat(at)
            except (BuildFileError, ValueError, TypeError, KeyError) as error:
                broken = f"{where}: what is known of it is no text of Plinth's"
                self.lost.append(error.sentences[0] if isinstance(error, BuildFileError) else broken)
                continue
            content = self._chunks(digest)
            if digest_of(content) != digest:
                self.lost.append(f"{where} ({name}): its samples are not as they were written")
                continue
            captures.append((build, subject, at, name, words, facts, content))
        return captures

    def _chunks(self, digest: str) -> bytes:
        try:
            return joined(self._connection.execute, digest)
        except sqlite3.Error:
            # What cannot be read has another digest than the whole.
            return b""

    def _settings(self) -> dict[str, dict[str, Any]]:
        settings = {}
        for key, mark, value in self._texts("settings"):
            name = _text(key)
            if name in (seals.CHAIN, ROWS):
                continue
            try:
                self._sound(mark, [value], f"setting {name!r}")
                document = json.loads(_text(value))
                if isinstance(document, dict):
                    settings[name] = document
            except BuildFileError as error:
                self.lost.append(error.sentences[0])
            except (ValueError, RecursionError):
                self.lost.append(f"setting {name!r}: found broken text")
        return settings

    def _sound(self, mark: object, texts: list[Any], where: str) -> None:
        if self._sealed and mark != seals.text_seal(texts).encode():
            raise BuildFileError([f"{where}: its text is not as it was written"])

    def _versions(self) -> list[tuple[int, int, Build]]:
        """Whole versions of whole builds, each with its build's number and the line it holds from."""
        versions = []
        for number, mark, *texts in self._texts("versions"):
            where = f"version {number}"
            try:
                self._sound(mark, texts, where)
                build = read_document(Build, _text(texts[2]), where)
            except BuildFileError as error:
                self.lost.append(error.sentences[0])
                continue
            if texts[0] in self.builds:
                versions.append((texts[0], texts[1], build))
        return sorted(versions, key=lambda row: row[1])

    def _lines(self) -> list[tuple[int, int, DiaryEntry]]:
        """Whole lines, each with its build's number and its own of before."""
        lines: list[tuple[int, int, DiaryEntry]] = []
        before = b""
        query = _UNSEALED
        if self._sealed:
            query = seals.lines(self._version).replace(" ORDER BY e.id", "")
            query = query.replace("entries e", "entries").replace("e.", "entries.")
        for mark, *facts in self._rows(query, "entries"):
            sound = not self._sealed or mark == seals.line_seal(before, facts).encode()
            # After a lost line the next one's seal rests on it, so it is judged by the seal that stands there.
            before = mark if isinstance(mark, bytes) else b""
            line = _line(facts) if sound else None
            if line is None:
                self.lost.append(f"line {facts[0]} of the diary is not as it was written")
            elif facts[1] not in self.builds:
                self.lost.append(f"line {facts[0]} of the diary belongs to a build that is not whole")
            else:
                lines.append((facts[1], facts[0], line))
        return lines


_UNSEALED = (
    "SELECT '', entries.id, entries.build_id, entries.at, entries.kind, entries.subject, entries.words, "
    "entries.reading_id, NULL, r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, "
    "r.taken_at, r.state, r.sentence, r.low, r.high, r.simulated, '' "
    "FROM entries LEFT JOIN readings r ON r.id = entries.reading_id"
)


def _line(facts: list[Any]) -> DiaryEntry | None:
    """A line from a row of facts; None where it makes no sense."""
    try:
        texts: list[Any] = [_text(fact) if isinstance(fact, bytes) else fact for fact in facts]
        (_, _, at, kind, subject, words, reading_id, conditions, _, *read) = texts
        reading = None
        if reading_id is not None:
            (r_subject, label, typed, value, unit, u, instrument, taken_at, state, said, low, high, giver, bound,
             *further) = read  # fmt: skip
            more: list[Any] = [*further, None, None, None]
            rests_on, instrument_id, capture = more[:3]
            reading = Reading(
                r_subject,
                label,
                typed,
                value=float(value),
                unit=unit,
                u=u,
                instrument=instrument,
                taken_at=_moment(taken_at),
                state=State(state),
                low=low,
                high=high,
                origin=ReadingOrigin(_giver(giver), instrument_id or "", capture or ""),
                bound=Bound(bound),
                conditions=_document(conditions),
                facts=_document(rests_on) or {},
                said=said,
            )
        return DiaryEntry(_moment(at), kind, subject, words, reading, _document(conditions))
    except (ValueError, TypeError, RecursionError):
        return None


def _giver(told: object) -> Giver:
    # Files of before say only whether it was simulated.
    return Giver(told) if isinstance(told, str) else Giver.SIMULATED if told else Giver.TYPED


def _document(text: str | None) -> dict[str, Any] | None:
    document = None if text is None else json.loads(text)
    if document is not None and not isinstance(document, dict):
        raise ValueError("found no object")
    return document


def _moment(text: str) -> dt.datetime:
    return dt.datetime.fromisoformat(text).replace(tzinfo=dt.UTC)


def _text(raw: object) -> str:
    if isinstance(raw, bytes):
        return raw.decode("utf-8", "replace")
    return str(raw)


def _spans(ranges: list[tuple[int, int]]) -> str:
    """``row 4`` or ``rows 4 to 9``; the first and the last of many."""
    first, last = min(low for low, _ in ranges), max(high for _, high in ranges)
    if len(ranges) == 1 and first == last:
        return f"row {first}"
    count = sum(high - low + 1 for low, high in ranges)
    if count > _MOST_TRIES:
        return "many rows"
    return f"{count} rows from {first} to {last}"
