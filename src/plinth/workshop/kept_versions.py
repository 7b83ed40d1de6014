"""Versions of builds in the file: how a build was from one line of its diary on, each with its text sealed."""

import bisect
import dataclasses
import json
from collections.abc import Sequence

import sqlalchemy as sa
from sqlalchemy.orm import Session

from plinth.builds.build import Build, Fitted
from plinth.builds.files import BuildFileError, read_document
from plinth.record.diary import DiaryEntry
from plinth.workshop import seals
from plinth.workshop.file import seal_text
from plinth.workshop.kept_records import KeptRecords
from plinth.workshop.schema import VersionRow


@dataclasses.dataclass(frozen=True)
class Version:
    """A build as it was from line ``since`` of the diary on; ``number`` counts from 1. ``build`` None: not readable."""

    number: int
    since: int
    build: Build | None


class KeptVersions(KeptRecords):
    """The versions of all builds."""

    def add_version(self, session: Session, build_id: int, line: int, build: Build) -> None:
        """Keep how a build is from a line on, where it is not as it was before, within what is being written."""
        last = (
            sa.select(sa.type_coerce(VersionRow.document, sa.String))
            .where(VersionRow.build_id == build_id)
            .order_by(VersionRow.entry_id.desc())
            .limit(1)
        )
        document = build.model_dump(mode="json")
        if _document(session.execute(last).scalar()) == document:
            return
        row = VersionRow(build_id=build_id, entry_id=line, document=document)
        session.add(row)
        session.flush()
        seal_text(session, "versions", row.id)

    def versions(self, build_id: int) -> list[Version]:
        """All versions of a build, oldest first."""
        query = (
            sa.select(
                VersionRow.id, VersionRow.entry_id, sa.type_coerce(VersionRow.document, sa.String), VersionRow.seal
            )
            .where(VersionRow.build_id == build_id)
            .order_by(VersionRow.entry_id)
        )
        kept = []
        with self.reading_from() as session:
            for number, (row_id, since, document, seal) in enumerate(session.execute(query), 1):
                build = None
                try:
                    if seal == seals.text_seal((build_id, since, document)):
                        build = read_document(Build, document, f"Version {number}")
                except BuildFileError as error:
                    self.notice(f"{error.sentences[0]} (row {row_id}). It cannot be looked at; it stays in the file.")
                kept.append(Version(number, since, build))
        return kept

    def fitted_by_version(self, build_id: int) -> dict[int, tuple[Fitted, ...]]:
        """What had been exchanged in each version of a build, by its number; a version not as written is left out."""
        query = (
            sa.select(VersionRow.entry_id, sa.type_coerce(VersionRow.document, sa.String), VersionRow.seal)
            .where(VersionRow.build_id == build_id)
            .order_by(VersionRow.entry_id)
        )
        known: dict[int, tuple[Fitted, ...]] = {}
        with self.reading_from() as session:
            for number, (since, document, seal) in enumerate(session.execute(query), 1):
                if seal == seals.text_seal((build_id, since, document)):
                    # Not the whole build: a report of some thousand versions would read them for seconds.
                    marks = json.loads(document).get("fitted", [])
                    known[number] = tuple(Fitted.model_validate(mark) for mark in marks)
        return known

    def diary_by_version(self, build_id: int, first: int = 0, most: int = -1) -> list[DiaryEntry]:
        """Lines of a build's diary as ``diary`` has them, each with the version of the build it belongs to."""
        starts = self.version_starts(build_id)
        return [
            dataclasses.replace(entry, version=version_at(starts, line))
            for line, entry in self.numbered(build_id, first, most)
        ]

    def version_starts(self, build_id: int) -> list[int]:
        """The lines from which on each version of a build was, rising."""
        query = sa.select(VersionRow.entry_id).where(VersionRow.build_id == build_id).order_by(VersionRow.entry_id)
        with self.reading_from() as session:
            return [int(line) for line in session.execute(query).scalars()]


def _document(text: str | None) -> object:
    """What a text holds; None where it is none, or damaged."""
    try:
        return None if text is None else json.loads(text)
    except (ValueError, RecursionError):
        return None


def version_at(starts: Sequence[int], line: int) -> int:
    """The number of the version that a line of the diary belongs to; 0 where it is older than what was kept."""
    return bisect.bisect_right(starts, line)
