"""What a file is and whether it is whole, found out without changing it: just what SQLite itself would see."""

import contextlib
import dataclasses
import os
import shutil
import sqlite3
import stat
import tempfile
from collections.abc import Iterator
from pathlib import Path

from plinth.workshop.errors import (
    DamagedWorkshopError,
    NewerWorkshopError,
    NotAWorkshopError,
    OutOfReachError,
    ReadOnlyWorkshopError,
    WorkshopError,
)
from plinth.workshop.rows import COUNTED_SINCE, missing_rows, resealed_rows
from plinth.workshop.schema import APPLICATION_ID, SCHEMA_VERSION, SEALED_SINCE, tables
from plinth.workshop.seals import broken_lines

_MAGIC = b"SQLite format 3\x00"
_WRITTEN_AHEAD = 2
_JOURNALS = ("-wal", "-journal")
# A file up to this is looked at whole before it opens, some tenths of a second; of a larger one what is large is left,
# and looked at behind (``contents_check``).
LOOKED_AT_WHOLE_BYTES = 100_000_000
LARGE_TABLES = frozenset({"papers", "photos", "captures", "chunks"})
# Pages damaged so that they lead in circles would be followed for ever; this many steps no honest file needs.
_STEPS_AT_A_TIME, _MOST_TIMES = 1_000_000, 4_000


def check_kind(path: Path) -> None:
    """Raise where there is no ordinary file that may be written. Opens nothing."""
    try:
        status = path.stat()
    except FileNotFoundError as error:
        raise NotAWorkshopError(
            path, f"There is no file {path}. Choose another workshop, or make a new one."
        ) from error
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise ReadOnlyWorkshopError(
            path, f"{path} cannot be read ({reason}). Change its permissions, or choose another workshop."
        ) from error
    if stat.S_ISDIR(status.st_mode):
        raise NotAWorkshopError(path, f"{path} is a folder, not a workshop file. Choose the file inside it.")
    if not stat.S_ISREG(status.st_mode):
        raise NotAWorkshopError(
            path, f"{path} is a pipe or a device, not a workshop file. It was left as it is. Choose another file."
        )
    # Root may write anything, so the permission bits are asked and not only the system.
    if not status.st_mode & stat.S_IWUSR or not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
        raise ReadOnlyWorkshopError(
            path,
            f"{path} may be read but not written, so nothing could be kept. It was left as it is. "
            "Make a copy where you may write and open that.",
        )


@dataclasses.dataclass(frozen=True)
class Contents:
    """``version`` of the tables, and ``notices`` of what opens all the same.

    ``unchecked``: the file is large, and its papers and pictures were not looked at yet.
    """

    version: int
    notices: tuple[str, ...]
    unchecked: bool = False


def check_contents(path: Path) -> Contents:
    """What a file is. Raises where it is foreign, newer or damaged; changes nothing."""
    with seen_by_sqlite(path) as connection:
        version = check_header(path, connection)
        large = path.stat().st_size > LOOKED_AT_WHOLE_BYTES
        if not large:
            _hold_sound(path, connection, "3")
        present = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        missing = tables(version) - present
        if missing:
            raise DamagedWorkshopError(path, [f"its table {name} is missing" for name in sorted(missing)])
        for table in sorted(present - LARGE_TABLES) if large else ():
            _hold_sound(path, connection, f"'{table}'")
        damage = _migration_damage(connection, version)
        damage += broken_lines(connection, version) if version >= SEALED_SINCE else _unreadable(connection)
        if version >= COUNTED_SINCE:
            damage += missing_rows(connection)
        if damage:
            raise DamagedWorkshopError(path, damage)
        return Contents(version, tuple(resealed_rows(connection)) if version >= COUNTED_SINCE else (), large)


def _hold_sound(path: Path, connection: sqlite3.Connection, what: str) -> None:
    """Whether pages and indexes hold together, of the whole file (``3``: so many faults) or of a table."""
    rows = connection.execute(f"PRAGMA integrity_check({what})").fetchall()
    if rows != [("ok",)]:
        raise DamagedWorkshopError(path, [_first_line(str(row[0])) for row in rows])


def _migration_damage(connection: sqlite3.Connection, version: int) -> list[str]:
    """Whether the tables' own note of their version is that of the file."""
    revisions = [str(row[0]) for row in connection.execute("SELECT CAST(version_num AS BLOB) FROM alembic_version")]
    return [] if revisions == [str(f"{version:04d}".encode())] else ["what it says of its own version was altered"]


def _unreadable(connection: sqlite3.Connection) -> list[str]:
    """Of a file from before the seals: what cannot even be read as text."""
    damaged = []
    for table in ("builds", "readings", "entries", "parts", "settings"):
        try:
            for _ in connection.execute(f"SELECT * FROM {table}"):  # noqa: S608  # names of this package's own
                pass
        except sqlite3.OperationalError as error:
            damaged.append(f"its table {table} cannot be read: {_first_line(str(error))[:120]}")
    return damaged


def check_header(path: Path, connection: sqlite3.Connection) -> int:
    """The version of the tables. Raises where another program, a newer Plinth, or nobody has filled the file."""
    (application,) = connection.execute("PRAGMA application_id").fetchone()
    (version,) = connection.execute("PRAGMA user_version").fetchone()
    if application != APPLICATION_ID:
        if connection.execute("SELECT count(*) FROM sqlite_master").fetchone() == (0,):
            raise NotAWorkshopError(
                path,
                f"{path} is empty: nothing was ever kept in it. It was left as it is. Delete it and begin a workshop "
                "of that name, or choose another file.",
            )
        raise NotAWorkshopError(
            path,
            f"{path} is a database of another program, not a Plinth workshop. It was left as it is. "
            "Choose another file, or make a new workshop.",
        )
    if version > SCHEMA_VERSION:
        raise NewerWorkshopError(
            path,
            f"{path} was written by a newer Plinth (format {version}, this one knows {SCHEMA_VERSION}). "
            "It was left as it is. Open it with the newer Plinth.",
        )
    return int(version)


@contextlib.contextmanager
def seen_by_sqlite(path: Path) -> Iterator[sqlite3.Connection]:
    """A connection that only reads. Where a journal lies beside the file it looks at a copy with that folded in.

    Raises NotAWorkshopError for what is no database; what goes wrong while reading is turned into a WorkshopError.
    """
    try:
        with path.open("rb") as file:
            header = file.read(100)
        if len(header) < 100 or header[:16] != _MAGIC:
            raise NotAWorkshopError(
                path,
                f"{path} is not a Plinth workshop. It was left as it is. Choose another file, or make a new workshop.",
            )
        beside = [path.with_name(path.name + ending) for ending in _JOURNALS]
        journals = [file for file in beside if file.is_file() and file.stat().st_size > 0]
        with contextlib.ExitStack() as stack:
            looked_at, mode = path, "ro"
            if journals or _WRITTEN_AHEAD in header[18:20]:
                looked_at, mode = stack.enter_context(copy_of(path)), "rw"
            connection = sqlite3.connect(f"{looked_at.as_uri()}?mode={mode}", uri=True)
            stack.callback(connection.close)
            _give_up_on_circles(connection)
            yield connection
    except WorkshopError:
        raise
    except (sqlite3.Error, OSError, ValueError) as error:
        raise told(path, error) from error


@contextlib.contextmanager
def copy_of(path: Path) -> Iterator[Path]:
    """A copy of the file with the journals beside it, gone afterwards. Raises OSError."""
    with tempfile.TemporaryDirectory(prefix="plinth-") as folder:
        copy = Path(folder) / "copy.plinth"
        beside = [
            file for file in (path.with_name(path.name + ending) for ending in ("", *_JOURNALS)) if file.is_file()
        ]
        needed, free = sum(file.stat().st_size for file in beside), shutil.disk_usage(folder).free
        if needed > free:
            raise OutOfReachError(
                path,
                f"{path} was not closed properly and is looked at in a copy first, which needs {needed // 2**20 + 1} "
                f"MB in {Path(folder).parent}, where {free // 2**20} MB are free. It was left as it is. Free that much "
                "there, or start Plinth with TMPDIR set to a folder with room.",
            )
        for file in beside:
            shutil.copyfile(file, copy.with_name(copy.name + file.name.removeprefix(path.name)))
        yield copy


def _give_up_on_circles(connection: sqlite3.Connection) -> None:
    left = [_MOST_TIMES]

    def step() -> int:
        left[0] -= 1
        return int(left[0] < 0)

    connection.set_progress_handler(step, _STEPS_AT_A_TIME)


# SQLite's primary result codes (the low eight bits): what is no fault of the file.
_BUSY = (5, 6)
_DISK = {8: "it may not be written", 10: "the disk failed", 13: "the disk is full", 14: "it cannot be opened"}


def told(path: Path, error: Exception) -> WorkshopError:
    """The error to raise for one of SQLite's or of the system's: only what is wrong with the file is called damage."""
    code = getattr(error, "sqlite_errorcode", 0) & 0xFF
    if code in _BUSY:
        return OutOfReachError(
            path, f"{path} is held by another program. It was left as it is. Close it there and try again."
        )
    if code in _DISK:
        return OutOfReachError(
            path, f"{path} could not be read ({_DISK[code]}). It was left as it is. See to the disk and try again."
        )
    if isinstance(error, OSError):
        return OutOfReachError(
            path,
            f"{path} could not be read ({error.strerror or error}). It was left as it is. See to the disk, or whether "
            "it is plugged in, and try again.",
        )
    return DamagedWorkshopError(path, [_first_line(str(error))])


def _first_line(reason: str) -> str:
    lines = [line.strip() for line in reason.splitlines() if line.strip() and "in database main" not in line]
    return lines[0] if lines else "its pages do not hold together"
