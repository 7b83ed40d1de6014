"""Plain rails, many at once: steady states and clip onsets of a few dozen designs in the time of a few.

The step and the way through it are those of ``rail_march``, with a further axis over the rails: each round takes every
rail to its next change of the diode. Whichever does not settle is left to be solved alone, which also bisects.
"""

import dataclasses
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.cancellation import still_wanted
from plinth.physics.rails.clip_onset import LAST_STEP, MOST_NEWTON, ClipOnset, OutputLimit
from plinth.physics.rails.rail import LoadCurrent, RailCircuit
from plinth.physics.rails.rail_march import MOST_DECAY
from plinth.physics.rails.steady_state import CLOSED, RailSteadyState

Array = NDArray[np.float64]
Index = NDArray[np.intp]
MOST_MARCHES = 12
OFF, ON = 0, 1


@dataclasses.dataclass(frozen=True)
class RailTask:
    """A rail with its source's ``emf`` (n + 1,) and what is to be found of it.

    ``load`` a fixed one, for the steady state; of an onset the load at rest, ``unit`` by volt of output amplitude, and
    ``output`` what it needs: ``needed`` (n + 1,) volts per volt. ``v_start`` and ``v_peak`` where to begin.
    """

    circuit: RailCircuit
    emf: Array
    load: LoadCurrent
    v_start: float
    unit: LoadCurrent | None = None
    needed: Array | None = None
    limit: OutputLimit | None = None
    v_peak: float = 0.0


@dataclasses.dataclass(frozen=True)
class _Run:
    """What a round did to the rails ``of``: from instant ``first`` to ``last``, v = powers (start + sums)."""

    of: Index
    first: Index
    last: Index
    on: Index
    slope: Array
    response: Array


@dataclasses.dataclass(frozen=True)
class _March:
    """``start`` and ``on`` (B, n + 1) of the run that each instant belongs to; ends and slopes (B,)."""

    start: Array
    on: Index
    v_end: Array
    on_end: Index
    slope: Array
    response: Array
    runs: tuple[_Run, ...]


class _Rails:
    """B rails on one grid of n steps, every array with the rails first, the diode's two states next."""

    def __init__(self, tasks: Sequence[RailTask], step_s: float) -> None:
        self.emf, self.step_s = np.stack([task.emf for task in tasks]), step_s
        self.count, self.steps = len(tasks), self.emf.shape[1] - 1
        circuits = [task.circuit for task in tasks]
        self.r_source, c, self.esr, self.g_bleed = np.array(
            [(circuit.r_source_ohm, circuit.c_f, circuit.esr_ohm, circuit.g_bleed_s) for circuit in circuits]
        ).T
        g = np.stack([self.g_bleed, self.g_bleed + 1.0 / self.r_source], axis=1)
        self.share = 1.0 / (1.0 + self.esr[:, None] * g)
        k = step_s / (2.0 * c)
        self.ka = k[:, None] * self.share
        self.fed = self.ka[:, ON] / self.r_source
        self.keep, self.inv = 1.0 - self.ka * g, 1.0 / (1.0 + self.ka * g)
        decay = self.keep * self.inv
        # Powers that neither vanish nor turn their sign: the others are too quick for one sum over the period.
        self.able = (decay > 0.0).all(axis=1)
        self.able &= -np.log(np.where(decay > 0.0, decay, 1.0)).max(axis=1) * self.steps <= MOST_DECAY
        self.powers = np.where(self.able[:, None], decay, 1.0)[:, :, None] ** np.arange(self.steps + 1.0)
        self.inverse = 1.0 / self.powers
        drive = np.zeros((self.count, 2, self.steps))
        drive[:, ON] = (self.inv[:, ON] * self.fed)[:, None] * (self.emf[:, :-1] + self.emf[:, 1:])
        at = (1.0 + self.esr * self.g_bleed)[:, None] * self.emf
        self.from_emf = self._lay(drive, at)
        self.every = np.arange(self.count)
        self.instants = np.arange(self.steps + 1)

    def alone(self, at: Array, mean: Array) -> tuple[Array, Array]:
        """A load current (B, n + 1), (B, n) without the source: running sums, and what the start must stay above."""
        drive = (-2.0 * self.ka * self.inv)[:, :, None] * mean[:, None]
        return self._lay(drive, self.esr[:, None] * at)

    def _lay(self, drive: Array, at: Array) -> tuple[Array, Array]:
        sums = np.zeros((self.count, 2, self.steps + 1))
        np.cumsum(drive * self.inverse[:, :, 1:], axis=2, out=sums[:, :, 1:])
        change_at = at[:, None] * self.inverse - sums
        change_at[:, ON] *= -1.0
        return sums, change_at

    def march(
        self, sums: Array, change_at: Array, mean: Array, v_start: Array, unit: tuple[Array, Array] | None
    ) -> _March:
        """From ``v_start`` on the capacitors, diodes off; ``unit`` sums and means of a load per unit of scale."""
        n, count = self.steps, self.count
        v, slope, response = v_start.copy(), np.ones(count), np.zeros(count)
        j, on = np.zeros(count, dtype=np.intp), np.zeros(count, dtype=np.intp)
        start_at, on_at = np.empty((count, n + 1)), np.zeros((count, n + 1), dtype=np.intp)
        half, runs, of = self.ka.sum(axis=1), list[_Run](), self.every
        while len(of):
            still_wanted()
            first, state = j[of], on[of]
            back = self.inverse[of, state, first]
            start = v[of] * back - sums[of, state, first]
            over = change_at[of, state] > np.where(state == ON, -start, start)[:, None]
            over &= self.instants > first[:, None]
            changing = over.argmax(axis=1)
            changes = over[np.arange(len(of)), changing]
            last = np.where(changes, changing - 1, n)
            here = (self.instants >= first[:, None]) & (self.instants <= last[:, None])
            start_at[of] = np.where(here, start[:, None], start_at[of])
            on_at[of] = np.where(here, state[:, None], on_at[of])
            power = self.powers[of, state, last]
            slope_begun = slope[of] * back
            v[of], slope[of] = power * (start + sums[of, state, last]), power * slope_begun
            by_scale = np.zeros(len(of))
            if unit is not None:
                by_scale = response[of] * back - unit[0][of, state, first]
                response[of] = power * (by_scale + unit[0][of, state, last])
            runs.append(_Run(of, first, last, state, slope_begun, by_scale))
            j[of] = last
            # The step in which a diode changes: half of it in either state.
            c, old = of[changes], state[changes]
            at, factor = last[changes], self.keep[c, old] * self.inv[c, 1 - old]
            fed = self.fed[c] * self.emf[c, np.where(old == ON, at, at + 1)]
            v[c] = v[c] * factor + (fed - half[c] * mean[c, at]) * self.inv[c, 1 - old]
            slope[c] *= factor
            if unit is not None:
                response[c] = response[c] * factor - half[c] * unit[1][c, at] * self.inv[c, 1 - old]
            on[c], j[c] = 1 - old, at + 1
            of = of[j[of] < n]
        on_at[:, n] = on
        return _March(start_at, on_at, v, on_end=on, slope=slope, response=response, runs=tuple(runs))

    def node(self, sums: Array, at: Array, march: _March) -> tuple[Array, Array]:
        """Volts of the capacitors and of the load nodes at the n + 1 instants, under ``at`` amperes."""
        state, rows = march.on, self.every[:, None]
        v = self.powers[rows, state, self.instants] * (march.start + sums[rows, state, self.instants])
        v[:, -1] = march.v_end
        share, g_s = self.share[rows, state], 1.0 / self.r_source
        fed = np.where(state == ON, (self.esr * g_s)[:, None] * self.emf, 0.0)
        return v, (v - self.esr[:, None] * at + fed) * share

    def node_slopes(self, unit_sums: Array, unit_at: Array, march: _March, k: Index) -> tuple[Array, Array]:
        """D v_node / d v_start and d v_node / d (scale of the unit load) at instant ``k`` of each rail."""
        slope, response, on = march.slope.copy(), march.response.copy(), march.on_end.copy()
        for run in march.runs:
            inside = (run.first <= k[run.of]) & (k[run.of] <= run.last) & (k[run.of] < self.steps)
            of, state = run.of[inside], run.on[inside]
            power = self.powers[of, state, k[of]]
            slope[of] = power * run.slope[inside]
            response[of] = power * (run.response[inside] + unit_sums[of, state, k[of]])
            on[of] = state
        share = self.share[self.every, on]
        return slope * share, (response - self.esr * unit_at[self.every, k]) * share


def steady_states(tasks: Sequence[RailTask], step_s: float, near_v: float) -> list[RailSteadyState | None]:
    """The steady state of each; None where it was not found so, or where the rail falls to 0 V."""
    if not tasks:
        return []
    rails = _Rails(tasks, step_s)
    at, mean = _stacked([task.load for task in tasks])
    load = rails.alone(at, mean)
    sums, change_at = rails.from_emf[0] + load[0], rails.from_emf[1] + load[1]
    low, high = np.zeros(rails.count), np.maximum(rails.emf.max(axis=1), 0.0)
    v = np.minimum([task.v_start for task in tasks], 0.999 * high)
    for _ in range(MOST_MARCHES):
        march = rails.march(sums, change_at, mean, v, None)
        gap, slope = march.v_end - v, march.slope
        done = (np.abs(gap) < CLOSED * near_v) & (np.abs(gap) <= near_v * (1.0 - slope) + 1e-13)
        if done.all():
            break
        low, high = np.where(gap > 0.0, v, low), np.where(gap > 0.0, high, v)
        step = gap / np.maximum(1.0 - slope, 1e-12)
        inside = (low < v + step) & (v + step < high)
        v = np.where(done, v, np.where(inside, v + step, 0.5 * (low + high)))
    return _as_states(rails, tasks, sums, at=at, mean=mean, march=march, done=done & rails.able)


def onsets(tasks: Sequence[RailTask], step_s: float, near_v: float) -> list[tuple[ClipOnset, RailSteadyState] | None]:
    """The clip onset of each and the steady state there; None where it was not found so."""
    if not tasks:
        return []
    rails = _Rails(tasks, step_s)
    at, mean = _stacked([task.load for task in tasks])
    unit_at, unit_mean = _stacked([task.unit for task in tasks if task.unit is not None])
    needed = np.stack([task.needed for task in tasks if task.needed is not None])
    v_sat, per_volt = np.array(
        [(task.limit.v_sat, task.limit.volts_per_volt) for task in tasks if task.limit is not None]
    ).T
    needed = per_volt[:, None] * needed
    rest, unit = rails.alone(at, mean), rails.alone(unit_at, unit_mean)
    rest = rails.from_emf[0] + rest[0], rails.from_emf[1] + rest[1]
    crest = rails.emf.max(axis=1)
    maximum = (crest - v_sat) / per_volt
    able = rails.able & (maximum > 0.0)
    maximum = np.where(able, maximum, 1.0)
    amplitude = np.minimum([task.v_peak for task in tasks], maximum)
    v = np.minimum([task.v_start for task in tasks], crest)
    done, touched, marches = np.zeros(rails.count, dtype=bool), None, 0
    for _ in range(MOST_NEWTON):
        marches += 1
        scale = amplitude[:, None, None]
        sums, change_at = rest[0] + scale * unit[0], rest[1] + scale * unit[1]
        load_at, load_mean = at + amplitude[:, None] * unit_at, mean + amplitude[:, None] * unit_mean
        march = rails.march(sums, change_at, load_mean, v, (unit[0], unit_mean))
        gap = march.v_end - v
        margin = rails.node(sums, load_at, march)[1] - amplitude[:, None] * needed
        k, least = _least(margin)
        least = least - v_sat
        touched = sums, load_at, load_mean, march
        done = (np.maximum(np.abs(gap), np.abs(least)) < LAST_STEP * near_v) & able
        a11, a12 = march.slope - 1.0, march.response
        a21, by_scale = rails.node_slopes(unit[0], unit_at, march, k)
        a22 = by_scale - needed[rails.every, k]
        det = a11 * a22 - a12 * a21
        able &= det != 0.0
        det = np.where(det == 0.0, 1.0, det)
        next_v = np.clip(v + (-gap * a22 + least * a12) / det, 0.05 * crest, crest)
        next_peak = np.clip(amplitude + (-least * a11 + gap * a21) / det, 0.01 * maximum, maximum)
        if done[able].all():
            break
        v, amplitude = np.where(done, v, next_v), np.where(done, amplitude, next_peak)
    assert touched is not None, "marched at least once"
    states = _as_states(rails, tasks, *touched, done)
    # The state is that of the last march, the onset a step of Newton further, which need not be looked at.
    peaks, starts = next_peak.tolist(), next_v.tolist()
    return [
        None if state is None else (ClipOnset(peaks[b], starts[b], marches), state) for b, state in enumerate(states)
    ]


def _stacked(loads: Sequence[LoadCurrent]) -> tuple[Array, Array]:
    return np.stack([load.at for load in loads]), np.stack([load.mean for load in loads])


def _least(margins: Array) -> tuple[Index, Array]:
    """Where each row is least, and how low, a parabola laid through it and its neighbours."""
    every, k = np.arange(len(margins)), margins.argmin(axis=1)
    inner = np.clip(k, 1, margins.shape[1] - 2)
    before, here, after = (margins[every, inner + step] for step in (-1, 0, 1))
    bend = before - 2.0 * here + after
    smooth = (inner == k) & (bend > 0.0)
    lower = here - (after - before) ** 2 / (8.0 * np.where(smooth, bend, 1.0))
    return k, np.where(smooth, lower, margins[every, k])


def _as_states(
    rails: _Rails,
    tasks: Sequence[RailTask],
    sums: Array,
    at: Array,
    mean: Array,
    march: _March,
    done: NDArray[np.bool_],
) -> list[RailSteadyState | None]:
    v_cap, v_node = rails.node(sums, at, march)
    over = np.where(march.on == ON, np.maximum(rails.emf - v_node, 0.0), 0.0)
    i_diode = over / rails.r_source[:, None]
    i_cap = i_diode - at - rails.g_bleed[:, None] * v_node
    good = done & (v_node.min(axis=1) > 0.0)
    return [
        RailSteadyState(
            tasks[b].circuit,
            rails.step_s,
            rails.emf[b],
            v_node=v_node[b],
            v_cap=v_cap[b],
            i_diode_a=i_diode[b],
            i_cap_a=i_cap[b],
            i_load_a=at[b],
            i_load_mean_a=mean[b],
            marches=1,
        )
        if good[b]
        else None
        for b in range(rails.count)
    ]
