"""A build: the parts in its stations."""

from typing import Literal

from pydantic import Field, field_validator, model_validator

from plinth.builds.parts import (
    ClassABModule,
    Entry,
    HeatSink,
    Load,
    Mains,
    Protection,
    Rectifier,
    Reservoir,
    Transformer,
)
from plinth.builds.quantities import Model, Name


class LinearSupply(Model):
    """Transformer, rectifier, reservoir. Other kinds of supply join as further members of ``Supply``."""

    kind: Literal["linear"] = "linear"
    transformer: Transformer
    rectifier: Rectifier
    reservoir: Reservoir

    @model_validator(mode="after")
    def _bridges_fit_windings(self) -> "LinearSupply":
        if self.rectifier.bridges == "two" and self.transformer.secondaries == "centre_tap":
            raise ValueError(
                "found two bridges on a centre tap, expected two secondaries: "
                "choose a transformer with two secondaries or a single bridge"
            )
        return self


Supply = LinearSupply
Module = ClassABModule


class Build(Model):
    """One amplifier. ``loads`` are the dummy loads at hand; ``load`` the one in the load station."""

    schema_version: Literal[1] = 1
    name: Name
    note: str = Field(default="", max_length=4000)
    mains: Mains
    entry: Entry
    supply: Supply
    module: Module
    channels: tuple[Name, ...] = Field(min_length=1, max_length=8)
    sink: HeatSink
    protection: Protection
    load: Load
    loads: tuple[Load, ...] = ()

    @field_validator("channels")
    @classmethod
    def _channels_differ(cls, channels: tuple[str, ...]) -> tuple[str, ...]:
        if len(set(channels)) != len(channels):
            raise ValueError(f"found {', '.join(channels)}, expected each name once: rename one of them")
        return channels
