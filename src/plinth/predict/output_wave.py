"""The output's and the rails' own waves at a level that somebody read: held by the rails where it clips."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.builds.build import Build
from plinth.builds.situation import Situation
from plinth.physics.numbers.errors import PhysicsError
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import drive_of
from plinth.predict.distortion import GRID, can_overdrive, driven_past
from plinth.predict.inputs import inputs_of
from plinth.predict.operating_points import Drive
from plinth.predict.power_state import PowerState
from plinth.predict.solve import solution_of

Array = NDArray[np.float64]

# So near to the volts asked for a clipping wave is driven, as a share; it is tried so often.
_NEAR, _MOST_TRIES = 1e-4, 24
_MOST_DRIVE = 20.0


@dataclasses.dataclass(frozen=True)
class PredictedWaves:
    """One common period of mains and signal, ``seconds`` long, with so many whole cycles of the signal in it.

    The output is a sine of ``amplitude_v`` with ``angle_start`` (radians) at its beginning, held between ``least`` and
    ``most``; ``rails`` volts of each rail to 0 V with its sign; all at n + 1 even instants. ``onset_v_peak`` where
    clipping begins.
    """

    seconds: float
    signal_cycles: int
    angle_start: float
    amplitude_v: float
    least: Array
    most: Array
    rails: tuple[Array, ...]
    onset_v_peak: float

    @property
    def clips(self) -> bool:
        """Whether the rails hold the output."""
        return self.amplitude_v > self.onset_v_peak

    def output(self, place: Array) -> Array:
        """Volts of the output at places of the period (1: a whole one; any number of them)."""
        sine = self.amplitude_v * np.sin(2.0 * math.pi * self.signal_cycles * place + self.angle_start)
        return np.clip(sine, along(self.least, place), along(self.most, place)) if self.clips else sine


def along(wave: Array, place: Array) -> Array:
    """A wave of the period at places of it."""
    return np.interp(place % 1.0 * (len(wave) - 1), np.arange(len(wave)), wave)


def waves_at(build: Build, situation: Situation, v_rms: float) -> PredictedWaves:
    """The waves with an output of ``v_rms``, whatever the situation's own level is.

    Raises PhysicsError where it cannot run, cannot reach that, or is not computed (past clipping into a reactive load).
    """
    nominal = {key: value.value for key, value in inputs_of(build, situation).items()}
    rest = solution_of(build, situation.model_copy(update={"level": 0.0}), nominal, GRID)
    onset, peak = rest.points.clip_v_peak, math.sqrt(2.0) * v_rms
    if peak <= onset:
        at_level = situation.model_copy(update={"level": min(peak / onset, 1.0)})
        state = solution_of(build, at_level, nominal, GRID).points.at_level
        bound = np.full(state.period.steps + 1, onset)
        return _waves(state, peak, -bound, bound, onset)
    circuit, drive = rest.points.circuit, drive_of(build, situation)
    if not can_overdrive(circuit):
        raise PhysicsError("a wave that clips is computed into a resistance only")
    low, held = peak, _Held(circuit, drive, peak)
    while held.rms < v_rms:
        low = held.amplitude
        if low > _MOST_DRIVE * onset:
            raise PhysicsError(
                f"found {v_rms:.4g} V rms, expected less: however far it is driven, this output does not reach that"
            )
        held = _Held(circuit, drive, 1.3 * low)
    high = held.amplitude
    for _ in range(_MOST_TRIES):
        if abs(held.rms / v_rms - 1.0) < _NEAR:
            break
        held = _Held(circuit, drive, 0.5 * (low + high))
        low, high = (held.amplitude, high) if held.rms < v_rms else (low, held.amplitude)
    return _waves(held.state, held.amplitude, held.least, held.most, onset)


class _Held:
    """An output driven past its onset."""

    def __init__(self, circuit: PowerCircuit, drive: Drive, amplitude: float) -> None:
        self.amplitude = amplitude
        self.state, self.least, self.most = driven_past(circuit, drive, amplitude)
        wave = np.clip(amplitude * self.state.period.signal_sine, self.least, self.most)
        self.rms = float(np.sqrt(np.mean(wave[:-1] ** 2)))


def _waves(state: PowerState, amplitude: float, least: Array, most: Array, onset: float) -> PredictedWaves:
    rails = [rail.v_node for rail in state.rails]
    signed = (rails[0],) if len(rails) < 2 else (rails[0], -rails[1])
    shared = state.period.shared
    return PredictedWaves(
        shared.seconds, shared.signal_cycles, state.period.angle_start, amplitude_v=amplitude, least=least, most=most,
        rails=signed, onset_v_peak=onset,
    )  # fmt: skip
