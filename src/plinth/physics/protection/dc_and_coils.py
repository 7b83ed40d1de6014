"""DC detector, relay coils and contacts."""

import dataclasses
import math


def dc_trip_s(v_dc: float, v_threshold: float, time_constant_s: float) -> float:
    """Seconds from a steady ``v_dc`` at the output to the trip: a one-pole low-pass reaches the threshold.

    t = -tau ln(1 - V_th / V); infinite where the DC stays below the threshold.
    """
    if v_dc <= v_threshold:
        return math.inf
    return -time_constant_s * math.log(1.0 - v_threshold / v_dc)


def dc_false_trip_hz(v_peak: float, v_threshold: float, time_constant_s: float) -> float:
    """Below this frequency a sine of ``v_peak`` trips it: A / sqrt(1 + (2 pi f tau)^2) = V_th. 0: none does."""
    if v_peak <= v_threshold:
        return 0.0
    return math.sqrt((v_peak / v_threshold) ** 2 - 1.0) / (2.0 * math.pi * time_constant_s)


@dataclasses.dataclass(frozen=True)
class Coils:
    """Relay coils on a rail: volts across each coil, amperes drawn, watts in the dropper resistor."""

    v_each: float
    i_a: float
    p_dropper_w: float


def coils_on_rail(v_rail: float, coil_ohm: float, count: int, wiring: str, r_dropper_ohm: float) -> Coils:
    """Coils in ``series`` or ``parallel`` behind a dropper resistor (0 for none), Ohm's law."""
    r_coils = coil_ohm * count if wiring == "series" else coil_ohm / count
    i = v_rail / (r_coils + r_dropper_ohm)
    v_coils = i * r_coils
    return Coils(v_coils / count if wiring == "series" else v_coils, i, i * i * r_dropper_ohm)
