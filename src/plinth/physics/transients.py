"""Switch-on and bleed-down in time."""

import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rail import RailCircuit, constant_current, rectified_emf
from plinth.physics.rail_march import RailOnGrid

Array = NDArray[np.float64]

MOST_HALF_CYCLES = 2000


def bleed_down_s(c_f: float, r_ohm: float, v_start: float, v_end: float, i_load_a: float = 0.0) -> float:
    """Seconds for a capacitor to fall from ``v_start`` to ``v_end`` (> 0) through ``r_ohm`` and a load current.

    t = R C ln((v_start + I R) / (v_end + I R)). Infinite for an infinite resistance and no load current.
    """
    if v_start <= v_end:
        return 0.0
    if math.isinf(r_ohm):
        return math.inf if i_load_a == 0.0 else c_f * (v_start - v_end) / i_load_a
    return r_ohm * c_f * math.log((v_start + i_load_a * r_ohm) / (v_end + i_load_a * r_ohm))


def bleed_voltage(c_f: float, r_ohm: float, v_start: float, seconds: float) -> float:
    """Volts left after ``seconds`` through ``r_ohm``: v exp(-t / RC)."""
    return v_start * math.exp(-seconds / (r_ohm * c_f))


def switch_on_s(
    circuit: RailCircuit,
    v_amplitude: float,
    v_drop: float,
    f_mains_hz: float,
    i_load_a: float,
    v_final: float,
    within: float = 0.02,
    steps: int = 120,
    third_harmonic: float = 0.0,
) -> float:
    """Seconds from switch-on (capacitor empty, mains zero crossing) until the reservoir is within 2 % of final.

    ``v_final`` is the capacitor's voltage at a mains zero crossing in steady state. Taken from zero crossing to zero
    crossing and interpolated, so that the figure does not jump by whole half cycles. Marches four half cycles at a
    time, with ``steps`` steps each; infinite if it is not reached within 2000 half cycles.
    """
    chunk, step_s = 4, 1.0 / (2.0 * f_mains_hz) / steps
    n = chunk * steps
    rail = RailOnGrid(circuit, rectified_emf(v_amplitude, v_drop, chunk, n, third_harmonic), step_s)
    idle, none = (rail.under(constant_current(i_a, n)) for i_a in (i_load_a, 0.0))
    v = 0.0
    for first in range(0, MOST_HALF_CYCLES, chunk):
        # The module draws nothing from an empty rail, so the load joins once the rail is half way up.
        drawn = idle if v > 0.5 * v_final else none
        march = rail.march(drawn, v)
        ends = rail.waveform(drawn, march)[0][::steps]
        reached = np.flatnonzero(ends >= (1.0 - within) * v_final)
        if len(reached) and reached[0] > 0:
            k = int(reached[0])
            share = ((1.0 - within) * v_final - ends[k - 1]) / (ends[k] - ends[k - 1])
            return float((first + k - 1 + share) * steps * step_s)
        v = march.v_end
    return math.inf
