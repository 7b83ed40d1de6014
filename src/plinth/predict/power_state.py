"""A circuit with an output on it: the period they share, the steady state of its rails, and where the output clips.

Plain circuits go the quick way rail by rail, all others through the network of all rails. This module knows no
uncertainty, no sentence and no part.
"""

import dataclasses
import functools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.mains import wave
from plinth.physics.rails.clip_onset import ClipOnset, find_clip_onset
from plinth.physics.rails.common_period import CommonPeriod, Grid, common_period
from plinth.physics.rails.half_sine import half_wave_mean
from plinth.physics.rails.network_elements import RailElements
from plinth.physics.rails.network_steady import (
    LoadLaw,
    NetworkOnset,
    NetworkState,
    OutputNeeds,
    RailSource,
    onset,
    steady_state,
)
from plinth.physics.rails.rail import LoadCurrent, RailCircuit
from plinth.physics.rails.rail_march import RailOnGrid
from plinth.physics.rails.steady_state import RailSteadyState, solve_rail, steady_from_march
from plinth.physics.stages import draws
from plinth.predict.circuit import PowerCircuit

Array = NDArray[np.float64]

# A time constant far below this is followed without being drawn: the trapezoid stays stable at any step.
MOST_STEPS = 40_000


@dataclasses.dataclass(frozen=True, eq=False)
class Period:
    """The grid of one common period with mains and signal on it: both and the signal's angle at n + 1 instants.

    ``near_v`` how near to the periodic state an answer must be, V.
    """

    shared: CommonPeriod
    steps: int
    step_s: float
    mains_wave: Array
    angle: Array
    signal_sine: Array
    angle_start: float
    near_v: float

    @functools.cached_property
    def half_waves(self) -> tuple[LoadCurrent, LoadCurrent]:
        """max(sine, 0) and max(-sine, 0): what a push-pull stage draws from the + and the - rail per ampere."""
        sine, angle = self.signal_sine, self.angle
        return (
            LoadCurrent(np.maximum(sine, 0.0), half_wave_mean(angle)),
            LoadCurrent(np.maximum(-sine, 0.0), half_wave_mean(angle + np.pi)),
        )


@dataclasses.dataclass(frozen=True)
class PowerState:
    """Steady state of the rails with an output of ``v_peak`` on each of ``driven`` channels.

    ``minus`` None: a single rail. ``network`` what the next solution starts from, where the network was used.
    """

    circuit: PowerCircuit
    period: Period
    v_peak: float
    driven: int
    plus: RailSteadyState
    minus: RailSteadyState | None
    network: NetworkState | None = None

    @property
    def rails(self) -> tuple[RailSteadyState, ...]:
        """The rails, + first."""
        return (self.plus,) if self.minus is None else (self.plus, self.minus)

    @property
    def v_output(self) -> Array:
        """Output volts at the instants of the period."""
        return self.v_peak * self.period.signal_sine

    @property
    def output_lines(self) -> dict[str, Array]:
        """Each output wire's volts to 0 V, by its name: one, or both legs of a bridge."""
        if not self.circuit.stage.bridge:
            return {"output": self.v_output}
        # On a single rail both legs rest at half of it.
        rest = 0.5 * self.plus.v_node if self.minus is None else 0.0
        return {"output +": rest + 0.5 * self.v_output, "output −": rest - 0.5 * self.v_output}

    @property
    def i_output_peak_a(self) -> float:
        """Peak amperes in each driven load."""
        return self.v_peak / self.circuit.r_load

    @property
    def p_rails_w(self) -> float:
        """Mean power drawn from the rails by all channels."""
        return sum(rail.p_load_w for rail in self.rails)

    @property
    def p_load_w(self) -> float:
        """Power in each driven load: V^2 / (2 |Z|) cos(phase)."""
        return self.v_peak**2 / (2.0 * self.circuit.r_load) * math.cos(self.circuit.load_phase_rad)

    @property
    def p_heat_w(self) -> float:
        """Heat of all channels together; none where they are away."""
        if self.circuit.modules_away and self.driven == 0 and self.v_peak == 0.0:
            return 0.0
        return self.p_rails_w - self.driven * self.p_load_w


def lay_period(circuit: PowerCircuit, f_signal_hz: float, phase_deg: float, grid: Grid) -> Period:
    """The common period of mains and signal; of the signal alone where the source is steady."""
    if circuit.steady_v:
        shared = CommonPeriod(f_signal_hz / 2.0, f_signal_hz, 1, 1)
    else:
        shared = common_period(circuit.mains_hz, f_signal_hz)
    steps = max(shared.steps(grid), min(math.ceil(shared.seconds / circuit.fastest_s), MOST_STEPS))
    if steps % shared.half_cycles:
        steps += shared.half_cycles - steps % shared.half_cycles
    return _period(shared, steps, math.radians(phase_deg), circuit.third_harmonic, grid.near_v)


@functools.lru_cache(maxsize=32)
def _period(shared: CommonPeriod, steps: int, start_rad: float, third_harmonic: float, near_v: float) -> Period:
    angle = start_rad + np.linspace(0.0, 2.0 * np.pi * shared.signal_cycles, steps + 1)
    volts = wave.mains_wave(np.linspace(0.0, np.pi * shared.half_cycles, steps + 1), third_harmonic)
    return Period(
        shared,
        steps,
        shared.seconds / steps,
        mains_wave=volts,
        angle=angle,
        signal_sine=np.sin(angle),
        angle_start=start_rad,
        near_v=near_v,
    )


def level_state(
    circuit: PowerCircuit, period: Period, driven: int, v_peak: float, near: PowerState | None = None
) -> PowerState:
    """The steady state at an output amplitude of ``v_peak``."""
    if not circuit.plain:
        law = load_law(circuit, period, driven)
        state = steady_state(circuit.network, source_of(circuit, period), law, v_peak, near.network if near else None)
        return as_power_state(circuit, period, v_peak, driven, state)
    idle, rail = circuit.channels * circuit.i_idle_a, plain_rail(circuit, period)
    plus, minus = (
        solve_rail(
            rail,
            unit_load(circuit, period, towards).scaled(driven * v_peak, idle),
            float(guess.v_cap[0]) if guess else None,
        )
        for towards, guess in ((1.0, near.plus if near else None), (-1.0, near.minus if near else None))
    )
    return PowerState(circuit, period, v_peak, driven, plus, minus)


# The quick way


def plain_emf(circuit: PowerCircuit, period: Period) -> Array:
    """What acts on a plain rail: the rectified mains less the fixed drops."""
    return circuit.v_amplitude * np.abs(period.mains_wave) - circuit.v_drop


def plain_rail(circuit: PowerCircuit, period: Period) -> RailOnGrid:
    """A plain rail with its source, on the period's grid."""
    return _plain_rail(circuit.rail, circuit.v_amplitude, circuit.v_drop, period)


@functools.lru_cache(maxsize=8)
def _plain_rail(rail: RailCircuit, v_amplitude: float, v_drop: float, period: Period) -> RailOnGrid:
    return RailOnGrid(rail, v_amplitude * np.abs(period.mains_wave) - v_drop, period.step_s, period.near_v)


def unit_load(circuit: PowerCircuit, period: Period, towards: float) -> LoadCurrent:
    """Rail amperes of one class AB channel per volt of output amplitude; ``towards`` 1 the + rail, -1 the - rail."""
    return period.half_waves[0 if towards > 0 else 1].scaled(1.0 / circuit.r_load)


def plain_onsets(
    circuit: PowerCircuit, period: Period, driven: int, near: tuple[ClipOnset, ...] = ()
) -> tuple[ClipOnset, ...]:
    """Clip onset against either rail."""
    rail, idle = plain_rail(circuit, period), circuit.channels * circuit.i_idle_a
    return tuple(
        find_clip_onset(
            rail,
            unit_load(circuit, period, towards).scaled(driven),
            idle,
            np.maximum(towards * period.signal_sine, 0.0),
            circuit.output_limit,
            near[k] if near else None,
        )
        for k, towards in enumerate((1.0, -1.0))
    )


def known_state(
    circuit: PowerCircuit, period: Period, driven: int, v_peak: float, starts: tuple[float, ...]
) -> PowerState:
    """The steady state of a plain circuit whose rails are known to begin each period at ``starts`` volts."""
    idle, rail = circuit.channels * circuit.i_idle_a, plain_rail(circuit, period)
    plus, minus = (
        steady_from_march(rail, unit_load(circuit, period, towards).scaled(driven * v_peak, idle), start)
        for towards, start in zip((1.0, -1.0), starts, strict=True)
    )
    return PowerState(circuit, period, v_peak, driven, plus, minus)


# The network


def source_of(circuit: PowerCircuit, period: Period) -> RailSource:
    """What feeds the network: the rectified mains, or steady volts."""
    if circuit.steady_v:
        emf = np.full((period.steps + 1, circuit.rails), circuit.steady_v)
        return RailSource(emf, emf, 0, period.step_s, period.near_v)
    emf = np.repeat(plain_emf(circuit, period)[:, None], circuit.rails, axis=1)
    every = period.steps // period.shared.half_cycles
    return RailSource(emf, -emf - 2.0 * circuit.v_drop, every, period.step_s, period.near_v)


def load_law(circuit: PowerCircuit, period: Period, driven: int, wave: draws.OutputWave | None = None) -> LoadLaw:
    """What the stages draw from the rails, with a sine at their output or another ``wave``."""
    if wave is None:
        wave = draws.output_wave(
            period.shared.signal_cycles, period.steps, period.angle_start, circuit.r_load, circuit.load_phase_rad
        )
    return circuit.stage.law(circuit.stage_numbers, wave, driven)


def output_needs(circuit: PowerCircuit, period: Period) -> OutputNeeds:
    """How far the output may go."""
    amperes = np.sin(period.angle - circuit.load_phase_rad) / circuit.r_load
    return circuit.stage.needs(circuit.stage_numbers, period.signal_sine, amperes)


def network_onset(circuit: PowerCircuit, period: Period, driven: int, near: NetworkOnset | None = None) -> NetworkOnset:
    """Clip onset of any stage on any rails."""
    return onset(
        circuit.network,
        source_of(circuit, period),
        load_law(circuit, period, driven),
        output_needs(circuit, period),
        near,
    )


def as_power_state(
    circuit: PowerCircuit, period: Period, v_peak: float, driven: int, state: NetworkState
) -> PowerState:
    """A network's steady state as that of a circuit with an output of ``v_peak``."""
    rails = [_rail(state, r, rail) for r, rail in enumerate(state.network.rails)]
    return PowerState(
        circuit, period, v_peak, driven=driven, plus=rails[0], minus=rails[1] if len(rails) > 1 else None, network=state
    )


def _rail(state: NetworkState, r: int, rail: RailElements) -> RailSteadyState:
    waves = state.waves
    return RailSteadyState(
        circuit=rail,
        step_s=state.source.step_s,
        emf_v=state.march.emf[:, r],
        v_node=waves.v_load[:, r],
        v_reservoir=waves.v_reservoir[:, r],
        v_cap=state.march.x[:, state.network.places[r]["v_cap"]],
        i_diode_a=waves.i_source[:, r],
        i_cap_a=waves.i_cap[:, r],
        i_series_a=waves.i_series[:, r],
        i_cap2_a=waves.i_cap2[:, r],
        i_load_a=waves.i_load[:, r],
        i_load_mean_a=state.i_load_mean[:, r],
        marches=state.marches,
        v_of_others=state.network.r_shared_ohm * (np.sum(waves.i_source, axis=1) - waves.i_source[:, r]),
    )
