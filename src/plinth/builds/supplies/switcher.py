"""A mains switcher."""

from typing import ClassVar, Literal

from plinth.builds.station import Station
from plinth.builds.supplies.kind import WithoutBattery, WithoutTransformer
from plinth.builds.supply_parts import MainsSwitcher, Reservoir

_BULK_CAUTION = (
    "Inside a mains switcher several hundred volts stay on the bulk capacitor after switch-off: leave its cover on, "
    "and leave repairs to people trained for it."
)


class SwitcherSupply(WithoutTransformer, WithoutBattery):
    """A mains switcher and the capacitors at its output."""

    kind: Literal["switcher"] = "switcher"
    switcher: MainsSwitcher
    reservoir: Reservoir

    source_slot: ClassVar[str] = "switcher"
    source_name: ClassVar[str] = "switcher"
    stations: ClassVar[tuple[Station, ...]] = (
        Station("transformer", "Switcher", ("supply.switcher",)),
        Station("reservoir", "Output capacitors", ("supply.reservoir",)),
    )
    from_the_wall: ClassVar[bool] = True
    made_for_by: ClassVar[str] = "jumper"
    cautions: ClassVar[tuple[str, ...]] = (_BULK_CAUTION,)
    comes_with_source: ClassVar[bool] = True

    @property
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""
        return self.switcher.rails == "single"

    @property
    def rough_rail_v(self) -> float:
        """As stated, V."""
        return self.switcher.v_rail

    @property
    def rated_words(self) -> tuple[str, str]:
        """Its volts and watts."""
        return f"{self.sign}{self.switcher.v_rail:g} V", f"{self.switcher.p_continuous_w:g} W"

    @property
    def made_for_v_rms(self) -> float | None:
        """What its jumper is set for, V; None where it has none."""
        return self.switcher.v_mains_jumper

    @property
    def at_its_limit(self) -> str:
        """What it does at its limit of current."""
        return "folds back" if self.switcher.limit == "fold_back" else "cuts out and tries again"

    @property
    def follows_mains(self) -> bool:
        """Proportional rails do, regulated ones do not."""
        return self.switcher.control == "proportional"
