"""What a request needs of the instruments: who reads it, and what is set before, or why nobody here can."""

import dataclasses

from plinth.bench import test_settings
from plinth.builds.build import Build
from plinth.instruments.kinds import Action, InstrumentKind
from plinth.record.probe import Point, Probe, Quantity
from plinth.record.request import Request, Setting
from plinth.session.instruments.connected import Bench, Connected

_METERS: dict[Quantity, tuple[tuple[InstrumentKind, Action], ...]] = {
    Quantity.VOLTS_DC: (
        (InstrumentKind.MULTIMETER, Action.READ_VOLTS_DC), (InstrumentKind.DIGITISER, Action.READ_RECORD),
    ),
    Quantity.VOLTS_AC: (
        (InstrumentKind.MULTIMETER, Action.READ_VOLTS_AC), (InstrumentKind.DIGITISER, Action.READ_RECORD),
    ),
    Quantity.SWING: ((InstrumentKind.DIGITISER, Action.READ_RECORD),),
    Quantity.LINE: ((InstrumentKind.DIGITISER, Action.READ_RECORD),),
    Quantity.ONSET: ((InstrumentKind.DIGITISER, Action.READ_RECORD),),
    Quantity.AMPERES: (
        (InstrumentKind.DC_SUPPLY, Action.READ_AMPERES), (InstrumentKind.POWER_METER, Action.READ_AMPERES),
    ),
    Quantity.WATTS: (
        (InstrumentKind.POWER_METER, Action.READ_WATTS), (InstrumentKind.DC_SUPPLY, Action.READ_AMPERES),
    ),
    Quantity.VOLT_AMPERES: ((InstrumentKind.POWER_METER, Action.READ_VOLT_AMPERES),),
    Quantity.POWER_FACTOR: ((InstrumentKind.POWER_METER, Action.READ_POWER_FACTOR),),
    Quantity.DEGREES: ((InstrumentKind.THERMOMETER, Action.READ_DEGREES),),
    **{
        quantity: ((InstrumentKind.DIGITISER, Action.READ_RECORD),) for quantity in Quantity if quantity.of_square
    },
    Quantity.OHMS: ((InstrumentKind.MULTIMETER, Action.READ_OHMS),),
}  # fmt: skip
# At the wall a power meter counts alternating volts as its own.
_WALL_VOLTS = (InstrumentKind.POWER_METER, Action.READ_VOLTS_AC)


@dataclasses.dataclass(frozen=True)
class Sets:
    """What is set: the generator (``level_v`` 0: off), the load (None: none), the source; ``all_driven``.

    ``most_level_v`` the generator must not go beyond; ``square`` its shape, else a sine. Each instrument
    None where a hand sets that.
    """

    generator: Connected | None = None
    level_v: float = 0.0
    most_level_v: float | None = None
    hz: float = 1000.0
    load: Connected | None = None
    load_ohm: float | None = None
    mains: Connected | None = None
    mains_v: float = 0.0
    supply: Connected | None = None
    supply_v: float = 0.0
    limit_a: float = 0.0
    all_driven: bool = False
    square: bool = False


@dataclasses.dataclass(frozen=True)
class Wanted:
    """``reader`` reads ``probe`` by ``action``, with ``sets`` before; ``rail`` tells when the rails rest, if any does.

    ``by_hand`` what somebody must do first, as a question to be confirmed with everything off (empty: nothing).
    """

    request: Request
    probe: Probe
    reader: Connected
    action: Action
    sets: Sets
    rail: Connected | None = None
    by_hand: tuple[str, ...] = ()
    # How many supplies in series feed it: one on a single rail, else two that give alike.
    supplies: int = 2

    @property
    def who(self) -> str:
        """Who reads it, where."""
        return f"{self.reader.name} at {self.probe.point.words}"


def wanted(
    request: Request, build: Build, bench: Bench, probe: Probe | None, extra: tuple[Setting, ...] = (),
    *, powered: bool = True,
) -> Wanted | str:  # fmt: skip
    """What it needs, or a sentence why no instrument here gives it; ``extra`` what is set besides what it asks for.

    ``powered``: whether it is read with power on.
    """
    if probe is None:
        return "No instrument reads this: type it."
    keys = build.channel_keys or build.channels
    channel = request.channel if request.channel in keys else keys[0]
    found = _reader(bench, probe, channel)
    if found is None:
        where = f" of {build.channel_of(channel)}" if probe.point.of_channel else ""
        return f"Nothing connected reads {probe.quantity} at {probe.point.words}{where}: type it."
    reader, action = found
    settings = {setting.name: setting for setting in (*extra, *request.settings)}
    sets = _sets(request, build, bench, channel, settings) if powered else Sets(load=_load(bench, channel))
    if isinstance(sets, str):
        return sets
    if probe.quantity.of_square:
        if sets.generator is None or not sets.generator.can(Action.SET_SHAPE):
            return "Its generator's map knows no square wave (set_shape): type this."
        sets = dataclasses.replace(sets, square=True)
    rail = bench.at(InstrumentKind.MULTIMETER, Point.RAIL_PLUS, channel)
    by_hand = _by_hand(sets, settings, bench) if powered else ()
    return Wanted(request, probe, reader=reader, action=action, sets=sets, rail=rail, by_hand=by_hand,
        supplies=1 if build.supply.single_rail else 2,
    )  # fmt: skip


def fed_by(request: Request, build: Build, bench: Bench, extra: tuple[Setting, ...] = ()) -> Sets | None:
    """What feeds the build while a hand reads something; None where no instrument does."""
    keys = build.channel_keys or build.channels
    channel = request.channel if request.channel in keys else keys[0]
    sets = _with_source(
        Sets(load=_load(bench, channel)), bench, {setting.name: setting for setting in (*extra, *request.settings)}
    )
    return None if isinstance(sets, str) or (sets.mains is None and sets.supply is None) else sets


def _reader(bench: Bench, probe: Probe, channel: str) -> tuple[Connected, Action] | None:
    kinds = _METERS[probe.quantity]
    if probe.point is Point.WALL and probe.quantity is Quantity.VOLTS_AC:
        kinds = (_WALL_VOLTS,)
    for kind, action in kinds:
        meter = bench.at(kind, probe.point, channel)
        if meter is not None and meter.can(action):
            return meter, action
    return None


def _load(bench: Bench, channel: str) -> Connected | None:
    return bench.at(InstrumentKind.LOAD, Point.OUTPUT, channel)


def _sets(request: Request, build: Build, bench: Bench, channel: str, settings: dict[str, Setting]) -> Sets | str:
    level, load = settings.get(test_settings.LEVEL), settings.get(test_settings.LOAD)
    generator = bench.at(InstrumentKind.GENERATOR, Point.INPUT, channel)
    switched = _load(bench, channel)
    everyone = request.needs == "all" and len(build.channels) > 1 and level is not None and level.value > 0.0
    sets = Sets(
        generator=generator,
        load=switched,
        load_ohm=None if load is None else load.value,
        all_driven=everyone,
    )
    if level is not None and level.value > 0.0:
        if generator is None:
            return f"No generator is at the input of {build.channel_of(channel)}: set it by hand, and type this."
        hz = settings.get(test_settings.FREQUENCY)
        sets = dataclasses.replace(
            sets, level_v=level.value, most_level_v=level.high, hz=1000.0 if hz is None else hz.value
        )
        if everyone and not generator.can(Action.SET_COUPLED):
            return "Every channel is to be driven, and the generator is at one alone: type this."
    return _with_source(sets, bench, settings)


def _with_source(sets: Sets, bench: Bench, settings: dict[str, Setting]) -> Sets | str:
    mains, battery = settings.get(test_settings.MAINS), settings.get(test_settings.BATTERY)
    supply, limit = settings.get(test_settings.SUPPLY), settings.get(test_settings.CURRENT_LIMIT)
    if mains is not None:
        sources = bench.of_kind(InstrumentKind.AC_SOURCE)
        return dataclasses.replace(sets, mains=next(iter(sources), None), mains_v=mains.value)
    if battery is not None:
        return "It runs from a battery, which nothing here switches: type this."
    if supply is not None:
        supplies = bench.of_kind(InstrumentKind.DC_SUPPLY)
        if supplies and limit is None:
            return "No limit of the supply's current is known: set it by hand, and type this."
        return dataclasses.replace(
            sets, supply=next(iter(supplies), None), supply_v=supply.value,
            limit_a=0.0 if limit is None else limit.value,
        )  # fmt: skip
    return sets


def _by_hand(sets: Sets, settings: dict[str, Setting], bench: Bench) -> tuple[str, ...]:
    asked = []
    if sets.load is None and bench.instruments:
        load = settings.get(test_settings.LOAD)
        asked.append(
            "Nothing at the output: take the dummy load off." if load is None
            else f"A dummy load of {load.value:g} Ω at the output."
        )  # fmt: skip
    if sets.mains is None and sets.supply is None and sets.mains_v > 0.0:
        asked.append(f"{sets.mains_v:g} V of mains at the entry, switched on.")
    return tuple(asked)
