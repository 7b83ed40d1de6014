"""Bench supplies in the place of a build's own."""

from typing import ClassVar, Literal

from plinth.builds.station import Station
from plinth.builds.supplies.kind import WithoutBattery, WithoutTransformer
from plinth.builds.supply_parts import BenchPair, Reservoir


class DirectSupply(WithoutTransformer, WithoutBattery):
    """Bench supplies in place of the real one: stiff rails. ``reservoir`` all that hangs on them."""

    kind: Literal["direct"] = "direct"
    source: BenchPair
    reservoir: Reservoir

    source_slot: ClassVar[str] = "source"
    source_name: ClassVar[str] = "bench"
    stations: ClassVar[tuple[Station, ...]] = (
        Station("wall", "Wall", ()),
        Station("transformer", "Bench supplies", ("supply.source",)),
        Station("reservoir", "Capacitors", ("supply.reservoir",)),
    )
    set_by_hand: ClassVar[bool] = True
    always_gives: ClassVar[bool] = True
    drawn_from: ClassVar[str] = "the bench supply"
    drawn_figure: ClassVar[str] = "supply_power_w"
    watts_label: ClassVar[str] = "watts of all bench supplies"
    comes_with_source: ClassVar[bool] = True

    @property
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""
        return self.source.rails == "single"

    @property
    def rough_rail_v(self) -> float:
        """As it is set, V."""
        return self.source.v_rail

    @property
    def rated_words(self) -> tuple[str, str]:
        """Its volts, and where it limits."""
        return f"{self.sign}{self.source.v_rail:g} V", f"{self.source.i_limit_a:g} A"

    @property
    def at_its_limit(self) -> str:
        """What it does at its limit of current."""
        return "lets the volts fall"

    @property
    def box_words(self) -> tuple[str, ...]:
        """What is written on them in a drawing."""
        return "Bench supplies", "one" if self.single_rail else "two in series"

    def words_at(self, _battery_v: float) -> str:
        """Their volts."""
        return f"{self.sign}{self.source.v_rail:g} V bench supplies"

    def instead_of_wall(self, _battery_v: float) -> tuple[str, str, str]:
        """Nothing of the build's own hangs on the wall."""
        return "Wall", "bench", "in place of the supply"
