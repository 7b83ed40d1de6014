"""One thing on the shelf: the part, what is known of its stock, its papers, and its number in the workshop."""

import dataclasses

from plinth.builds.parts import Part
from plinth.builds.stock import Stock


@dataclasses.dataclass(frozen=True)
class Paper:
    """A sheet, a picture or a text kept with a part: its ``words`` as far as they can be read, ``size`` in bytes."""

    number: int
    part: int
    name: str
    note: str = ""
    words: str = ""
    size: int = 0


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
