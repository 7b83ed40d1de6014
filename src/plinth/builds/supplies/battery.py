"""A battery with its converter."""

from typing import ClassVar, Literal

from plinth.builds.quantities import Amperes
from plinth.builds.station import Station
from plinth.builds.supplies.kind import WithoutTransformer
from plinth.builds.supply_parts import Battery, BatteryConverter, Reservoir


class BatterySupply(WithoutTransformer):
    """A battery, its push-pull converter and the capacitors at its output. ``i_other_a`` drawn besides (lights)."""

    kind: Literal["battery"] = "battery"
    battery: Battery
    converter: BatteryConverter
    reservoir: Reservoir
    i_other_a: Amperes | None = None

    source_slot: ClassVar[str] = "converter"
    source_name: ClassVar[str] = "battery converter"
    stations: ClassVar[tuple[Station, ...]] = (
        Station("wall", "Battery", ("supply.battery",)),
        Station("transformer", "Converter", ("supply.converter",)),
        Station("reservoir", "Output capacitors", ("supply.reservoir",)),
    )
    drawn_from: ClassVar[str] = "the battery"
    drawn_figure: ClassVar[str] = "battery_power_w"
    runs: ClassVar[str] = "with"
    cautions: ClassVar[tuple[str, ...]] = (
        "A battery delivers hundreds of amperes into a short: fuse at its terminal, rings and bracelets off.",
    )

    @property
    def single_rail(self) -> bool:
        """A push-pull converter gives two rails."""
        return False

    @property
    def rough_rail_v(self) -> float:
        """As stated, V."""
        return self.converter.v_rail

    @property
    def rated_words(self) -> tuple[str, str]:
        """Its converter's volts and watts."""
        return f"{self.sign}{self.converter.v_rail:g} V", f"{self.converter.p_continuous_w:g} W"

    @property
    def at_its_limit(self) -> str:
        """What it does at its limit of current."""
        return "shortens its pulses"

    def words_at(self, battery_v: float) -> str:
        """The battery's volts."""
        return f"{battery_v:.1f} V from the battery"

    def instead_of_wall(self, battery_v: float) -> tuple[str, str, str]:
        """The battery."""
        return "Battery", f"{battery_v:g} V", f"{self.battery.capacity_ah:g} Ah"
