"""Rails of a build over time: switch-on, power off."""

import dataclasses
import functools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails import time_course
from plinth.physics.rails.network_elements import RailNetwork
from plinth.physics.rails.transients import SAFE_V, bleed_down_s
from plinth.predict.circuits import mains_source, supplies_in_all
from plinth.predict.solution import Solution

Array = NDArray[np.float64]

# What the fuse sees while the reservoirs fill; later it is the load's own current.
FILLING_S = 0.15


@dataclasses.dataclass(frozen=True)
class RailCourse:
    """Rails over ``t_s`` (n,); ``v_minus`` None for a single rail; ``v_output`` where something plays.

    ``i_primary_a`` the size of the current from the wall, with all supplies of the build; None where not computed.
    ``clips`` whether the output asks for more than the rails leave at some instant; ``lamp_k`` the filament of a lamp
    in series (kelvin). ``limited_s`` how long the source was at the limit of its current or off, ``silent_s`` how long
    the modules were below their lowest rail; ``locked_s`` when a pumped rail made module or supply shut down.
    """

    t_s: Array
    v_plus: Array
    v_minus: Array | None
    v_output: Array | None = None
    i_primary_a: Array | None = None
    clips: bool = False
    lamp_k: Array | None = None
    limited_s: float = 0.0
    silent_s: float = 0.0
    locked_s: float | None = None


def can_switch_on(solution: Solution) -> bool:
    """Whether the build has a supply whose switch-on is computed: a transformer's."""
    return solution.build.supply.transformer is not None


def switch_on(solution: Solution, seconds: float = 0.5, steps: int = 200, phase_deg: float = 0.0) -> RailCourse:
    """From empty reservoirs, through the entry's soft start; the mains closes ``phase_deg`` after its zero crossing."""
    circuit, count = solution.bare_circuit, supplies_in_all(solution.build)
    course = time_course.switch_on(
        circuit.network,
        mains_source(circuit),
        circuit.turns_ratio,
        seconds=seconds,
        idle_a=circuit.channels * circuit.i_idle_a,
        soft=solution.at_switch_on,
        phase_deg=phase_deg,
        steps=steps,
        ambient_c=solution.situation.ambient_c,
    )
    v = course.v_load
    lamp_k = None
    if solution.lamp is not None:
        lamp_k = np.interp(np.arange(len(course.t_s)), course.piece_ends, course.t_soft_c + time_course.KELVIN)
    return RailCourse(
        course.t_s, v[:, 0], v[:, 1] if circuit.rails > 1 else None, None, count * course.i_primary_a, lamp_k=lamp_k
    )


def fuse_i2t_a2s(solution: Solution, steps: int = 100) -> float:
    """Integral of the square of the primary current while the reservoirs fill, mains closing at its zero crossing."""
    circuit, count = solution.bare_circuit, supplies_in_all(solution.build)
    of_one = _i2t(
        circuit.network, mains_source(circuit), circuit.turns_ratio, idle_a=circuit.channels * circuit.i_idle_a,
        soft=solution.at_switch_on, steps=steps, ambient_c=solution.situation.ambient_c,
    )  # fmt: skip
    return count**2 * of_one


# Most sliders move the load or the signal, not what fills the reservoirs.
@functools.lru_cache(maxsize=64)
def _i2t(
    network: RailNetwork,
    source: time_course.MainsSource,
    turns_ratio: float,
    idle_a: float,
    soft: time_course.SoftStart | None,
    steps: int,
    ambient_c: float,
) -> float:
    # A soft start that is bridged lets a second surge through.
    bridged_s = soft.bypass_s if soft is not None and soft.bypass_s < math.inf else 0.0
    seconds = FILLING_S + bridged_s
    return time_course.switch_on(
        network,
        source,
        turns_ratio,
        seconds=seconds,
        idle_a=idle_a,
        soft=soft,
        phase_deg=0.0,
        steps=steps,
        ambient_c=ambient_c,
    ).i2t_a2s()


def switch_off(solution: Solution, seconds: float | None = None) -> RailCourse:
    """From the rails at rest: the modules draw until their lowest rail, then only the bleeders are left.

    Without ``seconds`` until the safe 5 V, at most 300 s.
    """
    points, circuit = solution.points, solution.points.circuit
    stops = solution.build.module.v_rail_min
    idle_a = circuit.channels * circuit.i_idle_a
    ends = min(_until_safe_s(solution) * 1.15, 300.0) if seconds is None else seconds
    t = np.linspace(0.0, ends, 800)
    rails = []
    for rail, (c, g) in zip(points.idle.rails, circuit.reservoirs, strict=False):
        v = rail.mean(rail.v_node)
        rails.append(time_course.rails_after_switch_off(c + circuit.c2, g, idle_a, v, stops, t))
    return RailCourse(t, rails[0], rails[1] if len(rails) > 1 else None)


def _until_safe_s(solution: Solution, safe_v: float = SAFE_V) -> float:
    circuit, stops = solution.points.circuit, solution.build.module.v_rail_min
    idle_a, longest = circuit.channels * circuit.i_idle_a, 0.0
    for rail, (c, g) in zip(solution.points.idle.rails, circuit.reservoirs, strict=False):
        v, bleeder = rail.mean(rail.v_node), math.inf if g == 0.0 else 1.0 / g
        first = bleed_down_s(c + circuit.c2, bleeder, v, max(stops, safe_v), idle_a)
        then = bleed_down_s(c + circuit.c2, bleeder, min(v, stops), safe_v)
        longest = max(longest, first + (then if math.isfinite(then) else 60.0))
    return longest
