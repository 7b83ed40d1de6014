"""The workshop file, opened: everything that is kept goes through here and is on disk when a call returns."""

import contextlib
import dataclasses
import datetime as dt
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from pydantic import TypeAdapter
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from plinth.builds.build import Build
from plinth.builds.instruments import BenchKit, unknown_kit
from plinth.builds.parts import Part
from plinth.builds.situation import Situation
from plinth.judge.reading import Confirmation, Override, Reading, Record
from plinth.judge.state import State
from plinth.workshop.checks import check_header, check_pages
from plinth.workshop.errors import DamagedWorkshopError, NotKeptError
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

_PART: TypeAdapter[Part] = TypeAdapter(Part)


@dataclasses.dataclass(frozen=True)
class StoredBuild:
    """A build with its situation and its number in the file."""

    id: int
    build: Build
    situation: Situation


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


def now() -> dt.datetime:
    """The present in UTC, whole seconds."""
    return dt.datetime.now(dt.UTC).replace(microsecond=0)


class Workshop:
    """An open workshop file. Construct with ``open_workshop`` or ``create_workshop``; ``close`` when done."""

    def __init__(self, path: Path, lock: WorkshopLock) -> None:
        self.path = path
        self._lock = lock
        self._engine = sa.create_engine(f"sqlite:///{path}", poolclass=sa.pool.StaticPool)
        sa.event.listen(self._engine, "connect", _set_pragmas)

    def close(self) -> None:
        """Close the file and release it."""
        self._engine.dispose()
        self._lock.release()

    def migrate(self) -> None:
        """Bring the tables to this version, in one transaction."""
        with self._writing("The workshop could not be brought to this version"), self._engine.begin() as connection:
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
        """All builds, oldest first. Raises DamagedWorkshopError where one cannot be read."""
        with Session(self._engine) as session:
            return [self._stored(row) for row in session.scalars(sa.select(BuildRow).order_by(BuildRow.id))]

    def _stored(self, row: BuildRow) -> StoredBuild:
        try:
            return StoredBuild(row.id, Build.model_validate(row.document), Situation.model_validate(row.situation))
        except ValueError as error:
            raise DamagedWorkshopError(
                self.path, f"{self.path}: build {row.id} ({row.name}) cannot be read. It was left as it is: {error}"
            ) from error

    def add_build(self, build: Build, situation: Situation, words: str, at: dt.datetime | None = None) -> StoredBuild:
        """Keep a new build and begin its diary (``at`` a moment, now if none is given)."""
        begun = _naive(at or now())
        with self._session("The new build") as session:
            row = BuildRow(
                name=build.name,
                document=build.model_dump(mode="json"),
                situation=situation.model_dump(mode="json"),
                created_at=begun,
            )
            session.add(row)
            session.flush()
            session.add(EntryRow(build_id=row.id, at=begun, kind="made", subject="build", words=words))
            session.commit()
            return StoredBuild(row.id, build, situation)

    def save_build(self, stored: StoredBuild, words: str | None = None) -> None:
        """Keep the present state of a build; with ``words``, a diary line as well."""
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
            if words:
                session.add(
                    EntryRow(build_id=stored.id, at=_naive(now()), kind="changed", subject="build", words=words)
                )
            session.commit()

    # Readings and the diary

    def keep_reading(self, build_id: int, reading: Reading) -> int:
        """Keep a reading and its diary line; it is on disk when the number comes back. Raises NotKeptError."""
        with self._session("The reading") as session:
            fields = dataclasses.asdict(reading)
            fields |= {"taken_at": _naive(reading.taken_at), "state": str(reading.state)}
            row = ReadingRow(build_id=build_id, **fields)
            session.add(row)
            session.flush()
            session.add(
                EntryRow(
                    build_id=build_id, at=_naive(reading.taken_at), kind="reading", subject=reading.subject,
                    words=reading.label, reading_id=row.id,
                )
            )  # fmt: skip
            session.commit()
            return row.id

    def keep_record(self, build_id: int, record: Record) -> None:
        """Keep a reading, a confirmation or an override."""
        if isinstance(record, Reading):
            self.keep_reading(build_id, record)
        elif isinstance(record, Override):
            self.keep_entry(build_id, DiaryEntry(record.at, "override", record.subject, record.reason))
        else:
            self.keep_entry(build_id, DiaryEntry(record.at, "confirmed", record.subject, "Done."))

    def keep_entry(self, build_id: int, entry: DiaryEntry) -> None:
        """Keep a diary line that is no reading."""
        with self._session("The diary line") as session:
            session.add(
                EntryRow(
                    build_id=build_id, at=_naive(entry.at), kind=entry.kind, subject=entry.subject, words=entry.words
                )
            )
            session.commit()

    def diary(self, build_id: int) -> list[DiaryEntry]:
        """All lines of a build's diary, in the order they were written."""
        query = (
            sa.select(EntryRow, ReadingRow)
            .outerjoin(ReadingRow, EntryRow.reading_id == ReadingRow.id)
            .where(EntryRow.build_id == build_id)
            .order_by(EntryRow.id)
        )
        with Session(self._engine) as session:
            return [
                DiaryEntry(_aware(row.at), row.kind, row.subject, row.words, _reading(reading) if reading else None)
                for row, reading in session.execute(query)
            ]

    def records(self, build_id: int) -> list[Record]:
        """Readings, confirmations and overrides of a build, in the order they were kept."""
        found: list[Record] = []
        for entry in self.diary(build_id):
            if entry.reading is not None:
                found.append(entry.reading)
            elif entry.kind == "override":
                found.append(Override(entry.subject, entry.words, entry.at))
            elif entry.kind == "confirmed":
                found.append(Confirmation(entry.subject, entry.at))
        return found

    # Shelf, bench, settings

    def add_parts(self, parts: tuple[Part, ...]) -> None:
        """Put parts on the shelf."""
        with self._session("The parts") as session:
            for part in parts:
                session.add(PartRow(kind=type(part).__name__, document=part.model_dump(mode="json")))
            session.commit()

    def shelf(self, kind: type[Part]) -> list[Part]:
        """The parts of one kind on the shelf."""
        query = sa.select(PartRow).where(PartRow.kind == kind.__name__).order_by(PartRow.id)
        with Session(self._engine) as session:
            return [kind.model_validate(row.document) for row in session.scalars(query)]

    def bench(self) -> BenchKit:
        """The instruments of this workshop; unknown accuracies until somebody states them."""
        stored = self.setting("bench")
        return unknown_kit() if stored is None else BenchKit.model_validate(stored)

    def setting(self, key: str) -> dict[str, Any] | None:
        """A setting, None where it was never set."""
        with Session(self._engine) as session:
            row = session.get(SettingRow, key)
            return row.value if row else None

    def set_setting(self, key: str, value: dict[str, Any]) -> None:
        """Keep a setting."""
        with self._session("The setting") as session:
            session.merge(SettingRow(key=key, value=value))
            session.commit()

    @contextlib.contextmanager
    def _session(self, what: str) -> Iterator[Session]:
        with self._writing(f"{what} could not be kept"), Session(self._engine, expire_on_commit=False) as session:
            yield session

    @contextlib.contextmanager
    def _writing(self, what: str) -> Iterator[None]:
        try:
            yield
        except (DBAPIError, sqlite3.Error, OSError) as error:
            reason = str(error.orig) if isinstance(error, DBAPIError) else str(error)
            mend = "Free some space and keep it again" if "full" in reason else "Check the disk and keep it again"
            raise NotKeptError(
                self.path, f"{what}: {reason}. It is still on the screen. {mend}; nothing kept earlier is lost."
            ) from error


def open_workshop(path: Path) -> Workshop:
    """Open an existing workshop. Raises a WorkshopError that says what is wrong; the file is then untouched."""
    check_header(path)
    lock = WorkshopLock(path)
    try:
        check_pages(path)
        workshop = Workshop(path, lock)
        workshop.migrate()
    except BaseException:
        lock.release()
        raise
    return workshop


def create_workshop(path: Path) -> Workshop:
    """Make a new workshop file. Raises FileExistsError where something is there already."""
    if path.exists():
        raise FileExistsError(f"found a file at {path}, expected none: choose another name")
    path.parent.mkdir(parents=True, exist_ok=True)
    lock = WorkshopLock(path)
    workshop = Workshop(path, lock)
    workshop.migrate()
    return workshop


def _set_pragmas(connection: DBAPIConnection, _record: object) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode = WAL")
    cursor.execute("PRAGMA synchronous = FULL")
    cursor.execute("PRAGMA foreign_keys = ON")
    cursor.close()


def _revision(connection: sa.Connection) -> str | None:
    if not sa.inspect(connection).has_table("alembic_version"):
        return None
    found: str | None = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    return found


def _naive(at: dt.datetime) -> dt.datetime:
    return at.astimezone(dt.UTC).replace(tzinfo=None)


def _aware(at: dt.datetime) -> dt.datetime:
    return at.replace(tzinfo=dt.UTC)


def _reading(row: ReadingRow) -> Reading:
    return Reading(
        subject=row.subject, label=row.label, typed=row.typed, value=row.value, unit=row.unit, u=row.u,
        instrument=row.instrument, taken_at=_aware(row.taken_at), state=State(row.state), sentence=row.sentence,
        low=row.low, high=row.high, simulated=row.simulated,
    )  # fmt: skip
