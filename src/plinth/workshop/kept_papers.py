"""Papers of parts in the file: their contents with a digest each, their names, notes and words sealed."""

from collections.abc import Sequence

import sqlalchemy as sa

from plinth.shelf.item import Paper
from plinth.workshop import seals
from plinth.workshop.file import WorkshopFile, printable, rows_gone, seal_text
from plinth.workshop.kept_chunks import digest_of
from plinth.workshop.schema import PaperRow


class KeptPapers(WorkshopFile):
    """The papers of all parts."""

    def add_paper(self, part: int, name: str, content: bytes, words: str = "", note: str = "") -> Paper:
        """Keep a paper with the part of that number."""
        with self.writing("The paper") as session:
            row = PaperRow(part_id=part, name=name, note=note, words=words, digest=digest_of(content), content=content)
            session.add(row)
            session.flush()
            seal_text(session, "papers", row.id)
            session.commit()
            return Paper(row.id, part, name, note, words, size=len(content), digest=row.digest)

    def note_paper(self, number: int, note: str) -> None:
        """Keep another note with a paper."""
        self._change(number, note=note)

    def word_paper(self, number: int, words: str) -> None:
        """Keep the words that were read in a paper; nothing where it is gone by now."""
        self._change(number, words=words)

    def _change(self, number: int, **values: str) -> None:
        with self.writing("The note") as session:
            if session.scalar(sa.select(PaperRow.id).where(PaperRow.id == number)) is None:
                return
            session.execute(sa.update(PaperRow).where(PaperRow.id == number).values(**values))
            seal_text(session, "papers", number)
            session.commit()

    def remove_paper(self, number: int) -> None:
        """Take a paper out of the file."""
        with self.writing("The change on the shelf") as session:
            rows_gone(session, "papers", [number])
            session.execute(sa.delete(PaperRow).where(PaperRow.id == number))
            session.commit()

    def papers(self) -> list[Paper]:
        """All papers without their contents. One whose text is not as it was written is left out, and said so."""
        query = sa.select(
            PaperRow.id, PaperRow.part_id, PaperRow.name, PaperRow.note, PaperRow.words, PaperRow.digest,
            PaperRow.seal, sa.func.length(PaperRow.content),
        ).order_by(PaperRow.id)  # fmt: skip
        kept = []
        with self.reading_from() as session:
            for number, part, name, note, words, digest, seal, size in session.execute(query):
                if seal != seals.text_seal((part, name, note, words, digest)):
                    where = f"Paper {number} ({printable(name)})"
                    self.notice(f"{where} is not as it was written. It is left out and stays in the file.")
                    continue
                kept.append(Paper(number, part, name, note, words, size=size, digest=digest))
        return kept

    def paper_content(self, number: int) -> bytes | None:
        """What is in a paper; None where it is gone or not as it was written (then it is said in ``notices``)."""
        query = sa.select(PaperRow.content, PaperRow.digest).where(PaperRow.id == number)
        with self.reading_from() as session:
            row = session.execute(query).one_or_none()
        if row is None:
            return None
        content, digest = row
        if digest != digest_of(content):
            self.notice(f"What is in paper {number} is not as it was written.")
            return None
        return bytes(content)

    def restore_papers(self, papers: Sequence[tuple[int, str, str, str, bytes]]) -> None:
        """Keep papers saved from another file: part, name, note, words, content."""
        for part, name, note, words, content in papers:
            self.add_paper(part, name, content, words, note)
