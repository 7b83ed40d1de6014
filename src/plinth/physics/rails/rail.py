"""One rail: a rectified source behind a resistance, a reservoir with ESR, a bleeder, a load current.

    emf(t) - r_source - diode - node -+- load current
                                      +- bleeder
                                      +- ESR - C

While the diode is on the node is fed by (emf - v) / r_source; the fixed drops are taken off the emf beforehand.
``physics.rail_march`` moves it through time.
"""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from plinth.physics.mains.wave import mains_wave

Array = NDArray[np.float64]


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


def rectified_emf(
    v_amplitude: float, v_drop: float, half_cycles: int, steps: int, third_harmonic: float = 0.0
) -> Array:
    """|mains wave| less the fixed diode drops, at steps + 1 instants over ``half_cycles`` half cycles, volts.

    ``v_amplitude`` that of a pure sine of the same RMS.
    """
    angle = np.linspace(0.0, np.pi * half_cycles, steps + 1)
    return v_amplitude * np.abs(mains_wave(angle, third_harmonic)) - v_drop
