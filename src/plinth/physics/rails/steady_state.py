"""The periodic steady state of one rail, by shooting on the capacitor's voltage.

Each period starts at the mains zero crossing, where the diode is off, so the capacitor voltage is the whole
state. The period map rises with a slope between 0 and 1, so Newton on it, held inside a bracket, always ends;
its slope comes free with the march. A "change per cycle" test would stop too early with a large reservoir.
"""

import dataclasses
import functools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.errors import RailCollapseError
from plinth.physics.numbers.roots import resting_place
from plinth.physics.rails.between_samples import least_of_period, most_of_period
from plinth.physics.rails.network_elements import RailElements
from plinth.physics.rails.rail import LoadCurrent, RailCircuit
from plinth.physics.rails.rail_march import Laid, March, RailOnGrid

Array = NDArray[np.float64]

# A gap that counts as closed, as a share of how near the state must be.
CLOSED = 0.01
MOST_MARCHES = 80


@dataclasses.dataclass(frozen=True)
class RailSteadyState:
    """One period of a rail in steady state: n + 1 instants, the last equal to the first.

    ``emf_v`` the source less its fixed drops, ``v_node`` at the load, ``v_cap`` inside the capacitor,
    ``i_diode_a``, ``i_cap_a``, ``i_load_a``, ``i_bleed_a``; ``i_load_mean_a`` over each of the n steps;
    ``step_s`` the grid. Of a second stage: ``v_reservoir`` before it, ``i_series_a`` through it, ``i_cap2_a``.
    ``v_of_others`` what the other rail's current takes of the source in the resistance that both share.
    """

    circuit: RailCircuit | RailElements
    step_s: float
    emf_v: Array
    v_node: Array
    v_cap: Array
    i_diode_a: Array
    i_cap_a: Array
    i_load_a: Array
    i_load_mean_a: Array
    marches: int
    v_reservoir: Array | None = None
    i_series_a: Array | None = None
    i_cap2_a: Array | None = None
    v_of_others: Array | None = None

    @property
    def i_bleed_a(self) -> Array:
        """Amperes in the bleeder."""
        at_reservoir = self.v_node if self.v_reservoir is None else self.v_reservoir
        return at_reservoir * self.circuit.g_bleed_s

    @property
    def p_load_w(self) -> float:
        """Mean power in the load: the exact charge of each step times the step's mean voltage.

        Products at the instants alone would be 0.1 % off at 50 steps per signal cycle.
        """
        return 0.5 * float(self.i_load_mean_a @ (self.v_node[:-1] + self.v_node[1:])) / len(self.i_load_mean_a)

    @functools.cached_property
    def v_min(self) -> float:
        """The lowest the rail gets at the load, V."""
        return least_of_period(self.v_node)

    @functools.cached_property
    def v_max(self) -> float:
        """The highest the rail gets at the load, V."""
        return most_of_period(self.v_node)

    def mean(self, samples: Array) -> float:
        """Mean over the period of ``samples`` taken at its n + 1 instants."""
        return float(samples[:-1].sum()) / (len(samples) - 1)

    def rms(self, samples: Array) -> float:
        """RMS over the period of ``samples`` taken at its n + 1 instants."""
        once = samples[:-1]
        return math.sqrt(float(once @ once) / len(once))

    def conduction_angle_deg(self) -> float:
        """180 deg x the fraction of time the diodes conduct, with the crossings interpolated."""
        if isinstance(self.circuit, RailElements) and self.circuit.l_source_h > 0.0:
            # Through leakage the current outlasts the volts that drive it.
            flows = self.i_diode_a > 0.0
            return 180.0 * float(np.mean(0.5 * (flows[:-1].astype(float) + flows[1:])))
        over = self.emf_v - (self.v_node if self.v_reservoir is None else self.v_reservoir)
        if self.v_of_others is not None:
            over = over - self.v_of_others
        a, b = over[:-1], over[1:]
        share = np.where(
            (a > 0) & (b > 0),
            1.0,
            np.where((a <= 0) & (b <= 0), 0.0, np.maximum(a, b) / np.maximum(np.abs(b - a), 1e-300)),
        )
        return 180.0 * float(np.mean(share))


def solve_rail(rail: RailOnGrid, load: LoadCurrent, v_guess: float | None = None) -> RailSteadyState:
    """Find the steady state of one rail under a ``load`` on the rail's grid.

    ``v_guess`` the starting voltage of a similar case, to save marches.
    Raises RailCollapseError where the load takes the rail to 0 V or below.
    """
    laid = rail.under(load)
    high = max(rail.crest, 0.0)

    def period(v: float) -> tuple[float, float, March]:
        march = rail.march(laid, v)
        return march.v_end - v, march.slope, march

    v = 0.93 * high if v_guess is None else min(v_guess, 0.999 * high)

    def near_enough(gap: float, slope: float) -> bool:
        # A gap is only as small as it is beside what a period leaves of it: a large reservoir forgets slowly.
        return abs(gap) < CLOSED * rail.near_v and abs(gap) <= rail.near_v * (1.0 - slope) + 1e-13

    march, marches = resting_place(period, v, 0.0, high, near_enough, MOST_MARCHES)
    return _as_steady_state(rail, laid, march, marches)


def _as_steady_state(rail: RailOnGrid, laid: Laid, march: March, marches: int) -> RailSteadyState:
    circuit, emf, load = rail.circuit, rail.emf, laid.current
    v_cap, v_node = rail.waveform(laid, march)
    lowest = float(np.min(v_node))
    if lowest <= 0.0:
        raise RailCollapseError(
            f"this load collapses the rail: it draws {float(np.mean(load.mean)):.3g} A on average "
            f"and the supply's crest is {rail.crest:.3g} V behind {circuit.r_source_ohm:.3g} ohm"
        )
    i_diode = rail.diode_current(march, v_node)
    return RailSteadyState(
        circuit=circuit,
        step_s=rail.step_s,
        emf_v=emf,
        v_node=v_node,
        v_cap=v_cap,
        i_diode_a=i_diode,
        i_cap_a=i_diode - load.at - circuit.g_bleed_s * v_node,
        i_load_a=load.at,
        i_load_mean_a=load.mean,
        marches=marches,
    )


def steady_from_march(rail: RailOnGrid, load: LoadCurrent, v_start: float) -> RailSteadyState:
    """The steady state whose starting voltage is already known (from a clip onset, for instance)."""
    laid = rail.under(load)
    return _as_steady_state(rail, laid, rail.march(laid, v_start), 1)
