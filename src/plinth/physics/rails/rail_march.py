"""A rail's march through time, in fixed trapezoid steps with the diode's state decided at each of them.

Between two changes of the diode every step is v' = a v + d. Divided by the powers of a, that is a running sum of
what drives the rail, which does not depend on the voltage it starts from; and the diode changes at the first instant
at which a number known beforehand passes the start's. So a rail is laid once, and each march over it costs little.
"""

import dataclasses
import functools
import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.cancellation import still_wanted
from plinth.physics.rails.rail import LoadCurrent, RailCircuit

Array = NDArray[np.float64]

# A block holds as many steps as keep the powers of a above e^-12, so that a running sum loses no digit that matters.
MOST_DECAY = 12.0
# The diode's state, and the row of an array for it.
OFF, ON = 0, 1


@dataclasses.dataclass(frozen=True)
class Laid:
    """What drives a rail, summed up beforehand; adds and scales as its load ``current`` does.

    ``sums`` running sums of the drive over the powers; ``change_at`` what the start must stay above (negated: below)
    for the diode to keep that state. Arrays (2 states, blocks, length + 1).
    """

    current: LoadCurrent
    sums: Array
    change_at: Array

    def plus(self, scale: float, other: "Laid") -> "Laid":
        """This and ``scale`` times another."""
        at, mean = self.current.at + scale * other.current.at, self.current.mean + scale * other.current.mean
        return Laid(LoadCurrent(at, mean), self.sums + scale * other.sums, self.change_at + scale * other.change_at)


class _Run(NamedTuple):
    """Instants ``first`` to ``last`` with one state of the diode: v = powers (start + sums), d v likewise."""

    first: int
    last: int
    on: int
    start: float
    slope: float
    response: float


@dataclasses.dataclass(frozen=True)
class March:
    """Where a march leads, and the runs it is made of.

    ``v_end`` V on the capacitor at the last instant, ``on_end`` the diode then, ``slope`` d v_end / d v_start,
    ``response`` d v_end / d (scale of a unit load), 0 where none was given.
    """

    v_end: float
    on_end: int
    slope: float
    response: float
    runs: tuple[_Run, ...]


class RailOnGrid:
    """A rail and its source on a grid of n steps: n + 1 instants of ``emf``, ``step_s`` apart.

    ``near_v`` how near its periodic state is sought, V.
    """

    def __init__(self, circuit: RailCircuit, emf: Array, step_s: float, near_v: float = 1e-5) -> None:
        self.near_v = near_v
        self.circuit, self.emf, self.step_s, self.steps = circuit, emf, step_s, len(emf) - 1
        self.crest = float(np.max(emf))
        r, g_b, g_s = circuit.esr_ohm, circuit.g_bleed_s, 1.0 / circuit.r_source_ohm
        g = (g_b, g_b + g_s)
        # The node stands at share (v - r i), with r g_s e added while the diode is on.
        share = self._share = (1.0 / (1.0 + r * g[OFF]), 1.0 / (1.0 + r * g[ON]))
        self._fed_node = (r * g_s * share[OFF]) * emf
        k = step_s / (2.0 * circuit.c_f)
        self._ka = (k * share[OFF], k * share[ON])
        self._fed = k * share[ON] * g_s
        self._keep = (1.0 - self._ka[OFF] * g[OFF], 1.0 - self._ka[ON] * g[ON])
        self._inv = (1.0 / (1.0 + self._ka[OFF] * g[OFF]), 1.0 / (1.0 + self._ka[ON] * g[ON]))
        # Never quite 0: it is divided by.
        self._length, self._powers, self._inverse, self._powers_listed, self._inverse_listed = _powers(
            self._keep[OFF] * self._inv[OFF] or 1e-12,
            self._keep[ON] * self._inv[ON] or 1e-12,
            self.steps,
        )
        self._blocks = -(-self.steps // self._length)
        # A step far above the time constant makes a negative, which turns its inequality round.
        self._sign = tuple(1.0 if keep >= 0.0 else -1.0 for keep in self._keep)
        # Current flows while e (1 + r g_b) is above v - r i, whatever the state: the node of an idle diode is below e.
        drive = np.zeros((2, self.steps))
        drive[ON] = (self._inv[ON] * self._fed) * (emf[:-1] + emf[1:])
        self._from_emf = self._lay(drive, (1.0 + r * g_b) * emf)

    def alone(self, current: LoadCurrent) -> Laid:
        """A load current without the source."""
        drive = np.array([[-2.0 * self._ka[k] * self._inv[k]] for k in (OFF, ON)]) * current.mean
        return Laid(current, *self._lay(drive, self.circuit.esr_ohm * current.at))

    def under(self, current: LoadCurrent) -> Laid:
        """The source and a load current."""
        load = self.alone(current)
        return Laid(current, self._from_emf[0] + load.sums, self._from_emf[1] + load.change_at)

    def _lay(self, drive: Array, at: Array) -> tuple[Array, Array]:
        blocks, length = self._blocks, self._length
        short = blocks * length - self.steps
        if short:
            drive = np.concatenate([drive, np.zeros((2, short))], axis=1)
            at = np.concatenate([at, np.repeat(at[-1:], short)])
        sums = np.zeros((2, blocks, length + 1))
        np.cumsum(drive.reshape(2, blocks, length) * self._inverse[:, None, 1:], axis=2, out=sums[:, :, 1:])
        passed = np.empty((blocks, length + 1))
        passed[:, :-1], passed[:, -1] = at[:-1].reshape(blocks, length), at[length::length]
        change_at = passed * self._inverse[:, None] - sums
        change_at[OFF] *= self._sign[OFF]
        change_at[ON] *= -self._sign[ON]
        return sums, change_at

    def march(self, laid: Laid, v_start: float, unit: Laid | None = None) -> March:
        """From ``v_start`` on the capacitor, diode off; ``unit`` the load in whose direction ``response`` is taken."""
        still_wanted()
        mean, emf, steps, length = laid.current.mean, self.emf, self.steps, self._length
        powers, inverse, sign = self._powers_listed, self._inverse_listed, self._sign
        half = self._ka[OFF] + self._ka[ON]
        runs: list[_Run] = []
        v, slope, response = v_start, 1.0, 0.0
        j, on = 0, OFF
        while j < steps:
            block, local = divmod(j, length)
            sums, back = laid.sums[on, block], inverse[on][local]
            end = min(length, steps - block * length)
            start = v * back - sums.item(local)
            over = laid.change_at[on, block, local + 1 : end + 1] > sign[on] * (-start if on else start)
            count = int(over.argmax())
            changes = over.item(count)
            last = local + count if changes else end
            power, begun = powers[on][last], j
            slope, by_scale = slope * back, 0.0
            if unit is not None:
                unit_sums = unit.sums[on, block]
                by_scale = response * back - unit_sums.item(local)
                response = power * (by_scale + unit_sums.item(last))
            j += last - local
            runs.append(_Run(begun, j, on, start, slope, by_scale))
            v, slope = power * (start + sums.item(last)), power * slope
            if changes:
                # The step in which the diode changes: half of it in either state.
                keep, inv = self._keep[on], self._inv[1 - on]
                fed = self._fed * emf.item(j if on else j + 1)
                v = (v * keep + fed - half * mean.item(j)) * inv
                slope *= keep * inv
                if unit is not None:
                    response = (response * keep - half * unit.current.mean.item(j)) * inv
                on, j = 1 - on, j + 1
        return March(v, on, slope, response, tuple(runs))

    def waveform(self, laid: Laid, march: March) -> tuple[Array, Array]:
        """Volts of the capacitor and of the load node at the n + 1 instants of a march."""
        v = np.empty(self.steps + 1)
        for run in march.runs:
            block, local = divmod(run.first, self._length)
            here = slice(local, local + run.last - run.first + 1)
            v[run.first : run.last + 1] = self._powers[run.on, here] * (run.start + laid.sums[run.on, block, here])
        v[-1] = march.v_end
        node = v - self.circuit.esr_ohm * laid.current.at
        node *= self._share[OFF]
        fed, other = self._fed_node, self._share[ON] / self._share[OFF]
        for span in self._conducting(march):
            node[span] = (node[span] + fed[span]) * other
        return v, node

    def _conducting(self, march: March) -> Iterator[slice]:
        """The instants with the diode on, each once: where a block ends, its last is the next one's first."""
        at = 0
        for run in march.runs:
            if run.on:
                yield slice(max(run.first, at), run.last + 1)
            at = run.last + 1
        if march.on_end and at == self.steps:
            yield slice(self.steps, self.steps + 1)

    def diode_current(self, march: March, v_node: Array) -> Array:
        """Amperes of the diode at the n + 1 instants of a march."""
        i = np.zeros(self.steps + 1)
        for span in self._conducting(march):
            i[span] = np.maximum(self.emf[span] - v_node[span], 0.0) * (1.0 / self.circuit.r_source_ohm)
        return i

    def node_slopes(self, unit: Laid, march: March, k: int) -> tuple[float, float]:
        """D v_node / d v_start and d v_node / d (scale of ``unit``) at instant ``k`` of a march along ``unit``."""
        on, slope, response = march.on_end, march.slope, march.response
        if k < self.steps:
            run = next(run for run in reversed(march.runs) if run.first <= k)
            block, local = divmod(run.first, self._length)
            local, on = local + k - run.first, run.on
            power = float(self._powers[on, local])
            slope, response = power * run.slope, power * (run.response + float(unit.sums[on, block, local]))
        share = self._share[on]
        return slope * share, (response - self.circuit.esr_ohm * float(unit.current.at[k])) * share


@functools.lru_cache(maxsize=256)
def _powers(off: float, on: float, steps: int) -> tuple[int, Array, Array, list[list[float]], list[list[float]]]:
    """Length of a block, the powers of a over it by state (2, length + 1) and their inverses; both as lists too."""
    length = 1
    if off > 0.0 and on > 0.0:
        fastest = -math.log(min(off, on))
        length = min(steps, max(1, int(MOST_DECAY / fastest)))
    powers = np.array([[off], [on]]) ** np.arange(length + 1.0)
    inverse = 1.0 / powers
    # One number at a time is quicker to be had from a list.
    return length, powers, inverse, powers.tolist(), inverse.tolist()
