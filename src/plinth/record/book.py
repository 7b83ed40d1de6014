"""The records of a build, by subject: the last one, and the last one that still counts."""

from collections.abc import Iterable, Iterator, Mapping

from plinth.record.conditions import Conditions, differences
from plinth.record.reading import Reading, Record


class RecordBook:
    """Records in the order kept; of each subject and conditions the last one. Frozen: ``adding`` gives a new book."""

    def __init__(self, records: Iterable[Record] = ()) -> None:
        self._by_subject: dict[str, tuple[Record, ...]] = {}
        for record in records:
            self._by_subject[record.subject] = _with(self._by_subject.get(record.subject, ()), record)

    def adding(self, record: Record) -> "RecordBook":
        """The book with one record more."""
        made = RecordBook()
        made._by_subject = {
            **self._by_subject, record.subject: _with(self._by_subject.get(record.subject, ()), record)
        }  # fmt: skip
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

    def why_not(self, subject: str, today: Conditions) -> str:
        """Why the last record of a subject does not count today; empty where it does, or there is none."""
        record = self.last(subject)
        if record is None or self.counting(subject, today) is not None:
            return ""
        if _simulated(record):
            return "it was simulated"
        return "; ".join(differences(record.conditions, today))


def _with(records: tuple[Record, ...], record: Record) -> tuple[Record, ...]:
    kept = tuple(one for one in records if _plain(one.conditions) != _plain(record.conditions))
    return (*kept, record)


def _plain(conditions: Conditions | None) -> Mapping[str, float | str] | None:
    return None if conditions is None else dict(conditions)


def _simulated(record: Record) -> bool:
    return isinstance(record, Reading) and record.simulated
