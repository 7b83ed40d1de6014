"""Clip onset: the largest sine whose peak just touches the sagging, rippling rail.

Onset is min over time of (rail - V_sat - (1 + R_out / R_L) v_o) = 0, for one rail. Amplitude and capacitor
voltage are found together by one Newton on two unknowns, with the margin's minimum interpolated between
samples; where that does not settle, the amplitude is bisected around whole steady states.
"""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.errors import NoSwingError, RailCollapseError
from plinth.physics.numbers.roots import last_had
from plinth.physics.rails.between_samples import least_by_parabola
from plinth.physics.rails.rail import LoadCurrent, constant_current
from plinth.physics.rails.rail_march import RailOnGrid
from plinth.physics.rails.steady_state import solve_rail

Array = NDArray[np.float64]

TOLERANCE_V = 1e-6
# From this share of how near it must be one more step of Newton, which squares what is left, need not be looked at.
LAST_STEP = 0.3
MOST_NEWTON = 14


@dataclasses.dataclass(frozen=True)
class ClipOnset:
    """``v_peak`` the onset amplitude (V), ``v_cap_start`` the capacitor's voltage at the period's start (V)."""

    v_peak: float
    v_cap_start: float
    marches: int


@dataclasses.dataclass(frozen=True)
class OutputLimit:
    """What the output needs of the rail: ``v_sat`` volts, and ``1 + R_out / R_L`` volts per volt of output."""

    v_sat: float
    volts_per_volt: float


def find_clip_onset(
    rail: RailOnGrid,
    unit_load: LoadCurrent,
    idle_a: float,
    output_unit: Array,
    limit: OutputLimit,
    near: ClipOnset | None = None,
) -> ClipOnset:
    """Onset amplitude (V peak) of the output against one rail.

    ``unit_load`` rail amperes per volt of output amplitude, ``idle_a`` amperes drawn besides,
    ``output_unit`` the output towards this rail per volt of amplitude (>= 0), all on the rail's grid;
    ``near`` the onset of a similar case, to save marches.
    Raises NoSwingError where the unloaded rail is below ``v_sat``.
    """
    crest = rail.crest
    maximum = (crest - limit.v_sat) / limit.volts_per_volt
    if maximum <= 0.0:
        raise NoSwingError(
            f"the rail's crest of {crest:.3g} V is below the {limit.v_sat:.3g} V that the module itself needs"
        )
    amplitude, v = (0.8 * maximum, 0.93 * crest) if near is None else (near.v_peak, near.v_cap_start)
    amplitude, v = min(amplitude, maximum), min(v, crest)
    at_rest, unit = rail.under(constant_current(idle_a, rail.steps)), rail.alone(unit_load)
    needed = limit.volts_per_volt * output_unit
    for count in range(1, MOST_NEWTON + 1):
        laid = at_rest.plus(amplitude, unit)
        march = rail.march(laid, v, unit)
        gap = march.v_end - v
        v_node = rail.waveform(laid, march)[1]
        k, least = least_by_parabola(v_node - amplitude * needed)
        least -= limit.v_sat
        a11, a12 = march.slope - 1.0, march.response
        a21, by_scale = rail.node_slopes(unit, march, k)
        a22 = by_scale - float(needed[k])
        det = a11 * a22 - a12 * a21
        if det == 0.0:
            break
        v += (-gap * a22 + least * a12) / det
        amplitude += (-least * a11 + gap * a21) / det
        v = min(max(v, 0.05 * crest), crest)
        amplitude = min(max(amplitude, 0.01 * maximum), maximum)
        if max(abs(gap), abs(least)) < LAST_STEP * rail.near_v:
            return ClipOnset(amplitude, v, count)
    return bisected(rail, unit_load, idle_a, output_unit, limit, maximum)


def bisected(
    rail: RailOnGrid, unit_load: LoadCurrent, idle_a: float, output_unit: Array, limit: OutputLimit, most: float
) -> ClipOnset:
    """The onset by halving, where Newton's steps do not lead there."""
    marches = MOST_NEWTON

    def unclipped_at(amplitude: float) -> float | None:
        """The capacitor's volts at the period's beginning, where that amplitude is not clipped."""
        nonlocal marches
        try:
            state = solve_rail(rail, unit_load.scaled(amplitude, idle_a))
        except RailCollapseError:
            return None
        marches += state.marches
        margin = state.v_node - limit.v_sat - amplitude * limit.volts_per_volt * output_unit
        return float(state.v_cap[0]) if least_by_parabola(margin)[1] >= 0.0 else None

    last = last_had(unclipped_at, 0.0, most, TOLERANCE_V)
    if last is None:
        raise NoSwingError("the module's idle current alone takes the rail below what the output needs")
    return ClipOnset(*last, marches)
