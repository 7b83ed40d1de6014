"""How a value is given: by whom, and what the giver knows of it that no kit does."""

import dataclasses
from collections.abc import Mapping

from plinth.record.origin import BY_HAND, ReadingOrigin


@dataclasses.dataclass(frozen=True)
class Giving:
    """``origin`` who gives. Where the ``instrument`` is named, ``u`` is the standard uncertainty in the unit asked for.

    None: it is not known; ``facts`` go with the reading. Without a name the kit says what it was read with.
    """

    origin: ReadingOrigin = BY_HAND
    instrument: str = ""
    u: float | None = None
    facts: Mapping[str, float | str] = dataclasses.field(default_factory=dict)


TYPED = Giving()
