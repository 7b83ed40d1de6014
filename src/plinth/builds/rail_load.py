"""What a builder hangs on the rails in place of the boards, to test the supply alone: resistors, or a set current."""

import re
from collections.abc import Sequence
from typing import Annotated

from pydantic import Field, model_validator

from plinth.builds.quantities import Model
from plinth.units.errors import QuantityError
from plinth.units.shown import shown
from plinth.units.typed import read_quantity

# Each takes a prediction and up to six lines on the page.
MOST_RAIL_LOADS = 6
OHM_RANGE = (0.5, 100_000.0)
A_RANGE = (0.001, 200.0)

_PARTING = re.compile(r"\s*;\s*|\s*,\s+|(?<=[a-zA-ZΩ])\s*,\s*|(?<=[\wΩ])\s+(?=\d)")
_AMPERES = re.compile(r"a\s*$", re.IGNORECASE)
# ``820R`` and ``8R2`` say ohms as ``820 ohm`` does.
_OHMS = re.compile(r"(?:ohms?|Ω|r|[kM])\s*$|\d[RΩkK]\d", re.IGNORECASE)


class RailLoad(Model):
    """On each rail to 0 V: ``r_ohm`` ohms, or ``i_a`` amperes whatever the rail is (an electronic load)."""

    r_ohm: Annotated[float, Field(ge=OHM_RANGE[0], le=OHM_RANGE[1], description="ohm")] | None = None
    i_a: Annotated[float, Field(ge=A_RANGE[0], le=A_RANGE[1], description="A")] | None = None

    @model_validator(mode="after")
    def _either(self) -> "RailLoad":
        if (self.r_ohm is None) == (self.i_a is None):
            raise ValueError("found a rail load with both or neither of r_ohm and i_a, expected one of them")
        return self

    @property
    def words(self) -> str:
        """As it is spoken: ``820 Ω``, ``1.5 A``."""
        if self.i_a is not None:
            return f"{self.i_a:g} A" if self.i_a >= 1.0 else f"{1e3 * self.i_a:g} mA"
        ohm = self.r_ohm or 0.0
        return f"{ohm:g} Ω" if ohm < 1e3 else f"{ohm / 1e3:g} kΩ"

    @property
    def typed(self) -> str:
        """As it is typed, to the last digit."""
        return f"{self.i_a:g} A" if self.r_ohm is None else f"{self.r_ohm:g} ohm"

    @property
    def key(self) -> str:
        """What readings know it by."""
        return f"{self.i_a:g}a" if self.r_ohm is None else f"{self.r_ohm:g}r"

    def amperes(self, v: float) -> float:
        """What it draws from a rail at ``v`` volts, A."""
        return v / self.r_ohm if self.r_ohm is not None else self.i_a or 0.0

    def watts(self, v: float) -> float:
        """What it turns into heat on a rail at ``v`` volts, W; ripple, which adds less than 1 %, aside."""
        return v * self.amperes(v)


def read_rail_loads(text: str) -> tuple[RailLoad, ...]:
    """Loads from a typed list (``820 ohm, 1.5 A``; ``8R2; 400 mA``), resistors first, lightest first, each once.

    None of an empty text. Raises QuantityError for what is neither ohms nor amperes, or outside what a bench has.
    """
    loads = {_read(part) for part in _PARTING.split(text.strip().rstrip(",;")) if part.strip()}
    if len(loads) > MOST_RAIL_LOADS:
        raise QuantityError(f"found {len(loads)} loads, expected at most {MOST_RAIL_LOADS}: leave some out")
    return tuple(sorted(loads, key=lambda load: (load.r_ohm is None, -(load.r_ohm or 0.0), load.i_a or 0.0)))


def _read(part: str) -> RailLoad:
    text = part.strip()
    if _AMPERES.search(text):
        amperes = read_quantity(text, "A")
        _hold(amperes, A_RANGE, "A", text)
        return RailLoad(i_a=amperes)
    if not _OHMS.search(text):
        raise QuantityError(f"found {text!r}, expected ohms or amperes with their unit: 820 ohm, 8R2 or 1.5 A")
    ohm = read_quantity(text, "ohm")
    _hold(ohm, OHM_RANGE, "ohm", text)
    return RailLoad(r_ohm=ohm)


def _hold(value: float, limits: tuple[float, float], unit: str, text: str) -> None:
    if not limits[0] <= value <= limits[1]:
        raise QuantityError(f"found {text!r}, expected {shown(limits[0], unit)} to {shown(limits[1], unit)}")


def rail_loads_text(loads: Sequence[RailLoad]) -> str:
    """A list of loads as it is typed."""
    return "; ".join(load.typed for load in loads)
