"""The shelf in the file: parts and what is known of their stock, each with its texts sealed."""

from collections.abc import Sequence

import sqlalchemy as sa

from plinth.builds.files import BuildFileError, read_document
from plinth.builds.parts import PART_KINDS, Part
from plinth.builds.stock import Stock
from plinth.shelf.item import ShelfItem
from plinth.workshop import seals
from plinth.workshop.file import WorkshopFile, printable, rows_gone, seal_text
from plinth.workshop.schema import PartRow


class KeptParts(WorkshopFile):
    """The parts on the shelf."""

    def add_parts(self, parts: Sequence[Part]) -> list[ShelfItem]:
        """Put parts on the shelf of which nothing more is known."""
        return self.add_items([(part, Stock()) for part in parts])

    def add_items(self, items: Sequence[tuple[Part, Stock]]) -> list[ShelfItem]:
        """Put parts on the shelf, each with its stock; all or nothing."""
        with self.writing("The parts") as session:
            rows = [
                PartRow(kind=type(part).__name__, document=part.model_dump(mode="json"), stock=_kept(stock))
                for part, stock in items
            ]
            session.add_all(rows)
            session.flush()
            for row in rows:
                seal_text(session, "parts", row.id)
            session.commit()
            return [ShelfItem(row.id, part, stock) for row, (part, stock) in zip(rows, items, strict=True)]

    def change_item(self, item: ShelfItem) -> None:
        """Keep what is now known of a part on the shelf."""
        with self.writing("The change on the shelf") as session:
            session.execute(
                sa.update(PartRow)
                .where(PartRow.id == item.number)
                .values(
                    kind=type(item.part).__name__, document=item.part.model_dump(mode="json"), stock=_kept(item.stock)
                )
            )
            seal_text(session, "parts", item.number)
            session.commit()

    def remove_items(self, numbers: Sequence[int]) -> None:
        """Take parts off the shelf that were just put there; whoever only wants them out of sight hides them."""
        with self.writing("The change on the shelf") as session:
            rows_gone(session, "parts", numbers)
            session.execute(sa.delete(PartRow).where(PartRow.id.in_(numbers)))
            session.commit()

    def items(self, kinds: Sequence[type[Part]] | None = None) -> list[ShelfItem]:
        """What is on the shelf, of some kinds or of all. One that cannot be read is left out, said in ``notices``."""
        query = sa.select(
            PartRow.id, PartRow.kind, sa.type_coerce(PartRow.document, sa.String),
            sa.type_coerce(PartRow.stock, sa.String), PartRow.seal,
        ).order_by(PartRow.id)  # fmt: skip
        if kinds is not None:
            query = query.where(PartRow.kind.in_([kind.__name__ for kind in kinds]))
        kept: list[ShelfItem] = []
        with self.reading_from() as session:
            for number, name, document, stock, seal in session.execute(query):
                where = f"Part {number} on the shelf ({printable(name)})"
                try:
                    if seal != seals.text_seal((name, document, stock)):
                        raise BuildFileError([f"{where}: its text is not as it was written"])
                    kind = PART_KINDS.get(name)
                    if kind is None:
                        raise BuildFileError([f"{where}: found a kind that this Plinth does not know"])
                    known = Stock() if stock is None else read_document(Stock, stock, where)
                    kept.append(ShelfItem(number, read_document(kind, document, where), known))
                except BuildFileError as error:
                    self.notice(f"{error.sentences[0]}. It is left out and stays in the file.")
        return kept

    def shelf(self, kind: type[Part]) -> list[Part]:
        """The parts of one kind on the shelf that are not hidden."""
        return [item.part for item in self.items((kind,)) if not item.stock.hidden]


def _kept(stock: Stock) -> dict[str, object] | None:
    document = stock.model_dump(mode="json", exclude_defaults=True)
    return document or None
