"""What flows where in a supply, from the steady states of its rails."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.mains import wave
from plinth.physics.rails.network_elements import RailElements
from plinth.physics.rails.steady_state import RailSteadyState

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class MainsSide:
    """Current and power at the ideal mains, copper loss included, and the core's where it is stated."""

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
    p_series_w: float = 0.0

    @property
    def error(self) -> float:
        """Relative difference between what comes in and what is accounted for."""
        out = self.p_load_w + self.p_winding_w + self.p_diode_w + self.p_bleeder_w + self.p_esr_w + self.p_series_w
        return (self.p_in_w - out) / self.p_in_w if self.p_in_w else 0.0


def winding_rms_a(rails: tuple[RailSteadyState, ...]) -> float:
    """RMS amperes in each half winding: sqrt((<i+^2> + <i-^2>) / 2); of a single winding that of its one rail.

    On a centre tap the halves take turns at the two rails; with two secondaries it is their quadratic mean.
    """
    return math.sqrt(sum(rail.rms(rail.i_diode_a) ** 2 for rail in rails) / len(rails))


def secondary_current(rails: tuple[RailSteadyState, ...], mains_wave: Array, v_drop: float) -> Array:
    """What the core sees, A per turn of a half, with the sign of the mains: all rails draw on each half cycle.

    A current that flows on past the zero crossing (leakage) keeps the sign it had.
    """
    total = np.zeros_like(mains_wave)
    for rail in rails:
        total += np.where(rail.emf_v + v_drop >= 0.0, 1.0, -1.0) * rail.i_diode_a
    return np.asarray(np.sign(mains_wave) * total)


def core_current(
    angle_rad: Array, v_ratio: float, v_primary_rms: float, p_core_w: float, i_magnetising_a: float, h: float = 0.0
) -> Array:
    """Amperes that an unloaded core takes: its loss in phase with the mains, its magnetising current in quadrature.

    Both stated at the rated ``v_primary_rms``; ``v_ratio`` the mains as a multiple of it. A loss that rises with the
    square of the volts and a core that is not saturated: current in proportion to its flux, the integral of the volts.
    """
    flux = -(np.cos(angle_rad) + h / 3.0 * np.cos(3.0 * angle_rad)) / math.sqrt(1.0 + h * h)
    loss = p_core_w / v_primary_rms * wave.mains_wave(angle_rad, h)
    return np.asarray(math.sqrt(2.0) * v_ratio * (loss + i_magnetising_a * flux))


def mains_side(i_primary: Array, v_mains: Array) -> MainsSide:
    """Current and power at the wall from n + 1 samples of whole half cycles, the last like the first or mirrored.

    A period that ends on a half cycle of the other sign repeats mirrored, which leaves RMS, peak and power the same.
    """
    i_rms = float(np.sqrt(np.mean(i_primary[:-1] ** 2)))
    p_w = float(np.mean(v_mains[:-1] * i_primary[:-1]))
    s_va = float(np.sqrt(np.mean(v_mains[:-1] ** 2))) * i_rms
    i_peak = float(np.max(np.abs(i_primary)))
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
    rails: tuple[RailSteadyState, ...], v_drop: float, r_own_ohm: float, r_shared_ohm: float, r_diode_ohm: float
) -> EnergyBalance:
    """Account for all power of one period: load, copper, diodes (fixed drop and slope), bleeders, ESR, second stage."""
    p_in = p_load = p_winding = p_diode = p_bleeder = p_esr = p_series = 0.0
    for rail in rails:
        square = rail.rms(rail.i_diode_a) ** 2
        p_in += rail.mean((rail.emf_v + v_drop) * rail.i_diode_a)
        p_load += rail.p_load_w
        p_winding += r_own_ohm * square
        p_diode += v_drop * rail.mean(rail.i_diode_a) + r_diode_ohm * square
        at_reservoir = rail.v_node if rail.v_reservoir is None else rail.v_reservoir
        p_bleeder += rail.mean(at_reservoir * rail.i_bleed_a)
        p_esr += rail.circuit.esr_ohm * rail.rms(rail.i_cap_a) ** 2
        if isinstance(rail.circuit, RailElements) and rail.circuit.two_stages:
            assert rail.i_series_a is not None
            assert rail.i_cap2_a is not None
            p_series += rail.circuit.r_series_ohm * rail.rms(rail.i_series_a) ** 2
            p_esr += rail.circuit.esr2_ohm * rail.rms(rail.i_cap2_a) ** 2
    if r_shared_ohm:
        total = np.sum([rail.i_diode_a for rail in rails], axis=0)
        p_winding += r_shared_ohm * rails[0].rms(total) ** 2
    return EnergyBalance(
        p_in, p_load, p_winding, p_diode_w=p_diode, p_bleeder_w=p_bleeder, p_esr_w=p_esr, p_series_w=p_series
    )
