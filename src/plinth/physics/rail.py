"""One rail: a rectified source behind a resistance, a reservoir with ESR, a bleeder, a load current.

    emf(t) - r_source - diode - node -+- load current
                                      +- bleeder
                                      +- ESR - C

Marched in fixed trapezoid steps with the diode's state decided at each step. While the diode is on the
node is fed by (emf - v) / r_source; the fixed drops are taken off the emf beforehand.
"""

import dataclasses
import functools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.mains import mains_wave

Array = NDArray[np.float64]

# Longer runs waste work past the point where the diode changes; shorter ones cost more calls.
LONGEST_RUN = 256
_COUNT = np.arange(1.0, LONGEST_RUN + 1.0)


@dataclasses.dataclass(frozen=True)
class RailCircuit:
    """The elements of one rail, SI: ohm, farad, siemens (``g_bleed`` 0 for no bleeder)."""

    r_source_ohm: float
    c_f: float
    esr_ohm: float
    g_bleed_s: float

    def time_constant_on_s(self) -> float:
        """Charging time constant with the diode on, s."""
        return self.c_f * (self.esr_ohm + 1.0 / (1.0 / self.r_source_ohm + self.g_bleed_s))


@dataclasses.dataclass(frozen=True)
class LoadCurrent:
    """A load current on a grid of n steps: ``at`` its n + 1 instants, ``mean`` over each of the n steps (A)."""

    at: Array
    mean: Array

    def scaled(self, factor: float, offset_a: float = 0.0) -> "LoadCurrent":
        """Factor x this current + offset_a."""
        return LoadCurrent(self.at * factor + offset_a, self.mean * factor + offset_a)


def constant_current(i_a: float, steps: int) -> LoadCurrent:
    """A steady load of ``i_a`` amperes over ``steps`` steps."""
    return LoadCurrent(np.full(steps + 1, i_a), np.full(steps, i_a))


@dataclasses.dataclass(frozen=True)
class March:
    """What one march gives; arrays of length n + 1.

    ``v_cap`` capacitor volts, ``on`` diode state at each instant, ``end_slope`` d v_cap[n] / d v_cap[0].
    Where a ``unit_load`` was given: ``slope`` d v_cap / d v_cap[0], ``response`` d v_cap / d (load scale).
    """

    v_cap: Array
    on: NDArray[np.bool_]
    end_slope: float
    slope: Array | None
    response: Array | None


def rectified_emf(
    v_amplitude: float, v_drop: float, half_cycles: int, steps: int, third_harmonic: float = 0.0
) -> Array:
    """|mains wave| less the fixed diode drops, at steps + 1 instants over ``half_cycles`` half cycles, volts.

    ``v_amplitude`` that of a pure sine of the same RMS.
    """
    angle = np.linspace(0.0, np.pi * half_cycles, steps + 1)
    return v_amplitude * np.abs(mains_wave(angle, third_harmonic)) - v_drop


def march(
    circuit: RailCircuit,
    emf: Array,
    step_s: float,
    load: LoadCurrent,
    v_start: float,
    unit_load: LoadCurrent | None = None,
) -> March:
    """March the rail from ``v_start`` on its capacitor over the grid of ``emf`` (n + 1 instants), diode off.

    ``load`` is the current drawn; ``unit_load`` the direction in which ``response`` is taken.
    Between two changes of the diode's state the steps are one linear recursion, so a whole run is a
    cumulative sum; only the steps in which the diode turns on or off are taken singly.
    """
    n = len(emf) - 1
    steps = _StepRules(circuit, step_s)
    at, mean = load.at, load.mean
    drive = {
        False: (-2.0 * steps.ka_off * steps.inv_off) * mean,
        True: steps.inv_on * (steps.ka_gs * (emf[:-1] + emf[1:]) - 2.0 * steps.ka_on * mean),
    }
    # What the node must stay below for the diode to be off, and above for it to be on.
    turn_on_at = (emf + steps.node_drop * at) / steps.node_gain
    v, on = np.empty(n + 1), np.zeros(n + 1, dtype=bool)
    v[0] = v_start
    j, state = 0, False
    while j < n:
        rule = steps.rule(state)
        stop = min(n, j + rule.block)
        run = rule.run(float(v[j]), drive[state][j:stop])
        held = _held(state, steps, run, emf[j + 1 : stop + 1], at[j + 1 : stop + 1], turn_on_at[j + 1 : stop + 1])
        count = len(run) if held.all() else int(np.argmin(held))
        v[j + 1 : j + 1 + count] = run[:count]
        on[j + 1 : j + 1 + count] = state
        j += count
        if j < n and count < len(run):
            v[j + 1] = steps.change(state, float(v[j]), float(mean[j]), float(emf[j]), float(emf[j + 1]))
            state = not state
            on[j + 1] = state
            j += 1
    return _with_tangents(steps, v, on, unit_load)


def _held(state: bool, steps: "_StepRules", run: Array, emf: Array, at: Array, turn_on_at: Array) -> NDArray[np.bool_]:
    """At which instants of a run the diode keeps its ``state``."""
    if not state:
        return turn_on_at <= run
    # With the diode on, the node is (v + r (g_s e - i)) / (1 + r g_on); current flows while e is above it.
    return emf * (1.0 + steps.r * steps.g_b) > run - steps.r * at


@dataclasses.dataclass(frozen=True)
class _Rule:
    """v_next = a v + drive, for a run of up to ``block`` steps."""

    a: float
    powers: Array
    inverse: Array

    @property
    def block(self) -> int:
        return max(1, len(self.powers))

    def run(self, v: float, drive: Array) -> Array:
        if len(self.powers) == 0:
            return self.a * v + drive
        m = len(drive)
        return self.powers[:m] * (v + np.cumsum(drive * self.inverse[:m]))


@functools.lru_cache(maxsize=256)
def _rule(a: float) -> _Rule:
    # Powers up to e^+-600 stay inside double range. A step far above the time constant (a <= 0) is taken singly.
    if a <= 0.02:
        return _Rule(a, np.empty(0), np.empty(0))
    log_a = math.log(a)
    block = min(LONGEST_RUN, int(600.0 / max(-log_a, 1e-9)))
    powers = np.exp(_COUNT[:block] * log_a)
    return _Rule(a, powers, 1.0 / powers)


class _StepRules:
    """The trapezoid step in each state of the diode and between them."""

    def __init__(self, circuit: RailCircuit, step_s: float) -> None:
        self.r, self.g_b, g_s = circuit.esr_ohm, circuit.g_bleed_s, 1.0 / circuit.r_source_ohm
        g_on = self.g_b + g_s
        a_off, a_on = 1.0 / (1.0 + self.r * self.g_b), 1.0 / (1.0 + self.r * g_on)
        k = step_s / (2.0 * circuit.c_f)
        self.ka_off, self.ka_on, self.ka_gs = k * a_off, k * a_on, k * a_on * g_s
        self.keep_off, self.keep_on = 1.0 - self.ka_off * self.g_b, 1.0 - self.ka_on * g_on
        self.inv_off, self.inv_on = 1.0 / (1.0 + self.ka_off * self.g_b), 1.0 / (1.0 + self.ka_on * g_on)
        self.node_gain, self.node_drop = 1.0 - self.r * a_off * self.g_b, self.r * a_off

    def rule(self, on: bool) -> _Rule:
        return _rule(self.keep_on * self.inv_on if on else self.keep_off * self.inv_off)

    def change(self, was_on: bool, v: float, i_mean: float, e0: float, e1: float) -> float:
        """The step in which the diode turns on (``was_on`` False) or off."""
        if was_on:
            return (v * self.keep_on + self.ka_gs * e0 - (self.ka_on + self.ka_off) * i_mean) * self.inv_off
        return (v * self.keep_off + self.ka_gs * e1 - (self.ka_on + self.ka_off) * i_mean) * self.inv_on


def _with_tangents(steps: _StepRules, v: Array, on: NDArray[np.bool_], unit_load: LoadCurrent | None) -> March:
    if unit_load is None:
        both_on = int(np.count_nonzero(on[:-1] & on[1:]))
        turned_on = int(np.count_nonzero(~on[:-1] & on[1:]))
        turned_off = int(np.count_nonzero(on[:-1] & ~on[1:]))
        both_off = len(v) - 1 - both_on - turned_on - turned_off
        # Whole factors of at most 1 in size, so that no power leaves double range.
        end_slope = (
            (steps.keep_on * steps.inv_on) ** both_on
            * (steps.keep_off * steps.inv_off) ** both_off
            * (steps.keep_off * steps.inv_on) ** turned_on
            * (steps.keep_on * steps.inv_off) ** turned_off
        )
        return March(v, on, end_slope, None, None)
    factor = np.where(on[:-1], steps.keep_on, steps.keep_off) * np.where(on[1:], steps.inv_on, steps.inv_off)
    slope = np.empty_like(v)
    slope[0] = 1.0
    np.cumprod(factor, out=slope[1:])
    ka = np.where(on, steps.ka_on, steps.ka_off)
    push = -(ka[:-1] + ka[1:]) * np.where(on[1:], steps.inv_on, steps.inv_off) * unit_load.mean
    response = np.empty_like(v)
    response[0] = 0.0
    if slope[-1] > 1e-200 and np.all(slope > 0.0):
        response[1:] = slope[1:] * np.cumsum(push / slope[1:])
    else:  # a rail so stiff that its past is forgotten within the period: step by step
        for j in range(len(push)):
            response[j + 1] = response[j] * factor[j] + push[j]
    return March(v, on, float(slope[-1]), slope, response)


def node_voltage(circuit: RailCircuit, emf: Array, load_at: Array, result: March) -> Array:
    """Volts at the load node at each instant (capacitor plus the drop over its ESR)."""
    return result.v_cap + circuit.esr_ohm * capacitor_current(circuit, emf, load_at, result)


def capacitor_current(circuit: RailCircuit, emf: Array, load_at: Array, result: March) -> Array:
    """Amperes into the capacitor at each instant."""
    g_s = np.where(result.on, 1.0 / circuit.r_source_ohm, 0.0)
    g = circuit.g_bleed_s + g_s
    current: Array = (g_s * emf - load_at - g * result.v_cap) / (1.0 + circuit.esr_ohm * g)
    return current


def node_slopes(circuit: RailCircuit, unit_at: Array, result: March, k: int) -> tuple[float, float]:
    """D v_node / d v_cap[0] and d v_node / d (load scale) at instant ``k`` of a march with tangents."""
    assert result.slope is not None
    assert result.response is not None
    g = circuit.g_bleed_s + (1.0 / circuit.r_source_ohm if result.on[k] else 0.0)
    a = 1.0 / (1.0 + circuit.esr_ohm * g)
    keep = 1.0 - circuit.esr_ohm * a * g
    by_scale = float(result.response[k]) * keep - circuit.esr_ohm * a * float(unit_at[k])
    return float(result.slope[k]) * keep, by_scale
