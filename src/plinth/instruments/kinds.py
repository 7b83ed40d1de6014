"""Kinds of instruments, and what each can be told and asked, under the terms of the open instrument classes."""

import enum
from dataclasses import dataclass


class InstrumentKind(enum.StrEnum):
    """What an instrument is. The values stand in command maps."""

    GENERATOR = "function generator"
    DIGITISER = "digitiser"
    MULTIMETER = "multimeter"
    DC_SUPPLY = "dc supply"
    AC_SOURCE = "ac source"
    POWER_METER = "ac power meter"
    LOAD = "electronic load"
    THERMOMETER = "thermometer"
    COUNTER = "counter"
    SWITCH = "switch"

    @property
    def words(self) -> str:
        """In a sentence, without an article."""
        return self.value.replace("ac ", "AC ").replace("dc ", "DC ")


class Action(enum.StrEnum):
    """One thing that an instrument is told, or asked. The values stand in command maps."""

    SET_FREQUENCY = "set_frequency"
    SET_VOLTS = "set_volts"
    SET_CURRENT_LIMIT = "set_current_limit"
    SET_OHMS = "set_ohms"
    SET_OUTPUT = "set_output"
    SET_POINTS = "set_points"
    SET_RATE = "set_rate"
    SET_RANGE = "set_range"
    SET_PLACE = "set_place"
    SET_ROUTE = "set_route"
    SET_COUPLED = "set_coupled"
    SET_SHAPE = "set_shape"
    TAKE = "take"
    READ_RECORD = "read_record"
    READ_VOLTS_DC = "read_volts_dc"
    READ_VOLTS_AC = "read_volts_ac"
    READ_OHMS = "read_ohms"
    READ_AMPERES = "read_amperes"
    READ_WATTS = "read_watts"
    READ_VOLT_AMPERES = "read_volt_amperes"
    READ_POWER_FACTOR = "read_power_factor"
    READ_DEGREES = "read_degrees"
    READ_HERTZ = "read_hertz"

    @property
    def unit(self) -> str:
        """The unit that Plinth sends and expects; a map that has another is refused. None needed: empty."""
        return _UNITS.get(self, "")

    @property
    def reads(self) -> bool:
        """Whether it is a question."""
        return self.value.startswith("read_")

    @property
    def words(self) -> str:
        """In a sentence: ``to set volts``, ``to read amperes``."""
        return "to take a record" if self is Action.TAKE else f"to {self.value.replace('_', ' ')}"


_UNITS = {
    Action.SET_FREQUENCY: "Hz", Action.SET_VOLTS: "V", Action.SET_CURRENT_LIMIT: "A", Action.SET_OHMS: "ohm",
    Action.SET_RATE: "Hz", Action.SET_RANGE: "V", Action.READ_RECORD: "V", Action.READ_VOLTS_DC: "V",
    Action.READ_VOLTS_AC: "V", Action.READ_OHMS: "ohm", Action.READ_AMPERES: "A", Action.READ_WATTS: "W",
    Action.READ_VOLT_AMPERES: "VA", Action.READ_DEGREES: "°C", Action.READ_HERTZ: "Hz",
}  # fmt: skip


@dataclass(frozen=True)
class KindNeeds:
    """``must``: without these it is no such instrument; ``may``: some tests want them."""

    must: tuple[Action, ...]
    may: tuple[Action, ...] = ()


A = Action
NEEDS: dict[InstrumentKind, KindNeeds] = {
    InstrumentKind.GENERATOR: KindNeeds((A.SET_FREQUENCY, A.SET_VOLTS, A.SET_OUTPUT), (A.SET_COUPLED, A.SET_SHAPE)),
    InstrumentKind.DIGITISER: KindNeeds((A.SET_POINTS, A.SET_RATE, A.TAKE, A.READ_RECORD), (A.SET_RANGE, A.SET_PLACE)),
    InstrumentKind.MULTIMETER: KindNeeds((A.READ_VOLTS_DC, A.READ_VOLTS_AC), (A.READ_OHMS, A.READ_AMPERES)),
    InstrumentKind.DC_SUPPLY: KindNeeds(
        (A.SET_VOLTS, A.SET_CURRENT_LIMIT, A.SET_OUTPUT, A.READ_AMPERES), (A.READ_VOLTS_DC,)
    ),
    InstrumentKind.AC_SOURCE: KindNeeds((A.SET_VOLTS, A.SET_OUTPUT), (A.SET_FREQUENCY, A.SET_CURRENT_LIMIT)),
    InstrumentKind.POWER_METER: KindNeeds(
        (A.READ_WATTS,), (A.READ_VOLTS_AC, A.READ_AMPERES, A.READ_VOLT_AMPERES, A.READ_POWER_FACTOR)
    ),
    InstrumentKind.LOAD: KindNeeds((A.SET_OHMS, A.SET_OUTPUT)),
    InstrumentKind.THERMOMETER: KindNeeds((A.READ_DEGREES,)),
    InstrumentKind.COUNTER: KindNeeds((A.READ_HERTZ,)),
    InstrumentKind.SWITCH: KindNeeds((A.SET_ROUTE,)),
}
# What lets current flow, in the order in which it is switched off: the signal, what feeds, the load last.
GIVES = (InstrumentKind.GENERATOR, InstrumentKind.AC_SOURCE, InstrumentKind.DC_SUPPLY, InstrumentKind.LOAD)
# Told to these, a value must lie within limits that the map states.
LIMITED = {
    InstrumentKind.GENERATOR: (A.SET_VOLTS,), InstrumentKind.DC_SUPPLY: (A.SET_VOLTS, A.SET_CURRENT_LIMIT),
    InstrumentKind.AC_SOURCE: (A.SET_VOLTS,), InstrumentKind.LOAD: (A.SET_OHMS,),
}  # fmt: skip
del A
