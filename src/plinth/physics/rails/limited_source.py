"""Rails behind a source that limits its current, over time: a bench supply, a switcher, a converter at its limit.

    v_set - r - limit - node -+- load current
                              +- bleeder
                              +- ESR - C

Backward Euler, so that a stiff source stays stable at any step. A source cannot take current back.
"""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.cancellation import still_wanted

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class CurrentLimit:
    """``i_a`` per rail at full volts; ``left_at_zero`` what share of it is left at 0 V (1: constant, less: folds back).

    After ``trips_s`` at its limit the source cuts out for ``off_s`` and tries again (infinite: it never does).
    """

    i_a: float
    left_at_zero: float = 1.0
    trips_s: float = math.inf
    off_s: float = 0.0


@dataclasses.dataclass(frozen=True)
class LimitedRail:
    """``v_set`` V behind ``r_ohm``, with ``c_f``, ``esr_ohm`` and ``g_bleed_s`` at its output."""

    v_set: float
    r_ohm: float
    c_f: float
    esr_ohm: float
    g_bleed_s: float


@dataclasses.dataclass(frozen=True)
class LimitState:
    """Volts in each capacitor, how long the limit has held (s), and how long the source is still off (s)."""

    v_cap: tuple[float, ...]
    held_s: float = 0.0
    off_s: float = 0.0


@dataclasses.dataclass(frozen=True)
class LimitedMarch:
    """``v_node`` (n + 1, m); ``limiting`` and ``off`` (n,) whether each step was so; ``end`` the state at the end."""

    v_node: Array
    limiting: NDArray[np.bool_]
    off: NDArray[np.bool_]
    end: LimitState


def march_limited(
    rails: tuple[LimitedRail, ...], load_mean: Array, step_s: float, limit: CurrentLimit, start: LimitState
) -> LimitedMarch:
    """March over the n steps of ``load_mean`` (n, m) amperes."""
    still_wanted()
    n, m = load_mean.shape
    v_node = np.empty((n + 1, m))
    limiting, off = np.zeros(n, dtype=bool), np.zeros(n, dtype=bool)
    v, held, wait = list(start.v_cap), start.held_s, start.off_s
    loads = load_mean.tolist()
    v_node[0] = v
    for j in range(n):
        at_limit = False
        for r, rail in enumerate(rails):
            i_load = loads[j][r]
            given = 0.0
            if wait <= 0.0:
                # What flows without a limit: v' = v + h (i - i_load) / C, node = v' + ESR (i - i_load).
                k = step_s / rail.c_f
                slack = rail.r_ohm + rail.esr_ohm + k
                given = max((rail.v_set - v[r] + (rail.esr_ohm + k) * i_load) / slack, 0.0)
                maximum = limit.i_a * (
                    limit.left_at_zero + (1.0 - limit.left_at_zero) * min(max(v[r] / rail.v_set, 0.0), 1.0)
                )
                if given > maximum:
                    given, at_limit = maximum, True
            v[r] = (v[r] + step_s / rail.c_f * (given - i_load)) / (1.0 + step_s / rail.c_f * rail.g_bleed_s)
            v[r] = max(v[r], 0.0)
            v_node[j + 1, r] = max(v[r] + rail.esr_ohm * (given - i_load), 0.0)
        off[j], limiting[j] = wait > 0.0, at_limit
        wait = max(wait - step_s, 0.0)
        held = held + step_s if at_limit else 0.0
        if held >= limit.trips_s:
            held, wait = 0.0, limit.off_s
    return LimitedMarch(v_node, limiting, off, LimitState(tuple(v), held, wait))
