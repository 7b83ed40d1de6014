"""The records of a build, by subject: the last one, and the last one that still counts."""

from collections.abc import Iterable, Iterator

from plinth.record.conditions import Conditions, differences
from plinth.record.reading import Reading, Record


class RecordBook:
    """All records in the order kept, by subject. Frozen: ``adding`` gives a new book."""

    def __init__(self, records: Iterable[Record] = ()) -> None:
        found: dict[str, list[Record]] = {}
        for record in records:
            found.setdefault(record.subject, []).append(record)
        self._by_subject: dict[str, tuple[Record, ...]] = {key: tuple(held) for key, held in found.items()}

    def adding(self, record: Record) -> "RecordBook":
        """The book with one record more."""
        made = RecordBook()
        before = self._by_subject.get(record.subject, ())
        made._by_subject = {**self._by_subject, record.subject: (*before, record)}
        return made

    def __iter__(self) -> Iterator[str]:
        """Subjects, in the order in which they first came."""
        return iter(self._by_subject)

    def __contains__(self, subject: object) -> bool:
        return subject in self._by_subject

    def last(self, subject: str) -> Record | None:
        """The last record of a subject, whether it still counts or not."""
        records = self._by_subject.get(subject, ())
        return records[-1] if records else None

    def counting(self, subject: str, today: Conditions) -> Record | None:
        """The last record of a subject that was taken under today's conditions; a simulated one never counts."""
        for record in reversed(self._by_subject.get(subject, ())):
            if not _simulated(record) and not differences(record.conditions, today):
                return record
        return None

    def series(self, subject: str, today: Conditions) -> tuple[Reading, ...]:
        """All readings of a subject that count today, in the order kept."""
        return tuple(
            one
            for one in self._by_subject.get(subject, ())
            if isinstance(one, Reading) and not one.simulated and not differences(one.conditions, today)
        )

    def why_not(self, subject: str, today: Conditions) -> str:
        """Why the last record of a subject does not count today; empty where it does, or there is none."""
        record = self.last(subject)
        if record is None or self.counting(subject, today) is not None:
            return ""
        if _simulated(record):
            return "it was simulated"
        return "; ".join(differences(record.conditions, today))


def _simulated(record: Record) -> bool:
    return isinstance(record, Reading) and record.simulated
