"""Figures of what stands beside the power path: the relays' own supply, a trigger, a soft start never bridged."""

import dataclasses
import math

from plinth.builds.auxiliaries import RelaySupply
from plinth.builds.build import Build
from plinth.physics.protection.dc_and_coils import Coils, coils_on_rail
from plinth.predict.input import Input, known_input
from plinth.predict.solution import Solution

# Of a small bridge at some tenths of an ampere, and of one that carries next to nothing, V for each diode.
BRIDGE_DIODE_V, LIGHT_DIODE_V = 0.85, 0.6
# A regulator without load lets its winding rise nearly as far as no load at all does.
USUAL_SMALL_REGULATION, SMALL_REGULATION_TOL = 0.20, 0.5


def auxiliary_inputs(build: Build) -> dict[str, Input]:
    """What is uncertain of a relay supply: its output, and a winding of its own."""
    part = build.relay_supply
    if not part.fitted:
        return {}
    inputs = {"relay_out": known_input(part, "v_out", "relay supply: its output", "V", 0.05)}
    if not part.own_winding:
        return inputs
    inputs["relay_winding"] = known_input(part, "v_winding_rms", "relay supply: its winding", "V", 0.03)
    if part.winding_regulation is not None:
        return inputs | {
            "relay_regulation": known_input(part, "winding_regulation", "relay supply: regulation", "", 0.10)
        }
    u = USUAL_SMALL_REGULATION * SMALL_REGULATION_TOL / math.sqrt(3.0)
    return inputs | {
        "relay_regulation": Input(
            "relay supply: regulation", USUAL_SMALL_REGULATION, "", u, True, "not stated; usual for a small winding"
        )
    }


def coils_of(build: Build, v: float) -> Coils | None:
    """The protection's coils behind ``v`` volts; None where nobody states them."""
    part = build.protection
    if part.coil_ohm is None:
        return None
    return coils_on_rail(v, part.coil_ohm, part.coils, part.coil_wiring, part.r_dropper_ohm or 0.0)


@dataclasses.dataclass(frozen=True)
class RegulatorInput:
    """What stands ahead of the relay supply's regulator, V: usual, lowest on a low day, highest on a high one."""

    usual_v: float
    lowest_v: float
    highest_v: float


def auxiliary_values(solution: Solution) -> dict[str, float]:
    """Figures of the relays' own supply, of a trigger and of a soft start that stays; those that the build has."""
    return {**_relay_supply(solution), **_trigger(solution.build), **_never_bridged(solution)}


def _relay_supply(solution: Solution) -> dict[str, float]:
    build, part = solution.build, solution.build.relay_supply
    if not part.fitted:
        return {}
    v_out = solution.values["relay_out"]
    coils = coils_of(build, v_out)
    if coils is None:
        # Of a coil that nobody states nothing follows: neither a current nor what it heats, nor ripple on a winding.
        known = None if part.own_winding else _of_rail(solution)
        return (
            {}
            if known is None
            else {
                "relay_supply_in_v": known.usual_v,
                "relay_supply_headroom_v": known.lowest_v - v_out - part.v_dropout_v,
                "relay_supply_high_v": known.highest_v,
            }
        )
    given_a = coils.i_a + part.i_boards_a
    ahead = _of_winding(solution, part, given_a) if part.own_winding else _of_rail(solution)
    heat_w = (ahead.highest_v - v_out) * given_a + ahead.highest_v * part.i_ground_a
    return {
        "relay_supply_a": given_a,
        "relay_supply_in_v": ahead.usual_v,
        "relay_supply_headroom_v": ahead.lowest_v - v_out - part.v_dropout_v,
        "relay_supply_high_v": ahead.highest_v,
        "relay_supply_heat_w": heat_w,
        "relay_supply_junction_c": solution.situation.ambient_c + heat_w * part.r_junction_air_k_per_w,
    }


def _of_rail(solution: Solution) -> RegulatorInput:
    """On the + rail: lowest where the output clips on a low day, highest without load on a high one."""
    points, build = solution.points, solution.build
    rail, low = points.at_level.plus, 1.0
    if build.supply.follows_mains and build.mains is not None:
        low = (1.0 - build.mains.tolerance) * build.mains.v_nominal_rms / solution.situation.mains_rms(build)
    highest = max(state.v_max for state in points.no_load_high.rails)
    return RegulatorInput(rail.mean(rail.v_node), rail.v_min * min(low, 1.0), highest)


def _of_winding(solution: Solution, part: RelaySupply, given_a: float) -> RegulatorInput:
    """A winding into a bridge and a capacitor: crest less two diodes, less the ripple I / (2 f C) where it is least."""
    build, situation, values = solution.build, solution.situation, solution.values
    assert build.mains is not None, "held by validation"
    assert part.c_f is not None, "held by validation"
    nominal = build.mains.v_nominal_rms
    volts, rise = values["relay_winding"], values["relay_regulation"]
    made_for = build.supply.made_for_v_rms or nominal
    crest = math.sqrt(2.0) * volts / made_for
    ripple = (given_a + part.i_ground_a) / (2.0 * situation.frequency_of_mains(build) * part.c_f)
    now, low = situation.mains_rms(build), nominal * (1.0 - build.mains.tolerance)
    high = max(now, nominal * (1.0 + build.mains.tolerance))
    return RegulatorInput(
        crest * now - 2.0 * BRIDGE_DIODE_V - 0.5 * ripple,
        crest * min(now, low) - 2.0 * BRIDGE_DIODE_V - ripple,
        crest * (1.0 + rise) * high - 2.0 * LIGHT_DIODE_V,
    )


def _trigger(build: Build) -> dict[str, float]:
    part = build.trigger
    if not part.fitted or part.coil_ohm is None:
        return {}
    return {"trigger_a": part.v_trigger_v / part.coil_ohm}


def _never_bridged(solution: Solution) -> dict[str, float]:
    """What a soft-start resistor turns into heat if its relay never closes: the current at this level through it."""
    entry, wall = solution.build.entry, solution.wall
    if wall is None or entry.r_soft_ohm is None or entry.soft_bypass_s is None or entry.ntc_beta_k is not None:
        return {}
    return {"soft_stuck_w": wall.flow.i_rms_a**2 * entry.r_soft_ohm}
