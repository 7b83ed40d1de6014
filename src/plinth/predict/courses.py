"""Rails and heat of a build over time: switch-on, a note that begins, power off, warming up."""

import dataclasses
import functools
import math
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from plinth.builds.supplies import LinearSupply
from plinth.physics import thermal, time_course
from plinth.physics.common_period import Grid
from plinth.physics.limited_source import LimitedRail, LimitState, march_limited
from plinth.physics.network import Drives, RailNetwork, march_network, waves_of
from plinth.physics.transients import bleed_down_s
from plinth.predict.circuits import current_limit_of, mains_source, supplies_in_all
from plinth.predict.figures_of import Solution
from plinth.predict.held_output import HeldOutput
from plinth.predict.power_state import Period, lay_period, load_law, source_of

Array = NDArray[np.float64]

# A bass note; where a stage pumps its rails, the lowest there is.
NOTE_HZ, PUMPING_NOTE_HZ = 40.0, 20.0
# What the fuse sees while the reservoirs fill; later it is the load's own current.
FILLING_S = 0.15
# Heat capacity of one output device with its tab, where it stands for nothing but the first seconds (an estimate).
DEVICE_J_PER_K = 4.0
# Rounds of a load and the rails that it makes, and where they are taken to agree.
ROUNDS, RESTS_V = 6, 5e-3


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
    # A soft start that is bridged lets a second surge through.
    bridged_s = soft.bypass_s if soft is not None and soft.bypass_s < math.inf else 0.0
    seconds = FILLING_S + bridged_s
    return time_course.switch_on(network, source, turns_ratio, seconds, idle_a, soft, 0.0, steps, ambient_c).i2t_a2s()


def note_hz(solution: Solution) -> float:
    """The note that ``bass_note`` plays on this build."""
    return PUMPING_NOTE_HZ if solution.points.circuit.stage == "class_d" else NOTE_HZ


def bass_note(solution: Solution, seconds: float = 0.45) -> RailCourse:
    """All driven channels rest for a moment, then play a bass note at the amplitude of the level asked for.

    The output is held inside the rails (into a resistance), and a source that limits its current does so; below their
    lowest rail the modules fall silent. A rail pumped to a stated lock-out silences them for the rest of the course:
    when they come back nobody states.
    """
    points, circuit = solution.points, solution.points.circuit
    period = lay_period(circuit, note_hz(solution), 0.0, Grid(200, 100))
    driven, amplitude, n, m = max(points.at_level.driven, 1), points.at_level.v_peak, period.steps, circuit.rails
    held = None if circuit.load_phase_deg else HeldOutput(circuit, period)
    note = _Note(solution, period, driven, amplitude, held, _mover(solution, period))
    v = np.tile([rail.mean(rail.v_node) for rail in points.idle.rails], (n + 1, 1))
    rails, outputs, clips = [v], [np.zeros(n + 1)], False
    limited, silent, locked_s = 0.0, 0.0, None
    lockout_v = (solution.build.over_voltage_lockout or (math.inf,))[0]
    for number in range(max(1, round(seconds / period.shared.seconds))):
        plays_until = n + 1 if locked_s is None else 0
        played = note.over_one_period(v, plays_until)
        over = np.flatnonzero(np.max(played.moved.v[:plays_until], axis=1, initial=0.0) > lockout_v)
        if len(over):
            # What came before the moment stays as it is.
            locked_s = (number * n + int(over[0])) * period.step_s
            played = note.over_one_period(v, int(over[0]))
        note.commit(played)
        v = played.v
        limited += played.moved.limited_s
        silent += float(np.mean(~played.awake)) * period.shared.seconds
        clips = clips or bool(np.max(np.abs(played.out - amplitude * period.signal_sine)) > 0.005 * amplitude)
        rails.append(v)
        outputs.append(np.where(played.up, played.out, 0.0))
    whole, output = (np.concatenate([part[:-1] for part in parts]) for parts in (rails, outputs))
    t = np.linspace(-n, len(whole) - 1 - n, len(whole)) * period.step_s
    return RailCourse(
        t, whole[:, 0], whole[:, 1] if m > 1 else None, output, clips=clips, limited_s=limited, silent_s=silent,
        locked_s=locked_s,
    )  # fmt: skip


@dataclasses.dataclass(frozen=True)
class _Played:
    """One period of a note: rails, what is drawn of them, the output wanted, when modules are ``awake`` and ``up``."""

    v: Array
    at: Array
    mean: Array
    out: Array
    awake: NDArray[np.bool_]
    up: NDArray[np.bool_]
    moved: "_Moved"


@dataclasses.dataclass(frozen=True)
class _Note:
    """A note of an amplitude on this supply; ``held`` its output inside the rails, where that is followed."""

    solution: Solution
    period: Period
    driven: int
    amplitude: float
    held: HeldOutput | None
    move: "_Mover"

    def over_one_period(self, v: Array, plays_until: int) -> _Played:
        """The next period, silent from that instant on; begun from the last one's rails ``v``."""
        least_v = self.solution.build.module.v_rail_min
        before = np.arange(len(v)) < plays_until
        for _again in range(ROUNDS):
            # The load follows the rails: laid on anew with the rails that it made.
            wave = None if self.held is None else self.held.wave(self.amplitude, v)
            law = load_law(self.solution.points.circuit, self.period, self.driven, wave)
            drawn = law.draw(self.amplitude if wave is None else 1.0, v)
            awake = np.min(v, axis=1) >= least_v
            up = awake & before
            at, mean = drawn.at * up[:, None], drawn.mean * (up[:-1] & up[1:])[:, None]
            moved = self.move(at, mean, commit=False)
            change, v = float(np.max(np.abs(moved.v - v))), np.maximum(moved.v, 0.02 * float(np.max(v)))
            if change < RESTS_V:
                break
        out = self.amplitude * self.period.signal_sine if wave is None else wave.volts
        return _Played(v, at, mean, out, awake, up, moved)

    def commit(self, played: _Played) -> None:
        """Let the next period begin where this one ends."""
        self.move(played.at, played.mean, commit=True)


@dataclasses.dataclass(frozen=True)
class _Moved:
    v: Array
    limited_s: float


class _Mover(Protocol):
    def __call__(self, at: Array, mean: Array, *, commit: bool) -> _Moved:
        """Rails over one period under a load; the next begins where a committed one ended."""


def _mover(solution: Solution, period: Period) -> _Mover:
    """How this supply's rails move: through its network, or up to the limit of its current."""
    circuit, limit = solution.points.circuit, current_limit_of(solution.build)
    if limit is None:
        source, x = source_of(circuit, period), _resting_state(solution)

        def through(at: Array, mean: Array, *, commit: bool) -> _Moved:
            nonlocal x
            drives = Drives(source.emf, source.late_emf, at, mean, source.zero_every)
            march = march_network(circuit.network, drives, period.step_s, x)
            x = march.x[-1] if commit else x
            return _Moved(waves_of(circuit.network, drives, period.step_s, march).v_load, 0.0)

        return through
    r_ohm = circuit.steady_r + circuit.rails * circuit.steady_shared_r
    rails = tuple(LimitedRail(circuit.steady_v, r_ohm, c + circuit.c2, circuit.esr, g) for c, g in circuit.reservoirs)
    state = LimitState(tuple(rail.mean(rail.v_cap) for rail in solution.points.idle.rails))

    def up_to_limit(at: Array, mean: Array, *, commit: bool) -> _Moved:
        del at
        nonlocal state
        march = march_limited(rails, mean, period.step_s, limit, state)
        state = march.end if commit else state
        return _Moved(march.v_node, float(np.mean(march.limiting | march.off)) * period.shared.seconds)

    return up_to_limit


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
    quiescent_w = heat_w * module.i_quiescent_a / (module.i_quiescent_a + module.driver_a)
    ambient = solution.situation.ambient_c
    # All output devices together, then the sink.
    modules = len(build.channels) * build.modules_per_channel
    r_device = (solution.values["r_junction"] + build.sink.gap_k_per_w) / modules
    network = thermal.chain((r_device, r_sink), (modules * DEVICE_J_PER_K, capacity))
    # The bias follows the sink, on which its sensor sits.
    feedback = np.array([[0.0, quiescent_w * drift], [0.0, 0.0]])
    # A bias that feeds itself takes longer; one that runs away is shown for a while.
    t = np.linspace(0.0, min(5.5 * network.slowest_s(feedback), 27.5 * r_sink * capacity), 600)
    found = network.course_c(np.array([heat_w, 0.0]), ambient, np.full(2, ambient), t, feedback)
    device, sink = found[:, 0], found[:, 1]
    amperes = None if bias is None or drift == 0.0 else bias.i_pair_a * (1.0 + drift * (sink - ambient))
    return HeatCourse(t, sink, device, amperes)
