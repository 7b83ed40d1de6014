"""Clip onset of very many plain rails at once: one loop over time, arrays over designs.

The step is that of ``physics.rail``. A few designs, spread over the lot, are solved first by Newton; a polynomial
through them gives every other design its start and its slopes, so that two or three marches each are enough.
"""

import dataclasses
import itertools
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.cancellation import still_wanted

Array = NDArray[np.float64]

# As a share of the crest. The next step would be some hundredth of one this small: 1e-5 of the answer is left.
NEAR = 1e-3
NEWTON_ROUNDS = 8
CHORD_ROUNDS = 4
SPREAD_OUT = 96
AT_ONCE = 2048


class StoppedError(Exception):
    """The caller asked for an end before all designs were solved."""


@dataclasses.dataclass(frozen=True)
class Rails:
    """N rails: every field an array of that length, SI. ``amplitude_v`` and ``drop_v`` of the source.

    ``unit_a`` rail amperes per volt of output amplitude at the crest, ``idle_a`` drawn besides, ``v_sat`` and
    ``volts_per_volt`` what the output needs of the rail.
    """

    r_source_ohm: Array
    c_f: Array
    esr_ohm: Array
    g_bleed_s: Array
    amplitude_v: Array
    drop_v: Array
    unit_a: Array
    idle_a: Array
    v_sat: Array
    volts_per_volt: Array

    def __len__(self) -> int:
        """How many."""
        return len(self.c_f)

    def take(self, which: Array | NDArray[np.int_] | slice) -> "Rails":
        """Some of them."""
        return Rails(*(getattr(self, f.name)[which] for f in dataclasses.fields(self)))

    def features(self) -> Array:
        """(N, k) the fields that vary, by logarithm where positive, scaled to about +-1."""
        columns = []
        for field in dataclasses.fields(self):
            x = getattr(self, field.name)
            if float(np.ptp(x)) > 1e-9 * max(1e-12, float(np.max(np.abs(x)))):
                y = np.log(x) if float(np.min(x)) > 0.0 else x
                columns.append((y - y.mean()) / max(float(y.std()), 1e-30))
        return np.stack(columns, axis=1) if columns else np.zeros((len(self), 0))


@dataclasses.dataclass(frozen=True)
class OnePeriod:
    """What all designs have in common on n steps: the mains' shape and the load's and output's, per unit."""

    step_s: float
    mains: Array
    load_at: Array
    load_mean: Array
    output: Array


def clip_onsets(
    rails: Rails, periods: tuple[OnePeriod, ...], go_on: Callable[[float], bool] = lambda _share: True
) -> Array:
    """Onset amplitude of each against all ``periods`` (the + rail's and the - rail's), V peak: the least of them.

    NaN where a rail gives no swing or does not carry the load. ``go_on`` is told the share done and says whether to
    go on. Raises StoppedError where it says no.
    """
    crest = rails.amplitude_v * float(np.max(np.abs(periods[0].mains))) - rails.drop_v
    maximum = (crest - rails.v_sat) / rails.volts_per_volt
    onsets = np.full(len(rails), np.nan)
    able = np.flatnonzero(maximum > 0.0)
    if len(able) == 0:
        return onsets
    taken = rails.take(able)
    x, inverse = np.full((len(able), 2), np.nan), np.tile(-np.eye(2), (len(able), 1, 1))
    least, done = np.full(len(able), np.inf), 0.0
    for period in periods:
        lot = _Lot(taken, period, crest[able], maximum[able])
        few = _spread_out(taken.features())
        x[few], inverse[few] = _newton(lot, few)
        todo = np.setdiff1d(np.arange(len(able)), few)
        _told(go_on, done)
        if len(todo):
            x[todo], inverse[todo] = _foretold(lot, few, x[few], inverse[few], todo)
        for part in np.array_split(todo, math.ceil(len(todo) / AT_ONCE) or 1):
            x[part] = _chord(lot, part, x[part], inverse[part])
            done += 0.9 * len(part) / (len(able) * len(periods))
            _told(go_on, min(0.99, done))
        lost = np.flatnonzero(np.isnan(x[:, 1]))
        if len(lost):
            x[lost], inverse[lost] = _newton(lot, lost)
        least = np.minimum(least, x[:, 1])
    _told(go_on, 1.0)
    onsets[able] = least
    return onsets


def _told(go_on: Callable[[float], bool], share: float) -> None:
    if not go_on(share):
        raise StoppedError


@dataclasses.dataclass(frozen=True)
class _Lot:
    """All designs that can swing at all. Unknowns of each: the capacitor's volts at the start, and the amplitude."""

    rails: Rails
    period: OnePeriod
    crest: Array
    most: Array

    def usual_start(self, which: NDArray[np.int_]) -> Array:
        return np.stack([0.93 * self.crest[which], 0.8 * self.most[which]], axis=1)

    def held(self, which: NDArray[np.int_], x: Array) -> Array:
        crest, maximum = self.crest[which], self.most[which]
        return np.stack([np.clip(x[:, 0], 0.05 * crest, crest), np.clip(x[:, 1], 0.01 * maximum, maximum)], axis=1)

    def miss(self, which: NDArray[np.int_], x: Array) -> Array:
        """How far each is from repeating itself, and from touching its limit, V."""
        return _march(self.rails.take(which), self.period, x[:, 0], x[:, 1])


def _newton(lot: _Lot, which: NDArray[np.int_]) -> tuple[Array, Array]:
    """Newton with slopes by differences: unknowns (NaN where they do not settle) and inverse Jacobians."""
    x, inverse = lot.usual_start(which), np.tile(-np.eye(2), (len(which), 1, 1))
    roots, left = np.full((len(which), 2), np.nan), np.arange(len(which))
    for _ in range(NEWTON_ROUNDS):
        at = which[left]
        small = 2e-4 * lot.crest[at]
        moved = [x[left] - np.outer(small, unit) for unit in ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0))]
        miss = lot.miss(np.tile(at, 3), np.concatenate(moved)).reshape(3, len(at), 2)
        slopes = np.stack([(miss[0] - miss[1]) / small[:, None], (miss[0] - miss[2]) / small[:, None]], axis=2)
        slopes[np.abs(np.linalg.det(slopes)) < 1e-9] = -np.eye(2)
        inverse[left] = np.linalg.inv(slopes)
        step = (inverse[left] @ miss[0][:, :, None])[:, :, 0]
        x[left] = lot.held(at, x[left] - step)
        near = np.max(np.abs(step), axis=1) < NEAR * lot.crest[at]
        roots[left[near]] = x[left[near]]
        left = left[~near]
        if len(left) == 0:
            break
    return roots, inverse


def _spread_out(features: Array) -> NDArray[np.int_]:
    """Some of the designs, from all over them and from their corners, where a polynomial would otherwise stray."""
    size, k = features.shape
    some = np.random.default_rng(1).permutation(size)[:SPREAD_OUT]
    corners = (
        [int(np.argmax(features @ signs)) for signs in itertools.product((-1.0, 1.0), repeat=min(k, 4))]
        if (0 < k <= 4)
        else []
    )
    return np.unique(np.append(some, np.array(corners, dtype=int)))


def _foretold(
    lot: _Lot, few: NDArray[np.int_], known: Array, inverse: Array, todo: NDArray[np.int_]
) -> tuple[Array, Array]:
    """Starts and inverse Jacobians from those solved: least squares, of the highest order that they bear."""
    settled = ~np.isnan(known[:, 1])
    at = few[settled]
    if len(at) < 4:
        return lot.usual_start(todo), np.tile(-np.eye(2), (len(todo), 1, 1))
    features = lot.rails.features()
    columns = [np.ones(len(features))]
    for order in range(1, 5):
        more = itertools.combinations_with_replacement(range(features.shape[1]), order)
        further = [np.prod(features[:, list(powers)], axis=1) for powers in more]
        if len(columns) + len(further) > len(at) // 3:
            break
        columns += further
    basis = np.stack(columns, axis=1)
    wanted = np.hstack([known[settled] / lot.crest[at, None], inverse[settled].reshape(len(at), 4)])
    fitted, *_ = np.linalg.lstsq(basis[at], wanted, rcond=None)
    guess = basis[todo] @ fitted
    return guess[:, :2] * lot.crest[todo, None], guess[:, 2:].reshape(-1, 2, 2)


def _chord(lot: _Lot, which: NDArray[np.int_], x: Array, inverse: Array) -> Array:
    """Unknowns by steps with slopes from elsewhere; NaN where they do not lead there."""
    roots, left = np.full((len(which), 2), np.nan), np.flatnonzero(np.isfinite(x).all(axis=1))
    x = lot.held(which, x)
    for _ in range(CHORD_ROUNDS):
        if len(left) == 0:
            break
        step = (inverse[left] @ lot.miss(which[left], x[left])[:, :, None])[:, :, 0]
        x[left] = lot.held(which[left], x[left] - step)
        near = np.max(np.abs(step), axis=1) < NEAR * lot.crest[which[left]]
        roots[left[near]] = x[left[near]]
        left = left[~near]
    return roots


def _march(rails: Rails, period: OnePeriod, v_start: Array, amplitude: Array) -> Array:
    """(N, 2): the capacitor's volts after a period less those before, and the output's least margin."""
    n, size = len(period.load_mean), len(rails)
    r, g_b, g_s = rails.esr_ohm, rails.g_bleed_s, 1.0 / rails.r_source_ohm
    a_off, a_on = 1.0 / (1.0 + r * g_b), 1.0 / (1.0 + r * (g_b + g_s))
    k = period.step_s / (2.0 * rails.c_f)
    ka_off, ka_on = k * a_off, k * a_on
    ka_gs = ka_on * g_s
    keep_off, keep_on = 1.0 - ka_off * g_b, 1.0 - ka_on * (g_b + g_s)
    inv_off, inv_on = 1.0 / (1.0 + ka_off * g_b), 1.0 / (1.0 + ka_on * (g_b + g_s))
    r_off, r_on, r_gs = r * a_off, r * a_on, r * a_on * g_s
    decay_off, drain_off = keep_off * inv_off, 2.0 * ka_off * inv_off
    decay_on, drain_on, fill_on = keep_on * inv_on, 2.0 * ka_on * inv_on, ka_gs * inv_on
    unit, idle, need = rails.unit_a * amplitude, rails.idle_a, rails.volts_per_volt * amplitude
    mains = np.abs(period.mains)
    # The margin is least where the output is high: the rest of the period need not be looked at.
    looked_at = np.flatnonzero(period.output > 0.05)
    row = np.full(n + 1, -1)
    row[looked_at] = np.arange(len(looked_at))
    margins = np.full((len(looked_at), size), np.inf)
    v, on, count = v_start, np.zeros(size, dtype=bool), 0
    e0 = rails.amplitude_v * mains[0] - rails.drop_v
    still_wanted()
    for j in range(n):
        e1 = rails.amplitude_v * mains[j + 1] - rails.drop_v
        i_mean, i_at = unit * period.load_mean[j] + idle, unit * period.load_at[j + 1] + idle
        if count == 0:
            after = v * decay_off - drain_off * i_mean
            node = a_off * after - r_off * i_at
            now = e1 > node
            changed = bool(now.any())
        elif count == size:
            after = v * decay_on + fill_on * (e0 + e1) - drain_on * i_mean
            node = a_on * after + r_gs * e1 - r_on * i_at
            now = e1 > node
            changed = not now.all()
        else:
            after, now, changed = v, on, True
        if changed:
            # Half of a step in which a diode changes belongs to either state.
            begun = np.where(on, v * keep_on + ka_gs * e0 - ka_on * i_mean, v * keep_off - ka_off * i_mean)
            to_off = (begun - ka_off * i_mean) * inv_off
            to_on = (begun + ka_gs * e1 - ka_on * i_mean) * inv_on
            node_off, node_on = a_off * to_off - r_off * i_at, a_on * to_on + r_gs * e1 - r_on * i_at
            # A diode keeps its state while that state's own answer bears it out.
            now = e1 > np.where(on, node_on, node_off)
            after, node = np.where(now, to_on, to_off), np.where(now, node_on, node_off)
        if row[j + 1] >= 0:
            margins[row[j + 1]] = node - need * period.output[j + 1]
        if changed:
            on, count = now, int(np.count_nonzero(now))
        v, e0 = after, e1
    return np.stack([v - v_start, _least(margins) - rails.v_sat], axis=1)


def _least(margins: Array) -> Array:
    """The least of each column, a parabola laid through its least sample and the neighbours."""
    at, every = np.argmin(margins, axis=0), np.arange(margins.shape[1])
    here = margins[at, every]
    before, after = margins[np.maximum(at - 1, 0), every], margins[np.minimum(at + 1, len(margins) - 1), every]
    bend = before - 2.0 * here + after
    smooth = (at > 0) & (at < len(margins) - 1) & (bend > 0.0)
    low: Array = here - np.where(smooth, (after - before) ** 2 / (8.0 * np.where(smooth, bend, 1.0)), 0.0)
    return low
