"""A build from a requirement alone: so many watts into so many ohms, on such a supply. Every value in it is a guess.

Parts without a maker, of usual values, sized until the prediction gives the watts required; each number is marked as
assumed, so that nothing of it passes for known. Around a module or a source that one has, the rest is sized to it.
"""

import dataclasses
import math
from typing import Literal

from plinth.builds.build import AnyModule, Build
from plinth.builds.fields import part_fields
from plinth.builds.makeup import MOST_CHANNELS
from plinth.builds.modules import BiasPoint, ClassABModule, ClassDModule
from plinth.builds.parts import Entry, HeatSink, Load, Mains, Part, Protection
from plinth.builds.properties import How, Told, value_at
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply, DirectSupply, LinearSupply, Supply, SwitcherSupply
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Rectifier,
    Reservoir,
    Transformer,
)
from plinth.physics.mains.transformer import estimate_regulation
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.stages.levels import peak_from_rms, rms_for_power
from plinth.predict.solve import solve
from plinth.shelf.requirement import MAINS, SOURCES, Requirement, SourcePart
from plinth.shelf.slots import joined

# The requirement is met when the prediction comes so near; rails are then as good as what is assumed of them.
NEAR, MOST_ROUNDS = 0.02, 8
_VA = (15, 30, 50, 80, 120, 160, 225, 300, 400, 500, 625, 800, 1000, 1500, 2000, 3000)
_CAN_F = (2.2e-3, 4.7e-3, 6.8e-3, 10e-3, 15e-3, 22e-3, 33e-3)
_CAN_V = (16, 25, 35, 50, 63, 80, 100, 160, 250)
_SLOT = {
    "transformer": "supply.transformer", "switcher": "supply.switcher", "battery": "supply.converter",
    "bench": "supply.source",
}  # fmt: skip
# What a pair of output devices gives before it gets too hot inside.
_PAIR_W = 60.0
_FUSE_A = (0.5, 0.63, 0.8, 1.0, 1.6, 2.0, 3.15, 4.0, 6.3, 10.0, 16.0, 20.0, 30.0, 40.0, 60.0, 100.0)


def from_zero(requirement: Requirement) -> Build:
    """A build of assumed parts that gives what is required. Raises PhysicsError where none is found."""
    if requirement.module is not None or requirement.source is not None:
        return _around(requirement)
    rail = _first_rail(requirement)
    build = _built(requirement, rail)
    for _ in range(MOST_ROUNDS):
        got = solve(build, Situation())["clip_worst_power_w"].value
        if abs(got / requirement.power_w - 1.0) < NEAR:
            return build
        # The output's swing goes with the rail, but for what the stage leaves of it.
        rail *= 1.0 + 0.9 * (math.sqrt(requirement.power_w / got) - 1.0)
        build = _built(requirement, rail)
    got = solve(build, Situation())["clip_worst_power_w"].value
    if got < (1.0 - 5.0 * NEAR) * requirement.power_w:
        raise PhysicsError(
            f"no usual parts give {requirement.power_w:g} W into {requirement.r_ohm:g} ohm on this supply"
        )
    return build


def usual_board(requirement: Requirement, *, single: bool = False) -> AnyModule:
    """A board that gives about what is required, of usual values; for a ``single`` rail a full bridge."""
    peak_v = peak_from_rms(rms_for_power(requirement.power_w, requirement.r_ohm))
    rail = max((peak_v + 2.0) / 0.93, 8.0) if single else _first_rail(requirement)
    return _module(requirement, rail, peak_v / requirement.r_ohm, single=single)


def begun_with(requirement: Requirement) -> Build:
    """The first guess at such a build: its parts are usual ones, and it gives about what is required."""
    return _built(requirement, _first_rail(requirement))


def _around(requirement: Requirement) -> Build:
    """The build around a module or a source that one has; the other parts are usual ones, sized to it.

    Raises PhysicsError where the two do not go together, with why.
    """
    module, source, asked_w = (
        requirement.module,
        requirement.source,
        requirement.power_w if requirement.module is None else 0.0,
    )
    single = _is_single(source) if source is not None else (module is not None and module.bridge_by_itself)
    if source is not None:
        requirement = dataclasses.replace(requirement, supply=SOURCES[type(source)])
    # A converter has two rails: what wants one is told so below.
    single = single and requirement.supply != "battery"
    rail = (
        _rail_of(source, requirement)
        if source is not None
        else _first_rail(requirement)
        if module is None
        else _rail_for(module)
    )
    if module is not None or source is not None:
        swing = max(0.93 * rail if single else rail - 3.0, 2.0)
        requirement = dataclasses.replace(
            requirement,
            power_w=max(1.0, swing**2 / (2.0 * requirement.r_ohm)),
            stage="D" if single else requirement.stage,
        )
    build = _built(requirement, rail, single=single)
    for slot, part in (("module", module), (_SLOT[requirement.supply], source)):
        if part is None:
            continue
        with_it = joined(build, slot, part)
        if isinstance(with_it, str):
            raise PhysicsError(f"{part.name} cannot join the rest: {with_it}")
        build = with_it
    own = " and ".join(part.name for part in (module, source) if part is not None)
    # A source gives what it gives: what was required stays said, to be held against it.
    required = "" if asked_w <= 0.0 else f" with a requirement of {asked_w:g} W into {requirement.r_ohm:g} Ω"
    return build.model_copy(
        update={"note": f"Begun around {own}{required}: every other value in it is assumed until somebody says better."}
    )


def _is_single(source: SourcePart) -> bool:
    match source:
        case Transformer():
            return source.secondaries == "one"
        case MainsSwitcher() | BenchPair():
            return source.rails == "single"
    return False


def _rail_of(source: SourcePart, requirement: Requirement) -> float:
    """About what a source gives under load."""
    if isinstance(source, Transformer):
        return max(math.sqrt(2.0) * source.v_secondary_rms * requirement.mains_v / source.v_primary_rms - 2.0, 2.0)
    return source.v_rail


def _rail_for(module: AnyModule) -> float:
    """The rail a module is made for, with room below its limit for a wall that is high and a supply that is idle."""
    return min(module.v_rail_nominal or module.v_rail_max, module.v_rail_max / 1.2)


def _first_rail(requirement: Requirement) -> float:
    assert 1 <= len(requirement.channels) <= MOST_CHANNELS, "held by whoever asks"
    return 1.12 * peak_from_rms(rms_for_power(requirement.power_w, requirement.r_ohm)) + 3.0


# By kind and by which of its fields it has: the paths of its numbers. A shelf has hundreds of parts of some few shapes.
_NUMBERS: dict[tuple[type[Part], tuple[str, ...]], tuple[str, ...]] = {}


def _numbers_of(part: Part) -> tuple[str, ...]:
    shape = (type(part), tuple(name for name in type(part).model_fields if getattr(part, name) is not None))
    if shape not in _NUMBERS:
        _NUMBERS[shape] = tuple(field.path for field in part_fields(part) if field.number)
    return _NUMBERS[shape]


def assumed(part: Part, source: str = "usual for its kind") -> Part:
    """The part with every number in it marked as assumed."""
    facts = tuple(
        Told(field=path, how=How.ASSUMED, value=value, source=source)
        for path in _numbers_of(part)
        if (value := value_at(part, path)) is not None
    )
    return part.model_copy(update={"told": facts})


def _built(requirement: Requirement, rail: float, *, single: bool = False) -> Build:
    count, peak_a = (
        len(requirement.channels),
        peak_from_rms(rms_for_power(requirement.power_w, requirement.r_ohm)) / requirement.r_ohm,
    )
    from_wall = requirement.supply in ("transformer", "switcher")
    entry_a = _fuse_a(requirement, count)
    load = assumed(Load(name=f"Some {requirement.r_ohm:g} Ω", r_ohm=requirement.r_ohm)).model_dump()
    sink = HeatSink(name="Some sink", r_k_per_w=max(0.15, 22.0 / (count * requirement.power_w)), t_limit_c=75)
    guard = Protection(name="Some relay", maker="–", mute_s=3.0, dc_threshold_v=2.0, dc_time_constant_s=0.3)
    entry = Entry(name="Some inlet", fuse_a_rms=entry_a, fuse_kind="T" if from_wall else "F")
    return Build.model_validate(
        {
            "name": requirement.name,
            "note": "Begun from a requirement: every value in it is assumed until somebody says better.",
            "mains": _mains(requirement).model_dump() if from_wall else None,
            "entry": assumed(entry).model_dump(),
            "supply": _supply(requirement, rail, count, peak_a, single=single).model_dump(),
            "module": assumed(_module(requirement, rail, peak_a, single=single)).model_dump(),
            "channels": requirement.channels,
            "sink": assumed(sink).model_dump(),
            "protection": assumed(guard).model_dump(),
            "load": load,
            "loads": (load,),
        }
    )


def _mains(requirement: Requirement) -> Mains:
    hertz = next((hz for volts, hz in MAINS if volts == requirement.mains_v), 50.0)
    return Mains(name=f"Wall, {requirement.mains_v:g} V", v_nominal_rms=requirement.mains_v, frequency_hz=hertz)


def _fuse_a(requirement: Requirement, count: int) -> float:
    volts = requirement.mains_v if requirement.supply in ("transformer", "switcher") else 24.0
    if requirement.supply == "transformer":
        # Twice what its primary is rated for: it carries the charging pulses, and opens before the winding chars.
        return next(
            size for size in reversed(_FUSE_A) if size <= max(2.2 * _va(requirement, count) / volts, _FUSE_A[0])
        )
    return _at_least(_FUSE_A, 4.5 * count * requirement.power_w / volts)


def _va(requirement: Requirement, count: int) -> float:
    return _at_least(_VA, 1.5 * count * requirement.power_w + 25.0)


def _supply(requirement: Requirement, rail: float, count: int, peak_a: float, *, single: bool) -> Supply:
    can = assumed(
        Reservoir(name="Some cans", maker="–", c_f=_at_least(_CAN_F, 1.6e-3 * peak_a * count),
                  v_rated=_at_least(_CAN_V, 1.35 * rail), r_bleeder_ohm=2200)
    )  # fmt: skip
    assert isinstance(can, Reservoir)
    watts = 1.9 * count * requirement.power_w
    rails: Literal["single", "dual"] = "single" if single else "dual"
    match requirement.supply:
        case "transformer":
            va = _va(requirement, count)
            # The rail required under load: √2 V less the drops, sagging about as far as the regulation says.
            part = Transformer(name="Some toroid", maker="–", core="toroid", va=va,
                               secondaries="one" if single else "two", v_primary_rms=requirement.mains_v,
                               v_secondary_rms=round((rail + 2.0) / math.sqrt(2.0), 2),
                               regulation=round(estimate_regulation(va, "toroid")[0], 3))  # fmt: skip
            bridge = Rectifier(name="Some bridges", maker="–", bridges="one" if single else "two", diode="silicon",
                               i_rated_a=_at_least((4, 8, 15, 25, 35, 50), 1.5 * peak_a * count))  # fmt: skip
            return LinearSupply.model_validate(
                {"transformer": assumed(part).model_dump(), "rectifier": assumed(bridge).model_dump(),
                 "reservoir": can.model_dump()}
            )  # fmt: skip
        case "switcher":
            switcher = MainsSwitcher(
                name="Some switcher", maker="–", rails=rails, v_rail=round(rail, 2), control="regulated", droop=0.02,
                p_continuous_w=watts, i_limit_a=1.6 * peak_a * count, limit="hiccup", efficiency=0.88, p_idle_w=6,
                v_mains_min=0.8 * requirement.mains_v, v_mains_max=1.15 * requirement.mains_v,
            )  # fmt: skip
            return SwitcherSupply.model_validate(
                {"switcher": assumed(switcher).model_dump(), "reservoir": can.model_dump()}
            )
        case "battery":
            return BatterySupply.model_validate(
                {"battery": assumed(_battery(watts)).model_dump(),
                 "converter": assumed(usual_converter(rail, watts, peak_a * count)).model_dump(),
                 "reservoir": can.model_dump()}
            )  # fmt: skip
        case "bench":
            bench = BenchPair(name="Two bench supplies", rails=rails, v_rail=round(rail, 2),
                              i_limit_a=max(1.0, round(peak_a * count, 1)))  # fmt: skip
            return DirectSupply.model_validate({"source": assumed(bench).model_dump(), "reservoir": can.model_dump()})


def _battery(watts: float) -> Battery:
    return Battery(name="Some battery, 24 V", maker="–", v_nominal=25.6, v_full=29.2, v_empty=22.0,
                   capacity_ah=max(10.0, round(watts / 15.0)))  # fmt: skip


def usual_converter(rail: float, watts: float, amperes: float) -> BatteryConverter:
    """A converter to two rails of ``rail`` volts, of usual values."""
    turns = 4
    return BatteryConverter(
        name="Some converter", maker="–", v_rail=round(rail, 2), control="regulated", droop=0.03,
        p_continuous_w=watts, i_limit_a=1.6 * amperes, efficiency=0.87, p_idle_w=6, r_timing_ohm=10_000,
        c_timing_f=1e-9, turns_primary=turns, turns_secondary=max(1, math.ceil(turns * 1.25 * rail / 22.0)),
        a_core_m2=1.2e-4 * max(1.0, watts / 300.0), b_max_t=0.2, d_wire_m=0.4e-3, v_diode_rated_v=5.0 * rail,
        cable_m=2.0, a_cable_m2=6e-6 * max(1.0, watts / 300.0), v_lockout_v=21.0,
    )  # fmt: skip


def _module(requirement: Requirement, rail: float, peak_a: float, *, single: bool) -> AnyModule:
    rails = {"v_rail_min": round(0.45 * rail, 1), "v_rail_nominal": round(rail, 1), "v_rail_max": round(1.5 * rail, 1)}
    usual = {
        "maker": "–", "i_limit_a": round(2.0 * peak_a, 2), "r_load_min_ohm": max(0.5, 0.9 * requirement.r_ohm),
        "r_input_ohm": 22e3, "f_low_hz": 3.0, "f_high_hz": 100e3, "offset_max_v": 0.05, "c_local_f": 470e-6,
        "gain": 22.0, **rails,
    }  # fmt: skip
    if requirement.stage == "D":
        return ClassDModule.model_validate(
            usual | {"name": "Some class D board", "bridge": "full" if single else "half",
                     "i_quiescent_stated_a": 0.03, "i_driver_a": 0.02,
                     "r_on_ohm": 0.15, "efficiency": 0.94, "modulation_max": 0.95, "f_switching_hz": 400e3,
                     "l_filter_h": 5.5e-6 * requirement.r_ohm, "c_filter_f": 2.7e-6 / requirement.r_ohm,
                     "f_high_hz": 40e3}
        )  # fmt: skip
    bias = BiasPoint(listed_mv=20, r_listed_ohm=0.22, r_fitted_ohm=0.22)
    pairs = max(1, math.ceil(peak_a / 5.0), math.ceil(requirement.power_w / _PAIR_W))
    return ClassABModule.model_validate(
        usual | {"name": "Some class AB board", "bias": bias.model_dump(), "output_pairs": pairs}
    )


def _at_least(sizes: tuple[float, ...], wanted: float) -> float:
    return float(next((size for size in sizes if size >= wanted), sizes[-1]))
