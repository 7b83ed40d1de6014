"""What an archive holds, as models: the JSON Schema of each follows from it."""

import datetime as dt
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.stock import Stock
from plinth.record.diary import DiaryEntry
from plinth.record.kept_capture import CaptureFacts
from plinth.record.photo import PhotoMark

FORMAT: Literal["plinth archive"] = "plinth archive"
VERSION = 1


class _Document(BaseModel):
    model_config = ConfigDict(frozen=True, extra="ignore")


class ArchiveHead(_Document):
    """``archive.json``: what the archive is, and the SHA-256 of each of its other files.

    ``demo``: its builds and readings are invented; ``left_out`` what could not be read when it was made.
    """

    format: Literal["plinth archive"] = FORMAT
    version: int = Field(default=VERSION, ge=1)
    made_at: dt.datetime
    made_by: str
    practice: bool = False
    demo: bool = False
    left_out: tuple[str, ...] = ()
    bench: dict[str, object] = {}
    files: dict[str, str]


class ArchivedVersion(_Document):
    """The build as it was from a line of the diary on (counted from 0)."""

    since_line: int = Field(ge=0)
    build: Build


class ArchivedPhoto(_Document):
    """A photo: what it is of, when, its words and marks, and its two files."""

    subject: str
    at: dt.datetime
    name: str
    words: str
    marks: tuple[PhotoMark, ...]
    original: str
    scaled: str


class ArchivedCapture(_Document):
    """A capture: what it is of, when, its words and facts, and the recorder's own file."""

    subject: str
    at: dt.datetime
    name: str
    words: str
    facts: CaptureFacts
    file: str


class ArchivedBuild(_Document):
    """``builds/N.json``: a build with all that is kept of it."""

    build: Build
    situation: Situation
    diary: tuple[DiaryEntry, ...]
    versions: tuple[ArchivedVersion, ...]
    photos: tuple[ArchivedPhoto, ...]
    captures: tuple[ArchivedCapture, ...] = ()


class ArchivedPaper(_Document):
    """A paper of a part, and its file."""

    name: str
    note: str
    words: str
    file: str


class ArchivedPart(_Document):
    """A part on the shelf: its kind's name, its values, its stock, its papers."""

    kind: str
    part: dict[str, object]
    stock: Stock
    papers: tuple[ArchivedPaper, ...] = ()


PARTS: TypeAdapter[tuple[ArchivedPart, ...]] = TypeAdapter(tuple[ArchivedPart, ...])
