"""A sine held inside what the rails leave at each instant: an output that clips."""

import numpy as np
from numpy.typing import NDArray

from plinth.physics.stages import draws
from plinth.predict.circuit import PowerCircuit
from plinth.predict.power_state import Period, output_needs

Array = NDArray[np.float64]


class HeldOutput:
    """The output of a stage into a resistance, whose current has the output's own shape."""

    def __init__(self, circuit: PowerCircuit, period: Period) -> None:
        self._r_load, self._needs = circuit.r_load, output_needs(circuit, period)
        sine = draws.output_wave(period.shared.signal_cycles, period.steps, period.angle_start, circuit.r_load)
        self._sine, self._sine_mid = sine.volts, sine.volts_mid
        top, bottom = int(np.argmax(self._sine)), int(np.argmin(self._sine))
        # Volts that each limit needs per volt of output, upward and downward.
        self._up = self._needs.needed[top] / self._sine[top]
        self._down = -self._needs.needed[bottom] / self._sine[bottom]

    def bounds(self, v: Array) -> tuple[Array, Array]:
        """Least and most that the output can be at each instant of rails ``v`` (n + 1, m)."""
        room = v @ self._needs.weights.T - self._needs.v_sat
        maximum, least = (
            np.min(np.where(per_volt > 1e-9, room / np.maximum(per_volt, 1e-9), np.inf), axis=1)
            for per_volt in (self._up, self._down)
        )
        # A current source on the - rail sinks no more than it carries.
        return -np.minimum(np.maximum(least, 0.0), self._needs.most_v), np.maximum(maximum, 0.0)

    def wave(self, amplitude: float, v: Array) -> draws.OutputWave:
        """A sine of ``amplitude`` held inside the rails ``v``: volts and amperes."""
        least, maximum = self.bounds(v)
        middles = (0.5 * (bound[:-1] + bound[1:]) for bound in (least, maximum))
        out, mid = np.clip(amplitude * self._sine, least, maximum), np.clip(amplitude * self._sine_mid, *middles)
        return draws.OutputWave(out, out / self._r_load, mid, mid / self._r_load)
