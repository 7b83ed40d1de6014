"""What stands side by side: a version of a build, another build, a variant, or what a listing claims."""

import dataclasses

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.record.book import RecordBook

MOST_SIDES = 4
# What stands before each of them, and the colour of what was read of it.
LETTERS = "ABCD"
ROLES = ("ink2", "ink", "claim", "zero")


@dataclasses.dataclass(frozen=True)
class Side:
    """``name`` and a ``note`` on what it is; ``book`` the records that may count for it.

    ``of`` names the build that it is a version of: two versions share what was not changed. ``listing``: only what its
    module's listing claims is looked at. ``cost`` what is still to be paid for it, ``so_far`` what its parts in hand
    cost at the shelf's prices (None: not known).
    """

    name: str
    note: str
    build: Build
    situation: Situation
    book: RecordBook
    listing: bool = False
    of: str = ""
    cost: float | None = None
    so_far: float | None = None
