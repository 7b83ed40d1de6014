"""Whether the large contents of an open workshop are as they were written: looked at behind, one after another.

Opening a large file looks at everything but these, so that the window stands at once.
"""

import hashlib
import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from plinth.workshop.kept_chunks import digest_of

_HELD = (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED)
GoOn = Callable[[float], object]
# What belongs to nobody is of no concern; each by its own table, number, name and digest.
_PAPERS = "SELECT id, name, digest FROM papers ORDER BY id"
_PHOTOS = "SELECT id, name, digest FROM photos ORDER BY id"
_CAPTURES = "SELECT id, name, digest FROM captures ORDER BY id"


def damaged_contents(path: Path, go_on: GoOn = lambda _share: None) -> list[str]:
    """Which papers, photos and captures are not as they were written, in words; ``go_on`` is told the share looked at.

    Each is read by itself and quickly, so that the window may write in between.
    """
    connection = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True, isolation_level=None)
    try:
        papers = connection.execute(_PAPERS).fetchall()
        photos = connection.execute(_PHOTOS).fetchall()
        captures = connection.execute(_CAPTURES).fetchall()
        every = [
            *((_paper_sound, "paper", *row) for row in papers), *((_photo_sound, "photo", *row) for row in photos),
            *((_capture_sound, "capture", *row) for row in captures),
        ]  # fmt: skip
        damaged = []
        for k, (sound, kind, number, name, digests) in enumerate(every, 1):
            if not sound(connection, number, str(digests)):
                damaged.append(f"{kind} {number} ({name}) is not as it was written")
            go_on(k / len(every))
    finally:
        connection.close()
    return damaged


def _paper_sound(connection: sqlite3.Connection, number: int, digest: str) -> bool:
    row = _row(connection, "SELECT content FROM papers WHERE id = ?", number)
    return row is None or (bool(row) and digest_of(row[0]) == digest)


def _photo_sound(connection: sqlite3.Connection, number: int, digests: str) -> bool:
    row = _row(connection, "SELECT scaled, content FROM photos WHERE id = ?", number)
    if not row:
        return row is None
    scaled, whole = digests.split()
    here = digest_of(row[1]) if row[1] else _digest_of_chunks(connection, whole)
    return digest_of(row[0]) == scaled and here == whole


def _capture_sound(connection: sqlite3.Connection, number: int, digest: str) -> bool:
    here = _digest_of_chunks(connection, digest)
    return here == digest or _row(connection, "SELECT id FROM captures WHERE id = ?", number) is None


def _row(connection: sqlite3.Connection, query: str, number: int) -> tuple[Any, ...] | None:
    """A row; None where it was taken away meanwhile, or is being written; empty where it cannot be read."""
    try:
        row: tuple[Any, ...] | None = connection.execute(query, (number,)).fetchone()
    except sqlite3.DatabaseError as error:
        return None if _is_held(error) else ()
    return row


def _is_held(error: sqlite3.DatabaseError) -> bool:
    """Whether somebody else has the file just now, which is no fault of it."""
    return getattr(error, "sqlite_errorcode", 0) & 0xFF in _HELD


def _digest_of_chunks(connection: sqlite3.Connection, digest: str) -> str:
    """What its chunks amount to; the digest itself where they cannot be looked at just now."""
    whole = hashlib.blake2b(digest_size=16)
    try:
        for chunk in _chunks(connection, digest):
            whole.update(chunk)
    except sqlite3.DatabaseError as error:
        return digest if _is_held(error) else ""
    return whole.hexdigest()


def _chunks(connection: sqlite3.Connection, digest: str) -> Iterator[bytes]:
    place = 0
    query = "SELECT content FROM chunks WHERE digest = ? AND place = ?"
    # Each by itself: a reader that stays would keep the window from writing.
    while (row := connection.execute(query, (digest, place)).fetchone()) is not None:
        yield row[0]
        place += 1
