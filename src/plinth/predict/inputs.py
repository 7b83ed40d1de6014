"""The numbers a prediction runs on, each with its uncertainty and whether somebody stated it.

Where a part leaves a value out, the estimate is made here, in one place, and marked.
"""

import dataclasses
import math

from plinth.builds.build import Build
from plinth.builds.modules import ClassABModule, ClassAModule, ClassDModule, Module
from plinth.builds.parts import HeatSink
from plinth.builds.situation import Situation
from plinth.predict.auxiliary_values import auxiliary_inputs
from plinth.predict.input import Input, efficiency_input, from_tolerance, known_input, stated_input
from plinth.predict.supply_kinds import supply_numbers


def inputs_of(build: Build, situation: Situation | None = None) -> dict[str, Input]:
    """All uncertain numbers of a build: supply, modules, load and sink; a load that is set replaces the part's."""
    inputs: dict[str, Input] = supply_numbers(build.supply).inputs(build.supply)
    inputs |= _module(build)
    inputs["i_limit"] = _i_limit(build, situation)
    inputs["r_load"] = known_input(build.load, "r_ohm", "load", "ohm", build.load.r_tol)
    if situation is not None and (situation.load_ohm is not None or build.load.voice_coil is not None):
        z, _ = situation.impedance(build)
        inputs["r_load"] = Input(
            "load", z, "ohm", from_tolerance(z, build.load.r_tol if not situation.load_ohm else 0.0)
        )
    inputs["r_sink"] = _sink(build.sink)
    inputs |= auxiliary_inputs(build)
    return {key: dataclasses.replace(given, key=key) for key, given in inputs.items()}


# How far a module's own current limit lies from what is stated: it follows a transistor's knee and its temperature.
LIMIT_TOL = 0.10


def _i_limit(build: Build, situation: Situation | None) -> Input:
    """The modules' own limit; without a spread where no rail they stand could ever reach it into this load."""
    part = build.module
    z, _ = (situation or Situation()).impedance(build)
    within_reach = part.i_limit_a * z < part.v_rail_max * build.modules_per_channel
    return known_input(part, "i_limit_a", "module current limit", "A", LIMIT_TOL if within_reach else 0.0)


def _module(build: Build) -> dict[str, Input]:
    part = build.module
    inputs = {
        "gain": known_input(part, "gain", "module gain", "V/V", part.gain_tol),
        "i_quiescent": _i_quiescent(part),
        "r_junction": (
            known_input(part, "r_junction_sink_k_per_w", "junction to sink", "K/W", 0.0)
            if part.r_junction_sink_k_per_w is not None
            else _usual_junction(part)
        ),
    }
    if part.own_rectifier and build.hookup.own_bridge != "bypassed":
        inputs["own_drop"] = Input("the module's own bridge", 0.8, "V", 0.08, True, "not stated; usual for one diode")
    if isinstance(part, ClassDModule):
        return inputs | {
            "r_out": known_input(part, "r_on_ohm", "switches and coils", "ohm", 0.20),
            "efficiency_stage": efficiency_input(part, "class D efficiency"),
            # A duty limit is a time over a period, and both wander.
            "modulation": Input(
                "largest modulation", part.modulation_max, "", from_tolerance(part.modulation_max, 0.02)
            ),
        }
    return inputs | {
        "v_sat": _v_sat(part, min(part.v_rail_nominal, build.supply.rough_rail_v)),
        "r_out": _r_out(part),
    }


def _usual_junction(part: Module) -> Input:
    """Of all output devices beside each other: pairs that are trimmed are two packages each, a chip is one."""
    packages = 2 * part.pairs if part.bias is not None else 1
    why = "a power package with its pad" if packages == 1 else f"{packages} power packages with their pads"
    return Input("junction to sink", 1.5 / packages, "K/W", 0.5 / packages, True, f"not stated; usual for {why}")


def _i_quiescent(part: Module) -> Input:
    value = part.i_quiescent_a + part.driver_a
    if part.i_driver_a is None:
        u = math.hypot(from_tolerance(value, 0.15), 0.5 * part.driver_a)
        return Input(
            "quiescent current", value, "A", u, True, f"not all stated; {1000 * part.driver_a:g} mA for its drivers"
        )
    quiescent = stated_input("quiescent current", value, "A", 0.15)
    paths = ("i_quiescent_stated_a" if part.i_quiescent_stated_a is not None else "bias.listed_mv", "i_driver_a")
    guessed = next(
        (quantity for quantity in (known_input(part, path, "", "", 0.0) for path in paths) if quantity.estimated), None
    )
    return quiescent if guessed is None else dataclasses.replace(quiescent, estimated=True, why=guessed.why)


def _v_sat(part: ClassABModule | ClassAModule, rail_v: float) -> Input:
    """What the output leaves of its rail: a base current and some diodes, and more of it the higher the rail."""
    if part.v_sat_v is not None:
        return known_input(part, "v_sat_v", "module saturation", "V", part.v_sat_tol)
    base, share = (1.0, 0.06) if part.bias is None else (1.5, 0.04)
    value = base + share * rail_v
    kind = "a power chip" if part.bias is None else "a discrete stage"
    return Input(
        "module saturation", value, "V", 0.3 * value, True, f"not stated; usual for {kind} at {rail_v:.3g} V",
    )  # fmt: skip


def _sink(part: HeatSink) -> Input:
    value = part.to_air_k_per_w
    if part.r_k_per_w is not None:
        return known_input(part, "r_k_per_w", "heat sink", "K/W", part.r_tol)
    return Input("heat sink", value, "K/W", 0.15 * value, True, f"not stated; from {1e4 * (part.area_m2 or 0):.0f} cm²")


def _r_out(part: Module) -> Input:
    stated: float | None = getattr(part, "r_out_ohm", None)
    if stated is not None:
        return known_input(part, "r_out_ohm", "module output resistance at clip", "ohm", 0.25)
    if part.bias is None:
        return Input("module output resistance at clip", 0.25, "ohm", 0.08, True, "not stated; usual for a power chip")
    # The fitted emitter resistors in parallel, and as much again for the devices themselves.
    value = 2.0 * part.bias.r_fitted_ohm / part.pairs
    return Input(
        "module output resistance at clip", value, "ohm", 0.3 * value, True,
        "not stated; estimated as twice the emitter resistors in parallel",
    )  # fmt: skip
