"""Bench supplies, in numbers."""

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import DirectSupply
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.predict.input import Input, known_input, output_capacitors
from plinth.predict.supply_kinds.numbers import SupplyNumbers, Values, never_higher, quick_of_stiff

# How far off a bench supply's own display the volts may be.
SET_TOL = 0.01


def _direct(supply: DirectSupply) -> dict[str, Input]:
    part = supply.source
    source = (
        known_input(part, "r_source_ohm", "source resistance", "ohm", 0.20)
        if part.r_source_ohm is not None
        else Input("source resistance", 0.05, "ohm", 0.02, True, "not stated; usual for bench supplies and their leads")
    )
    return {
        "v_set": known_input(part, "v_rail", "rail as set", "V", SET_TOL),
        "r_source": source,
        **output_capacitors(supply.reservoir),
    }


def _source(_build: Build, _situation: Situation, values: Values) -> dict[str, float]:
    # Nothing is stiffer than its own terminals.
    return {"steady_v": values["v_set"], "steady_r": max(values["r_source"], 1e-3)}


def _limit(supply: DirectSupply) -> CurrentLimit:
    return CurrentLimit(supply.source.i_limit_a)


def _quick(_build: Build, _situation: Situation, values: Values) -> dict[str, float]:
    return quick_of_stiff(values, 1.0 + SET_TOL)


DIRECT = SupplyNumbers(_direct, _source, never_higher, _limit, _quick)
