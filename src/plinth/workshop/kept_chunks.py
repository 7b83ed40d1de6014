"""Large contents in the file, in chunks, each written by itself: who writes one freezes nobody who keeps a reading.

A content is known by its digest, which whoever it belongs to carries within its own seal. Chunks that belong to nobody
(the power went between them and their photo) are taken away at the next opening.
"""

import hashlib
import sqlite3
from collections.abc import Callable, Iterable, Iterator

import sqlalchemy as sa
from sqlalchemy.orm import Session

from plinth.workshop import seals
from plinth.workshop.file import WorkshopFile, keeps_safe
from plinth.workshop.schema import ChunkRow

# Written at a time: some hundredths of a second, in which the window's own writes wait.
CHUNK_BYTES = 1_000_000
# The window writes between two of them; another program that holds the file for longer is told of.
_WAIT_S = 10.0


def digest_of(content: bytes) -> str:
    """What a content is known by."""
    return hashlib.blake2b(content, digest_size=16).hexdigest()


class KeptChunks(WorkshopFile):
    """The large contents of all that is kept."""

    def put_aside(self, content: bytes, go_on: Callable[[float], object] = lambda _share: None) -> str:
        """Write a content in chunks, on whichever thread; its digest. Raises NotKeptError.

        It belongs to nobody until a row that carries the digest is kept. ``go_on`` is told the share written.
        """
        digest = digest_of(content)
        starts = range(0, len(content), CHUNK_BYTES)
        with self.between_writes():
            self._still_there("The picture")
        with self._told_as("The picture could not be kept"):
            # Not made anew where it is gone.
            place_of_file = f"{self.path.as_uri()}?mode=rw"
            connection = sqlite3.connect(place_of_file, uri=True, timeout=_WAIT_S, isolation_level=None)
            try:
                keeps_safe(connection)
                for place, start in enumerate(starts):
                    with self.between_writes():
                        self._still_there("The picture")
                        connection.execute(
                            "INSERT OR REPLACE INTO chunks (digest, place, content) VALUES (?, ?, ?)",
                            (digest, place, content[start : start + CHUNK_BYTES]),
                        )
                        self.remember_stamp()
                    go_on((place + 1) / len(starts))
            finally:
                connection.close()
        return digest

    def is_aside(self, digest: str, size: int) -> bool:
        """Whether the whole of a content stands in chunks already."""
        query = sa.select(sa.func.sum(sa.func.length(ChunkRow.content))).where(ChunkRow.digest == digest)
        with self.reading_from() as session:
            return bool(session.scalar(query) == size)

    def content_aside(self, session: Session, digest: str) -> bytes:
        """The content of that digest, as far as it is there."""
        return joined(session.connection().exec_driver_sql, digest)

    def sizes_aside(self, session: Session) -> dict[str, int]:
        """Bytes of each content in chunks, by its digest."""
        query = sa.select(ChunkRow.digest, sa.func.sum(sa.func.length(ChunkRow.content))).group_by(ChunkRow.digest)
        return {digest: int(size) for digest, size in session.execute(query)}

    def drop_ownerless(self) -> None:
        """Take away the chunks that belong to no photo; nothing while any photo is not as it was written."""
        with self.reading_from() as session:
            aside = self.sizes_aside(session)
            owned = set[str]()
            for _, seal, *texts in session.execute(sa.text(seals.TEXTS["photos"][1])) if aside else ():
                if seal != seals.text_seal(texts):
                    return
                owned.update(str(texts[-1]).split())
        ownerless = [digest for digest in aside if digest not in owned]
        if ownerless:
            with self.writing("The change of the photos") as session:
                session.execute(sa.delete(ChunkRow).where(ChunkRow.digest.in_(ownerless)))
                session.commit()


def joined(execute: Callable[..., Iterable[tuple[bytes]]], digest: str) -> bytes:
    """The chunks of a content put together, asked for through ``execute``."""
    return b"".join(_chunks(execute, digest))


def _chunks(execute: Callable[..., Iterable[tuple[bytes]]], digest: str) -> Iterator[bytes]:
    for (chunk,) in execute("SELECT content FROM chunks WHERE digest = ? ORDER BY place", (digest,)):
        yield bytes(chunk)
