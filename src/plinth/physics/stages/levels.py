"""Levels of a sine: peak to peak, peak, RMS, power, decibels."""

import math

SQRT2 = math.sqrt(2.0)


def rms_from_peak(v_peak: float) -> float:
    """RMS volts of a sine of ``v_peak`` volts peak: v / sqrt 2."""
    return v_peak / SQRT2


def peak_from_rms(v_rms: float) -> float:
    """Peak volts of a sine of ``v_rms`` volts RMS: v sqrt 2."""
    return v_rms * SQRT2


def rms_from_peak_to_peak(v_pp: float) -> float:
    """RMS volts of a sine of ``v_pp`` volts peak to peak: v / (2 sqrt 2)."""
    return v_pp / (2.0 * SQRT2)


def power_w(v_rms: float, r_ohm: float) -> float:
    """Watts in ``r_ohm`` (> 0) at ``v_rms``: v^2 / R. Raises ValueError for r_ohm <= 0."""
    if r_ohm <= 0.0:
        raise ValueError(f"a load of {r_ohm} ohm cannot take power; it must be above 0 ohm")
    return v_rms * v_rms / r_ohm


def rms_for_power(p_w: float, r_ohm: float) -> float:
    """RMS volts that put ``p_w`` (>= 0) watts into ``r_ohm``: sqrt(P R)."""
    return math.sqrt(p_w * r_ohm)


def decibels(v: float, v_reference: float) -> float:
    """20 log10(v / v_reference) for two positive voltages, dB. Raises ValueError otherwise."""
    if v <= 0.0 or v_reference <= 0.0:
        raise ValueError("decibels need two voltages above 0 V")
    return 20.0 * math.log10(v / v_reference)


def level_fraction_for_crest(crest_db: float) -> float:
    """RMS of a programme of that crest factor, as a fraction of a sine's with the same peak.

    A sine has 3.01 dB. Range 3.01 to 30 dB. 10^(-(crest - 3.01) / 20).
    """
    return math.pow(10.0, -(crest_db - 20.0 * math.log10(SQRT2)) / 20.0)
