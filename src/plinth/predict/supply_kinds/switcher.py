"""A mains switcher, in numbers."""

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import SwitcherSupply
from plinth.builds.supply_parts import MainsSwitcher
from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.rails.limited_source import CurrentLimit
from plinth.predict.estimates import FOLDED_TO, HICCUP_AFTER_S, HICCUP_OFF_S
from plinth.predict.input import Input, efficiency_input, known_input, output_capacitors
from plinth.predict.supply_kinds.linear import high_mains
from plinth.predict.supply_kinds.numbers import SupplyNumbers, Values, quick_of_rated

# Halved or doubled mains: between these a jumper is set right, and the switcher's own range says the rest.
JUMPER_TOO_HIGH, JUMPER_TOO_LOW = 0.7, 1.5


def _switcher(supply: SwitcherSupply) -> dict[str, Input]:
    part = supply.switcher
    return {
        "v_set": known_input(part, "v_rail", "switcher rail", "V", part.v_rail_tol),
        "droop": known_input(part, "droop", "switcher droop", "", 0.30),
        "efficiency": efficiency_input(part, "switcher efficiency"),
        "c_bulk": (
            known_input(part, "c_bulk_f", "bulk capacitor", "F", 0.20)
            if part.c_bulk_f is not None
            else Input(
                "bulk capacitor",
                1.2e-6 * part.p_continuous_w,
                "F",
                0.3e-6 * part.p_continuous_w,
                True,
                "not stated; usual is about 1.2 µF per watt at 230 V",
            )
        ),
        **_corrected(part),
        "r_line": Input("line and filter resistance", 0.8, "ohm", 0.25, True, "not stated; usual for a house circuit"),
        **output_capacitors(supply.reservoir),
    }


def _corrected(part: MainsSwitcher) -> dict[str, Input]:
    """What keeps a power-factor stage from a factor of 1: its filter's capacitors, and some distortion."""
    if not part.pfc:
        return {}
    c = 0.7e-6 * max(1.0, part.p_continuous_w / 300.0)
    return {
        "c_line": Input("line filter capacitance", c, "F", 0.3 * c, True, "not stated; usual about 0.7 µF for 300 W"),
        "thd_line": Input(
            "distortion of the line current", 0.12, "", 0.04, True, "not stated; usual for a power-factor stage"
        ),
        "shape_line": Input(
            "shape of the line current",
            0.5,
            "",
            0.2,
            True,
            "not stated; 0 a flat top, 1 a pointed one",
        ),
    }


def _hold_to_jumper(mains: float, jumper: float) -> None:
    if mains < JUMPER_TOO_HIGH * jumper:
        raise PhysicsError(
            f"the switcher's mains jumper is set for {jumper:g} V and the mains has {mains:g} V, so it does not start: "
            "set the jumper for this mains"
        )
    if mains > JUMPER_TOO_LOW * jumper:
        raise PhysicsError(
            f"the switcher's mains jumper is set for {jumper:g} V and the mains has {mains:g} V, which destroys it at "
            "once: set the jumper for this mains before it is ever plugged in"
        )


def _source(build: Build, situation: Situation, values: Values) -> dict[str, float]:
    part = build.supply.source_part
    assert isinstance(part, MainsSwitcher), "one of these"
    v = values["v_set"]
    if part.v_mains_jumper is not None:
        _hold_to_jumper(situation.mains_rms(build), part.v_mains_jumper)
    if part.control == "proportional":
        assert build.mains is not None, "held by validation"
        v *= situation.mains_rms(build) / (part.v_mains_jumper or build.mains.v_nominal_rms)
    rated = part.p_continuous_w / ((1 if part.rails == "single" else 2) * part.v_rail)
    return {"steady_v": v, "steady_r": max(values["droop"] * part.v_rail / rated, 1e-3)}


def _high_ratio(build: Build, situation: Situation) -> float:
    """Proportional rails follow the mains, regulated ones do not."""
    return high_mains(build, situation) if build.supply.source_part.control == "proportional" else 1.0


def _limit(supply: SwitcherSupply) -> CurrentLimit:
    part = supply.switcher
    if part.limit == "fold_back":
        return CurrentLimit(part.i_limit_a, FOLDED_TO)
    return CurrentLimit(part.i_limit_a, 1.0, HICCUP_AFTER_S, HICCUP_OFF_S)


def _quick(build: Build, situation: Situation, values: Values) -> dict[str, float]:
    return quick_of_rated(build, values, _high_ratio(build, situation))


SWITCHER = SupplyNumbers(_switcher, _source, _high_ratio, _limit, _quick)
