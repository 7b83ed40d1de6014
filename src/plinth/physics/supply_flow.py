"""What flows where in a dual-rail linear supply, from the steady states of its two rails."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.steady_state import RailSteadyState

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class MainsSide:
    """Primary current and power at the ideal mains, copper loss included, magnetising current left out."""

    i_a: Array
    i_rms_a: float
    i_peak_a: float
    crest_factor: float
    p_w: float
    s_va: float
    power_factor: float


@dataclasses.dataclass(frozen=True)
class EnergyBalance:
    """Mean powers of one period, watts; ``error`` = (in - out) / in."""

    p_in_w: float
    p_load_w: float
    p_winding_w: float
    p_diode_w: float
    p_bleeder_w: float
    p_esr_w: float

    @property
    def error(self) -> float:
        """Relative difference between what comes in and what is accounted for."""
        out = self.p_load_w + self.p_winding_w + self.p_diode_w + self.p_bleeder_w + self.p_esr_w
        return (self.p_in_w - out) / self.p_in_w if self.p_in_w else 0.0


def half_winding_rms_a(plus: RailSteadyState, minus: RailSteadyState) -> float:
    """RMS amperes in each half winding: sqrt((<i+^2> + <i-^2>) / 2).

    On a centre tap the halves take turns at the two rails; with two secondaries it is their quadratic mean.
    """
    return math.sqrt(0.5 * (plus.rms(plus.i_diode_a) ** 2 + minus.rms(minus.i_diode_a) ** 2))


def mains_side(
    plus: RailSteadyState, minus: RailSteadyState, v_amplitude: float, mains_wave: Array, turns_ratio: float
) -> MainsSide:
    """Primary current and power; ``mains_wave`` the unit mains wave on the rails' grid (n + 1 instants).

    ``turns_ratio`` = primary volts / open-circuit secondary volts. Both rails load the same core, and both
    draw on each half cycle, so the secondary-referred total has the sign of the mains.
    """
    i_secondary = np.sign(mains_wave) * (plus.i_diode_a + minus.i_diode_a)
    # A period may end on a half cycle of the other sign: over the whole mains period it repeats mirrored,
    # which leaves RMS, peak and power the same.
    i_rms_secondary = float(np.sqrt(np.mean(i_secondary[:-1] ** 2)))
    p_w = float(np.mean(v_amplitude * mains_wave[:-1] * i_secondary[:-1]))
    s_va = v_amplitude / math.sqrt(2.0) * i_rms_secondary
    i_primary = i_secondary / turns_ratio
    i_rms, i_peak = i_rms_secondary / turns_ratio, float(np.max(np.abs(i_primary)))
    return MainsSide(
        i_a=i_primary,
        i_rms_a=i_rms,
        i_peak_a=i_peak,
        crest_factor=i_peak / i_rms if i_rms else math.nan,
        p_w=p_w,
        s_va=s_va,
        power_factor=p_w / s_va if s_va else math.nan,
    )


def energy_balance(
    rails: tuple[RailSteadyState, RailSteadyState],
    v_amplitude: float,
    mains_wave: Array,
    r_winding_ohm: float,
    r_diode_ohm: float,
    v_drop: float,
) -> EnergyBalance:
    """Account for all power of one period: load, copper, diodes (fixed drop and slope), bleeders, ESR."""
    p_in = p_load = p_winding = p_diode = p_bleeder = p_esr = 0.0
    for rail in rails:
        square = rail.rms(rail.i_diode_a) ** 2
        p_in += rail.mean(v_amplitude * np.abs(mains_wave) * rail.i_diode_a)
        p_load += rail.p_load_w
        p_winding += r_winding_ohm * square
        p_diode += v_drop * rail.mean(rail.i_diode_a) + r_diode_ohm * square
        p_bleeder += rail.mean(rail.v_node * rail.i_bleed_a)
        p_esr += rail.circuit.esr_ohm * rail.rms(rail.i_cap_a) ** 2
    return EnergyBalance(p_in, p_load, p_winding, p_diode, p_bleeder, p_esr)
