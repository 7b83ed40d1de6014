"""The file itself: its journal and lock, bringing it to this version, reading from it and writing to it.

A rollback journal with full synchronous writes: what is said to be kept is in the one named file.
"""

import contextlib
import datetime as dt
import os
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from pathlib import Path

import sqlalchemy as sa
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from plinth.workshop import seals
from plinth.workshop.checks import check_header, seen_by_sqlite, told
from plinth.workshop.errors import DamagedWorkshopError, NotKeptError, WorkshopError, disk_words
from plinth.workshop.lock import WorkshopLock
from plinth.workshop.rows import ROWS, row_changed
from plinth.workshop.schema import (
    APPLICATION_ID,
    HEAD_REVISION,
    SCHEMA_VERSION,
)


class WorkshopFile:
    """The one file and its lock, opened; ``notices`` sentences about what was set aside at opening."""

    def __init__(self, path: Path, lock: WorkshopLock) -> None:
        self.path = path
        self.notices: list[str] = []
        # A large file whose papers and pictures are still to be looked at.
        self.unchecked = False
        self._lock = lock
        self.engine = _engine_of(path)
        # How the file was left by the last write of this window: size and time, and what it says of its rows.
        self._left: tuple[tuple[int, int], dict[str, str]] | None = None
        # Chunks of large contents are written on other threads, one between two writes of the window.
        self._one_writer = threading.Lock()

    def close(self) -> None:
        """Close the file and release it."""
        self.engine.dispose()
        self._lock.release()

    def move_to(self, path: Path) -> None:
        """The file has another name from now on: it was begun under one of its own."""
        self.engine.dispose()
        self.path, self.engine = path, _engine_of(path)

    def migrate(self) -> None:
        """Bring the tables to this version, in one transaction."""
        what = "The workshop could not be brought to this version"
        with self._told_as(what), self.engine.begin() as connection:
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

    def remember(self) -> None:
        """How the file stands now, to know it by before the next write."""
        self._left = (_stamp(self.path), self._told_of_rows())

    def remember_stamp(self) -> None:
        """The same after a write that changed no row that is counted."""
        if self._left is not None:
            self._left = (_stamp(self.path), self._left[1])

    @contextlib.contextmanager
    def between_writes(self) -> Iterator[None]:
        """While nobody else in this process writes."""
        with self._one_writer:
            yield

    def _told_of_rows(self) -> dict[str, str]:
        with self.engine.connect() as connection:
            rows = connection.exec_driver_sql(
                "SELECT key, value FROM settings WHERE key IN (?, ?)", (seals.CHAIN, ROWS)
            ).fetchall()
        return {str(key): str(value) for key, value in rows}

    def notice(self, sentence: str) -> None:
        """Say once what was set aside."""
        if sentence not in self.notices:
            self.notices.append(sentence)

    @contextlib.contextmanager
    def reading_from(self) -> Iterator[Session]:
        """Read; raises a WorkshopError that says what is wrong."""
        try:
            with Session(self.engine) as session:
                yield session
        except (DBAPIError, sqlite3.Error) as error:
            raise told(self.path, getattr(error, "orig", None) or error) from error
        except (ValueError, TypeError, KeyError) as error:
            # Sealed, and yet nothing that Plinth ever writes: a cell of another program's.
            reason = str(error).splitlines()[0][:120] if str(error) else type(error).__name__
            raise DamagedWorkshopError(self.path, [f"what is kept in it cannot be understood: {reason}"]) from error

    @contextlib.contextmanager
    def writing(self, what: str) -> Iterator[Session]:
        """Write ``what`` (in words), while the file is still there. Raises NotKeptError."""
        with self.between_writes(), self._told_as(f"{what} could not be kept"):
            self._still_there(what)
            with Session(self.engine, expire_on_commit=False) as session:
                yield session
            self._still_there(what, written=True)
            self.remember()

    def _still_there(self, what: str, *, written: bool = False) -> None:
        """A file renamed, replaced, deleted or overwritten under the window would take what is kept with it."""
        if not self._lock.holds(self.path):
            raise NotKeptError(
                self.path,
                f"{what} could not be kept: {self.path} was renamed, replaced or deleted since it was opened. It is "
                "still on the screen. Give the file its name back and keep it again.",
            )
        if written or self._left is None or _stamp(self.path) == self._left[0]:
            return
        # Touched, or another's: by what it says of its own rows.
        try:
            with seen_by_sqlite(self.path) as connection:
                check_header(self.path, connection)
                query = "SELECT key, value FROM settings WHERE key IN (?, ?)"
                now = {str(key): str(value) for key, value in connection.execute(query, (seals.CHAIN, ROWS))}
        except (WorkshopError, sqlite3.Error) as error:
            raise self._overwritten(what) from error
        if now != self._left[1]:
            raise self._overwritten(what)

    def _overwritten(self, what: str) -> NotKeptError:
        return NotKeptError(
            self.path,
            f"{what} could not be kept: {self.path} was overwritten by another program since it was opened. It is "
            "still on the screen. Put the file back from a copy and keep it again, or go on in another workshop.",
        )

    @contextlib.contextmanager
    def _told_as(self, what: str) -> Iterator[None]:
        try:
            yield
        except (DBAPIError, sqlite3.Error, OSError) as error:
            cause = error.orig if isinstance(error, DBAPIError) else error
            raise NotKeptError(
                self.path,
                f"{what}: {cause}. It is still on the screen. {disk_words(cause)}; nothing kept earlier is lost.",
            ) from error


def _stamp(path: Path) -> tuple[int, int]:
    status = path.stat()
    return status.st_size, status.st_mtime_ns


# Another program that holds the file is told at once: the window does not stand for it.
BUSY_S = 0.2


def _engine_of(path: Path) -> sa.Engine:
    # A URL made of parts: a name may hold %, ? and #.
    engine = sa.create_engine(
        sa.URL.create("sqlite", database=os.fspath(path)), poolclass=sa.pool.StaticPool,
        connect_args={"timeout": BUSY_S},
    )  # fmt: skip
    sa.event.listen(engine, "connect", _set_pragmas)
    sa.event.listen(engine, "begin", _begin)
    return engine


def _begin(connection: sa.Connection) -> None:
    connection.exec_driver_sql("BEGIN")


def _set_pragmas(connection: DBAPIConnection, _record: object) -> None:
    # Python's module would begin a transaction late and not at all for changes of tables: it is begun above instead.
    connection.isolation_level = None
    # A byte that is no text is shown by its seal, which then does not fit; it must not hide the rows beside it.
    connection.text_factory = _decoded
    keeps_safe(connection)


def keeps_safe(connection: DBAPIConnection | sqlite3.Connection) -> None:
    """Have what this connection writes be on disk once it is committed."""
    cursor = connection.cursor()
    # A file of before may be written ahead; asking for the journal folds that in first.
    cursor.execute("PRAGMA journal_mode = DELETE")
    # EXTRA also brings the journal's end to disk: what was said to be kept is not rolled back after a power cut.
    cursor.execute("PRAGMA synchronous = EXTRA")
    cursor.execute("PRAGMA foreign_keys = ON")
    cursor.close()


def _decoded(raw: bytes) -> str:
    return raw.decode("utf-8", "surrogateescape")


def printable(text: object) -> str:
    """A text of the file as it can be shown, bytes that are none included."""
    shown = text.decode("utf-8", "replace") if isinstance(text, bytes) else str(text)
    return shown.encode("utf-8", "replace").decode("utf-8")


def _revision(connection: sa.Connection) -> str | None:
    if not sa.inspect(connection).has_table("alembic_version"):
        return None
    revision: str | None = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    return revision


def seal_text(session: Session, table: str, key: int | str) -> None:
    """Seal the texts of a row as they now stand in the file, and count it."""
    column, query = seals.TEXTS[table]
    connection = session.connection()
    _, before, *texts = connection.exec_driver_sql(f"{query} WHERE {column} = ?", (key,)).one()
    seal = seals.text_seal(texts)
    connection.exec_driver_sql(
        f"UPDATE {table} SET seal = ? WHERE {column} = ?",  # noqa: S608  # names of this package's own
        (seal, key),
    )
    row_changed(connection, table, key, before or None, seal)


def rows_gone(session: Session, table: str, keys: Sequence[int]) -> None:
    """Rows are about to be taken away: they are counted no more."""
    column, _ = seals.TEXTS[table]
    connection = session.connection()
    for key in keys:
        seal = connection.exec_driver_sql(f"SELECT seal FROM {table} WHERE {column} = ?", (key,)).scalar()  # noqa: S608
        if seal is not None:
            row_changed(connection, table, key, seal, None)


def naive(at: dt.datetime) -> dt.datetime:
    """A moment as the file holds it: UTC, without saying so."""
    return at.astimezone(dt.UTC).replace(tzinfo=None)


def aware(at: dt.datetime) -> dt.datetime:
    """A moment of the file, in UTC."""
    return at.replace(tzinfo=dt.UTC)
