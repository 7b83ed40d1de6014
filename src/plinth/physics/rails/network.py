"""Marching rails in general (``network_elements``).

Between two changes of a diode the network is linear: one matrix per set of conducting diodes (``network_equations``),
stepped by the trapezoid rule, a whole run at once by doubling. ``rail`` is the quicker way for a plain, uncoupled one.
"""

import dataclasses
import functools
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.cancellation import still_wanted
from plinth.physics.numbers.errors import RailRunOffError
from plinth.physics.rails.network_elements import RailNetwork
from plinth.physics.rails.network_equations import state_equations

Array = NDArray[np.float64]

# So many steps are looked at before it is asked whether a diode changed: a share of a half cycle, no fewer; without
# diodes that change, as many.
LOOKS, SHORTEST_LOOK, LONGEST_LOOK = 2, 32, 256


@dataclasses.dataclass(frozen=True)
class Drives:
    """What acts on a network of m rails over n steps.

    ``emf`` (n + 1, m) source less fixed drops; ``late_emf`` what it is for a current that flows on past the mains
    zero crossing through leakage; ``load_at`` (n + 1, m) and ``load_mean`` (n, m) amperes; ``zero_every`` steps between
    zero crossings (0: none, a steady source).
    """

    emf: Array
    late_emf: Array
    load_at: Array
    load_mean: Array
    zero_every: int


@dataclasses.dataclass(frozen=True)
class Motion:
    """``x`` (n + 1, states), ``emf`` (n + 1, m) as it acted, ``runs`` (first instant, diodes from there)."""

    x: Array
    emf: Array
    runs: tuple[tuple[int, tuple[bool, ...]], ...]


@dataclasses.dataclass(frozen=True)
class NetworkMarch(Motion):
    """A motion and its slopes: ``end_slope`` d x[n] / d x[0], ``run_slopes`` the same at the first instant of each run.

    ``response`` (n + 1, states) d x / d (load scale), where a unit load was given.
    """

    end_slope: Array
    run_slopes: tuple[Array, ...]
    response: Array | None


class _Piece:
    """The network with one set of diodes conducting, made into steps by the trapezoid rule."""

    def __init__(self, network: RailNetwork, on: tuple[bool, ...], step_s: float) -> None:
        self.on = on
        m, n = len(network.rails), network.size
        equations = state_equations(network, on)
        self.from_x, self.from_u = equations.from_x, equations.from_u
        self.v_a_x, self.v_a_u, self.v_load_x, self.v_load_u = (
            equations.v_a_x,
            equations.v_a_u,
            equations.v_load_x,
            equations.v_load_u,
        )
        a, b = equations.a, equations.b
        h = step_s / 2.0
        self.inverse = np.linalg.inv(np.eye(n) - h * a)
        self.keep = np.eye(n) + h * a
        self.half_b = h * b
        self.step = self.inverse @ self.keep
        self.push = self.inverse @ self.half_b
        # Contiguous, transposed: a run is (steps, states), and small products are all that a march does.
        self.push_emf = np.ascontiguousarray(self.push[:, :m].T)
        self.push_load = np.ascontiguousarray(2.0 * self.push[:, m:].T)
        # By number, so that two threads that make the same one at once leave the same behind.
        self.doublings = {0: np.ascontiguousarray(self.step.T)}
        self._powers = {0: np.eye(n)}
        diodes = np.array([4 * r for r in range(m)])
        mixed_x, mixed_u = equations.over_x.copy(), equations.over_u.copy()
        for r in range(m):
            if on[r]:
                mixed_x[r], mixed_u[r] = -self.from_x[diodes[r]], -self.from_u[diodes[r]]
        # Positive where a diode would change: volts over an idle one, minus the current of a conducting one.
        self.wants_x = np.ascontiguousarray(mixed_x.T)
        self.wants_emf = np.ascontiguousarray(mixed_u[:, :m].T)
        self.wants_load = np.ascontiguousarray(mixed_u[:, m:].T)

    def run(self, x: Array, push: Array) -> Array:
        """(steps, k, states) after each of the steps with ``push`` (steps, k, states), from ``x`` (k, states)."""
        steps, k, n = push.shape
        y = push.reshape(-1, n) + 0.0
        y[:k] += x @ self.doublings[0]
        reach, level = k, 0
        while reach < len(y):
            y[reach:] += y[:-reach] @ self.doubled(level)
            reach, level = 2 * reach, level + 1
        return y.reshape(steps, k, n)

    def power(self, steps: int) -> Array:
        """The state's own map over so many steps."""
        known = self._powers.get(steps)
        if known is None:
            product, left, level = self._powers[0], steps, 0
            while left:
                if left & 1:
                    product = product @ self.doubled(level)
                left, level = left >> 1, level + 1
            known = self._powers[steps] = product.T if steps else product
        return known

    def doubled(self, level: int) -> Array:
        """The map over 2^level steps, transposed."""
        known = self.doublings.get(level)
        if known is None:
            half = self.doubled(level - 1)
            known = self.doublings[level] = half @ half
        return known


@dataclasses.dataclass(frozen=True)
class _Turn:
    """The step in which a diode changes, half of it in either state."""

    across: Array
    emf_before: Array
    emf_after: Array
    load: Array


class _Pieces:
    """All pieces of a network on one grid, made when first needed."""

    def __init__(self, network: RailNetwork, step_s: float) -> None:
        self.network, self.step_s = network, step_s
        self._made: dict[tuple[bool, ...], _Piece] = {}
        self._turns: dict[tuple[tuple[bool, ...], tuple[bool, ...]], _Turn] = {}

    def __getitem__(self, on: tuple[bool, ...]) -> _Piece:
        if on not in self._made:
            self._made[on] = _Piece(self.network, on, self.step_s)
        return self._made[on]

    def turn(self, on: tuple[bool, ...], then: tuple[bool, ...]) -> _Turn:
        """The step from one set of conducting diodes to another."""
        if (on, then) not in self._turns:
            before, after, m = self[on], self[then], len(on)
            self._turns[on, then] = _Turn(
                after.inverse @ before.keep,
                after.inverse @ before.half_b[:, :m],
                after.inverse @ after.half_b[:, :m],
                after.inverse @ (before.half_b[:, m:] + after.half_b[:, m:]),
            )
        return self._turns[on, then]


@functools.lru_cache(maxsize=64)
def pieces_of(network: RailNetwork, step_s: float) -> _Pieces:
    """The matrices of a network on a grid."""
    return _Pieces(network, step_s)


def march_network(
    network: RailNetwork, drives: Drives, step_s: float, x_start: Array, unit: tuple[Array, Array] | None = None
) -> NetworkMarch:
    """March from ``x_start``; ``unit`` (at, mean) a load per unit of scale, for ``response``.

    Raises RailRunOffError where the states grow beyond all numbers.
    """
    with np.errstate(over="ignore", invalid="ignore"):
        march = _march(network, drives, step_s, x_start, unit)
    if not np.isfinite(march.x[-1]).all():
        raise RailRunOffError("these rails run off without end: a load that gives energy back is too much for them")
    return march


def _march(
    network: RailNetwork, drives: Drives, step_s: float, x_start: Array, unit: tuple[Array, Array] | None
) -> NetworkMarch:
    pieces = pieces_of(network, step_s)
    n, m, k = len(drives.load_mean), len(network.rails), 1 if unit is None else 2
    sources = [place.get("i_source") for place in network.places]
    leaky = any(at is not None for at in sources)
    emf = drives.emf.copy() if leaky else drives.emf
    # The state, and beside it how it answers to the load's scale.
    x = np.zeros((n + 1, k, network.size))
    x[0, 0] = x_start
    on = _on_at_start(pieces, x_start, emf[0], drives.load_at[0], sources, steady=not drives.zero_every)
    late = [state and at is not None and drives.zero_every > 0 for state, at in zip(on, sources, strict=True)]
    slope, j = pieces[on].power(0), 0
    runs, run_slopes = [(0, on)], [slope]
    longest = max(SHORTEST_LOOK, drives.zero_every // LOOKS) if drives.zero_every else LONGEST_LOOK
    for r in range(m):
        if late[r]:
            emf[: drives.zero_every + 1, r] = drives.late_emf[: drives.zero_every + 1, r]
    laid: dict[tuple[bool, ...], tuple[Array, Array]] = {}
    while j < n:
        still_wanted()
        piece = pieces[on]
        if on not in laid:
            laid[on] = _laid(piece, emf, drives, unit)
        push, pull = laid[on]
        stop = min(n, j + longest)
        if leaky and drives.zero_every:
            stop = min(stop, (j // drives.zero_every + 1) * drives.zero_every)
        run = piece.run(x[j], push[j:stop])
        wants = run[:, 0] @ piece.wants_x
        wants += pull[j:stop]
        changing = wants > 0.0
        count, r = divmod(int(changing.argmax()), m)
        if not changing[count, r]:
            count = len(run)
        x[j + 1 : j + 1 + count] = run[:count]
        slope = piece.power(count) @ slope
        j += count
        if count < len(run):
            new_on = tuple([state != change for state, change in zip(on, changing[count].tolist(), strict=True)])
            turn = pieces.turn(on, new_on)
            x[j + 1] = x[j] @ turn.across.T
            x[j + 1, 0] += turn.emf_before @ emf[j] + turn.emf_after @ emf[j + 1] + turn.load @ drives.load_mean[j]
            if unit is not None:
                x[j + 1, 1] += turn.load @ unit[1][j]
            slope = turn.across @ slope
            for r, at in enumerate(sources):
                if at is not None and (not new_on[r] or x[j + 1, 0, at] < 0.0):
                    x[j + 1, :, at], slope[at] = 0.0, 0.0
                if not new_on[r] and late[r]:
                    late[r] = False
                    emf[j + 1 :, r] = drives.emf[j + 1 :, r]
                    laid.clear()
            j, on = j + 1, new_on
            runs.append((j, on))
            run_slopes.append(slope)
        elif leaky and drives.zero_every and j % drives.zero_every == 0 and j < n:
            for r, at in enumerate(sources):
                if at is not None and on[r] and not late[r]:
                    late[r] = True
                    emf[j : j + drives.zero_every + 1, r] = drives.late_emf[j : j + drives.zero_every + 1, r]
                    laid.clear()
    response = None if unit is None else x[:, 1]
    return NetworkMarch(x[:, 0], emf, tuple(runs), slope, tuple(run_slopes), response)


def _laid(piece: _Piece, emf: Array, drives: Drives, unit: tuple[Array, Array] | None) -> tuple[Array, Array]:
    """What drives each step with these diodes, (n, k, states), and its part in what they want after it, (n, m)."""
    push = (emf[:-1] + emf[1:]) @ piece.push_emf
    push += drives.load_mean @ piece.push_load
    pull = emf[1:] @ piece.wants_emf
    pull += drives.load_at[1:] @ piece.wants_load
    if unit is None:
        return push[:, None], pull
    return np.stack([push, unit[1] @ piece.push_load], axis=1), pull


def _on_at_start(
    pieces: _Pieces, x: Array, emf: Array, load: Array, sources: list[int | None], *, steady: bool
) -> tuple[bool, ...]:
    """Which diodes conduct at the first instant: those with current left, and those with volts to drive it."""
    if steady and sources == [None] * len(sources):
        # A steady source mostly feeds all its rails, and where none of them would shut, they do.
        piece = pieces[(True,) * len(sources)]
        if not (x @ piece.wants_x + emf @ piece.wants_emf + load @ piece.wants_load > 0.0).any():
            return piece.on
    on = tuple(at is not None and x[at] > 1e-12 for at in sources)
    for _ in on:
        piece = pieces[on]
        wants = x @ piece.wants_x + emf @ piece.wants_emf + load @ piece.wants_load
        turning = tuple(
            bool(not state and at is None and w > 0.0) for state, at, w in zip(on, sources, wants, strict=True)
        )
        if not any(turning):
            break
        on = tuple(a or b for a, b in zip(on, turning, strict=True))
    if not pieces.network.r_shared_ohm or sum(on) < len(on):
        return on
    # Two that would each conduct alone need not both: the current of one may shut the other in what they share.
    piece = pieces[on]
    wants = x @ piece.wants_x + emf @ piece.wants_emf + load @ piece.wants_load
    return tuple(bool(state and not (at is None and w > 0.0)) for state, at, w in zip(on, sources, wants, strict=True))


def load_voltage_slopes(
    network: RailNetwork, step_s: float, march: NetworkMarch, unit_at: Array, k: int
) -> tuple[Array, Array]:
    """(m, states) d v_load[k] / d x[0], and (m,) d v_load[k] / d (load scale)."""
    assert march.response is not None
    (first, on), slope = next(pair for pair in zip(march.runs[::-1], march.run_slopes[::-1], strict=True)
                              if pair[0][0] <= k)  # fmt: skip
    piece, m = pieces_of(network, step_s)[on], len(network.rails)
    by_start = piece.v_load_x @ piece.power(k - first) @ slope
    by_scale = piece.v_load_x @ march.response[k] + piece.v_load_u[:, m:] @ unit_at[k]
    return by_start, by_scale


@dataclasses.dataclass(frozen=True)
class NetworkWaves:
    """Everything at the n + 1 instants of a march, each (n + 1, m): volts and amperes of every branch."""

    v_load: Array
    v_reservoir: Array
    i_source: Array
    i_cap: Array
    i_series: Array
    i_cap2: Array
    i_load: Array
    i_bleed: Array


def load_volts(network: RailNetwork, drives: Drives, step_s: float, march: Motion) -> Array:
    """Volts at the loads at the n + 1 instants of a march, (n + 1, m): what ``waves_of`` gives, alone."""
    m, volts = len(network.rails), np.empty(march.emf.shape)
    for piece, span in _spans(network, step_s, march):
        volts[span] = march.x[span] @ piece.v_load_x.T
        volts[span] += march.emf[span] @ piece.v_load_u[:, :m].T
        volts[span] += drives.load_at[span] @ piece.v_load_u[:, m:].T
    return volts


def _spans(network: RailNetwork, step_s: float, march: Motion) -> Iterator[tuple[_Piece, slice]]:
    """The runs of a march with one set of diodes: its matrices and its instants."""
    pieces = pieces_of(network, step_s)
    for k, (first, on) in enumerate(march.runs):
        yield pieces[on], slice(first, march.runs[k + 1][0] if k + 1 < len(march.runs) else len(march.x))


def waves_of(network: RailNetwork, drives: Drives, step_s: float, march: Motion) -> NetworkWaves:
    """The waveforms of a march."""
    n, m = len(march.x), len(network.rails)
    u = np.hstack([march.emf, drives.load_at])
    inner, v_a, v_load = np.empty((n, 4 * m)), np.empty((n, m)), np.empty((n, m))
    for piece, span in _spans(network, step_s, march):
        inner[span] = march.x[span] @ piece.from_x.T + u[span] @ piece.from_u.T
        v_a[span] = march.x[span] @ piece.v_a_x.T + u[span] @ piece.v_a_u.T
        v_load[span] = march.x[span] @ piece.v_load_x.T + u[span] @ piece.v_load_u.T
    bleed = np.array([rail.g_bleed_s for rail in network.rails])
    return NetworkWaves(
        v_load=v_load,
        v_reservoir=v_a,
        i_source=np.maximum(inner[:, 0::4], 0.0),
        i_cap=inner[:, 1::4],
        i_series=inner[:, 2::4],
        i_cap2=inner[:, 3::4],
        i_load=drives.load_at + v_load @ network.conductance.T,
        i_bleed=v_a * bleed,
    )
