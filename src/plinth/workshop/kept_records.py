"""Diary, readings, confirmations and overrides in the file: sealed into a chain, line by line."""

import dataclasses
from collections.abc import Sequence
from typing import Any

import sqlalchemy as sa
from sqlalchemy.orm import Session

from plinth.judge.state import State
from plinth.record.conditions import Conditions
from plinth.record.diary import FINDINGS, DiaryEntry, Moment, record_of
from plinth.record.origin import Giver, ReadingOrigin
from plinth.record.reading import Confirmation, Finding, Override, Reading, Record
from plinth.record.subject import Kind
from plinth.units.bounds import Bound
from plinth.workshop import seals
from plinth.workshop.file import WorkshopFile, aware, naive
from plinth.workshop.schema import (
    EntryRow,
    ReadingRow,
    SettingRow,
)

# How many readings of one thing that is watched over time are taken up: a course of minutes, or of weeks.
WATCHED = 200
RECORD_KINDS = ("reading", "override", "confirmed", *FINDINGS)


class KeptRecords(WorkshopFile):
    """The diaries of all builds."""

    def keep_reading(self, build_id: int, reading: Reading) -> DiaryEntry:
        """Keep a reading; its diary line comes back once it is on disk. Raises NotKeptError."""
        entry = DiaryEntry(reading.taken_at, "reading", reading.subject, reading.label, reading, reading.conditions)
        with self.writing("The reading") as session:
            self.add_entry(session, build_id, entry)
            session.commit()
        return entry

    def keep_record(self, build_id: int, record: Record) -> DiaryEntry:
        """Keep a reading, a confirmation, an override or a finding."""
        if isinstance(record, Reading):
            return self.keep_reading(build_id, record)
        return self.keep_entry(build_id, _entry_of(record))

    def keep_records(self, build_id: int, records: Sequence[Override | Confirmation | Finding]) -> list[DiaryEntry]:
        """Keep several that are no readings, all or none of them."""
        entries = [_entry_of(record) for record in records]
        self.keep_entries(build_id, entries)
        return entries

    def keep_entries(self, build_id: int, entries: Sequence[DiaryEntry]) -> None:
        """Keep several lines, readings among them, all or none of them."""
        with self.writing("The diary lines") as session:
            for entry in entries:
                self.add_entry(session, build_id, entry)
            session.commit()

    def keep_entry(self, build_id: int, entry: DiaryEntry) -> DiaryEntry:
        """Keep a diary line that is no reading."""
        with self.writing("The diary line") as session:
            self.add_entry(session, build_id, entry)
            session.commit()
        return entry

    def add_entry(self, session: Session, build_id: int, entry: DiaryEntry) -> int:
        """Add a line, and its reading where it is one, within what is being written; the line's number."""
        line, reading = _entry_row(build_id, entry), entry.reading
        if reading is not None:
            fields = {field.name: getattr(reading, field.name) for field in dataclasses.fields(reading)}
            fields |= {"taken_at": naive(reading.taken_at), "state": str(reading.state), "bound": str(reading.bound)}
            fields["facts"] = dict(reading.facts) or None
            # Conditions belong to the line, as for records that are no readings.
            del fields["conditions"], fields["origin"]
            origin = reading.origin
            fields |= {"giver": str(origin.giver), "instrument_id": origin.instrument_id, "capture": origin.capture}
            row = ReadingRow(build_id=build_id, **fields)
            session.add(row)
            session.flush()
            line.reading_id = row.id
        self.add_line(session, line)
        return line.id

    def add_line(self, session: Session, row: EntryRow) -> None:
        """Add a line with its seal, and write down how many there are now."""
        connection = session.connection()
        before = connection.exec_driver_sql(seals.LAST_SEAL).scalar() or ""
        session.add(row)
        session.flush()
        _, *facts = connection.exec_driver_sql(seals.ONE_LINE, (row.id,)).one()
        seal = seals.line_seal(str(before).encode(), facts)
        connection.exec_driver_sql("UPDATE entries SET seal = ? WHERE id = ?", (seal, row.id))
        chain = session.get(SettingRow, seals.CHAIN)
        lines = 1 if chain is None else int(chain.value["lines"]) + 1
        session.merge(SettingRow(key=seals.CHAIN, value={"lines": lines, "last": seal}, seal=""))

    def diary(self, build_id: int, first: int = 0, most: int = -1) -> list[DiaryEntry]:
        """Lines of a build's diary in the order they were written: ``most`` from the ``first`` on, all if not said."""
        return [entry for _, entry in self.numbered(build_id, first, most)]

    def numbered(self, build_id: int, first: int = 0, most: int = -1) -> list[tuple[int, DiaryEntry]]:
        """The same, each with its number in the file."""
        query = _lines().where(EntryRow.build_id == build_id).order_by(EntryRow.id).offset(first).limit(most)
        with self.reading_from() as session:
            return [(row.id, _entry(row, reading)) for row, reading in session.execute(query)]

    def moments(self, build_id: int, first: int = 0) -> list[Moment]:
        """When each line of a diary from the ``first`` on was written, of which kind and about what, in order."""
        columns = sa.select(EntryRow.at, EntryRow.kind, EntryRow.subject)
        query = columns.where(EntryRow.build_id == build_id).order_by(EntryRow.id).offset(first).limit(-1)
        with self.reading_from() as session:
            return [Moment(aware(at), kind, subject) for at, kind, subject in session.execute(query)]

    def diary_size(self, build_id: int) -> tuple[int, int]:
        """How many lines a build's diary has, and how many of them are readings."""
        query = sa.select(sa.func.count(EntryRow.id), sa.func.count(EntryRow.reading_id))
        with self.reading_from() as session:
            lines, readings = session.execute(query.where(EntryRow.build_id == build_id)).one()
            return int(lines), int(readings)

    def records(self, build_id: int) -> list[Record]:
        """Readings, confirmations and overrides of a build, in the order they were kept."""
        return [record for entry in self.diary(build_id) if (record := record_of(entry)) is not None]

    def readings_of(self, build_id: int, subjects: Sequence[str]) -> list[Reading]:
        """All readings of some subjects, in the order they were kept, whether they count today or not."""
        of_these = _lines().where(EntryRow.build_id == build_id, EntryRow.subject.in_(subjects)).order_by(EntryRow.id)
        with self.reading_from() as session:
            entries = [_entry(row, reading) for row, reading in session.execute(of_these)]
        return [entry.reading for entry in entries if entry.reading is not None]

    def changes_between(self, build_id: int, after: int, until: int) -> list[DiaryEntry]:
        """The lines by which a build was changed, behind one line of the file and up to another, by their numbers."""
        chosen = _lines().where(
            EntryRow.build_id == build_id, EntryRow.kind == "changed", EntryRow.id > after, EntryRow.id <= until
        )
        with self.reading_from() as session:
            return [_entry(row, reading) for row, reading in session.execute(chosen.order_by(EntryRow.id))]

    def lines_about(self, build_id: int, subjects: Sequence[str], most: int) -> list[DiaryEntry]:
        """The last ``most`` lines about some subjects, the newest first."""
        of_these = _lines().where(EntryRow.build_id == build_id, EntryRow.subject.in_(subjects))
        with self.reading_from() as session:
            rows = session.execute(of_these.order_by(EntryRow.id.desc()).limit(most))
            return [_entry(row, reading) for row, reading in rows]

    def latest_records(self, build_id: int) -> list[Record]:
        """The last record of each subject under each of the conditions it was taken in, in the order kept.

        Of a bring-up, whose readings are watched over time, the last ``WATCHED`` of each.
        """
        alike = sa.func.row_number().over(
            partition_by=(EntryRow.subject, EntryRow.conditions), order_by=EntryRow.id.desc()
        )
        ranked = (
            sa.select(EntryRow.id, EntryRow.subject, alike.label("place"))
            .where(EntryRow.build_id == build_id, EntryRow.kind.in_(RECORD_KINDS))
            .subquery()
        )
        watched = sa.or_(*(ranked.c.subject.startswith(f"{kind}/") for kind in (Kind.BRINGUP, Kind.COURSE)))
        asked = sa.select(ranked.c.id).where(ranked.c.place <= sa.case((watched, WATCHED), else_=1))
        with self.reading_from() as session:
            rows = session.execute(_lines().where(EntryRow.id.in_(asked)).order_by(EntryRow.id))
            return [record for row in rows if (record := record_of(_entry(*row))) is not None]

    def last_of(self, kinds: Sequence[str]) -> list[tuple[int, DiaryEntry]]:
        """Of each build that has one, its last line of one of these kinds, with the build's number."""
        last = sa.select(sa.func.max(EntryRow.id)).where(EntryRow.kind.in_(kinds)).group_by(EntryRow.build_id)
        with self.reading_from() as session:
            rows = session.execute(_lines().where(EntryRow.id.in_(last)).order_by(EntryRow.id))
            return [(row.build_id, _entry(row, reading)) for row, reading in rows]


def _entry_of(record: Override | Confirmation | Finding) -> DiaryEntry:
    match record:
        case Override():
            kind, words = "override", record.reason
        case Finding():
            kind, words = record.verdict, record.words
        case Confirmation():
            kind, words = "confirmed", "Done."
    return DiaryEntry(record.at, kind, record.subject, words, conditions=record.conditions)


def _lines() -> Any:
    return sa.select(EntryRow, ReadingRow).outerjoin(ReadingRow, EntryRow.reading_id == ReadingRow.id)


def _entry_row(build_id: int, entry: DiaryEntry) -> EntryRow:
    return EntryRow(
        build_id=build_id, at=naive(entry.at), kind=entry.kind, subject=entry.subject, words=entry.words,
        conditions=_plain(entry.conditions),
    )  # fmt: skip


def _plain(conditions: Conditions | None) -> dict[str, Any] | None:
    return None if conditions is None else dict(conditions)


def _entry(row: EntryRow, reading: ReadingRow | None) -> DiaryEntry:
    return DiaryEntry(
        aware(row.at), row.kind, row.subject, row.words, _reading(reading, row.conditions) if reading else None,
        row.conditions,
    )  # fmt: skip


def _reading(row: ReadingRow, conditions: Conditions | None) -> Reading:
    return Reading(
        subject=row.subject, label=row.label, typed=row.typed, value=row.value, unit=row.unit, u=row.u,
        instrument=row.instrument, taken_at=aware(row.taken_at), state=State(row.state), said=row.said,
        low=row.low, high=row.high, bound=Bound(row.bound), conditions=conditions, facts=row.facts or {},
        origin=ReadingOrigin(Giver(row.giver), row.instrument_id, row.capture),
    )  # fmt: skip
