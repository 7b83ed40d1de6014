"""A photo of the work: of which check, step, reading or note, with words, and marks on it."""

import dataclasses
import datetime as dt
import json
from collections.abc import Sequence

from plinth.record.diary import DiaryEntry, of_line, record_of


@dataclasses.dataclass(frozen=True)
class PhotoMark:
    """A place on the picture, in shares of its width and height from the upper left, and what is to be seen there."""

    x: float
    y: float
    words: str

    def __post_init__(self) -> None:
        if not (0.0 <= self.x <= 1.0 and 0.0 <= self.y <= 1.0):
            raise ValueError(f"found a mark at {self.x:g}, {self.y:g}, expected it on the picture, between 0 and 1")


@dataclasses.dataclass(frozen=True)
class Photo:
    """``subject`` what it is of, as records have it; ``size`` of the original in bytes. Its pictures are asked for."""

    number: int
    build_id: int
    subject: str
    at: dt.datetime
    name: str
    words: str
    marks: tuple[PhotoMark, ...]
    size: int


def line_subject(entry: DiaryEntry) -> str:
    """What a photo of a line of the diary is of: the check, step or reading it tells of, else that very line."""
    if entry.reading is not None or record_of(entry) is not None:
        return entry.subject
    return of_line(entry)


def marks_text(marks: Sequence[PhotoMark]) -> str:
    """Marks as the file keeps them."""
    return json.dumps([dataclasses.asdict(mark) for mark in marks], ensure_ascii=False)


def read_marks(text: str) -> tuple[PhotoMark, ...]:
    """Marks from the file. Raises ValueError where they are none."""
    marks = json.loads(text)
    return tuple(PhotoMark(float(mark["x"]), float(mark["y"]), str(mark["words"])) for mark in marks)
