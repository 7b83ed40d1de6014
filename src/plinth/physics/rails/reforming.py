"""An old electrolytic that is brought back: its leakage, and a reservoir fed slowly through a resistor.

Sources: IEC 60384-4 for the leakage that a sound electrolytic keeps (0.01 C U_R + 3 uA after five minutes);
O. H. Schade, Proc. IRE 31 (1943), for the rectifier behind a resistance, here with the capacitor's volts steady.
"""

import math

from plinth.physics.numbers.roots import bracketed


def sound_leakage_a(c_f: float, v_rated: float, v: float) -> float:
    """The most that a sound electrolytic of ``c_f`` and ``v_rated`` leaks at ``v`` volts, A.

    The standard's 0.01 uA per uF and volt (and 3 uA) at rated volts; in proportion below, which is generous: leakage
    falls faster than the voltage.
    """
    return (0.01 * c_f * v_rated + 3e-6) * min(v / v_rated, 1.0)


def mean_current_a(v_crest: float, v_c: float, r_ohm: float) -> float:
    """Mean current of a full-wave rectified sine of ``v_crest`` through ``r_ohm`` into a capacitor held at ``v_c``, A.

    (1 / pi) times the integral of (v_crest sin x - v_c) / r over the angles where it is positive.
    """
    if v_c >= v_crest:
        return 0.0
    begin = math.asin(max(v_c, 0.0) / v_crest)
    return (2.0 * v_crest * math.cos(begin) - v_c * (math.pi - 2.0 * begin)) / (math.pi * r_ohm)


def held_v(v_crest: float, r_series_ohm: float, r_bleeder_ohm: float | None, leakage_a: float) -> float:
    """Where a reservoir settles behind ``r_series_ohm`` with its bleeder (None: none) and a leakage, V.

    0 where the leakage takes all that the resistor lets through.
    """
    g = 0.0 if r_bleeder_ohm is None else 1.0 / r_bleeder_ohm

    def surplus(v: float) -> float:
        return mean_current_a(v_crest, v, r_series_ohm) - g * v - leakage_a

    at_rest = surplus(0.0)
    if at_rest <= 0.0:
        return 0.0
    # To a thousandth of a thousandth of what the resistor lets through at first.
    return bracketed(surplus, (0.0, at_rest), (v_crest, surplus(v_crest)), 1e-6 * at_rest)
