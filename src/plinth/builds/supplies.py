"""The kinds of supply, each made of parts."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from plinth.builds.quantities import Amperes, IdleAmperes, Model
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Rectifier,
    Regulator,
    Reservoir,
    Smoothing,
    Transformer,
)


def _fits_windings(transformer: Transformer, rectifier: Rectifier) -> None:
    if rectifier.bridges == "two" and transformer.secondaries == "centre_tap":
        raise ValueError(
            "found two bridges on a centre tap, expected two secondaries: "
            "choose a transformer with two secondaries or a single bridge"
        )
    if rectifier.bridges == "two" and transformer.secondaries == "one":
        raise ValueError(
            "found two bridges on a single winding, expected one bridge: it gives a single rail; "
            "for two rails choose a transformer with two secondaries"
        )


class InputSupply(Model):
    """A small regulated dual supply for the input stages of one channel; ``i_load_a`` what they draw per rail."""

    transformer: Transformer
    rectifier: Rectifier
    reservoir: Reservoir
    regulator: Regulator
    i_load_a: IdleAmperes

    @model_validator(mode="after")
    def _bridges_fit_windings(self) -> "InputSupply":
        _fits_windings(self.transformer, self.rectifier)
        return self


class LinearSupply(Model):
    """Transformer, rectifier, reservoir.

    ``reservoir_minus`` where the - rail has another one; ``smoothing`` a second filter stage on each rail;
    ``per_channel`` a whole supply for each channel (dual mono); ``input_supply`` one more for the input stages, of each
    channel if ``per_channel``.
    """

    kind: Literal["linear"] = "linear"
    transformer: Transformer
    rectifier: Rectifier
    reservoir: Reservoir
    reservoir_minus: Reservoir | None = None
    smoothing: Smoothing | None = None
    per_channel: bool = False
    input_supply: InputSupply | None = None

    @property
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""
        return self.transformer.secondaries == "one"

    @model_validator(mode="after")
    def _bridges_fit_windings(self) -> "LinearSupply":
        _fits_windings(self.transformer, self.rectifier)
        return self


class DirectSupply(Model):
    """Bench supplies in place of the real one: stiff rails. ``reservoir`` all that hangs on them."""

    kind: Literal["direct"] = "direct"
    source: BenchPair
    reservoir: Reservoir

    @property
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""
        return self.source.rails == "single"


class SwitcherSupply(Model):
    """A mains switcher and the capacitors at its output."""

    kind: Literal["switcher"] = "switcher"
    switcher: MainsSwitcher
    reservoir: Reservoir

    @property
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""
        return self.switcher.rails == "single"


class BatterySupply(Model):
    """A battery, its push-pull converter and the capacitors at its output. ``i_other_a`` drawn besides (lights)."""

    kind: Literal["battery"] = "battery"
    battery: Battery
    converter: BatteryConverter
    reservoir: Reservoir
    i_other_a: Amperes | None = None

    @property
    def single_rail(self) -> bool:
        """A push-pull converter gives two rails."""
        return False


Supply = Annotated[LinearSupply | DirectSupply | SwitcherSupply | BatterySupply, Field(discriminator="kind")]
