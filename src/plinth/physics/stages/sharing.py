"""How parallel output devices share a current when they are not alike.

Bipolar: I = I0 exp((V - V0) / V_T), V0 measured at I0 (J. J. Ebers and J. L. Moll, Proc. IRE 42, 1954). Field effect:
I = k (V - V_th)^2 about the measured point (H. Shichman and D. A. Hodges, IEEE J. SC-3, 1968), by its slope there.
Each behind its own emitter or source resistor, all between the same two nodes.
"""

import math
from collections.abc import Sequence

from plinth.physics.numbers.roots import bracketed

# kT/q at 300 K.
THERMAL_V = 0.02585
# Below this a measured control voltage is a junction's, above it a gate's.
GATE_FROM_V = 1.0
# A usual vertical power device at a small current: its slope is 2 I / (V_gs - V_th), this far beyond threshold.
GATE_BEYOND_V = 0.5


def shares_a(control_v: Sequence[float], r_ohm: float, total_a: float) -> tuple[float, ...]:
    """Amperes of each device of a parallel set that carries ``total_a`` (> 0), each behind ``r_ohm`` (>= 0).

    ``control_v`` base-emitter or gate-source volts, all measured at one current.
    """
    each = total_a / len(control_v)
    mean = sum(control_v) / len(control_v)
    bipolar = mean < GATE_FROM_V

    def device_a(v: float, v0: float) -> float:
        """The current at ``v`` between the nodes: through device and resistor, by Newton's rule on its logarithm."""
        i = each
        for _ in range(60):
            over = _control_v(i, v0, each, bipolar) + i * r_ohm - v
            slope = (THERMAL_V / i if bipolar else GATE_BEYOND_V / (2.0 * each)) + r_ohm
            step = over / slope
            i = max(i - step, 0.1 * i) if bipolar else max(i - step, 0.0)
            if abs(step) < 1e-9 * each:
                break
        return i

    def surplus(v: float) -> float:
        return sum(device_a(v, v0) for v0 in control_v) - total_a

    at = mean + each * r_ohm
    apart = max(control_v) - min(control_v) + 1e-6
    low, high = at - 2.0 * apart, at + 2.0 * apart
    v = bracketed(surplus, (low, surplus(low)), (high, surplus(high)), 1e-7 * total_a)
    return tuple(device_a(v, v0) for v0 in control_v)


def _control_v(i: float, v0: float, i0: float, bipolar: bool) -> float:
    if bipolar:
        return v0 + THERMAL_V * math.log(i / i0)
    return v0 + (i - i0) * GATE_BEYOND_V / (2.0 * i0)


def unevenness(amperes: Sequence[float]) -> float:
    """How far the largest lies above their mean, as a share of it."""
    mean = sum(amperes) / len(amperes)
    return max(amperes) / mean - 1.0
