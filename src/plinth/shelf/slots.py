"""Which kinds of part may stand in a slot of a build, and why a part cannot join the rest, in a few words."""

import itertools
from collections.abc import Mapping

import pydantic

from plinth.builds.auxiliaries import RelaySupply, Trigger
from plinth.builds.build import Build
from plinth.builds.hookup import Hookup, Insulator, Preamplifier, SpeakerCable, VolumeControl
from plinth.builds.invalid import invalid
from plinth.builds.modules import MODULE_KINDS, Misfit
from plinth.builds.parts import Entry, HeatSink, Load, Mains, Part, Protection
from plinth.builds.stations import station, with_part
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

# A switcher or bench supplies in the transformer's place change the kind of supply.
_FROM_THE_WALL: tuple[type[Part], ...] = (Transformer, MainsSwitcher, BenchPair)
KINDS: dict[str, tuple[type[Part], ...]] = {
    "mains": (Mains,),
    "entry": (Entry,),
    "supply.transformer": _FROM_THE_WALL,
    "supply.switcher": _FROM_THE_WALL,
    "supply.source": _FROM_THE_WALL,
    "supply.battery": (Battery,),
    "supply.converter": (BatteryConverter,),
    "supply.rectifier": (Rectifier,),
    "supply.reservoir": (Reservoir,),
    "supply.reservoir_minus": (Reservoir,),
    "supply.smoothing": (Smoothing,),
    "supply.input_supply.transformer": (Transformer,),
    "supply.input_supply.rectifier": (Rectifier,),
    "supply.input_supply.reservoir": (Reservoir,),
    "supply.input_supply.regulator": (Regulator,),
    "module": MODULE_KINDS,
    "sink": (HeatSink,),
    "protection": (Protection,),
    "load": (Load,),
    "hookup": (Hookup,),
    "preamplifier": (Preamplifier,),
    "volume": (VolumeControl,),
    "cable": (SpeakerCable,),
    "insulator": (Insulator,),
    "relay_supply": (RelaySupply,),
    "trigger": (Trigger,),
}


WORDS = {
    "mains": "wall", "entry": "inlet", "supply.transformer": "transformer", "supply.switcher": "switcher",
    "supply.source": "bench supplies", "supply.battery": "battery", "supply.converter": "converter",
    "supply.rectifier": "rectifier", "supply.reservoir": "reservoir", "supply.reservoir_minus": "reservoir, − rail",
    "supply.smoothing": "second stage", "supply.input_supply.transformer": "transformer, input stages",
    "supply.input_supply.rectifier": "rectifier, input stages",
    "supply.input_supply.reservoir": "reservoir, input stages",
    "supply.input_supply.regulator": "regulator, input stages", "module": "module", "sink": "sink",
    "protection": "protection", "load": "load", "hookup": "wiring", "preamplifier": "preamplifier",
    "volume": "volume control", "cable": "cable", "insulator": "pad",
    "relay_supply": "relay supply", "trigger": "trigger relay",
}  # fmt: skip


def slots_of(build: Build, key: str) -> tuple[str, ...]:
    """The slots of a station for which the shelf has parts, the one that matters most first."""
    return tuple(slot for slot in station(build, key).slots if slot in KINDS)


def joined(build: Build, slot: str, part: Part) -> Build | str:
    """The build with the part in a slot; why it cannot join, in a few words, where it does not go with the rest."""
    clash = _clash(build, part)
    if clash:
        return clash
    try:
        return with_part(build, slot, part)
    except pydantic.ValidationError as error:
        first = invalid(error)[0]
        # What a build says of itself begins with what it found.
        return first.found.partition(", expected")[0].removeprefix("found ")


def joined_all(build: Build, parts: Mapping[str, Part]) -> Build | str:
    """The build with all these parts by slot, in whichever order they go together; why not, in a few words."""
    why = ""
    for order in itertools.permutations(parts.items()):
        so_far: Build | str = build
        for slot, part in order:
            if not isinstance(so_far, str):
                so_far = joined(so_far, slot, part)
        if not isinstance(so_far, str):
            return so_far
        why = so_far
    return why


_MISFITS: dict[Misfit, str] = {
    "wants_two_rails": "wants two rails",
    "wants_two_rails_or_a_pair": "wants two rails, or a bridged pair",
    "wants_one_rail": "wants a single rail",
    "is_a_bridge": "is a bridge already",
    "never_bridged": "does not work bridged",
}


def _clash(build: Build, part: Part) -> str:
    single = build.supply.single_rail
    if isinstance(part, MODULE_KINDS):
        misfit = part.misfit(single_rail=single, bridged=build.wiring == "bridged")
        return "" if misfit is None else _MISFITS[misfit]
    match part:
        case MainsSwitcher() | BenchPair() if (part.rails == "single") != single:
            return "one rail, two wanted" if part.rails == "single" else "two rails, one wanted"
        case Transformer() if (part.secondaries == "one") != single:
            return "one winding, two wanted" if part.secondaries == "one" else "two windings, one wanted"
        case Transformer() | MainsSwitcher() if build.mains is None:
            return "needs the mains"
    return ""
