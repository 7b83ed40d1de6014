"""A loudspeaker as the load it is: one resonance and the coil's inductance."""

import cmath
import math


def loudspeaker_impedance(
    f_hz: float, r_dc_ohm: float, f_resonance_hz: float, q_mechanical: float, q_electrical: float, l_coil_h: float
) -> tuple[float, float]:
    """|Z| in ohm and phase in degrees (above 0 inductive) at ``f_hz`` of a moving-coil driver in its box.

    Z = R_dc + j w L + R_dc (Q_m / Q_e) / (1 + j Q_m (f / f_s - f_s / f)): the voice coil in series with the motional
    resonance. Source: R. H. Small, "Direct-Radiator Loudspeaker System Analysis", JAES 20 (1972).
    """
    detuning = f_hz / f_resonance_hz - f_resonance_hz / f_hz
    motional = r_dc_ohm * q_mechanical / q_electrical / complex(1.0, q_mechanical * detuning)
    z = complex(r_dc_ohm, 2.0 * math.pi * f_hz * l_coil_h) + motional
    return abs(z), math.degrees(cmath.phase(z))
