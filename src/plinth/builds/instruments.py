"""What is measured with, and how far it is trusted."""

import enum
import math
from typing import Annotated, Any

from pydantic import Field, model_validator

from plinth.builds.quantities import Fraction, Model, Name

Bandwidth = Annotated[float, Field(ge=100, le=1e10, description="Hz")]


class Role(enum.StrEnum):
    """Who can give a reading, or set what a test wants set. The values are what files hold."""

    METER = "meter"
    OHMMETER = "ohmmeter"
    SCOPE = "scope"
    GENERATOR = "generator"
    SUPPLY = "supply"
    LOAD = "load"
    THERMOMETER = "thermometer"
    MAINS_METER = "mains meter"
    CLAMP_METER = "clamp meter"
    CAPACITANCE_METER = "capacitance meter"
    STOP_WATCH = "stop watch"
    EYE = "eye"

    @property
    def words(self) -> str:
        """What such an instrument is called while nobody has named it."""
        return {"supply": "bench supply", "mains meter": "power meter", "load": "electronic load"}.get(self, self.value)

    @property
    def unit(self) -> str:
        """The unit in which its fixed part and its ranges are stated."""
        return _UNITS[self]


_UNITS = {
    Role.METER: "V", Role.OHMMETER: "ohm", Role.SCOPE: "V", Role.GENERATOR: "V", Role.SUPPLY: "A", Role.LOAD: "A",
    Role.THERMOMETER: "°C", Role.MAINS_METER: "W", Role.CLAMP_METER: "A", Role.CAPACITANCE_METER: "F",
    Role.STOP_WATCH: "s", Role.EYE: "",
}  # fmt: skip


class Range(Model):
    """One range of an instrument: up to ``top``, shown to ``digit``, the last digit's step (both in its unit)."""

    top: float = Field(gt=0)
    digit: float = Field(gt=0)


class Instrument(Model):
    """Accuracy as a fraction of the reading plus a fixed part (both as +- bounds).

    ``identity`` the very one, whatever it is called; empty where nobody described it yet.
    ``accuracy`` None: not stated, so a reading taken with it has no known uncertainty. The fixed part is ``floor`` in
    the role's unit and, where its ``ranges`` are stated, ``digits`` of the last digit of the range that holds a
    reading. ``bandwidth_hz`` where its own reading of AC volts has fallen by 3 dB.
    """

    name: Name
    role: Role
    identity: str = Field(default="", max_length=64)
    accuracy: Fraction | None = None
    bandwidth_hz: Bandwidth | None = None
    floor: float = Field(default=0.0, ge=0)
    digits: float = Field(default=0.0, ge=0, le=1000)
    ranges: tuple[Range, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _of_before(cls, given: Any) -> Any:
        # Files of earlier versions call the role a kind.
        if isinstance(given, dict) and "kind" in given and "role" not in given:
            return {("role" if name == "kind" else name): value for name, value in given.items()}
        return given

    def fixed(self, value: float) -> float:
        """The fixed part of the bound at a reading of ``value``: on the smallest range that holds it, else the top."""
        if not self.ranges or not self.digits:
            return self.floor
        rising = sorted(self.ranges, key=lambda span: span.top)
        taken = next((span for span in rising if abs(value) <= span.top), rising[-1])
        return self.floor + self.digits * taken.digit

    def u(self, value: float) -> float | None:
        """Standard uncertainty of a reading of ``value``: bounds taken as rectangular (GUM 4.3.7)."""
        if self.accuracy is None:
            return None
        return (self.accuracy * abs(value) + self.fixed(value)) / math.sqrt(3.0)


# Of those every bench has one, described or not.
USUAL = (Role.SCOPE, Role.METER, Role.OHMMETER, Role.THERMOMETER, Role.SUPPLY)


class BenchKit(Model):
    """The instruments of a workshop. Of several in one role the first is the one that readings are typed from."""

    instruments: tuple[Instrument, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _of_before(cls, given: Any) -> Any:
        # Files of earlier versions hold one of each of five kinds, by its kind.
        if isinstance(given, dict) and "instruments" not in given and given:
            named = {str(role) for role in USUAL}
            listed = [given[role] for role in USUAL if role in given]
            return {"instruments": listed, **{name: value for name, value in given.items() if name not in named}}
        return given

    def of(self, role: Role) -> Instrument:
        """The instrument in that role; where nobody has described it, of no stated accuracy."""
        return next(
            (instrument for instrument in self.instruments if instrument.role == role),
            Instrument(name=role.words, role=role),
        )

    @property
    def listed(self) -> tuple[Instrument, ...]:
        """Those of this kit, and before them the usual ones that nobody has described yet."""
        named = {instrument.role for instrument in self.instruments}
        return (*(self.of(role) for role in USUAL if role not in named), *self.instruments)


def unknown_kit() -> BenchKit:
    """A bench whose instruments nobody has described yet: every accuracy is unknown."""
    return BenchKit()
