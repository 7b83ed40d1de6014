"""What is measured with, and how far it is trusted."""

import math
from typing import Annotated, Literal

from pydantic import Field

from plinth.builds.quantities import Fraction, Model, Name

Bandwidth = Annotated[float, Field(ge=100, le=1e10, description="Hz")]
Kind = Literal["scope", "meter", "ohmmeter", "thermometer", "supply"]


class Instrument(Model):
    """Accuracy as a fraction of the reading plus a fixed part in the reading's unit (both as +- bounds).

    ``accuracy`` None: not stated, so a reading taken with it has no known uncertainty. ``bandwidth_hz`` where its own
    reading of AC volts has fallen by 3 dB.
    """

    name: Name
    kind: Kind
    accuracy: Fraction | None = None
    bandwidth_hz: Bandwidth | None = None
    floor: float = Field(default=0.0, ge=0)

    def u(self, value: float) -> float | None:
        """Standard uncertainty of a reading of ``value``: bounds taken as rectangular (GUM 4.3.7)."""
        if self.accuracy is None:
            return None
        return (self.accuracy * abs(value) + self.floor) / math.sqrt(3.0)


class BenchKit(Model):
    """One instrument of each kind that readings are typed from."""

    scope: Instrument
    meter: Instrument
    ohmmeter: Instrument
    thermometer: Instrument
    supply: Instrument

    def of(self, kind: Kind) -> Instrument:
        """The instrument of that kind."""
        found: Instrument = getattr(self, kind)
        return found


def unknown_kit() -> BenchKit:
    """A bench whose instruments nobody has described yet: every accuracy is unknown."""
    return BenchKit(
        scope=Instrument(name="scope", kind="scope"),
        meter=Instrument(name="meter", kind="meter"),
        ohmmeter=Instrument(name="ohmmeter", kind="ohmmeter"),
        thermometer=Instrument(name="thermometer", kind="thermometer"),
        supply=Instrument(name="bench supply", kind="supply"),
    )
