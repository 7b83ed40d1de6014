"""Captures in the file: facts and words sealed, the samples (the recorder's own file, as it was) in chunks."""

import datetime as dt
from collections.abc import Sequence

import sqlalchemy as sa

from plinth.record.kept_capture import CaptureFacts, KeptCapture, facts_text, read_facts
from plinth.workshop import seals
from plinth.workshop.errors import NotKeptError
from plinth.workshop.file import printable, rows_gone, seal_text
from plinth.workshop.kept_chunks import Aside, KeptChunks, digest_of
from plinth.workshop.schema import CaptureRow

# What salvage hands over: build, subject, moment, name, words, facts, content.
SavedCapture = tuple[int, str, str, str, str, str, bytes]


class KeptCaptures(KeptChunks):
    """The captures of all builds."""

    def add_capture(
        self, build_id: int, subject: str, at: dt.datetime, name: str, content: bytes | Aside,
        facts: CaptureFacts, words: str = "",
    ) -> KeptCapture:  # fmt: skip
        """Keep a capture of something of a build. A content that was not put aside before is put aside first.

        Raises ValueError for facts that are no numbers, NotKeptError where it could not be written.
        """
        held = Aside(digest_of(content), len(content)) if isinstance(content, bytes) else content
        if not self.is_aside(held.digest, held.size):
            if not isinstance(content, bytes):
                raise NotKeptError(self.path, "The samples are gone from the file: keep the capture once more.")
            self.put_aside(content, what="The capture")
        with self.writing("The capture") as session:
            row = CaptureRow(
                build_id=build_id, subject=subject, at=at.isoformat(), name=name, words=words,
                facts=facts_text(facts), digest=held.digest, size=held.size,
            )  # fmt: skip
            session.add(row)
            session.flush()
            seal_text(session, "captures", row.id)
            session.commit()
            return KeptCapture(
                row.id,
                build_id,
                subject,
                at=at,
                name=name,
                words=words,
                facts=facts,
                digest=held.digest,
                size=held.size,
            )

    def change_capture(self, number: int, subject: str, words: str) -> None:
        """Say otherwise what a capture is of, and call it otherwise."""
        with self.writing("The capture") as session:
            session.execute(
                sa.update(CaptureRow).where(CaptureRow.id == number).values(subject=subject, words=words)
            )  # fmt: skip
            seal_text(session, "captures", number)
            session.commit()

    def remove_capture(self, number: int) -> None:
        """Take a capture out of the file. Readings that were drawn from it stay, with their facts."""
        with self.writing("The capture") as session:
            rows_gone(session, "captures", [number])
            session.execute(sa.delete(CaptureRow).where(CaptureRow.id == number))
            session.commit()

    def captures(self, build_id: int) -> list[KeptCapture]:
        """The captures of a build without their samples. One that is not as it was written is left out, and said so."""
        query = (
            sa.select(
                CaptureRow.id, CaptureRow.subject, CaptureRow.at, CaptureRow.name, CaptureRow.words, CaptureRow.facts,
                CaptureRow.digest, CaptureRow.size, CaptureRow.seal,
            )
            .where(CaptureRow.build_id == build_id)
            .order_by(CaptureRow.id)
        )  # fmt: skip
        kept = []
        with self.reading_from() as session:
            for number, subject, at, name, words, facts, digest, size, seal in session.execute(query):
                try:
                    if seal != seals.text_seal((build_id, subject, at, name, words, facts, digest, size)):
                        raise ValueError("found another seal")
                    kept.append(
                        KeptCapture(
                            number, build_id, subject, at=dt.datetime.fromisoformat(at), name=name, words=words,
                            facts=read_facts(facts), digest=digest, size=size,
                        )
                    )  # fmt: skip
                except (ValueError, TypeError, KeyError):
                    self.notice(
                        f"Capture {number} ({printable(name)}) is not as it was written. It is left out and stays in "
                        "the file."
                    )
        return kept

    def capture_content(self, number: int) -> bytes | None:
        """The recorder's file; None where it is gone or damaged (said then)."""
        with self.reading_from() as session:
            digest = session.scalar(sa.select(CaptureRow.digest).where(CaptureRow.id == number))
            if digest is None:
                return None
            content = self.content_aside(session, digest)
        if digest_of(content) != digest:
            self.notice(f"The samples of capture {number} are not as they were written.")
            return None
        return content

    def restore_captures(self, captures: Sequence[SavedCapture]) -> None:
        """Keep captures saved from another file."""
        for build_id, subject, at, name, words, facts, content in captures:
            moment = dt.datetime.fromisoformat(at)
            self.add_capture(
                build_id, subject, moment, name=name, content=content, facts=read_facts(facts), words=words
            )  # fmt: skip
