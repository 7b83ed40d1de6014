"""Switch-on and bleed-down in time."""

import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails.rail import RailCircuit, constant_current, rectified_emf
from plinth.physics.rails.rail_march import RailOnGrid

Array = NDArray[np.float64]

# Volts below which a charged rail counts as safe to touch.
SAFE_V = 5.0
MOST_HALF_CYCLES = 2000
# A rail that moves less in a half cycle will not get there.
AT_REST_V = 1e-9


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
    most_s: float = math.inf,
) -> float:
    """Seconds from switch-on (capacitor empty, mains zero crossing) until the reservoir is within 2 % of final.

    ``v_final`` is the capacitor's voltage at a mains zero crossing in steady state. Taken from zero crossing to zero
    crossing and interpolated, so that the figure does not jump by whole half cycles. ``steps`` for each of them;
    infinite if it is not reached within 2000 half cycles or ``most_s``.
    """
    half_s = 1.0 / (2.0 * f_mains_hz)
    rail = RailOnGrid(circuit, rectified_emf(v_amplitude, v_drop, 1, steps, third_harmonic), half_s / steps)
    idle, none = (rail.under(constant_current(i_a, steps)) for i_a in (i_load_a, 0.0))
    v, wanted = 0.0, (1.0 - within) * v_final
    for k in range(int(min(MOST_HALF_CYCLES, most_s / half_s))):
        # The module draws nothing from an empty rail, so the load joins once the rail is half way up.
        after = rail.march(idle if v > 0.5 * v_final else none, v).v_end
        if after >= wanted:
            return (k + (wanted - v) / (after - v)) * half_s
        if abs(after - v) < AT_REST_V:
            break
        v = after
    return math.inf
