"""A battery with its converter, in numbers."""

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import BatterySupply
from plinth.physics.materials import wire_ohm
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.predict.input import Input, efficiency_input, known_input, output_capacitors
from plinth.predict.supply_kinds.numbers import SupplyNumbers, Values, quick_of_rated


def _battery(supply: BatterySupply) -> dict[str, Input]:
    part, battery = supply.converter, supply.battery
    inside = (
        known_input(battery, "r_internal_ohm", "battery resistance", "ohm", 0.30)
        if battery.r_internal_ohm is not None
        # About 5 % of the volts at a current that empties it in a fifth of an hour is common to lead and lithium alike.
        else Input(
            "battery resistance", 0.01 * battery.v_nominal / battery.capacity_ah, "ohm",
            0.004 * battery.v_nominal / battery.capacity_ah, True,
            f"not stated; usual for {battery.capacity_ah:g} Ah at {battery.v_nominal:g} V",
        )
    )  # fmt: skip
    return {
        "v_set": known_input(part, "v_rail", "converter rail", "V", part.v_rail_tol),
        "droop": known_input(part, "droop", "converter droop", "", 0.30),
        "efficiency": efficiency_input(part, "converter efficiency"),
        "r_battery": inside,
        **output_capacitors(supply.reservoir),
    }


def _source(build: Build, situation: Situation, values: Values) -> dict[str, float]:
    supply = build.supply
    assert isinstance(supply, BatterySupply), "one of these"
    part, battery, v_battery = supply.converter, supply.battery, situation.battery(build)
    rated = part.p_continuous_w / (2 * part.v_rail)
    r = max(values["droop"] * part.v_rail / rated, 1e-3)
    if part.control == "regulated":
        return {"steady_v": values["v_set"], "steady_r": r}
    ratio = values["v_set"] / battery.v_nominal
    # Both rails draw on the one battery: what its resistance drops, seen from the rails.
    shared = ratio**2 * (values["r_battery"] + cable_ohm(supply)) / values["efficiency"]
    return {"steady_v": ratio * v_battery, "steady_r": r, "steady_shared_r": shared}


def cable_ohm(supply: BatterySupply) -> float:
    """Resistance of the battery cable, copper at 20 degrees: 17.2 nohm m x length / area."""
    return wire_ohm(supply.converter.cable_m, supply.converter.a_cable_m2)


def _high_ratio(build: Build, situation: Situation) -> float:
    """Proportional rails follow the battery, regulated ones do not."""
    supply = build.supply
    assert isinstance(supply, BatterySupply), "one of these"
    return supply.battery.v_full / situation.battery(build) if supply.converter.control == "proportional" else 1.0


def _limit(supply: BatterySupply) -> CurrentLimit:
    return CurrentLimit(supply.converter.i_limit_a)


def _quick(build: Build, situation: Situation, values: Values) -> dict[str, float]:
    return quick_of_rated(build, values, _high_ratio(build, situation))


BATTERY = SupplyNumbers(_battery, _source, _high_ratio, _limit, _quick)
