"""The records of a build, by subject: the last one, and the last one that still counts."""

from collections.abc import Iterable, Iterator

from plinth.record.conditions import Conditions, differences
from plinth.record.reading import Reading, Record


class RecordBook:
    """All records in the order kept, by subject. Frozen: ``adding`` gives a new book.

    Of a workshop that is ``practice`` what a stand-in gave counts and nothing else does; of a real one just the other
    way round.
    """

    def __init__(self, records: Iterable[Record] = (), *, practice: bool = False) -> None:
        self.practice = practice
        by_subject: dict[str, list[Record]] = {}
        for record in records:
            by_subject.setdefault(record.subject, []).append(record)
        self._by_subject: dict[str, tuple[Record, ...]] = {key: tuple(held) for key, held in by_subject.items()}

    def adding(self, record: Record) -> "RecordBook":
        """The book with one record more."""
        made = RecordBook(practice=self.practice)
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
        """The last record of a subject that was taken under today's conditions, of those that count at all."""
        for record in reversed(self._by_subject.get(subject, ())):
            if not barred(record, practice=self.practice) and not differences(record.conditions, today):
                return record
        return None

    def series(self, subject: str, today: Conditions) -> tuple[Reading, ...]:
        """All readings of a subject that count today, in the order kept."""
        return tuple(
            reading
            for reading in self._by_subject.get(subject, ())
            if isinstance(reading, Reading)
            and not barred(reading, practice=self.practice)
            and not differences(reading.conditions, today)
        )

    def why_not(self, subject: str, today: Conditions) -> str:
        """Why the last record of a subject does not count today; empty where it does, or there is none."""
        record = self.last(subject)
        if record is None or self.counting(subject, today) is not None:
            return ""
        return barred(record, practice=self.practice) or "; ".join(differences(record.conditions, today))


def barred(record: Record, *, practice: bool) -> str:
    """Why a record counts for nothing in a workshop of that kind, whatever its conditions; empty where it may count."""
    if not isinstance(record, Reading) or record.simulated == practice:
        return ""
    return "it was not simulated, and this workshop is for practice" if practice else "it was simulated"
