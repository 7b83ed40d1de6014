"""The LC filter behind a class D stage: its corner, and how it peaks at a light or a wrong load."""

import math


def corner_hz(l_h: float, c_f: float) -> float:
    """1 / (2 pi sqrt(L C))."""
    return 1.0 / (2.0 * math.pi * math.sqrt(l_h * c_f))


def quality(l_h: float, c_f: float, r_load_ohm: float) -> float:
    """Q of L in series and C across the load: R sqrt(C / L)."""
    return r_load_ohm * math.sqrt(c_f / l_h)


def gain_db(f_hz: float, l_h: float, c_f: float, z_ohm: float, z_phase_rad: float = 0.0) -> float:
    """Gain at ``f_hz`` into an impedance: 1 / (1 - w^2 L C + j w L / Z), dB."""
    w = 2.0 * math.pi * f_hz
    z = complex(z_ohm * math.cos(z_phase_rad), z_ohm * math.sin(z_phase_rad))
    return -20.0 * math.log10(abs(1.0 - w * w * l_h * c_f + 1j * w * l_h / z))


def peak_db(l_h: float, c_f: float, r_load_ohm: float) -> float:
    """Highest gain above its passband: Q^2 / sqrt(Q^2 - 1/4) for Q above 1 / sqrt 2, else 0 dB."""
    q = quality(l_h, c_f, r_load_ohm)
    if q <= math.sqrt(0.5):
        return 0.0
    return 20.0 * math.log10(q * q / math.sqrt(q * q - 0.25))
