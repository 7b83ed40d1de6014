"""Builds in the file, each with its situation, its text sealed."""

import dataclasses
import datetime as dt
from collections.abc import Sequence

import sqlalchemy as sa

from plinth.builds.build import Build
from plinth.builds.files import BuildFileError, read_document
from plinth.builds.situation import Situation
from plinth.record.clock import now
from plinth.record.diary import DiaryEntry
from plinth.workshop import seals
from plinth.workshop.file import naive, printable, seal_text
from plinth.workshop.kept_versions import KeptVersions
from plinth.workshop.schema import BuildRow


@dataclasses.dataclass(frozen=True)
class StoredBuild:
    """A build with its situation and its number in the file."""

    id: int
    build: Build
    situation: Situation


@dataclasses.dataclass(frozen=True)
class LockedBuild:
    """A build that cannot be read: it stays in the file as it is, and ``why`` says what is wrong."""

    id: int
    name: str
    why: str


class KeptBuilds(KeptVersions):
    """All builds; ``locked`` those that cannot be read."""

    locked: tuple[LockedBuild, ...] = ()

    def builds(self) -> list[StoredBuild]:
        """All builds that can be read, oldest first; the others are in ``locked`` afterwards."""
        query = sa.select(
            BuildRow.id,
            BuildRow.name,
            sa.type_coerce(BuildRow.document, sa.String),
            sa.type_coerce(BuildRow.situation, sa.String),
            BuildRow.seal,
        ).order_by(BuildRow.id)
        whole, locked = [], []
        with self.reading_from() as session:
            for number, name, document, situation, seal in session.execute(query):
                where = f"Build {number} ({printable(name)})"
                try:
                    if seal != seals.text_seal((name, document, situation)):
                        raise BuildFileError([f"{where}: its text is not as it was written"])
                    build = read_document(Build, document, where)
                    whole.append(StoredBuild(number, build, read_document(Situation, situation, where)))
                except BuildFileError as error:
                    locked.append(LockedBuild(number, printable(name), error.sentences[0]))
        self.locked = tuple(locked)
        return whole

    def add_build(self, build: Build, situation: Situation, words: str, at: dt.datetime | None = None) -> StoredBuild:
        """Keep a new build and begin its diary (``at`` a moment, now if none is given)."""
        begun_at = naive(at or now())
        with self.writing("The new build") as session:
            row = BuildRow(
                name=build.name,
                document=build.model_dump(mode="json"),
                situation=situation.model_dump(mode="json"),
                created_at=begun_at,
            )
            session.add(row)
            session.flush()
            seal_text(session, "builds", row.id)
            line = self.add_entry(session, row.id, DiaryEntry(at or now(), "made", "build", words))
            self.add_version(session, row.id, line, build)
            session.commit()
            return StoredBuild(row.id, build, situation)

    def save_build(self, stored: StoredBuild, words: str | None = None) -> DiaryEntry | None:
        """Keep the present state of a build; with ``words``, a diary line as well, which is returned."""
        entry = DiaryEntry(now(), "changed", "build", words) if words else None
        with self.writing("The change") as session:
            session.execute(
                sa.update(BuildRow)
                .where(BuildRow.id == stored.id)
                .values(
                    name=stored.build.name,
                    document=stored.build.model_dump(mode="json"),
                    situation=stored.situation.model_dump(mode="json"),
                )
            )
            seal_text(session, "builds", stored.id)
            if entry is not None:
                line = self.add_entry(session, stored.id, entry)
                self.add_version(session, stored.id, line, stored.build)
            session.commit()
        return entry

    def restore(
        self,
        builds: Sequence[StoredBuild],
        lines: Sequence[tuple[int, int, DiaryEntry]],
        versions: Sequence[tuple[int, int, Build]],
    ) -> dict[int, int]:
        """Put builds and lines of another file into this one, all or nothing; the new number of each build.

        ``lines`` with the build's and the line's number there, ``versions`` with the build's and that of the line they
        hold from; one whose line is lost holds from the line before it.
        """
        with self.writing("The saved builds") as session:
            numbers: dict[int, int] = {}
            for stored in builds:
                row = BuildRow(
                    name=stored.build.name, document=stored.build.model_dump(mode="json"),
                    situation=stored.situation.model_dump(mode="json"), created_at=naive(now()),
                )  # fmt: skip
                session.add(row)
                session.flush()
                seal_text(session, "builds", row.id)
                numbers[stored.id] = row.id
            placed: dict[int, dict[int, int]] = {number: {} for number in numbers}
            for build_id, was, entry in lines:
                placed[build_id][was] = self.add_entry(session, numbers[build_id], entry)
            for build_id, since, build in versions:
                before = [was for was in placed[build_id] if was <= since]
                if before:
                    self.add_version(session, numbers[build_id], placed[build_id][max(before)], build)
            session.commit()
        return numbers
