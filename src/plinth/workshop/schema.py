"""Tables of the workshop file. A change here needs a migration in ``migrations/versions``."""

import datetime as dt
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

# "PLNT"; SQLite keeps it in the header, so a foreign database is told apart before it is opened.
APPLICATION_ID = 0x504C4E54
SCHEMA_VERSION = 9
HEAD_REVISION = f"{SCHEMA_VERSION:04d}"
# The version from which on lines and texts carry their seals.
SEALED_SINCE = 2


class Base(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {dict[str, Any]: JSON(none_as_null=True)}  # noqa: RUF012  # SQLAlchemy reads it as a plain class attribute


class BuildRow(Base):
    """A build with its situation, as validated documents."""

    __tablename__ = "builds"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    document: Mapped[dict[str, Any]]
    situation: Mapped[dict[str, Any]]
    seal: Mapped[str] = mapped_column(default="")
    created_at: Mapped[dt.datetime]


class ReadingRow(Base):
    """A reading; never changed once written."""

    __tablename__ = "readings"
    __table_args__ = (Index("readings_by_build", "build_id", "subject"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id"))
    subject: Mapped[str]
    label: Mapped[str]
    typed: Mapped[str]
    value: Mapped[float]
    unit: Mapped[str]
    u: Mapped[float | None]
    instrument: Mapped[str]
    taken_at: Mapped[dt.datetime]
    state: Mapped[str]
    said: Mapped[str]
    low: Mapped[float | None]
    high: Mapped[float | None]
    giver: Mapped[str]
    bound: Mapped[str]
    facts: Mapped[dict[str, Any] | None]
    instrument_id: Mapped[str]
    capture: Mapped[str]


class EntryRow(Base):
    """A line of the diary; never changed once written."""

    __tablename__ = "entries"
    __table_args__ = (Index("entries_by_build", "build_id"), Index("entries_by_subject", "build_id", "subject"))

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id"))
    at: Mapped[dt.datetime]
    kind: Mapped[str]
    subject: Mapped[str]
    words: Mapped[str]
    reading_id: Mapped[int | None] = mapped_column(ForeignKey("readings.id"))
    conditions: Mapped[dict[str, Any] | None]
    seal: Mapped[str] = mapped_column(default="")


class VersionRow(Base):
    """A build as it was from one line of its diary on; never changed once written."""

    __tablename__ = "versions"
    __table_args__ = (Index("versions_by_build", "build_id", "entry_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int] = mapped_column(ForeignKey("builds.id"))
    entry_id: Mapped[int] = mapped_column(ForeignKey("entries.id"))
    document: Mapped[dict[str, Any]]
    seal: Mapped[str] = mapped_column(default="")


class PartRow(Base):
    """A part on the shelf, and what is known of its stock."""

    __tablename__ = "parts"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    document: Mapped[dict[str, Any]]
    stock: Mapped[dict[str, Any] | None]
    seal: Mapped[str] = mapped_column(default="")


class PaperRow(Base):
    """A paper that belongs to a part on the shelf: a sheet, a picture, a text. ``digest`` of its content."""

    __tablename__ = "papers"
    __table_args__ = (Index("papers_by_part", "part_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int]
    name: Mapped[str]
    note: Mapped[str]
    words: Mapped[str]
    digest: Mapped[str]
    seal: Mapped[str] = mapped_column(default="")
    content: Mapped[bytes]


class PhotoRow(Base):
    """A photo of something of a build. ``digest`` of its scaled copy, and of its content, which may stand in chunks."""

    __tablename__ = "photos"
    __table_args__ = (Index("photos_by_build", "build_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int]
    subject: Mapped[str]
    at: Mapped[str]
    name: Mapped[str]
    words: Mapped[str]
    marks: Mapped[str]
    digest: Mapped[str]
    seal: Mapped[str] = mapped_column(default="")
    scaled: Mapped[bytes]
    content: Mapped[bytes]


class CaptureRow(Base):
    """A capture of something of a build. ``digest`` of its content, which stands in chunks, ``size`` in bytes."""

    __tablename__ = "captures"
    __table_args__ = (Index("captures_by_build", "build_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    build_id: Mapped[int]
    subject: Mapped[str]
    at: Mapped[str]
    name: Mapped[str]
    words: Mapped[str]
    facts: Mapped[str]
    digest: Mapped[str]
    size: Mapped[int]
    seal: Mapped[str] = mapped_column(default="")


class ChunkRow(Base):
    """A part of a large content, which is known by its digest; ``place`` counts from 0."""

    __tablename__ = "chunks"

    digest: Mapped[str] = mapped_column(primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    content: Mapped[bytes]


class SettingRow(Base):
    """A setting of this workshop."""

    __tablename__ = "settings"

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[dict[str, Any]]
    seal: Mapped[str] = mapped_column(default="")


# Since when large contents stand in chunks.
CHUNKS_SINCE = 8
CAPTURES_SINCE = 9
_SINCE = {"versions": 3, "papers": 4, "photos": 5, "chunks": CHUNKS_SINCE, "captures": CAPTURES_SINCE}


def tables(version: int) -> frozenset[str]:
    """The tables that a file of that version has."""
    return frozenset(name for name in Base.metadata.tables if _SINCE.get(name, 1) <= version) | {"alembic_version"}
