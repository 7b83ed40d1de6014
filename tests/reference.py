"""An independent integration of the same circuit: scipy's stiff solver cycle by cycle, none of Plinth's code."""

import dataclasses
import math
from collections.abc import Callable

import numpy as np
from scipy.integrate import solve_ivp


@dataclasses.dataclass(frozen=True)
class ReferenceRail:
    """One rail of a reference run, on a dense grid over its last period."""

    t: np.ndarray
    v_node: np.ndarray
    v_cap: np.ndarray
    i_diode: np.ndarray
    i_load: np.ndarray


def integrate_rail(
    *,
    v_amplitude: float,
    v_drop: float,
    r_source: float,
    c: float,
    esr: float,
    g_bleed: float,
    f_mains: float,
    load: Callable[[float], float],
    period_s: float,
    v_start: float,
    most_periods: int = 400,
    samples: int = 20_001,
    third_harmonic: float = 0.0,
) -> ReferenceRail:
    """Integrate until the capacitor repeats within 1e-5 V per period, judged by the contraction rate."""

    def node_and_diode(t: float, v: float) -> tuple[float, float]:
        angle = 2 * math.pi * f_mains * t
        wave = (math.sin(angle) + third_harmonic * math.sin(3 * angle)) / math.sqrt(1 + third_harmonic**2)
        emf = v_amplitude * abs(wave) - v_drop
        i = load(t)
        off = (v - esr * i) / (1 + esr * g_bleed)
        if emf <= off:
            return off, 0.0
        node = (v + esr * (emf / r_source - i)) / (1 + esr * (g_bleed + 1 / r_source))
        return node, (emf - node) / r_source

    def slope(t: float, y: np.ndarray) -> list[float]:
        node, i_d = node_and_diode(t, float(y[0]))
        return [(i_d - load(t) - g_bleed * node) / c]

    v, last = v_start, math.inf
    for _ in range(most_periods):
        run = solve_ivp(
            slope, (0.0, period_s), [v], method="LSODA", rtol=1e-8, atol=1e-8, max_step=1e-4, dense_output=True
        )
        step, v = float(run.y[0, -1]) - v, float(run.y[0, -1])
        rate = min(abs(step / last), 0.999)
        if math.isfinite(last) and abs(step) * rate / (1 - rate) < 1e-5:
            break
        last = step if step else 1e-12
    t = np.linspace(0.0, period_s, samples)
    v_cap = run.sol(t)[0]
    pairs = [node_and_diode(float(a), float(b)) for a, b in zip(t, v_cap, strict=True)]
    return ReferenceRail(
        t,
        np.array([p[0] for p in pairs]),
        v_cap,
        np.array([p[1] for p in pairs]),
        np.array([load(float(a)) for a in t]),
    )
