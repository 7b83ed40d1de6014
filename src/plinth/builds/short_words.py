"""A part in one short line: what tells it from its neighbours on a shelf."""

from plinth.builds.auxiliaries import RelaySupply, Trigger
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule
from plinth.builds.parts import Load, Part
from plinth.builds.supply_parts import (
    Battery,
    BatteryConverter,
    BenchPair,
    MainsSwitcher,
    Regulator,
    Reservoir,
    Smoothing,
    Transformer,
)
from plinth.units.shown import shown


def short_words(part: Part) -> str:
    """What tells a part from its neighbours, in one short line."""
    match part:
        case Transformer():
            half = f"{part.v_secondary_rms:g}"
            wound = {"centre_tap": f"{half}-0-{half}", "two": f"2 × {half} V", "one": f"{half} V"}[part.secondaries]
            return f"{part.name}, {wound}, {part.va:g} VA"
        case MainsSwitcher():
            return f"{part.name}, {'' if part.rails == 'single' else '±'}{part.v_rail:g} V, {part.p_continuous_w:g} W"
        case BatteryConverter():
            return f"{part.name}, ±{part.v_rail:g} V, {part.p_continuous_w:g} W"
        case Battery():
            return f"{part.name}, {part.v_nominal:g} V"
        case BenchPair():
            return f"{part.name}, {part.v_rail:g} V, {part.i_limit_a:g} A"
        case Reservoir() | Smoothing():
            return f"{part.name}, {shown(part.c_f, 'F', 2)}, {part.v_rated:g} V"
        case Regulator():
            return f"{part.name}, {part.v_out:g} V, {part.i_max_a:g} A"
        case RelaySupply():
            return f"{part.name}, {part.v_out:g} V from the {part.taken_from}" if part.fitted else part.name
        case Trigger():
            return f"{part.name}, {part.v_trigger_v:g} V" if part.fitted else part.name
        case ClassABModule() | ClassAModule():
            return f"{part.name}, up to ±{part.v_rail_max:g} V, {part.i_limit_a:g} A"
        case ClassDModule():
            sign, how = ("±", "half bridge") if part.bridge == "half" else ("", "full bridge")
            return f"{part.name}, {how}, up to {sign}{part.v_rail_max:g} V"
        case Load():
            rated = "" if part.p_carried_w is None else f", {part.p_carried_w:g} W"
            return f"{part.name}, {part.r_ohm:g} Ω{rated}"
        case _:
            return part.name
