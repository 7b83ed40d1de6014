"""Rails and heat of a build over time: switch-on, a note that begins, power off, warming up."""

import dataclasses
import functools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.builds.supplies import LinearSupply
from plinth.physics import thermal, time_course
from plinth.physics.common_period import Grid
from plinth.physics.network import Drives, RailNetwork, march_network, waves_of
from plinth.physics.transients import bleed_down_s
from plinth.predict.circuits import mains_source, supplies_in_all
from plinth.predict.figures_of import Solution
from plinth.predict.operating_points import lay_period, load_law, output_needs, source_of

Array = NDArray[np.float64]

NOTE_HZ = 40.0
# What the fuse sees while the reservoirs fill; later it is the load's own current.
FILLING_S = 0.15
# Heat capacity of one output device with its tab, where it stands for nothing but the first seconds (an estimate).
DEVICE_J_PER_K = 4.0


@dataclasses.dataclass(frozen=True)
class RailCourse:
    """Rails over ``t_s`` (n,); ``v_minus`` None for a single rail; ``v_output`` where something plays.

    ``i_primary_a`` the size of the current from the wall, with all supplies of the build; None where not computed.
    ``clips`` whether the output asks for more than the rails leave at some instant; ``lamp_k`` the filament of a lamp
    in series (kelvin).
    """

    t_s: Array
    v_plus: Array
    v_minus: Array | None
    v_output: Array | None = None
    i_primary_a: Array | None = None
    clips: bool = False
    lamp_k: Array | None = None


@dataclasses.dataclass(frozen=True)
class HeatCourse:
    """Degrees over ``t_s``: the sink, and the inside of one output device; ``bias_a`` of a pair where it drifts."""

    t_s: Array
    sink_c: Array
    device_c: Array
    bias_a: Array | None


def can_switch_on(solution: Solution) -> bool:
    """Whether the build has a supply whose switch-on is computed: a transformer's."""
    return isinstance(solution.build.supply, LinearSupply)


def switch_on(solution: Solution, seconds: float = 0.5, steps: int = 200, phase_deg: float = 0.0) -> RailCourse:
    """From empty reservoirs, through the entry's soft start; the mains closes ``phase_deg`` after its zero crossing."""
    circuit, count = solution.bare_circuit, supplies_in_all(solution.build)
    found = time_course.switch_on(
        circuit.network, mains_source(circuit), circuit.turns_ratio, seconds, circuit.channels * circuit.i_idle_a,
        solution.ahead, phase_deg, steps, solution.situation.ambient_c,
    )  # fmt: skip
    v = found.v_load
    lamp_k = None
    if solution.lamp is not None:
        lamp_k = np.interp(np.arange(len(found.t_s)), found.piece_ends, found.t_soft_c + time_course.KELVIN)
    return RailCourse(
        found.t_s, v[:, 0], v[:, 1] if circuit.rails > 1 else None, None, count * found.i_primary_a, lamp_k=lamp_k
    )


def fuse_i2t_a2s(solution: Solution, steps: int = 100) -> float:
    """Integral of the square of the primary current while the reservoirs fill, mains closing at its zero crossing."""
    circuit, count = solution.bare_circuit, supplies_in_all(solution.build)
    of_one = _i2t(
        circuit.network, mains_source(circuit), circuit.turns_ratio, circuit.channels * circuit.i_idle_a,
        solution.ahead, steps, solution.situation.ambient_c,
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
    return time_course.switch_on(network, source, turns_ratio, FILLING_S, idle_a, soft, 0.0, steps, ambient_c).i2t_a2s()


def bass_note(solution: Solution, seconds: float = 0.45) -> RailCourse:
    """All driven channels rest for a moment, then play 40 Hz at the amplitude of the level asked for."""
    points, circuit = solution.points, solution.points.circuit
    period = lay_period(circuit, NOTE_HZ, 0.0, Grid(200, 100))
    law, source = load_law(circuit, period, max(points.at_level.driven, 1)), source_of(circuit, period)
    n, m, amplitude = period.steps, circuit.rails, points.at_level.v_peak
    x, v = _resting_state(solution), np.tile([rail.mean(rail.v_node) for rail in points.idle.rails], (n + 1, 1))
    needs, least = output_needs(circuit, period), math.inf
    parts = [v]
    for _ in range(max(1, round(seconds / period.shared.seconds))):
        for _again in range(4 if law.follows_rails else 1):
            # The load follows the rails: laid on anew with the rails that it made.
            note = law.draw(amplitude, v)
            drives = Drives(source.emf, source.late_emf, note.at, note.mean, source.zero_every)
            march = march_network(circuit.network, drives, period.step_s, x)
            v = waves_of(circuit.network, drives, period.step_s, march).v_load
            v = np.maximum(v, 0.02 * float(np.max(source.emf)))
        x = march.x[-1]
        least = min(least, float(np.min(v @ needs.weights.T - needs.v_sat - amplitude * needs.needed)))
        parts.append(v)
    whole = np.concatenate([part[:-1] for part in parts])
    playing = np.tile(amplitude * period.signal_sine[:-1], len(parts) - 1)
    t = np.linspace(-n, len(whole) - 1 - n, len(whole)) * period.step_s
    output = np.concatenate([np.zeros(n), playing])
    return RailCourse(t, whole[:, 0], whole[:, 1] if m > 1 else None, output, clips=least < -0.005 * amplitude)


def _resting_state(solution: Solution) -> Array:
    """The network's state at a mains zero crossing, all channels at rest."""
    rest, network = solution.points.idle, solution.points.circuit.network
    if rest.network is not None:
        return np.asarray(rest.network.march.x[0])
    x = np.zeros(network.size)
    for rail, place in zip(rest.rails, network.places, strict=True):
        x[place["v_cap"]] = rail.v_cap[0]
    return x


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


def _until_safe_s(solution: Solution, safe_v: float = 5.0) -> float:
    circuit, stops = solution.points.circuit, solution.build.module.v_rail_min
    idle_a, longest = circuit.channels * circuit.i_idle_a, 0.0
    for rail, (c, g) in zip(solution.points.idle.rails, circuit.reservoirs, strict=False):
        v, bleeder = rail.mean(rail.v_node), math.inf if g == 0.0 else 1.0 / g
        first = bleed_down_s(c + circuit.c2, bleeder, v, max(stops, safe_v), idle_a)
        then = bleed_down_s(c + circuit.c2, bleeder, min(v, stops), safe_v)
        longest = max(longest, first + (then if math.isfinite(then) else 60.0))
    return longest


def warm_up(solution: Solution) -> HeatCourse | None:
    """From cold at rest; None where the sink's heat capacity is not stated. The bias drifts as it warms."""
    build, rest = solution.build, solution.points.idle
    capacity, r_sink = build.sink.heat_capacity_j_per_k, solution.values["r_sink"]
    if capacity is None:
        return None
    heat_w = supplies_in_all(build) * rest.p_rails_w
    bias = build.module.bias
    drift = 0.0 if bias is None or bias.tempco_per_k is None else bias.tempco_per_k
    module = build.module
    quiescent_w = heat_w * module.i_quiescent_a / (module.i_quiescent_a + module.i_driver_a)
    ambient = solution.situation.ambient_c
    # All output devices together, then the sink.
    modules = len(build.channels) * build.modules_per_channel
    r_device = (build.module.r_junction_sink_k_per_w + build.sink.gap_k_per_w) / modules
    network = thermal.chain((r_device, r_sink), (modules * DEVICE_J_PER_K, capacity))
    # The bias follows the sink, on which its sensor sits.
    feedback = np.array([[0.0, quiescent_w * drift], [0.0, 0.0]])
    # A bias that feeds itself takes longer; one that runs away is shown for a while.
    t = np.linspace(0.0, min(5.5 * network.slowest_s(feedback), 27.5 * r_sink * capacity), 600)
    found = network.course_c(np.array([heat_w, 0.0]), ambient, np.full(2, ambient), t, feedback)
    device, sink = found[:, 0], found[:, 1]
    amperes = None if bias is None or drift == 0.0 else bias.i_pair_a * (1.0 + drift * (sink - ambient))
    return HeatCourse(t, sink, device, amperes)
