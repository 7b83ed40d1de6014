"""A transformer with its rectifier, in numbers."""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.builds.supplies import InputSupply, LinearSupply
from plinth.builds.supply_parts import Rectifier, Transformer
from plinth.physics.mains.transformer import estimate_regulation
from plinth.predict.input import Input, esr_input, known_input, stated_input
from plinth.predict.supply_kinds.numbers import SupplyNumbers, Values, unlimited


def _linear(supply: LinearSupply) -> dict[str, Input]:
    inputs = _of_bank(supply)
    if supply.reservoir_minus is not None:
        other = supply.reservoir_minus
        inputs["c_minus"] = known_input(other, "c_f", "reservoir of the − rail", "F", other.c_tol)
        inputs["esr_minus"] = esr_input(other, "ESR of the − rail's reservoir")
    if supply.smoothing is not None:
        second = supply.smoothing
        inputs["r_series"] = known_input(
            second, "r_ohm", "smoothing resistance", "ohm", 0.05 if second.l_h is None else 0.10
        )
        inputs["c2"] = known_input(second, "c_f", "smoothing capacitor", "F", second.c_tol)
        inputs["esr2"] = esr_input(second, "smoothing capacitor's ESR")
        if second.l_h is not None:
            inputs["l_series"] = known_input(second, "l_h", "choke", "H", 0.15)
    if supply.input_supply is not None:
        inputs |= {f"input_{key}": _renamed(quantity) for key, quantity in _input_supply(supply.input_supply).items()}
    return inputs


def _of_bank(supply: LinearSupply | InputSupply) -> dict[str, Input]:
    """Of transformer, rectifier and reservoir, whether they feed the output or only the input stages."""
    return {
        "v_secondary": _v_secondary(supply.transformer),
        "regulation": _regulation(supply.transformer),
        "v_forward": _v_forward(supply.rectifier),
        "r_dynamic": _r_dynamic(supply.rectifier),
        "c": known_input(supply.reservoir, "c_f", "reservoir per rail", "F", supply.reservoir.c_tol),
        "esr": esr_input(supply.reservoir, "reservoir ESR"),
    }


def _renamed(quantity: Input) -> Input:
    return dataclasses.replace(quantity, label=f"input supply: {quantity.label}")


def _input_supply(supply: InputSupply) -> dict[str, Input]:
    return _of_bank(supply) | {"i_load": _input_stages(supply)}


def _input_stages(supply: InputSupply) -> Input:
    """What the input stages draw: within a tenth where somebody said so, else from half to half as much again."""
    if not supply.i_load_assumed:
        return stated_input("load current", supply.i_load_a, "A", 0.10)
    guess = stated_input("load current", supply.i_load_a, "A", 0.50)
    return dataclasses.replace(guess, estimated=True, why="not stated; usual for input stages")


def _v_secondary(part: Transformer) -> Input:
    return known_input(part, "v_secondary_rms", "secondary volts", "V", part.v_secondary_tol)


def _regulation(part: Transformer) -> Input:
    if part.regulation is not None:
        return known_input(part, "regulation", "transformer regulation", "", part.regulation_tol)
    value, u = estimate_regulation(part.va, part.core)
    why = f"not stated; estimated from {part.va:g} VA, {'toroid' if part.core == 'toroid' else 'EI core'}"
    return Input("transformer regulation", value, "", u, True, why)


def _v_forward(part: Rectifier) -> Input:
    if part.v_forward_v is not None:
        return known_input(part, "v_forward_v", "diode drop", "V", 0.10)
    value = 0.75 if part.diode == "silicon" else 0.40
    return Input("diode drop", value, "V", 0.08, True, f"not stated; usual for {part.diode} at some amperes")


def _r_dynamic(part: Rectifier) -> Input:
    if part.r_dynamic_ohm is not None:
        return known_input(part, "r_dynamic_ohm", "diode slope resistance", "ohm", 0.20)
    # About 0.3 V of rise between small and rated current is common to bridges of all sizes.
    value = 0.3 / part.i_rated_a
    return Input(
        "diode slope resistance", value, "ohm", 0.3 * value, True,
        f"not stated; usual for a bridge rated {part.i_rated_a:g} A",
    )  # fmt: skip


def _source(build: Build, _situation: Situation, values: Values) -> dict[str, float]:
    supply = build.supply
    assert supply.transformer is not None, "one of these"
    part, other = supply.transformer, supply.reservoir_minus
    numbers = {
        "v_primary_rms": part.v_primary_rms,
        "va": part.va,
        "halves": part.halves,
        "v_secondary": values["v_secondary"],
        "regulation": values["regulation"],
        "drops": drops_of(supply),
        "v_forward": values["v_forward"],
        "r_dynamic": values["r_dynamic"],
        "l_leak": part.leakage_h or 0.0,
        "primary_share": part.primary_share or 0.0,
        "r_series": values.get("r_series", 0.0),
        "l_series": values.get("l_series", 0.0),
        "c2": values.get("c2", 0.0),
        "esr2": values.get("esr2", 0.0),
    }
    if other is not None:
        bleeder = other.r_bleeder_ohm
        numbers |= {
            "c_minus": values["c_minus"],
            "esr_minus": values["esr_minus"],
            "g_bleed_minus": 0.0 if bleeder is None else 1.0 / bleeder,
        }
    return numbers


def drops_of(supply: LinearSupply | InputSupply) -> int:
    """Diodes in series for each rail: one on a centre tap, two with two bridges or on a single winding."""
    return 2 if supply.rectifier.bridges == "two" or supply.transformer.secondaries == "one" else 1


def high_mains(build: Build, situation: Situation) -> float:
    """The highest mains as a multiple of what is in force."""
    assert build.mains is not None, "held by validation"
    return build.mains.v_nominal_rms * (1.0 + build.mains.tolerance) / situation.mains_rms(build)


def _quick(build: Build, situation: Situation, values: Values) -> dict[str, float]:
    supply = build.supply
    assert supply.transformer is not None, "one of these"
    part = supply.transformer
    v_oc = values["v_secondary"] * (1.0 + values["regulation"]) * situation.mains_rms(build) / part.v_primary_rms
    return {
        "v_peak": math.sqrt(2.0) * v_oc,
        "drop": drops_of(supply) * values["v_forward"],
        "droop": 0.0,
        "r_source": values["regulation"] * values["v_secondary"] / part.i_rated_a + values.get("r_series", 0.0),
        "high": 1.0 + (build.mains.tolerance if build.mains is not None else 0.0),
        "rectified": 1.0,
    }


LINEAR = SupplyNumbers(_linear, _source, high_mains, unlimited, _quick)
