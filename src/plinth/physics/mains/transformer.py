"""The mains transformer as a source behind a resistance (short-circuit regulation, no leakage).

Conventions: the rated secondary voltage is RMS per half winding at rated resistive load on both halves,
so V_oc = V_sec (1 + reg), I_rated = VA / (2 V_sec) and R_w = reg V_sec / I_rated per half.
Source: IEC 61558-1 for rated values; O. H. Schade, Proc. IRE 31 (1943) for the rectifier's view of them.
"""

import math


def open_circuit_v_rms(v_sec_rms: float, regulation: float) -> float:
    """Unloaded RMS volts of a half winding; ``regulation`` as a fraction (0.07 for 7 %)."""
    return v_sec_rms * (1.0 + regulation)


def winding_resistance_ohm(v_sec_rms: float, i_rated_a: float, regulation: float) -> float:
    """Resistance of one half winding with its share of the primary, ohm: that of rated load on all halves."""
    return regulation * v_sec_rms / i_rated_a


def estimate_regulation(va: float, kind: str) -> tuple[float, float]:
    """Regulation to expect from size and kind where none is stated, with its standard uncertainty.

    ``kind``: ``toroid`` or ``ei``. Returns (fraction, standard uncertainty as a fraction).
    Copper loss per VA falls about with the cube root to the square root of size; fitted through common
    practice: toroid 0.30 at 10 VA, 0.115 at 100 VA, 0.064 at 300 VA, 0.048 at 500 VA; EI about a sixth more. Held to
    2..60 %, which only the smallest and largest reach. Spread 30 % of the value (95 %), which covers what makers of one
    size differ by.
    Raises ValueError for an unknown kind.
    """
    if kind not in ("toroid", "ei"):
        raise ValueError(f"transformer kind {kind!r} is not known; expected 'toroid' or 'ei'")
    per_va = {"toroid": 0.115, "ei": 0.135}[kind]
    # The cube root of small ones goes over into more than the square root of large ones.
    regulation = min(0.60, max(0.02, per_va * (100.0 / va) ** (0.42 if va < 100.0 else 0.54)))
    return regulation, regulation * 0.30 / 2.0


def crest_v(v_rms: float) -> float:
    """Crest of a sine of mains, volts."""
    return math.sqrt(2.0) * v_rms
