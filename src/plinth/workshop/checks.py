"""What a file is, found out without changing it."""

import os
import sqlite3
import stat
from pathlib import Path

from plinth.workshop.errors import (
    DamagedWorkshopError,
    NewerWorkshopError,
    NotAWorkshopError,
    ReadOnlyWorkshopError,
)
from plinth.workshop.schema import APPLICATION_ID, SCHEMA_VERSION

_MAGIC = b"SQLite format 3\x00"


def check_header(path: Path) -> None:
    """Raise where the file is missing, foreign, newer or may not be written; reads a hundred bytes, writes none."""
    try:
        with path.open("rb") as file:
            header = file.read(100)
    except FileNotFoundError as error:
        raise NotAWorkshopError(
            path, f"There is no file {path}. Choose another workshop, or make a new one."
        ) from error
    except IsADirectoryError as error:
        raise NotAWorkshopError(path, f"{path} is a folder, not a workshop file. Choose the file inside it.") from error
    except OSError as error:
        raise ReadOnlyWorkshopError(
            path, f"{path} cannot be read ({error.strerror}). Change its permissions, or choose another workshop."
        ) from error
    if len(header) < 100 or header[:16] != _MAGIC:
        raise NotAWorkshopError(
            path, f"{path} is not a Plinth workshop. It was left as it is. Choose another file, or make a new workshop."
        )
    application, version = int.from_bytes(header[68:72], "big"), int.from_bytes(header[60:64], "big")
    if application != APPLICATION_ID:
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
    # Root may write anything, so the permission bits are asked and not only the system.
    if not path.stat().st_mode & stat.S_IWUSR or not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
        raise ReadOnlyWorkshopError(
            path,
            f"{path} may be read but not written, so nothing could be kept. It was left as it is. "
            "Make a copy where you may write and open that.",
        )


def check_pages(path: Path) -> None:
    """Raise DamagedWorkshopError where the pages do not hold together. Opens for reading only."""
    try:
        connection = sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)
        try:
            rows = connection.execute("PRAGMA quick_check(3)").fetchall()
            connection.execute("SELECT count(*) FROM builds").fetchone()
            connection.execute("SELECT count(*) FROM readings").fetchone()
        finally:
            connection.close()
    except sqlite3.DatabaseError as error:
        raise _damaged(path, str(error)) from error
    if rows != [("ok",)]:
        raise _damaged(path, str(rows[0][0]))


def _damaged(path: Path, reason: str) -> DamagedWorkshopError:
    first = reason.splitlines()[0].removeprefix("*** in database main ***").strip() or "pages do not hold together"
    return DamagedWorkshopError(
        path,
        f"{path} is damaged ({first}). It was left as it is. Open a backup, or make a new workshop; "
        "a copy of this file can be handed to a recovery tool.",
    )
