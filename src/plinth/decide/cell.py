"""One figure of one side: claimed, predicted and read, each with what is known of how sure it is."""

import dataclasses
import math
from collections.abc import Hashable, Mapping

from plinth.record.reading import Reading
from plinth.units.bounds import Bound


@dataclasses.dataclass(frozen=True)
class Value:
    """A value with its standard uncertainty ``u`` (None: not known).

    ``shares`` what each uncertain input adds to it, with its sign, under what names the very same thing: two values
    that rest on one thing are off together.
    """

    value: float
    u: float | None = None
    shares: Mapping[Hashable, float] = dataclasses.field(default_factory=dict)

    @property
    def spread(self) -> float | None:
        """Half the width of about 95 %."""
        return None if self.u is None else 2.0 * self.u


@dataclasses.dataclass(frozen=True)
class Cell:
    """``reading`` the one that counts for this side; ``why`` there is none where one was taken under other conditions.

    ``window`` where readings of it are expected, which is wider than the prediction's own spread.
    """

    claim: float | None = None
    predicted: Value | None = None
    window: tuple[float, float] | None = None
    reading: Reading | None = None
    why: str = ""

    @property
    def read(self) -> Value | None:
        """What was read, if it is more than a bound."""
        if self.reading is None or self.reading.bound in (Bound.ABOVE, Bound.BELOW):
            return None
        return Value(self.reading.value, self.reading.u)

    @property
    def best(self) -> Value | None:
        """What was read, else what is predicted."""
        return self.read or self.predicted

    @property
    def is_empty(self) -> bool:
        """Whether nothing is known of it here."""
        return self.claim is None and self.predicted is None and self.reading is None

    @property
    def ends(self) -> tuple[float, ...]:
        """Every value that a ruler must hold."""
        ends = [] if self.claim is None else [self.claim]
        if self.window is not None:
            ends += self.window
        for known in (self.predicted, self.read):
            if known is not None:
                spread = known.spread or 0.0
                ends += [known.value - spread, known.value + spread]
        return tuple(end for end in ends if math.isfinite(end))
