"""A square wave through a stage: its edge and its top, and the corners that these tell.

One pole at either end: the edge takes ln 9 / (2 pi f) from 10 % to 90 %; in half a period the top falls by
1 - exp(-pi f_low / f) of its own height, once all has come to rest tanh(pi f_low / 2 f) of the whole step: that begins
as far below the middle as the top has fallen to. Two poles (an LC filter into a resistor) overshoot by
exp(-pi zeta / sqrt(1 - zeta^2)), zeta = 1 / (2 Q).
"""

import math

LN9 = math.log(9.0)


def rise_time_s(f_high_hz: float) -> float:
    """From 10 % to 90 % through one pole at ``f_high_hz`` (> 0): ln 9 / (2 pi f), 0.35 / f."""
    return LN9 / (2.0 * math.pi * f_high_hz)


def corner_of_rise_hz(rise_s: float) -> float:
    """The one pole that has this rise time (> 0)."""
    return LN9 / (2.0 * math.pi * rise_s)


def slew_rise_s(v_pp: float, slew_v_per_s: float) -> float:
    """From 10 % to 90 % of ``v_pp`` at a slew rate (> 0)."""
    return 0.8 * v_pp / slew_v_per_s


def tilt_share(f_low_hz: float, f_hz: float) -> float:
    """How far the top falls in half a period of ``f_hz`` (> 0), as a share of the whole step, peak to peak."""
    return math.tanh(0.5 * math.pi * f_low_hz / f_hz)


def corner_of_tilt_hz(share: float, f_hz: float) -> float:
    """The lower corner that lets the top fall by a share of the whole step (0 to 1, both not included)."""
    return 2.0 * math.atanh(share) * f_hz / math.pi


def overshoot_share(q: float) -> float:
    """Overshoot of a step through two poles of quality ``q`` (> 0); 0 up to 0.5."""
    if q <= 0.5:
        return 0.0
    zeta = 0.5 / q
    return math.exp(-math.pi * zeta / math.sqrt(1.0 - zeta * zeta))


def damping_of_overshoot(share: float) -> float:
    """The quality whose step overshoots by a share (0: 0.5; below 1)."""
    if share <= 0.0:
        return 0.5
    log = math.log(share)
    return 0.5 * math.sqrt(math.pi**2 + log * log) / abs(log)
