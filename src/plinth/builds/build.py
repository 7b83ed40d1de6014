"""A build: the parts in its stations."""

from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from plinth.builds.auxiliaries import NO_RELAY_SUPPLY, NO_TRIGGER, RelaySupply, Trigger
from plinth.builds.hookup import (
    NO_CABLE,
    NO_INSULATOR,
    NO_PREAMPLIFIER,
    NO_VOLUME,
    PLAIN_HOOKUP,
    Hookup,
    Insulator,
    Preamplifier,
    SpeakerCable,
    VolumeControl,
)
from plinth.builds.modules import Misfit, Module
from plinth.builds.parts import Entry, HeatSink, Load, Mains, Protection
from plinth.builds.quantities import Model, Name
from plinth.builds.rail_load import MOST_RAIL_LOADS, RailLoad
from plinth.builds.small_part import MOST_SMALL_PARTS, SmallPart
from plinth.builds.supplies import Supply
from plinth.builds.taken_in import TakenIn

AnyModule = Annotated[Module, Field(discriminator="kind")]


_TWO_RAILS = (
    "found {} on a single rail, expected two rails: a single rail serves a full-bridge class D module or a bridged "
    "pair of class AB ones"
)
_MISFITS: dict[Misfit, str] = {
    "wants_two_rails": _TWO_RAILS,
    "wants_two_rails_or_a_pair": _TWO_RAILS,
    "wants_one_rail": (
        "found a full-bridge module on two rails, expected a single rail: choose a single-winding transformer or a "
        "single-rail supply"
    ),
    "is_a_bridge": "found a full-bridge module wired as a bridged pair, expected it alone: it is a bridge already",
    "never_bridged": "found class A modules wired as a bridged pair, expected them single: set wiring single",
}


class Fitted(Model):
    """That another thing than the first stands in ``slot``: ``mark`` tells it from whatever stood there before."""

    slot: Name
    mark: Name


def mark_of(fitted: Iterable[Fitted], place: str) -> str:
    """What tells the thing in a slot, or in all slots of a place (``supply``), from those that stood there before.

    Empty for what the build was begun with.
    """
    return " ".join(
        f"{mark.slot} {mark.mark}" for mark in fitted if mark.slot == place or mark.slot.startswith(f"{place}.")
    )


class Build(Model):
    """One amplifier. ``loads`` are the dummy loads at hand; ``load`` the one in the load station.

    ``rail_loads`` what hangs on the rails while the supply alone is tested. ``small_parts`` what else is bought for it.
    ``mains`` None: it runs from a battery or from bench supplies. ``wiring`` bridged: two modules in antiphase for each
    channel, the load between their outputs, neither of which is ground. ``channel_keys`` what records know the channels
    by (empty: by the names they were begun with). ``fitted`` marks what was exchanged since the build was begun, so
    that a reading is known to be of this very board or supply. ``taken_in``: somebody else built it.
    """

    schema_version: Literal[1] = 1
    name: Name
    note: str = Field(default="", max_length=4000)
    mains: Mains | None = None
    entry: Entry
    supply: Supply
    module: AnyModule
    wiring: Literal["single", "bridged"] = "single"
    channels: tuple[Name, ...] = Field(min_length=1, max_length=8)
    channel_keys: tuple[Name, ...] = Field(default=(), exclude_if=lambda keys: not keys)
    sink: HeatSink
    protection: Protection
    load: Load
    loads: tuple[Load, ...] = ()
    rail_loads: tuple[RailLoad, ...] = Field(default=(), max_length=MOST_RAIL_LOADS, exclude_if=lambda loads: not loads)
    hookup: Hookup = Field(default=PLAIN_HOOKUP, exclude_if=lambda part: part == PLAIN_HOOKUP)
    preamplifier: Preamplifier = Field(default=NO_PREAMPLIFIER, exclude_if=lambda part: part == NO_PREAMPLIFIER)
    volume: VolumeControl = Field(default=NO_VOLUME, exclude_if=lambda part: part == NO_VOLUME)
    cable: SpeakerCable = Field(default=NO_CABLE, exclude_if=lambda part: part == NO_CABLE)
    insulator: Insulator = Field(default=NO_INSULATOR, exclude_if=lambda part: part == NO_INSULATOR)
    relay_supply: RelaySupply = Field(default=NO_RELAY_SUPPLY, exclude_if=lambda part: part == NO_RELAY_SUPPLY)
    trigger: Trigger = Field(default=NO_TRIGGER, exclude_if=lambda part: part == NO_TRIGGER)
    small_parts: tuple[SmallPart, ...] = Field(
        default=(), max_length=MOST_SMALL_PARTS, exclude_if=lambda parts: not parts
    )
    fitted: tuple[Fitted, ...] = ()
    taken_in: TakenIn | None = Field(default=None, exclude_if=lambda taken: taken is None)

    @model_validator(mode="before")
    @classmethod
    def _kinds_named(cls, document: Any) -> Any:
        """A file that names no kind means the plain ones."""
        if not isinstance(document, dict):
            return document
        named = dict(document)
        for key, plain in (("supply", "linear"), ("module", "class_ab")):
            if isinstance(named.get(key), dict) and "kind" not in named[key]:
                named[key] = {"kind": plain, **named[key]}
        return named

    @field_validator("channels")
    @classmethod
    def _channels_differ(cls, channels: tuple[str, ...]) -> tuple[str, ...]:
        if len(set(channels)) != len(channels):
            raise ValueError(f"found {', '.join(channels)}, expected each name once: rename one of them")
        return channels

    @model_validator(mode="after")
    def _every_channel_known(self) -> "Build":
        keys = self.channel_keys
        if keys and (len(keys) != len(self.channels) or len(set(keys)) != len(keys)):
            raise ValueError(
                f"found channel_keys {', '.join(keys)}, expected one of its own for each of {', '.join(self.channels)}"
            )
        return self

    @model_validator(mode="after")
    def _parts_go_together(self) -> "Build":
        if self.mains is None and self.supply.from_the_wall:
            raise ValueError("found no mains, expected one for a supply that runs from the wall: add the mains")
        if self.mains is None and self.relay_supply.fitted and self.relay_supply.own_winding:
            raise ValueError(
                "found a relay supply on a winding of its own without mains, expected one on the + rail: set where it "
                "is taken from"
            )
        misfit = self.module.misfit(single_rail=self.supply.single_rail, bridged=self.wiring == "bridged")
        if misfit is not None:
            raise ValueError(_MISFITS[misfit].format(self.module.name))
        return self

    def key_of(self, channel: str) -> str:
        """What records know a channel by, whatever it is called. Raises ValueError where there is none of that name."""
        place = self.channels.index(channel)
        return self.channel_keys[place] if self.channel_keys else channel

    def channel_of(self, key: str) -> str:
        """What a channel is called today; the key itself where there is none of it any more."""
        keys = self.channel_keys or self.channels
        return self.channels[keys.index(key)] if key in keys else key

    def mark(self, place: str) -> str:
        """What tells the thing in a slot or a place from those that stood there before it."""
        return mark_of(self.fitted, place)

    def with_mark(self, slot: str, mark: str) -> "Build":
        """The build with another thing in ``slot``, known by ``mark``."""
        others = tuple(mark for mark in self.fitted if mark.slot != slot)
        return self.model_copy(update={"fitted": (*others, Fitted(slot=slot, mark=mark))})

    @property
    def modules_per_channel(self) -> int:
        """Modules that drive each load."""
        return 2 if self.wiring == "bridged" else 1

    @property
    def under_device_k_per_w(self) -> float:
        """What lies between each device and the sink besides what the module states: a pad, an air gap; K/W."""
        return self.sink.gap_k_per_w + self.insulator.r_k_per_w

    @property
    def both_outputs_live(self) -> bool:
        """A bridge: the load hangs between two outputs, and neither may touch ground."""
        return self.wiring == "bridged" or self.module.bridge_by_itself

    def rails_words(self, v: float) -> str:
        """A rail as it is written for this build: ``±36 V``, or ``36 V`` for a single one."""
        return f"{self.supply.sign}{v:g} V"

    @property
    def over_voltage_lockout(self) -> tuple[float, str] | None:
        """The lowest rail at which module or supply shuts down, and which of them; None where nobody states one."""
        parts: list[tuple[float | None, str]] = [(getattr(self.module, "v_ov_lockout_v", None), self.module.name)]
        known = [(v, name) for v, name in parts if v is not None]
        if self.supply.lockout is not None:
            known.append(self.supply.lockout)
        return min(known) if known else None

    @property
    def one_supply_per_channel(self) -> bool:
        """Dual mono: every channel has a whole supply of its own."""
        return self.supply.one_per_channel
