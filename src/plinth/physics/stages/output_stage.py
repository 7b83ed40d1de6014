"""Limits of output stages besides the rails: safe area, slew rate, class A, damping, pumping."""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.roots import bracketed

Array = NDArray[np.float64]


def safe_area_share(v_device: Array, i_device: Array, points: Sequence[tuple[float, float]]) -> float:
    """Largest share of its safe area that a device uses: max of i / i_allowed(v), along volts and amperes of a period.

    ``points`` (volts across the device, amperes allowed), rising in volts; straight between them, held beyond.
    """
    volts, amperes = zip(*points, strict=True)
    return float(np.max(i_device / np.interp(v_device, volts, amperes)))


def power_bandwidth_hz(slew_v_per_s: float, v_peak: float) -> float:
    """Highest frequency of a full-swing sine: SR / (2 pi V)."""
    return slew_v_per_s / (2.0 * math.pi * v_peak)


def class_a_limit_w(i_bias_a: float, r_load_ohm: float) -> float:
    """Power at which a push-pull stage leaves class A, at a peak current of 2 I: (2 I)^2 R / 2."""
    return 2.0 * i_bias_a**2 * r_load_ohm


def damping_factor(r_load_ohm: float, r_output_ohm: float) -> float:
    """Load over output impedance."""
    return r_load_ohm / r_output_ohm


def pumped_rise_v(v_rail: float, r_load_ohm: float, c_f: float, f_hz: float, channels: int = 1) -> float:
    """Most that a half bridge pumps a rail above its supply at ``f_hz``, volts: V / (2 pi^2 f R C) per channel.

    In the half cycle of the other rail a charge (I / w) (1 - pi M / 4) flows back, I = M V / R at a modulation M;
    largest at M = 2 / pi. Without losses, idle current and bleeder, so an upper bound while the rise stays small.
    """
    return channels * v_rail / (2.0 * math.pi**2 * f_hz * r_load_ohm * c_f)


def pumped_to_after_s(
    v_over: float, v_rail: float, r_load_ohm: float, c_f: float, f_hz: float, channels: int = 1
) -> float:
    """When in a half cycle a half bridge has pumped a rail ``v_over`` volts up, in seconds from its beginning.

    At the worst modulation, 2 / pi: what has flowed back by the angle x is (I / 2 w) (1 - cos x - M (x / 2 -
    sin(2 x) / 4)), the part of ``pumped_rise_v`` up to there. Infinite where a half cycle does not reach it.
    """
    m = 2.0 / math.pi
    per_charge = channels * m * v_rail / (2.0 * r_load_ohm * c_f * 2.0 * math.pi * f_hz)

    def beyond_v(angle: float) -> float:
        return per_charge * (1.0 - math.cos(angle) - m * (0.5 * angle - 0.25 * math.sin(2.0 * angle))) - v_over

    maximum = beyond_v(math.pi)
    if maximum < 0.0:
        return math.inf
    if v_over <= 0.0:
        return 0.0
    return bracketed(beyond_v, (0.0, -v_over), (math.pi, maximum), 1e-6 * v_over) / (2.0 * math.pi * f_hz)
