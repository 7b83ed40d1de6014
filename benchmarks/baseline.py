"""What a Python user writes by hand: scipy's LSODA, cycle after cycle, until the rails hardly move."""

import math
from collections.abc import Callable

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from plinth.predict.circuit import PowerCircuit


def rail_steady_state(
    circuit: PowerCircuit, load: Callable[[float], float], period_s: float
) -> tuple[np.ndarray, np.ndarray]:
    """Times and node volts of one rail's last period: rtol 1e-6, until it moves less than 1e-4 V a period.

    Steps of at most 0.1 ms, or the solver jumps over the charging pulses.
    """
    r_source = circuit.r_winding + circuit.drops * circuit.r_dynamic
    omega = 2 * math.pi * circuit.mains_hz

    def node(t: float, v: float) -> tuple[float, float]:
        emf, i = circuit.v_amplitude * abs(math.sin(omega * t)) - circuit.v_drop, load(t)
        off = (v - circuit.esr * i) / (1 + circuit.esr * circuit.g_bleed)
        if emf <= off:
            return off, 0.0
        on = (v + circuit.esr * (emf / r_source - i)) / (1 + circuit.esr * (circuit.g_bleed + 1 / r_source))
        return on, (emf - on) / r_source

    def slope(t: float, y: np.ndarray) -> list[float]:
        v, i_d = node(t, float(y[0]))
        return [(i_d - load(t) - circuit.g_bleed * v) / circuit.c]

    v = circuit.v_amplitude - circuit.v_drop
    grid = np.linspace(0.0, period_s, round(period_s / 2e-5) + 1)
    while True:
        run = solve_ivp(slope, (0.0, period_s), [v], method="LSODA", rtol=1e-6, max_step=1e-4, t_eval=grid)
        moved, v = abs(float(run.y[0, -1]) - v), float(run.y[0, -1])
        if moved < 1e-4:
            return run.t, np.array([node(t, float(y))[0] for t, y in zip(run.t, run.y[0], strict=True)])


def both_rails(circuit: PowerCircuit, v_peak: float, f_hz: float, period_s: float) -> tuple[float, float]:
    """Mean of either rail with a sine of ``v_peak`` on every channel."""
    means = []
    for sign in (1.0, -1.0):
        t, v = rail_steady_state(circuit, _load(circuit, v_peak, f_hz, sign), period_s)
        means.append(float(np.trapezoid(v, t)) / period_s)
    return means[0], means[1]


def clip_onset(circuit: PowerCircuit, f_hz: float, period_s: float) -> float:
    """Onset amplitude by root finding around whole steady states, + rail only."""

    def margin(v_peak: float) -> float:
        t, v = rail_steady_state(circuit, _load(circuit, v_peak, f_hz, 1.0), period_s)
        needed = circuit.v_sat + (1 + circuit.r_out / circuit.r_load) * v_peak * np.maximum(
            np.sin(2 * np.pi * f_hz * t), 0.0
        )
        return float(np.min(v - needed))

    return float(brentq(margin, 5.0, 0.95 * circuit.v_amplitude, xtol=1e-4))


def _load(circuit: PowerCircuit, v_peak: float, f_hz: float, sign: float) -> Callable[[float], float]:
    idle, peak = circuit.channels * circuit.i_idle_a, circuit.channels * v_peak / circuit.r_load

    def load(t: float) -> float:
        return idle + peak * max(sign * math.sin(2 * math.pi * f_hz * t), 0.0)

    return load


def switch_on(circuit: PowerCircuit, leakage_h: float, seconds: float) -> float:
    """Rail after ``seconds`` from empty, one rail, with leakage: Runge-Kutta with the diode's current as a state."""
    r_source = circuit.r_winding + circuit.drops * circuit.r_dynamic
    omega = 2 * math.pi * circuit.mains_hz

    def slope(t: float, y: np.ndarray) -> list[float]:
        i, v = max(float(y[0]), 0.0), float(y[1])
        emf = circuit.v_amplitude * abs(math.sin(omega * t)) - circuit.v_drop
        node = (v + circuit.esr * i) / (1 + circuit.esr * circuit.g_bleed)
        over = emf - node - r_source * i
        return [
            over / leakage_h if i > 0.0 or over > 0.0 else 0.0,
            (i - circuit.g_bleed * node) / circuit.c,
        ]

    run = solve_ivp(slope, (0.0, seconds), [0.0, 0.0], method="RK45", rtol=1e-6, max_step=1e-4)
    return float(run.y[1, -1])
