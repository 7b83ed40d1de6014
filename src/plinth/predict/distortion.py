"""Clipping by distortion: the power at which a class AB stage, driven past its onset, gives 1 % or 10 % THD.

The output is the sine held inside what the moving rails leave at each instant, and draws what it then is; output and
rails are laid on each other until they rest. THD from harmonics 2 to 20 over the root of fundamental power (AES17 calls
for a stated band: here 20 times the signal).
"""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from plinth.physics.common_period import Grid
from plinth.physics.errors import PhysicsError
from plinth.physics.network_steady import Loading, LoadLaw, NetworkState, steady_state
from plinth.predict.circuit import PowerCircuit
from plinth.predict.circuits import drive_of
from plinth.predict.figure import Figure, Origin
from plinth.predict.operating_points import Drive, lay_period, network_onset, source_of
from plinth.predict.solve import Prediction

Array = NDArray[np.float64]

GRID = Grid(200, 50)
HARMONICS = 20
ROUNDS = 12
RESTS_V = 2e-3


@dataclasses.dataclass(frozen=True)
class Overdriven:
    """Peak volts that the sine would have unclipped, its THD (a fraction) and its power (W, harmonics included)."""

    amplitude_v: float
    thd: float
    power_w: float


def can_overdrive(circuit: PowerCircuit) -> bool:
    """Whether this is a stage whose clipped output is computed: single class AB modules into a resistance."""
    return circuit.stage == "class_ab" and circuit.load_phase_deg == 0.0 and not circuit.modules_away


def power_at_thd(
    circuit: PowerCircuit, drive: Drive, wanted: tuple[float, ...]
) -> tuple[float, tuple[Overdriven, ...]]:
    """Watts at onset, and what is at each THD of ``wanted`` (fractions, rising), per driven channel.

    Raises PhysicsError where no such circuit could run.
    """
    period = lay_period(circuit, drive.f_signal_hz, drive.phase_deg, GRID)
    onset = network_onset(circuit, period, drive.driven)
    source, cycles = source_of(circuit, period), period.shared.signal_cycles
    sine, k = period.signal_sine, 1.0 + circuit.r_out / circuit.r_load
    idle, need = circuit.channels * circuit.i_idle_a, circuit.v_sat + circuit.own_drop
    state: NetworkState = onset.state

    def driven_to(amplitude: float) -> Overdriven:
        nonlocal state
        out = np.zeros_like(sine)
        for _ in range(ROUNDS):
            v = state.waves.v_load
            before, out = out, np.clip(amplitude * sine, -(v[:, 1] - need) / k, (v[:, 0] - need) / k)
            i = drive.driven * out / circuit.r_load
            at = idle + np.stack([np.maximum(i, 0.0), np.maximum(-i, 0.0)], axis=1)
            mean = 0.5 * (at[:-1] + at[1:])
            fixed = Loading(at, mean, np.zeros_like(at), np.zeros_like(mean))
            # A default binds this round's load; mypy cannot see that the caller never passes it.
            law = LoadLaw(lambda _a, _v, fixed=fixed: fixed, follows_rails=False)  # type: ignore[misc]
            state = steady_state(circuit.network, source, law, 0.0, state)
            if float(np.max(np.abs(out - before))) < RESTS_V:
                break
        lines = np.abs(np.fft.rfft(out[:-1]))[cycles::cycles][:HARMONICS]
        thd = float(np.sqrt(np.sum(lines[1:] ** 2)) / lines[0])
        return Overdriven(amplitude, thd, float(np.mean(out[:-1] ** 2)) / circuit.r_load)

    found, low = [], onset.v_peak
    for target in wanted:
        high = low * 1.08
        while driven_to(high).thd < target:
            low, high = high, high * 1.15
            if high > 20.0 * onset.v_peak:
                raise PhysicsError("this output does not reach that distortion: it does not clip")
        for _ in range(9):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if driven_to(middle).thd < target else (low, middle)
        found.append(driven_to(0.5 * (low + high)))
    return onset.v_peak**2 / (2.0 * circuit.r_load), tuple(found)


def power_figure_at(prediction: Prediction, thd: float) -> Figure | None:
    """Clip power at a THD (a fraction) as a figure; None where it is not computed. Its spread is that of the onset."""
    drive = drive_of(prediction.build, prediction.situation)
    circuit = drive.at_clip(prediction.points.circuit)
    if not can_overdrive(circuit):
        return None
    try:
        _, (found,) = power_at_thd(circuit, drive, (thd,))
    except PhysicsError:
        return None
    onset = prediction["clip_power_w"]
    return Figure(
        f"clip_thd_{100 * thd:g}_power_w", f"clip power at {100 * thd:g} % distortion", found.power_w, "W",
        onset.u / onset.value * found.power_w,
        Origin("sine held inside the moving rails, driven until this THD; harmonics 2 to 20", "AES17 for THD"),
        onset.contributions,
    )  # fmt: skip
