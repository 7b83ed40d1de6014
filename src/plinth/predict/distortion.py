"""Clipping by distortion: the power at which a stage, driven past its onset, gives 1 % or 10 % THD.

The output is the sine held inside what the moving rails leave at each instant, and draws what it then is; output and
rails are laid on each other until they rest. THD from harmonics 2 to 20 over the root of fundamental power (AES17 calls
for a stated band: here 20 times the signal). Any stage into a resistance; class D stays at its duty limit meanwhile.
"""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from plinth.physics.numbers.errors import PhysicsError
from plinth.physics.numbers.roots import bracketed
from plinth.physics.rails.common_period import Grid
from plinth.physics.rails.network_steady import NetworkState, steady_state
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import drive_of
from plinth.predict.clipped_output import HeldOutput
from plinth.predict.figure import Figure, Origin
from plinth.predict.operating_points import Drive
from plinth.predict.power_state import (
    Period,
    PowerState,
    as_power_state,
    lay_period,
    load_law,
    network_onset,
    source_of,
)  # fmt: skip
from plinth.predict.prediction import Prediction

Array = NDArray[np.float64]

GRID = Grid(200, 50)
HARMONICS = 20
ROUNDS = 12
RESTS_V = 2e-3
# The share of the THD asked for by which an amplitude may be off.
NEAR_THD = 2e-3


@dataclasses.dataclass(frozen=True)
class Overdriven:
    """Peak volts that the sine would have unclipped, its THD (a fraction) and its power (W, harmonics included)."""

    amplitude_v: float
    thd: float
    power_w: float


def can_overdrive(circuit: PowerCircuit) -> bool:
    """Whether the clipped output is computed: into a resistance, whose current has the output's own shape."""
    return circuit.load_phase_deg == 0.0 and not circuit.modules_away


def power_at_thd(
    circuit: PowerCircuit, drive: Drive, wanted: tuple[float, ...]
) -> tuple[float, tuple[Overdriven, ...]]:
    """Watts at onset, and what is at each THD of ``wanted`` (fractions, rising), per driven channel.

    Raises PhysicsError where no such circuit could run.
    """
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, GRID)
    onset = network_onset(circuit, period, drive.driven)
    over = _Overdrive(circuit, period, drive.driven, onset.state)
    overdriven, low = [], (onset.v_peak, 0.0)
    for target in wanted:
        high = (low[0] * 1.08, over.driven_to(low[0] * 1.08).thd)
        while high[1] < target:
            low, high = high, (high[0] * 1.15, over.driven_to(high[0] * 1.15).thd)
            if high[0] > 20.0 * onset.v_peak:
                raise PhysicsError("this output does not reach that distortion: it does not clip")
        overdriven.append(_driven_until(over, target, low, high))
        low = (overdriven[-1].amplitude_v, overdriven[-1].thd)
    return onset.v_peak**2 / (2.0 * circuit.r_load), tuple(overdriven)


def driven_past(
    circuit: PowerCircuit, drive: Drive, amplitude_v: float, grid: Grid = GRID
) -> tuple[PowerState, Array, Array]:
    """The state of a circuit whose output would be a sine of ``amplitude_v`` (peak) if nothing held it, into ohms.

    With it the least and the most that the output can be at the instants of its period. Raises PhysicsError.
    """
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, grid)
    over = _Overdrive(circuit, period, drive.driven, network_onset(circuit, period, drive.driven).state)
    over.driven_to(amplitude_v)
    least, most = over.held.bounds(over.state.waves.v_load)
    return as_power_state(circuit, period, amplitude_v, drive.driven, over.state), least, most


def _driven_until(over: "_Overdrive", target: float, low: tuple[float, float], high: tuple[float, float]) -> Overdriven:
    """What is at a THD, sought between two amplitudes given with theirs."""
    tried: list[Overdriven] = []

    def beyond(amplitude: float) -> float:
        tried.append(over.driven_to(amplitude))
        return _straight(tried[-1].thd) - _straight(target)

    ends = [(amplitude, _straight(thd) - _straight(target)) for amplitude, thd in (low, high)]
    bracketed(beyond, ends[0], ends[1], NEAR_THD * _straight(target) * 2.0 / 3.0)
    return tried[-1] if tried else over.driven_to(low[0])


def _straight(thd: float) -> float:
    """THD^(2/3), which is how a flattened sine grows with its amplitude."""
    return float(thd ** (2.0 / 3.0))


class _Overdrive:
    """A circuit driven past its onset, each amplitude from the rails of the one before."""

    def __init__(self, circuit: PowerCircuit, period: Period, driven: int, state: NetworkState) -> None:
        self.circuit, self.period, self.driven, self.state = circuit, period, driven, state
        self.source, self.held = source_of(circuit, period), HeldOutput(circuit, period)

    def driven_to(self, amplitude: float) -> Overdriven:
        """What comes of a sine of this amplitude."""
        circuit, out = self.circuit, np.zeros(self.period.steps + 1)
        for _ in range(ROUNDS):
            wave = self.held.wave(amplitude, self.state.waves.v_load)
            before, out = out, wave.volts
            law = load_law(circuit, self.period, self.driven, wave)
            self.state = steady_state(circuit.network, self.source, law, 1.0, self.state)
            if float(np.max(np.abs(out - before))) < RESTS_V:
                break
        cycles = self.period.shared.signal_cycles
        lines = np.abs(np.fft.rfft(out[:-1]))[cycles::cycles][:HARMONICS]
        thd = float(np.sqrt(np.sum(lines[1:] ** 2)) / lines[0])
        return Overdriven(amplitude, thd, float(np.mean(out[:-1] ** 2)) / circuit.r_load)


def power_figure_at(prediction: Prediction, thd: float) -> Figure | None:
    """Clip power at a THD (a fraction) as a figure; None where it is not computed. Its spread is that of the onset."""
    drive = drive_of(prediction.build, prediction.situation)
    circuit = drive.at_clip(prediction.points.circuit)
    if not can_overdrive(circuit):
        return None
    try:
        _, (overdriven,) = power_at_thd(circuit, drive, (thd,))
    except PhysicsError:
        return None
    onset = prediction["clip_power_w"]
    return Figure(
        f"clip_thd_{100 * thd:g}_power_w", f"clip power at {100 * thd:g} % distortion", overdriven.power_w, unit="W",
        u=onset.u / onset.value * overdriven.power_w,
        origin=Origin("sine held inside the moving rails, driven until this THD; harmonics 2 to 20", "AES17 for THD"),
        contributions=onset.contributions,
    )  # fmt: skip
