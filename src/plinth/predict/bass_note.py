"""A bass note that begins: rails and output from the first instant, up to a limit, a lock-out or silence."""

import dataclasses
import math
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails.common_period import Grid
from plinth.physics.rails.limited_source import LimitedRail, LimitState, march_limited
from plinth.physics.rails.network import Drives, march_network, waves_of
from plinth.predict.circuits import current_limit_of
from plinth.predict.clipped_output import HeldOutput
from plinth.predict.power_state import Period, lay_period, load_law, source_of
from plinth.predict.solution import Solution
from plinth.predict.transients import RailCourse

Array = NDArray[np.float64]

# A bass note; where a stage pumps its rails, the lowest there is.
NOTE_HZ, PUMPING_NOTE_HZ = 40.0, 20.0
# Rounds of a load and the rails that it makes, and where they are taken to agree.
ROUNDS, RESTS_V = 6, 5e-3


def note_hz(solution: Solution) -> float:
    """The note that ``bass_note`` plays on this build."""
    return PUMPING_NOTE_HZ if solution.points.circuit.stage.pumps else NOTE_HZ


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
        return _Played(v, at, mean, out=out, awake=awake, up=up, moved=moved)

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
        # Like rails at rest are solved as one.
        at_rest = rest.network.march.x[0]
        return np.tile(at_rest, network.size // len(at_rest))
    x = np.zeros(network.size)
    for rail, place in zip(rest.rails, network.places, strict=True):
        x[place["v_cap"]] = rail.v_cap[0]
    return x
