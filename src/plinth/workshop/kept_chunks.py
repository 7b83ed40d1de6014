"""Large contents in the file, in chunks, each written by itself: who writes one freezes nobody who keeps a reading.

A content is known by its digest, which whoever it belongs to carries within its own seal. Chunks that belong to nobody
(the power went between them and their photo) are taken away at the next opening.
"""

import dataclasses
import hashlib
import sqlite3
import time
from collections.abc import Callable, Iterable, Iterator

import sqlalchemy as sa
from sqlalchemy.orm import Session

from plinth.workshop import seals
from plinth.workshop.file import BUSY_S, WorkshopFile, keeps_safe
from plinth.workshop.schema import ChunkRow

# Written at a time: some hundredths of a second, in which the window's own writes wait.
CHUNK_BYTES = 1_000_000
# The window writes between two of them; another program that holds the file for longer is told of.
_WAIT_S = 10.0
# Whose contents stand in chunks, and where in what is sealed of them the digest is.
_OWNERS = {"photos": -1, "captures": -2}


def digest_of(content: bytes) -> str:
    """What a content is known by."""
    return hashlib.blake2b(content, digest_size=16).hexdigest()


@dataclasses.dataclass(frozen=True)
class Aside:
    """A content that stands in chunks: what it is known by, and its bytes."""

    digest: str
    size: int


class KeptChunks(WorkshopFile):
    """The large contents of all that is kept."""

    def put_aside(
        self, content: bytes, go_on: Callable[[float], object] = lambda _share: None, what: str = "The picture"
    ) -> str:
        """Write a content in chunks, on whichever thread; its digest. Raises NotKeptError.

        It belongs to nobody until a row that carries the digest is kept. ``go_on`` is told the share written;
        ``what`` it is called where it could not be.
        """
        digest = digest_of(content)
        starts = range(0, len(content), CHUNK_BYTES)
        with self.between_writes():
            self._still_there(what)
        with self._told_as(f"{what} could not be kept"):
            # Not made anew where it is gone.
            place_of_file = f"{self.path.as_uri()}?mode=rw"
            connection = sqlite3.connect(place_of_file, uri=True, timeout=_WAIT_S, isolation_level=None)
            try:
                keeps_safe(connection)
                # From here on each try stands between two of the window's, which is not to wait for it.
                connection.execute(f"PRAGMA busy_timeout = {int(1000 * BUSY_S)}")
                for place, start in enumerate(starts):
                    self._put_chunk(connection, digest, place, content[start : start + CHUNK_BYTES], what)
                    go_on((place + 1) / len(starts))
            finally:
                connection.close()
        return digest

    def _put_chunk(self, connection: sqlite3.Connection, digest: str, place: int, chunk: bytes, what: str) -> None:
        """Write one chunk; while another program holds the file, try again, and let the window try in between."""
        give_up = time.monotonic() + _WAIT_S
        while True:
            try:
                with self.between_writes():
                    self._still_there(what)
                    connection.execute(
                        "INSERT OR REPLACE INTO chunks (digest, place, content) VALUES (?, ?, ?)",
                        (digest, place, chunk),
                    )
                    self.remember_stamp()
                return
            except sqlite3.OperationalError as error:
                if error.sqlite_errorcode & 0xFF != sqlite3.SQLITE_BUSY or time.monotonic() > give_up:
                    raise
            time.sleep(BUSY_S)

    def is_aside(self, digest: str, size: int) -> bool:
        """Whether the whole of a content stands in chunks already."""
        with self.reading_from() as session:
            return self.size_aside(session, digest) == size

    def content_aside(self, session: Session, digest: str) -> bytes:
        """The content of that digest, as far as it is there."""
        return joined(session.connection().exec_driver_sql, digest)

    def size_aside(self, session: Session, digest: str) -> int:
        """Bytes of a content in chunks; 0 where there are none."""
        query = sa.select(sa.func.sum(sa.func.length(ChunkRow.content))).where(ChunkRow.digest == digest)
        return int(session.scalar(query) or 0)

    def drop_ownerless(self) -> None:
        """Take away the chunks that belong to nothing; nothing while any owner is not as it was written."""
        with self.reading_from() as session:
            aside = session.scalars(sa.select(ChunkRow.digest).distinct()).all()
            owned = set[str]()
            for table, place in _OWNERS.items() if aside else ():
                for _, seal, *texts in session.execute(sa.text(seals.TEXTS[table][1])):
                    if seal != seals.text_seal(texts):
                        return
                    owned.update(str(texts[place]).split())
        ownerless = [digest for digest in aside if digest not in owned]
        if ownerless:
            with self.writing("The tidying up") as session:
                session.execute(sa.delete(ChunkRow).where(ChunkRow.digest.in_(ownerless)))
                session.commit()


def joined(execute: Callable[..., Iterable[tuple[bytes]]], digest: str) -> bytes:
    """The chunks of a content put together, asked for through ``execute``."""
    return b"".join(_chunks(execute, digest))


def _chunks(execute: Callable[..., Iterable[tuple[bytes]]], digest: str) -> Iterator[bytes]:
    for (chunk,) in execute("SELECT content FROM chunks WHERE digest = ? ORDER BY place", (digest,)):
        yield bytes(chunk)
