"""One thing on the shelf: the part, what is known of its stock, its papers, and its number in the workshop."""

import dataclasses

from plinth.builds.parts import Part
from plinth.builds.stock import Stock


@dataclasses.dataclass(frozen=True)
class Paper:
    """A sheet, a picture or a text kept with a part: its ``words`` as far as they can be read, ``size`` in bytes.

    ``digest`` what its content is known by.
    """

    number: int
    part: int
    name: str
    note: str = ""
    words: str = ""
    size: int = 0
    digest: str = ""


@dataclasses.dataclass(frozen=True)
class ShelfItem:
    """``number`` in the workshop's file; below 0: it is not on the shelf yet."""

    number: int
    part: Part
    stock: Stock = dataclasses.field(default_factory=Stock)
    papers: tuple[Paper, ...] = ()

    @property
    def is_kept(self) -> bool:
        """Whether it is on the shelf."""
        return self.number >= 0


# Lines about a paper have this before what its content is known by: numbers are other ones in another workshop.
_OF_PAPER, _DIGITS = "paper/", 24


def of_paper(paper: Paper) -> str:
    """The subject of a line of the diary that tells of a paper."""
    return f"{_OF_PAPER}{paper.digest[:_DIGITS]}"


def paper_digest(subject: str) -> str:
    """What the paper that a line tells of is known by, as far as the line says; empty where it tells of none."""
    return subject.removeprefix(_OF_PAPER) if subject.startswith(_OF_PAPER) else ""
