"""A transformer with its rectifier."""

import math
from typing import Any, ClassVar, Literal

from pydantic import Field, model_validator

from plinth.builds.quantities import IdleAmperes, Model
from plinth.builds.supplies.kind import WithoutBattery
from plinth.builds.supply_parts import Rectifier, Regulator, Reservoir, Smoothing, Transformer

PLAIN_BRIDGE = Rectifier(name="Bridge, not chosen yet", maker="–", bridges="one", diode="silicon", i_rated_a=25)


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
    """A small regulated dual supply for the input stages of one channel; ``i_load_a`` what they draw per rail.

    ``i_load_assumed``: nobody said so yet, it is what is usual.
    """

    transformer: Transformer
    rectifier: Rectifier
    reservoir: Reservoir
    regulator: Regulator
    i_load_a: IdleAmperes
    i_load_assumed: bool = Field(default=False, exclude_if=lambda assumed: not assumed)

    @model_validator(mode="after")
    def _bridges_fit_windings(self) -> "InputSupply":
        _fits_windings(self.transformer, self.rectifier)
        return self


class LinearSupply(WithoutBattery):
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

    source_slot: ClassVar[str] = "transformer"
    source_name: ClassVar[str] = "transformer"
    from_the_wall: ClassVar[bool] = True
    always_gives: ClassVar[bool] = True
    made_for_by: ClassVar[str] = "primary"
    reservoir_name: ClassVar[str] = "Reservoir"
    comes_with_source: ClassVar[bool] = True

    @property
    def single_rail(self) -> bool:
        """Whether it gives one rail only."""
        return self.transformer.secondaries == "one"

    @property
    def rough_rail_v(self) -> float:
        """The crest of its secondary, V."""
        return math.sqrt(2.0) * self.transformer.v_secondary_rms

    @property
    def rated_words(self) -> tuple[str, str]:
        """How it is wound, and its volt-amperes."""
        part = self.transformer
        wound = {"centre_tap": "{0}-0-{0}", "two": "2 × {0} V", "one": "{0} V"}[part.secondaries]
        return wound.format(f"{part.v_secondary_rms:g}"), f"{part.va:g} VA"

    @property
    def made_for_v_rms(self) -> float | None:
        """What its primary is wound for, V."""
        return self.transformer.v_primary_rms

    @property
    def follows_mains(self) -> bool:
        """Its rails follow the mains."""
        return True

    @property
    def one_per_channel(self) -> bool:
        """Whether each channel has a whole one of its own (dual mono)."""
        return self.per_channel

    @classmethod
    def document_with(cls, source: dict[str, Any], before: dict[str, Any]) -> dict[str, Any]:
        """The document of such a supply with that transformer; in the place of another kind with a plain bridge."""
        return {"rectifier": PLAIN_BRIDGE.model_dump()} | super().document_with(source, before)

    @model_validator(mode="after")
    def _bridges_fit_windings(self) -> "LinearSupply":
        _fits_windings(self.transformer, self.rectifier)
        return self
