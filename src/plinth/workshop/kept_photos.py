"""Photos in the file: the original beside a scaled copy (a large one in chunks), words and marks sealed."""

import datetime as dt
from collections.abc import Sequence

import sqlalchemy as sa

from plinth.record.photo import Photo, PhotoMark, marks_text, read_marks
from plinth.workshop import seals
from plinth.workshop.file import printable, rows_gone, seal_text
from plinth.workshop.kept_chunks import CHUNK_BYTES, KeptChunks, digest_of
from plinth.workshop.schema import PhotoRow

# What salvage hands over: build, subject, moment, name, words, marks, scaled, content.
SavedPhoto = tuple[int, str, str, str, str, str, bytes, bytes]


def photo_digest(scaled: bytes, content: bytes) -> str:
    """What both pictures of a photo are known by, the scaled one first."""
    return f"{digest_of(scaled)} {digest_of(content)}"


class KeptPhotos(KeptChunks):
    """The photos of all builds."""

    def add_photo(
        self, build_id: int, subject: str, at: dt.datetime, name: str, content: bytes, scaled: bytes,
        words: str = "", marks: Sequence[PhotoMark] = (),
    ) -> Photo:  # fmt: skip
        """Keep a photo of something of a build. A large content that was not put aside before is put aside first."""
        digest, large = digest_of(content), len(content) > CHUNK_BYTES
        if large and not self.is_aside(digest, len(content)):
            self.put_aside(content)
        with self.writing("The photo") as session:
            row = PhotoRow(
                build_id=build_id, subject=subject, at=at.isoformat(), name=name, words=words,
                marks=marks_text(marks), digest=f"{digest_of(scaled)} {digest}", scaled=scaled,
                content=b"" if large else content,
            )  # fmt: skip
            session.add(row)
            session.flush()
            seal_text(session, "photos", row.id)
            session.commit()
            return Photo(
                row.id, build_id, subject, at=at, name=name, words=words, marks=tuple(marks), size=len(content)
            )

    def change_photo(self, number: int, words: str, marks: Sequence[PhotoMark]) -> None:
        """Keep other words and marks with a photo."""
        with self.writing("The photo") as session:
            session.execute(
                sa.update(PhotoRow).where(PhotoRow.id == number).values(words=words, marks=marks_text(marks))
            )
            seal_text(session, "photos", number)
            session.commit()

    def remove_photo(self, number: int) -> None:
        """Take a photo out of the file."""
        with self.writing("The photo") as session:
            rows_gone(session, "photos", [number])
            session.execute(sa.delete(PhotoRow).where(PhotoRow.id == number))
            session.commit()

    def photos(self, build_id: int) -> list[Photo]:
        """The photos of a build without their pictures. One that is not as it was written is left out, and said so."""
        query = (
            sa.select(
                PhotoRow.id, PhotoRow.subject, PhotoRow.at, PhotoRow.name, PhotoRow.words, PhotoRow.marks,
                PhotoRow.digest, PhotoRow.seal, sa.func.length(PhotoRow.content),
            )
            .where(PhotoRow.build_id == build_id)
            .order_by(PhotoRow.id)
        )  # fmt: skip
        kept = []
        with self.reading_from() as session:
            for number, subject, at, name, words, marks, digest, seal, size in session.execute(query):
                if seal != seals.text_seal((build_id, subject, at, name, words, marks, digest)):
                    where = f"Photo {number} ({printable(name)})"
                    self.notice(f"{where} is not as it was written. It is left out and stays in the file.")
                    continue
                moment = dt.datetime.fromisoformat(at)
                size = size or self.size_aside(session, digest.split()[1])
                kept.append(
                    Photo(
                        number, build_id, subject, at=moment, name=name, words=words, marks=read_marks(marks), size=size
                    )
                )
        return kept

    def photo_picture(self, number: int, *, whole: bool) -> bytes | None:
        """The scaled copy of a photo, or the ``whole`` original; None where it is gone or damaged (said then)."""
        # The original is large: whoever looks at the small one need not read it.
        kept = PhotoRow.content if whole else PhotoRow.scaled
        query = sa.select(kept, PhotoRow.digest).where(PhotoRow.id == number)
        with self.reading_from() as session:
            row = session.execute(query).one_or_none()
            if row is None:
                return None
            digests = row[1].split()
            picture = bytes(row[0]) or (self.content_aside(session, digests[1]) if whole else b"")
        if digest_of(picture) != digests[1 if whole else 0]:
            self.notice(f"The picture of photo {number} is not as it was written.")
            return None
        return picture

    def restore_photos(self, photos: Sequence[SavedPhoto]) -> None:
        """Keep photos saved from another file."""
        for build_id, subject, at, name, words, marks, scaled, content in photos:
            moment = dt.datetime.fromisoformat(at)
            self.add_photo(
                build_id,
                subject,
                moment,
                name=name,
                content=content,
                scaled=scaled,
                words=words,
                marks=read_marks(marks),
            )
