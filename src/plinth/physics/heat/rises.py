"""Dissipation of class AB stages and the temperatures that follow."""

import math


def sink_temperature_c(ambient_c: float, heat_w: float, r_sink_k_per_w: float) -> float:
    """Steady temperature of a sink that carries ``heat_w`` in air of ``ambient_c``."""
    return ambient_c + heat_w * r_sink_k_per_w


def time_to_rated_rise_s(power_w: float, rated_w: float, time_constant_s: float) -> float:
    """How long a cold resistor may carry ``power_w`` before it reaches the rise it has at ``rated_w``.

    Infinite up to the rating, then -tau ln(1 - P_rated / P): one thermal mass behind one resistance.
    """
    if power_w <= rated_w:
        return math.inf
    return -time_constant_s * math.log(1.0 - rated_w / power_w)
