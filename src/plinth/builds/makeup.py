"""How a build is made: its name, channels, wiring, and which supply feeds which modules, changed all at once.

Some of these only go together (a full bridge wants a single rail, a single rail a full bridge), so no order of single
changes leads from one to the other.
"""

import dataclasses
from typing import Any

from plinth.builds.build import Build
from plinth.builds.modules import Module
from plinth.builds.parts import Mains
from plinth.builds.properties import unused
from plinth.builds.supplies import SUPPLY_KINDS, kind_with
from plinth.builds.supply_parts import Battery, BatteryConverter, BenchPair, MainsSwitcher, Smoothing, Transformer
from plinth.units.errors import QuantityError

SourcePart = Transformer | MainsSwitcher | BenchPair | BatteryConverter
# What a build from the wall is given where it had none: an assumption that its station shows.
PLAIN_MAINS = Mains(name="Wall, assumed 230 V", v_nominal_rms=230, frequency_hz=50)
MOST_CHANNELS = 8


@dataclasses.dataclass(frozen=True)
class Makeup:
    """``source`` what makes the rails; ``battery`` what feeds a converter; ``smoothing`` a second filter stage."""

    name: str
    channels: tuple[str, ...]
    bridged: bool
    source: SourcePart
    module: Module
    per_channel: bool = False
    smoothing: Smoothing | None = None
    battery: Battery | None = None


def makeup_of(build: Build) -> Makeup:
    """How a build is made now."""
    supply = build.supply
    return Makeup(
        build.name, build.channels, build.wiring == "bridged", source=supply.source_part, module=build.module,
        per_channel=supply.one_per_channel, smoothing=supply.smoothing, battery=supply.battery,
    )  # fmt: skip


def read_channels(text: str) -> tuple[str, ...]:
    """Names of channels as typed: ``left, right``. Raises QuantityError."""
    names = tuple(name.strip() for name in text.split(",") if name.strip())
    if not 1 <= len(names) <= MOST_CHANNELS:
        raise QuantityError(
            f"found {len(names)} channels, expected 1 to {MOST_CHANNELS} names with commas between them"
        )
    odd = next((name for name in names if "/" in name or len(name) > 40), None)
    if odd is not None:
        raise QuantityError(f"found {odd[:40]!r}, expected short names without a slash")
    return names


def channel_keys(build: Build, names: tuple[str, ...]) -> tuple[str, ...]:
    """What records know the channels by, called so from now on: whoever keeps its name, else whoever stood there.

    Empty where every channel is known by its name.
    """
    known: dict[int, str] = {k: build.key_of(name) for k, name in enumerate(names) if name in build.channels}
    left = {k: build.key_of(name) for k, name in enumerate(build.channels) if name not in names}
    for k, name in enumerate(names):
        if k not in known:
            # In the place of one that is gone: the same channel by another name. Else a new one.
            known[k] = left.pop(k) if k in left else unused(name, {*known.values(), *left.values()})
    keys = tuple(known[k] for k in range(len(names)))
    return () if keys == names else keys


def remade(build: Build, makeup: Makeup) -> Build:
    """The build made that way, with all else as it was. Raises pydantic.ValidationError where it does not go together.

    What is another thing than before is marked so by whoever keeps the build.
    """
    document = build.model_dump()
    supply = _supply(build, makeup)
    document |= {
        "name": makeup.name,
        "channels": makeup.channels,
        "channel_keys": channel_keys(build, makeup.channels),
        "wiring": "bridged" if makeup.bridged else "single",
        "module": makeup.module.model_dump(),
        "supply": supply,
    }
    kind = next(kind for kind in SUPPLY_KINDS if kind.key() == supply["kind"])
    document["mains"] = (document["mains"] or PLAIN_MAINS.model_dump()) if kind.from_the_wall else None
    return Build.model_validate(document)


def _supply(build: Build, makeup: Makeup) -> dict[str, Any]:
    kind = kind_with(makeup.source)
    assert kind is not None, "only parts that make rails are offered"
    document = kind.document_with(makeup.source.model_dump(), build.supply.model_dump())
    if makeup.battery is not None and "battery" in kind.model_fields:
        document["battery"] = makeup.battery.model_dump()
    return _around_transformer(document, makeup) if isinstance(makeup.source, Transformer) else document


def _around_transformer(document: dict[str, Any], makeup: Makeup) -> dict[str, Any]:
    secondaries = document["transformer"]["secondaries"]
    bridges = document["rectifier"]["bridges"] if secondaries == "two" else "one"
    document |= {
        "per_channel": makeup.per_channel,
        "smoothing": None if makeup.smoothing is None else makeup.smoothing.model_dump(),
        "rectifier": document["rectifier"] | {"bridges": bridges},
    }
    if secondaries == "one":
        # A single rail has no other one to be unlike.
        document["reservoir_minus"] = None
    return document
