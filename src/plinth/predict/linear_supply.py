"""A linear dual-rail supply feeding class AB modules: numbers in, named numbers and waveforms out.

This module knows the circuit; it knows no uncertainty, no sentence and no part.
"""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics import mains, transformer
from plinth.physics.clip_onset import ClipOnset, OutputLimit, find_clip_onset
from plinth.physics.common_period import CommonPeriod, Grid, common_period
from plinth.physics.half_sine import half_wave, half_wave_mean
from plinth.physics.rail import LoadCurrent, RailCircuit, constant_current, rectified_emf, steps_for
from plinth.physics.steady_state import RailSteadyState, solve_rail, steady_from_march

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class LinearCircuit:
    """Every number of supply, modules and load; SI. ``i_idle_a`` per channel and rail.

    ``drops`` diodes in series per rail; ``v_primary_rms`` what the primary is wound for.
    """

    mains_v_rms: float
    mains_hz: float
    v_primary_rms: float
    va: float
    v_secondary: float
    regulation: float
    drops: int
    v_forward: float
    r_dynamic: float
    c: float
    esr: float
    g_bleed: float
    v_sat: float
    r_out: float
    r_load: float
    i_idle_a: float
    channels: int
    third_harmonic: float = 0.0

    @property
    def supply_alone(self) -> tuple[float, ...]:
        """What a rail at rest depends on: everything but what the module needs of the rail, and the load."""
        left_out = {"v_sat", "r_out", "r_load"}
        return tuple(getattr(self, f.name) for f in dataclasses.fields(self) if f.name not in left_out)

    @property
    def v_oc_rms(self) -> float:
        """Open-circuit volts of a half winding at the mains in force."""
        rated = transformer.open_circuit_v_rms(self.v_secondary, self.regulation)
        return rated * self.mains_v_rms / self.v_primary_rms

    @property
    def v_amplitude(self) -> float:
        """Amplitude of a pure sine of the open-circuit voltage's RMS."""
        return transformer.crest_v(self.v_oc_rms)

    @property
    def v_crest(self) -> float:
        """Crest of the open-circuit voltage, flattened as the mains is."""
        return self.v_amplitude * mains.crest(self.third_harmonic)

    @property
    def turns_ratio(self) -> float:
        """Primary volts per secondary volt, open circuit."""
        return self.mains_v_rms / self.v_oc_rms

    @property
    def r_winding(self) -> float:
        """Resistance of a half winding with its share of the primary."""
        return transformer.winding_resistance_ohm(self.va, self.v_secondary, self.regulation)

    @property
    def i_rated(self) -> float:
        """Rated RMS current of a half winding."""
        return transformer.rated_current_a(self.va, self.v_secondary)

    @property
    def v_drop(self) -> float:
        """Fixed diode drops per rail."""
        return self.drops * self.v_forward

    @property
    def rail(self) -> RailCircuit:
        """One rail's circuit."""
        return RailCircuit(self.r_winding + self.drops * self.r_dynamic, self.c, self.esr, self.g_bleed)

    @property
    def output_limit(self) -> OutputLimit:
        """What the output needs of its rail."""
        return OutputLimit(self.v_sat, 1.0 + self.r_out / self.r_load)


@dataclasses.dataclass(frozen=True)
class Period:
    """The grid of one common period with mains, signal and unit loads on it."""

    shared: CommonPeriod
    steps: int
    step_s: float
    mains_wave: Array
    signal_sine: Array
    emf: Array
    unit_plus: LoadCurrent
    unit_minus: LoadCurrent


@dataclasses.dataclass(frozen=True)
class LinearState:
    """Steady state of both rails with an output of ``v_peak`` on each of ``driven`` channels."""

    circuit: LinearCircuit
    period: Period
    v_peak: float
    driven: int
    plus: RailSteadyState
    minus: RailSteadyState

    @property
    def rails(self) -> tuple[RailSteadyState, RailSteadyState]:
        """Both rails, + first."""
        return self.plus, self.minus

    @property
    def v_output(self) -> Array:
        """Output volts at the instants of the period."""
        return self.v_peak * self.period.signal_sine

    @property
    def p_rails_w(self) -> float:
        """Mean power drawn from both rails by all channels."""
        return self.plus.p_load_w + self.minus.p_load_w

    @property
    def p_load_w(self) -> float:
        """Power in each driven load."""
        return self.v_peak**2 / (2.0 * self.circuit.r_load)

    @property
    def p_heat_w(self) -> float:
        """Heat of all channels together."""
        return self.p_rails_w - self.driven * self.p_load_w


def lay_period(circuit: LinearCircuit, f_signal_hz: float, phase_deg: float, grid: Grid) -> Period:
    """The common period with unit load currents: rail amperes of one channel per volt of output amplitude."""
    shared = common_period(circuit.mains_hz, f_signal_hz)
    steps = max(shared.steps(grid), min(steps_for(circuit.rail, shared.seconds, 1), 8000 * shared.half_cycles))
    angle = math.radians(phase_deg) + np.linspace(0.0, 2.0 * np.pi * shared.signal_cycles, steps + 1)
    wave = mains.mains_wave(np.linspace(0.0, np.pi * shared.half_cycles, steps + 1), circuit.third_harmonic)
    per_volt = 1.0 / circuit.r_load
    return Period(
        shared=shared,
        steps=steps,
        step_s=shared.seconds / steps,
        mains_wave=wave,
        signal_sine=np.sin(angle),
        emf=rectified_emf(circuit.v_amplitude, circuit.v_drop, shared.half_cycles, steps, circuit.third_harmonic),
        unit_plus=LoadCurrent(half_wave(angle) * per_volt, half_wave_mean(angle) * per_volt),
        unit_minus=LoadCurrent(half_wave(angle + np.pi) * per_volt, half_wave_mean(angle + np.pi) * per_volt),
    )


@dataclasses.dataclass(frozen=True)
class OperatingPoints:
    """The states that figures are read from: at clip onset, at the level asked for, at programme, at idle.

    ``onsets`` against either rail; ``no_load_v`` and ``no_load_high_v`` unloaded rails at the mains in force
    and at high mains (highest instant).
    """

    onsets: tuple[ClipOnset, ClipOnset]
    clip_v_peak: float
    at_level: LinearState
    programme: LinearState
    idle_rail: RailSteadyState
    no_load: RailSteadyState
    no_load_high: RailSteadyState

    @property
    def circuit(self) -> LinearCircuit:
        """The circuit all of them belong to."""
        return self.at_level.circuit


@dataclasses.dataclass(frozen=True)
class Drive:
    """What the circuit is asked to do: signal, driven channels, level and programme as fractions of clip."""

    f_signal_hz: float
    phase_deg: float
    driven: int
    level: float
    programme_level: float
    high_mains_v_rms: float


def solve_points(
    circuit: LinearCircuit, drive: Drive, grid: Grid, near: OperatingPoints | None = None
) -> OperatingPoints:
    """Solve a circuit at all its operating points; ``near`` those of a similar circuit, to save marches.

    Raises PhysicsError where the circuit could not run.
    """
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
    onsets = (
        _onset(circuit, period, drive.driven, 1.0, near.onsets[0] if near else None),
        _onset(circuit, period, drive.driven, -1.0, near.onsets[1] if near else None),
    )
    clip = min(onset.v_peak for onset in onsets)
    if drive.level == 1.0 and all(abs(onset.v_peak - clip) < 1e-6 for onset in onsets):
        starts = (onsets[0].v_cap_start, onsets[1].v_cap_start)
        at_level = _known_state(circuit, period, drive.driven, clip, starts)
    else:
        at_level = level_state(circuit, period, drive.driven, drive.level * clip, near.at_level if near else None)
    programme = level_state(
        circuit, period, drive.driven, drive.programme_level * clip, near.programme if near else None
    )
    if near is not None and circuit.supply_alone == near.circuit.supply_alone:
        # Module and load do not matter to a rail at rest, so those points are the very same.
        return dataclasses.replace(near, onsets=onsets, clip_v_peak=clip, at_level=at_level, programme=programme)
    idle_a = circuit.channels * circuit.i_idle_a
    high = dataclasses.replace(circuit, mains_v_rms=drive.high_mains_v_rms)
    return OperatingPoints(
        onsets=onsets,
        clip_v_peak=clip,
        at_level=at_level,
        programme=programme,
        idle_rail=steady_load(circuit, idle_a, grid, near.idle_rail if near else None),
        no_load=steady_load(circuit, 0.0, grid, near.no_load if near else None),
        no_load_high=steady_load(high, 0.0, grid, near.no_load_high if near else None),
    )


def _onset(circuit: LinearCircuit, period: Period, driven: int, towards: float, near: ClipOnset | None) -> ClipOnset:
    unit = period.unit_plus if towards > 0 else period.unit_minus
    return find_clip_onset(
        circuit.rail, period.emf, period.step_s, unit.scaled(driven), circuit.channels * circuit.i_idle_a,
        np.maximum(towards * period.signal_sine, 0.0), circuit.output_limit, near,
    )  # fmt: skip


def level_state(
    circuit: LinearCircuit, period: Period, driven: int, v_peak: float, near: LinearState | None = None
) -> LinearState:
    """The steady state at an output amplitude of ``v_peak``."""
    idle = circuit.channels * circuit.i_idle_a
    plus, minus = (
        solve_rail(
            circuit.rail, period.emf, period.step_s, unit.scaled(driven * v_peak, idle),
            float(guess.v_cap[0]) if guess else None,
        )
        for unit, guess in (
            (period.unit_plus, near.plus if near else None),
            (period.unit_minus, near.minus if near else None),
        )
    )  # fmt: skip
    return LinearState(circuit, period, v_peak, driven, plus, minus)


def _known_state(
    circuit: LinearCircuit, period: Period, driven: int, v_peak: float, starts: tuple[float, float]
) -> LinearState:
    idle = circuit.channels * circuit.i_idle_a
    plus, minus = (
        steady_from_march(circuit.rail, period.emf, period.step_s, unit.scaled(driven * v_peak, idle), start)
        for unit, start in zip((period.unit_plus, period.unit_minus), starts, strict=True)
    )
    return LinearState(circuit, period, v_peak, driven, plus, minus)


def steady_load(circuit: LinearCircuit, i_a: float, grid: Grid, near: RailSteadyState | None) -> RailSteadyState:
    """One rail under a steady current over one half cycle (both rails are alike)."""
    steps = grid.per_half_cycle
    step_s = 1.0 / (2.0 * circuit.mains_hz) / steps
    emf = rectified_emf(circuit.v_amplitude, circuit.v_drop, 1, steps, circuit.third_harmonic)
    load = constant_current(i_a, steps)
    return solve_rail(circuit.rail, emf, step_s, load, float(near.v_cap[0]) if near else None)
