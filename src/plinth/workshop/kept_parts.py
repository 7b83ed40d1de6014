"""The shelf in the file: parts, each with its text sealed."""

import sqlalchemy as sa

from plinth.builds.files import BuildFileError, read_document
from plinth.builds.parts import Part
from plinth.workshop import seals
from plinth.workshop.file import WorkshopFile, seal_text
from plinth.workshop.schema import (
    PartRow,
)


class KeptParts(WorkshopFile):
    """The parts on the shelf."""

    def add_parts(self, parts: tuple[Part, ...]) -> None:
        """Put parts on the shelf."""
        with self.writing("The parts") as session:
            rows = [PartRow(kind=type(part).__name__, document=part.model_dump(mode="json")) for part in parts]
            session.add_all(rows)
            session.flush()
            for row in rows:
                seal_text(session, "parts", row.id)
            session.commit()

    def shelf(self, kind: type[Part]) -> list[Part]:
        """The parts of one kind on the shelf. One that cannot be read is left out, and said in ``notices``."""
        query = (
            sa.select(PartRow.id, sa.type_coerce(PartRow.document, sa.String), PartRow.seal)
            .where(PartRow.kind == kind.__name__)
            .order_by(PartRow.id)
        )
        found: list[Part] = []
        with self.reading_from() as session:
            for number, document, seal in session.execute(query):
                where = f"Part {number} on the shelf ({kind.__name__})"
                try:
                    if seal != seals.text_seal((kind.__name__, document)):
                        raise BuildFileError([f"{where}: its text is not as it was written"])
                    found.append(read_document(kind, document, where))
                except BuildFileError as error:
                    self.notice(f"{error.sentences[0]}. It is left out and stays in the file.")
        return found
