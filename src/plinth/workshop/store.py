"""The workshop file, opened: everything that is kept goes through here and is on disk when a call returns.

A rollback journal with full synchronous writes: what is said to be kept is in the one named file.
"""

import contextlib
import dataclasses
import datetime as dt
import json
import os
import sqlite3
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from plinth.builds.build import Build
from plinth.builds.files import BuildFileError, read_document
from plinth.builds.instruments import BenchKit, unknown_kit
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.judge.state import State
from plinth.record.conditions import Conditions
from plinth.record.reading import Confirmation, Override, Reading, Record
from plinth.units.bounds import Bound
from plinth.workshop import begun, seals
from plinth.workshop.checks import check_contents, check_kind, copy_of, told
from plinth.workshop.errors import DamagedWorkshopError, NotAWorkshopError, NotKeptError, disk_words
from plinth.workshop.lock import WorkshopLock
from plinth.workshop.schema import (
    APPLICATION_ID,
    HEAD_REVISION,
    SCHEMA_VERSION,
    BuildRow,
    EntryRow,
    PartRow,
    ReadingRow,
    SettingRow,
)

RECORD_KINDS = ("reading", "override", "confirmed")


@dataclasses.dataclass(frozen=True)
class StoredBuild:
    """A build with its situation and its number in the file."""

    id: int
    build: Build
    situation: Situation


@dataclasses.dataclass(frozen=True)
class LockedBuild:
    """A build that cannot be read: it stays in the file as it is, and ``why`` says what is wrong."""

    id: int
    name: str
    why: str


@dataclasses.dataclass(frozen=True)
class DiaryEntry:
    """A line of the diary; ``reading`` where it is one.

    ``kind``: made, changed, reading, confirmed, override, power_on, power_off, note.
    """

    at: dt.datetime
    kind: str
    subject: str
    words: str
    reading: Reading | None = None
    conditions: Conditions | None = None


def now() -> dt.datetime:
    """The present in UTC, whole seconds."""
    return dt.datetime.now(dt.UTC).replace(microsecond=0)


class Workshop:
    """An open workshop file. Construct with ``open_workshop`` or ``create_workshop``; ``close`` when done.

    ``locked`` the builds that cannot be read, ``notices`` sentences about what else was set aside at opening.
    """

    def __init__(self, path: Path, lock: WorkshopLock) -> None:
        self.path = path
        self.locked: tuple[LockedBuild, ...] = ()
        self.notices: list[str] = []
        self._lock = lock
        self._engine = _engine(path)

    def close(self) -> None:
        """Close the file and release it."""
        self._engine.dispose()
        self._lock.release()

    def move_to(self, path: Path) -> None:
        """The file has another name from now on: it was begun under one of its own."""
        self._engine.dispose()
        self.path, self._engine = path, _engine(path)

    def migrate(self) -> None:
        """Bring the tables to this version, in one transaction."""
        what = "The workshop could not be brought to this version"
        with self._writing(what), self._engine.begin() as connection:
            if _revision(connection) == HEAD_REVISION:
                return
            # Alembic is slow to import and needed only here.
            from alembic import command
            from alembic.config import Config

            config = Config()
            config.set_main_option("script_location", "plinth:workshop/migrations")
            config.set_main_option("path_separator", "os")
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.exec_driver_sql(f"PRAGMA user_version = {SCHEMA_VERSION}")
            connection.exec_driver_sql(f"PRAGMA application_id = {APPLICATION_ID}")

    # Builds

    def builds(self) -> list[StoredBuild]:
        """All builds that can be read, oldest first; the others are in ``locked`` afterwards."""
        query = sa.select(
            BuildRow.id,
            BuildRow.name,
            sa.type_coerce(BuildRow.document, sa.String),
            sa.type_coerce(BuildRow.situation, sa.String),
            BuildRow.seal,
        ).order_by(BuildRow.id)
        whole, locked = [], []
        with self._reading() as session:
            for number, name, document, situation, seal in session.execute(query):
                where = f"Build {number} ({name})"
                try:
                    if seal != seals.text_seal((name, document, situation)):
                        raise BuildFileError([f"{where}: its text is not as it was written"])
                    build = read_document(Build, document, where)
                    whole.append(StoredBuild(number, build, read_document(Situation, situation, where)))
                except BuildFileError as error:
                    locked.append(LockedBuild(number, str(name), error.sentences[0]))
        self.locked = tuple(locked)
        return whole

    def add_build(self, build: Build, situation: Situation, words: str, at: dt.datetime | None = None) -> StoredBuild:
        """Keep a new build and begin its diary (``at`` a moment, now if none is given)."""
        begun_at = _naive(at or now())
        with self._session("The new build") as session:
            row = BuildRow(
                name=build.name,
                document=build.model_dump(mode="json"),
                situation=situation.model_dump(mode="json"),
                created_at=begun_at,
            )
            session.add(row)
            session.flush()
            _seal_text(session, "builds", row.id)
            self._add_line(session, EntryRow(build_id=row.id, at=begun_at, kind="made", subject="build", words=words))
            session.commit()
            return StoredBuild(row.id, build, situation)

    def save_build(self, stored: StoredBuild, words: str | None = None) -> DiaryEntry | None:
        """Keep the present state of a build; with ``words``, a diary line as well, which is returned."""
        entry = DiaryEntry(now(), "changed", "build", words) if words else None
        with self._session("The change") as session:
            session.execute(
                sa.update(BuildRow)
                .where(BuildRow.id == stored.id)
                .values(
                    name=stored.build.name,
                    document=stored.build.model_dump(mode="json"),
                    situation=stored.situation.model_dump(mode="json"),
                )
            )
            _seal_text(session, "builds", stored.id)
            if entry is not None:
                self._add_entry(session, stored.id, entry)
            session.commit()
        return entry

    # Readings and the diary

    def keep_reading(self, build_id: int, reading: Reading) -> DiaryEntry:
        """Keep a reading; its diary line comes back once it is on disk. Raises NotKeptError."""
        entry = DiaryEntry(reading.taken_at, "reading", reading.subject, reading.label, reading, reading.conditions)
        with self._session("The reading") as session:
            self._add_entry(session, build_id, entry)
            session.commit()
        return entry

    def keep_record(self, build_id: int, record: Record) -> DiaryEntry:
        """Keep a reading, a confirmation or an override."""
        if isinstance(record, Reading):
            return self.keep_reading(build_id, record)
        kind, words = ("override", record.reason) if isinstance(record, Override) else ("confirmed", "Done.")
        return self.keep_entry(
            build_id, DiaryEntry(record.at, kind, record.subject, words, conditions=record.conditions)
        )

    def keep_entry(self, build_id: int, entry: DiaryEntry) -> DiaryEntry:
        """Keep a diary line that is no reading."""
        with self._session("The diary line") as session:
            self._add_entry(session, build_id, entry)
            session.commit()
        return entry

    def _add_entry(self, session: Session, build_id: int, entry: DiaryEntry) -> None:
        line, reading = _entry_row(build_id, entry), entry.reading
        if reading is not None:
            fields = {field.name: getattr(reading, field.name) for field in dataclasses.fields(reading)}
            fields |= {"taken_at": _naive(reading.taken_at), "state": str(reading.state), "bound": str(reading.bound)}
            # Conditions belong to the line, as for records that are no readings.
            del fields["conditions"]
            row = ReadingRow(build_id=build_id, **fields)
            session.add(row)
            session.flush()
            line.reading_id = row.id
        self._add_line(session, line)

    def _add_line(self, session: Session, row: EntryRow) -> None:
        """Add a line with its seal, and write down how many there are now."""
        connection = session.connection()
        before = connection.exec_driver_sql(seals.LAST_SEAL).scalar() or ""
        session.add(row)
        session.flush()
        _, *facts = connection.exec_driver_sql(seals.ONE_LINE, (row.id,)).one()
        seal = seals.line_seal(str(before).encode(), facts)
        connection.exec_driver_sql("UPDATE entries SET seal = ? WHERE id = ?", (seal, row.id))
        chain = session.get(SettingRow, seals.CHAIN)
        lines = 1 if chain is None else int(chain.value["lines"]) + 1
        session.merge(SettingRow(key=seals.CHAIN, value={"lines": lines, "last": seal}, seal=""))

    def restore(self, builds: Sequence[StoredBuild], lines: Sequence[tuple[int, DiaryEntry]]) -> dict[int, int]:
        """Put builds and lines of another file into this one, all or nothing; the new number of each build."""
        with self._session("The saved builds") as session:
            numbers: dict[int, int] = {}
            for stored in builds:
                row = BuildRow(
                    name=stored.build.name, document=stored.build.model_dump(mode="json"),
                    situation=stored.situation.model_dump(mode="json"), created_at=_naive(now()),
                )  # fmt: skip
                session.add(row)
                session.flush()
                _seal_text(session, "builds", row.id)
                numbers[stored.id] = row.id
            for build_id, entry in lines:
                self._add_entry(session, numbers[build_id], entry)
            session.commit()
        return numbers

    def diary(self, build_id: int, first: int = 0, most: int = -1) -> list[DiaryEntry]:
        """Lines of a build's diary in the order they were written: ``most`` from the ``first`` on, all if not said."""
        query = _lines().where(EntryRow.build_id == build_id).order_by(EntryRow.id).offset(first).limit(most)
        with self._reading() as session:
            return [_entry(row, reading) for row, reading in session.execute(query)]

    def diary_size(self, build_id: int) -> tuple[int, int]:
        """How many lines a build's diary has, and how many of them are readings."""
        query = sa.select(sa.func.count(EntryRow.id), sa.func.count(EntryRow.reading_id))
        with self._reading() as session:
            lines, readings = session.execute(query.where(EntryRow.build_id == build_id)).one()
            return int(lines), int(readings)

    def records(self, build_id: int) -> list[Record]:
        """Readings, confirmations and overrides of a build, in the order they were kept."""
        return [record for entry in self.diary(build_id) if (record := record_of(entry)) is not None]

    def readings_of(self, build_id: int, subjects: Sequence[str]) -> list[Reading]:
        """All readings of some subjects, in the order they were kept, whether they count today or not."""
        of_these = _lines().where(EntryRow.build_id == build_id, EntryRow.subject.in_(subjects)).order_by(EntryRow.id)
        with self._reading() as session:
            entries = [_entry(row, reading) for row, reading in session.execute(of_these)]
        return [entry.reading for entry in entries if entry.reading is not None]

    def latest_records(self, build_id: int) -> list[Record]:
        """The last record of each subject under each of the conditions it was taken in, in the order kept."""
        last = (
            sa.select(sa.func.max(EntryRow.id))
            .where(EntryRow.build_id == build_id, EntryRow.kind.in_(RECORD_KINDS))
            .group_by(EntryRow.subject, EntryRow.conditions)
        )
        with self._reading() as session:
            rows = session.execute(_lines().where(EntryRow.id.in_(last)).order_by(EntryRow.id))
            return [record for row in rows if (record := record_of(_entry(*row))) is not None]

    def last_of(self, kinds: Sequence[str]) -> list[tuple[int, DiaryEntry]]:
        """Of each build that has one, its last line of one of these kinds, with the build's number."""
        last = sa.select(sa.func.max(EntryRow.id)).where(EntryRow.kind.in_(kinds)).group_by(EntryRow.build_id)
        with self._reading() as session:
            rows = session.execute(_lines().where(EntryRow.id.in_(last)).order_by(EntryRow.id))
            return [(row.build_id, _entry(row, reading)) for row, reading in rows]

    # Shelf, bench, settings

    def add_parts(self, parts: tuple[Part, ...]) -> None:
        """Put parts on the shelf."""
        with self._session("The parts") as session:
            rows = [PartRow(kind=type(part).__name__, document=part.model_dump(mode="json")) for part in parts]
            session.add_all(rows)
            session.flush()
            for row in rows:
                _seal_text(session, "parts", row.id)
            session.commit()

    def shelf(self, kind: type[Part]) -> list[Part]:
        """The parts of one kind on the shelf. One that cannot be read is left out, and said in ``notices``."""
        query = (
            sa.select(PartRow.id, sa.type_coerce(PartRow.document, sa.String), PartRow.seal)
            .where(PartRow.kind == kind.__name__)
            .order_by(PartRow.id)
        )
        found: list[Part] = []
        with self._reading() as session:
            for number, document, seal in session.execute(query):
                where = f"Part {number} on the shelf ({kind.__name__})"
                try:
                    if seal != seals.text_seal((kind.__name__, document)):
                        raise BuildFileError([f"{where}: its text is not as it was written"])
                    found.append(read_document(kind, document, where))
                except BuildFileError as error:
                    self._notice(f"{error.sentences[0]}. It is left out and stays in the file.")
        return found

    def bench(self) -> BenchKit:
        """The instruments of this workshop; unknown accuracies until somebody states them."""
        stored = self.setting("bench")
        if stored is not None:
            try:
                return read_document(BenchKit, json.dumps(stored), "The instruments")
            except BuildFileError as error:
                self._notice(f"{error.sentences[0]}. Their accuracy counts as unknown: state it again.")
        return unknown_kit()

    def setting(self, key: str) -> dict[str, Any] | None:
        """A setting, None where it was never set or cannot be read (then it is said in ``notices``)."""
        query = sa.select(sa.type_coerce(SettingRow.value, sa.String), SettingRow.seal).where(SettingRow.key == key)
        with self._reading() as session:
            row = session.execute(query).one_or_none()
        if row is None:
            return None
        text, seal = row
        try:
            found = json.loads(text) if seal == seals.text_seal((text,)) else None
        except (ValueError, RecursionError):
            found = None
        if not isinstance(found, dict):
            self._notice(f"The setting {key!r} is not as it was written. It counts as not set.")
            return None
        return found

    def set_setting(self, key: str, value: dict[str, Any]) -> None:
        """Keep a setting."""
        with self._session("The setting") as session:
            session.merge(SettingRow(key=key, value=value))
            session.flush()
            _seal_text(session, "settings", key)
            session.commit()

    def _notice(self, sentence: str) -> None:
        if sentence not in self.notices:
            self.notices.append(sentence)

    @contextlib.contextmanager
    def _reading(self) -> Iterator[Session]:
        try:
            with Session(self._engine) as session:
                yield session
        except (DBAPIError, sqlite3.Error) as error:
            raise told(self.path, getattr(error, "orig", None) or error) from error

    @contextlib.contextmanager
    def _session(self, what: str) -> Iterator[Session]:
        with self._writing(f"{what} could not be kept"):
            self._still_there(what)
            with Session(self._engine, expire_on_commit=False) as session:
                yield session
            self._still_there(what)

    def _still_there(self, what: str) -> None:
        """A file renamed, replaced or deleted under the window would take what is kept with it."""
        if not self._lock.holds(self.path):
            raise NotKeptError(
                self.path,
                f"{what} could not be kept: {self.path} was renamed, replaced or deleted since it was opened. It is "
                "still on the screen. Give the file its name back and keep it again.",
            )

    @contextlib.contextmanager
    def _writing(self, what: str) -> Iterator[None]:
        try:
            yield
        except (DBAPIError, sqlite3.Error, OSError) as error:
            reason = str(error.orig) if isinstance(error, DBAPIError) else str(error)
            raise NotKeptError(
                self.path,
                f"{what}: {reason}. It is still on the screen. {disk_words(reason)}; nothing kept earlier is lost.",
            ) from error


def open_workshop(path: Path) -> Workshop:
    """Open an existing workshop. Raises a WorkshopError that says what is wrong; the file is then untouched."""
    named = _named(path)
    check_kind(named)
    lock = WorkshopLock(named)
    workshop: Workshop | None = None
    try:
        if check_contents(named) < SCHEMA_VERSION:
            _rehearse_migration(named)
        workshop = Workshop(named, lock)
        workshop.migrate()
    except BaseException:
        if workshop is not None:
            workshop.close()
        lock.release()
        raise
    return workshop


def _rehearse_migration(path: Path) -> None:
    """Bring a copy to this version first: a file that cannot be brought there is damaged, and is left as it is."""
    try:
        with copy_of(path) as copy:
            rehearsed = Workshop(copy, WorkshopLock(copy))
            try:
                rehearsed.migrate()
            finally:
                rehearsed.close()
    except (NotKeptError, sa.exc.SQLAlchemyError, ValueError) as error:
        raise DamagedWorkshopError(
            path, [f"it cannot be brought to this version: {str(error).splitlines()[0][:160]}"]
        ) from error
    except OSError as error:
        raise told(path, error) from error


def create_workshop(path: Path, fill: Callable[[Workshop], None] | None = None) -> Workshop:
    """Make a new workshop file, ``fill`` it, and only then give it its name: nobody ever sees half of one.

    Raises FileExistsError where something is there already, OutOfReachError or NotKeptError where the disk does not
    take it; nothing is then left behind.
    """
    named = _named(path)
    with begun.making(named) as aside:
        lock = WorkshopLock(aside)
        workshop = Workshop(aside, lock)
        try:
            workshop.migrate()
            if fill is not None:
                fill(workshop)
            begun.give_name(aside, named)
            workshop.move_to(named)
        except BaseException:
            workshop.close()
            raise
    return workshop


def _named(path: Path) -> Path:
    try:
        return path.resolve()
    except (OSError, RuntimeError, ValueError) as error:
        raise NotAWorkshopError(
            path, f"{str(path)[:200]!r} is no name of a file ({error}). Choose another workshop, or make a new one."
        ) from error


def _engine(path: Path) -> sa.Engine:
    # A URL made of parts: a name may hold %, ? and #.
    engine = sa.create_engine(sa.URL.create("sqlite", database=os.fspath(path)), poolclass=sa.pool.StaticPool)
    sa.event.listen(engine, "connect", _set_pragmas)
    sa.event.listen(engine, "begin", _begin)
    return engine


def _begin(connection: sa.Connection) -> None:
    connection.exec_driver_sql("BEGIN")


def _set_pragmas(connection: DBAPIConnection, _record: object) -> None:
    # Python's module would begin a transaction late and not at all for changes of tables: it is begun above instead.
    connection.isolation_level = None
    cursor = connection.cursor()
    # A file of before may be written ahead; asking for the journal folds that in first.
    cursor.execute("PRAGMA journal_mode = DELETE")
    # EXTRA also brings the journal's end to disk: what was said to be kept is not rolled back after a power cut.
    cursor.execute("PRAGMA synchronous = EXTRA")
    cursor.execute("PRAGMA foreign_keys = ON")
    cursor.close()


def _revision(connection: sa.Connection) -> str | None:
    if not sa.inspect(connection).has_table("alembic_version"):
        return None
    found: str | None = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    return found


def _seal_text(session: Session, table: str, key: int | str) -> None:
    column, query = seals.TEXTS[table]
    connection = session.connection()
    _, _, *texts = connection.exec_driver_sql(f"{query} WHERE {column} = ?", (key,)).one()
    connection.exec_driver_sql(
        f"UPDATE {table} SET seal = ? WHERE {column} = ?",  # noqa: S608  # names of this package's own
        (seals.text_seal(texts), key),
    )


def _lines() -> Any:
    return sa.select(EntryRow, ReadingRow).outerjoin(ReadingRow, EntryRow.reading_id == ReadingRow.id)


def _entry_row(build_id: int, entry: DiaryEntry) -> EntryRow:
    return EntryRow(
        build_id=build_id, at=_naive(entry.at), kind=entry.kind, subject=entry.subject, words=entry.words,
        conditions=_plain(entry.conditions),
    )  # fmt: skip


def _plain(conditions: Conditions | None) -> dict[str, Any] | None:
    return None if conditions is None else dict(conditions)


def _naive(at: dt.datetime) -> dt.datetime:
    return at.astimezone(dt.UTC).replace(tzinfo=None)


def _aware(at: dt.datetime) -> dt.datetime:
    return at.replace(tzinfo=dt.UTC)


def _entry(row: EntryRow, reading: ReadingRow | None) -> DiaryEntry:
    return DiaryEntry(
        _aware(row.at), row.kind, row.subject, row.words, _reading(reading, row.conditions) if reading else None,
        row.conditions,
    )  # fmt: skip


def record_of(entry: DiaryEntry) -> Record | None:
    """The reading, override or confirmation that a line tells of; None for any other line."""
    if entry.reading is not None:
        return entry.reading
    if entry.kind == "override":
        return Override(entry.subject, entry.words, entry.at, entry.conditions)
    return Confirmation(entry.subject, entry.at, entry.conditions) if entry.kind == "confirmed" else None


def _reading(row: ReadingRow, conditions: Conditions | None) -> Reading:
    return Reading(
        subject=row.subject, label=row.label, typed=row.typed, value=row.value, unit=row.unit, u=row.u,
        instrument=row.instrument, taken_at=_aware(row.taken_at), state=State(row.state), sentence=row.sentence,
        low=row.low, high=row.high, simulated=row.simulated, bound=Bound(row.bound), conditions=conditions,
    )  # fmt: skip
