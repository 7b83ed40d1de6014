"""The resistance of an output from its volts into different loads."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def fitted_ohm(r_load_ohm: Array, v: Array, u_v: Array, u_r_share: Array) -> tuple[float, float]:
    """Ohm behind an output and their standard uncertainty, from at least two loads (inf: open).

    ``v`` volts at the terminals with standard uncertainty ``u_v``; ``u_r_share`` that of each load as a share of it.
    v = v0 - R i with i = v / R_load: the weighted straight line (v over i), with what each load is off carried to R by
    differences. Raises ValueError for fewer than two different currents.
    """
    i = np.where(np.isfinite(r_load_ohm), v / np.where(np.isfinite(r_load_ohm), r_load_ohm, 1.0), 0.0)
    if len(v) < 2 or float(np.ptp(i)) <= 1e-12:
        raise ValueError("found readings into one load only, expected another one, or none: read that too")
    least = max(float(np.max(u_v)), 1e-12)
    u = np.maximum(u_v, 1e-3 * least)
    r, _ = _line(i, v, u)
    # A volt that is misread moves the current that is made of it as well.
    u = u * (1.0 + max(r, 0.0) * np.where(np.isfinite(r_load_ohm), 1.0 / r_load_ohm, 0.0))
    r, u_meter = _line(i, v, u)
    square = u_meter**2
    for place, share in enumerate(u_r_share):
        if share and i[place] > 0.0:
            moved = i.copy()
            moved[place] /= 1.0 + share
            square += (_line(moved, v, u)[0] - r) ** 2
    return r, float(np.sqrt(square))


def _line(i: Array, v: Array, u: Array) -> tuple[float, float]:
    w = 1.0 / u**2
    s, si, sii = w.sum(), (w * i).sum(), (w * i * i).sum()
    sv, siv = (w * v).sum(), (w * i * v).sum()
    det = s * sii - si * si
    return float(-(s * siv - si * sv) / det), float(np.sqrt(s / det))
