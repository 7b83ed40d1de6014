"""A value given where a test asks for one, by whoever gives it."""

import dataclasses

from plinth.record.giving import TYPED, Giving


@dataclasses.dataclass(frozen=True)
class Given:
    """A value as it would be typed, and who gave it."""

    text: str
    giving: Giving = TYPED
