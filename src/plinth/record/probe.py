"""Where a reading is taken, and what of it, for whoever connects an instrument there."""

import dataclasses
import enum


class Point(enum.StrEnum):
    """A place at a build, or on its bench. The values are what settings of a bench hold."""

    INPUT = "input"
    OUTPUT = "output"
    RAIL_PLUS = "rail +"
    RAIL_MINUS = "rail -"
    BIAS = "bias"
    WALL = "wall"
    SUPPLY = "bench supply"
    SINK = "sink"

    @property
    def of_channel(self) -> bool:
        """Whether each channel has one of its own."""
        return self in (Point.INPUT, Point.OUTPUT, Point.BIAS, Point.SINK)

    @property
    def words(self) -> str:
        """In a sentence, behind ``at``."""
        return {
            "input": "the input", "output": "the output", "rail +": "the + rail", "rail -": "the − rail",
            "bias": "the bias resistor", "wall": "the wall", "bench supply": "the bench supply", "sink": "the sink",
        }[self.value]  # fmt: skip


class Quantity(enum.StrEnum):
    """What is read there."""

    VOLTS_DC = "DC volts"
    VOLTS_AC = "AC volts"
    SWING = "volts peak to peak"
    LINE = "a line of the spectrum"
    ONSET = "onset of clipping"
    AMPERES = "amperes"
    WATTS = "watts"
    VOLT_AMPERES = "volt-amperes"
    POWER_FACTOR = "power factor"
    DEGREES = "degrees"
    OHMS = "ohms"
    RISE = "rise time of a square wave"
    OVERSHOOT = "overshoot of a square wave"
    RINGING = "ringing of a square wave"
    TILT = "tilt of a square wave"

    @property
    def of_square(self) -> bool:
        """Whether it is read of a square wave."""
        return self in (Quantity.RISE, Quantity.OVERSHOOT, Quantity.RINGING, Quantity.TILT)


@dataclasses.dataclass(frozen=True)
class Probe:
    """``quantity`` at ``point``; of a LINE its ``hz``."""

    point: Point
    quantity: Quantity
    hz: float | None = None
