"""A push-pull converter from a battery: its clock, core, currents, diodes, wire and cable.

Sources: Faraday's law for the flux; energy balance for the currents; skin depth after standard electrodynamics.
"""

import math

from plinth.physics.materials import COPPER_OHM_M


def oscillator_hz(r_timing_ohm: float, c_timing_f: float) -> float:
    """Clock of the common self-oscillating driver, Hz: 1 / (1.4 (R_T + 75 ohm) C_T).

    It divides nothing: this is the switching frequency of the bridge as well.
    """
    return 1.0 / (1.4 * (r_timing_ohm + 75.0) * c_timing_f)


def flux_swing_t(v: float, duty: float, f_hz: float, turns: int, a_core_m2: float) -> float:
    """Peak-to-peak flux, tesla: V D T / (N A_e), with each switch on for ``duty`` (at most 0.5) of the period."""
    return v * duty / (f_hz * turns * a_core_m2)


def turns_within(turns: int, flux_pp_t: float, b_peak_t: float) -> int:
    """Fewest turns for which a flux of ``flux_pp_t`` at ``turns`` stays within +-``b_peak_t``: it falls as 1 / N."""
    return math.ceil(turns * flux_pp_t / (2.0 * b_peak_t))


def primary_half_rms_a(i_battery_a: float, duty: float) -> float:
    """RMS in each primary half: pulses of I / d for d / 2 of the time each, so I / sqrt(2 d).

    ``i_battery_a`` the mean of what both halves take, ``duty`` (0 to 1) the share of the time that one of them is on.
    """
    return i_battery_a / math.sqrt(2.0 * duty)


def battery_current(p_w: float, v_rest: float, r_ohm: float) -> tuple[float, float]:
    """Amperes and terminal volts of a battery that gives ``p_w``: v = (v0 + sqrt(v0^2 - 4 R P)) / 2.

    Raises ValueError where its resistance cannot let so much through.
    """
    inside = v_rest**2 - 4.0 * r_ohm * p_w
    if inside < 0.0:
        raise ValueError(
            f"a battery of {v_rest:.3g} V behind {r_ohm:.3g} ohm gives at most {v_rest**2 / (4 * r_ohm):.3g} W, "
            f"and {p_w:.3g} W are asked of it"
        )
    v = 0.5 * (v_rest + math.sqrt(inside))
    return p_w / v, v


def input_ripple_rms_a(i_battery_a: float, duty_total: float) -> float:
    """Ripple that the input capacitors carry: pulses of I / D for ``duty_total`` of the time, I sqrt(1 / D - 1)."""
    return i_battery_a * math.sqrt(max(1.0 / duty_total - 1.0, 0.0))


def diode_reverse_v(v_battery: float, turns_primary: int, turns_secondary: int) -> float:
    """Reverse stress of each rectifier: both secondary halves in series, 2 V n."""
    return 2.0 * v_battery * turns_secondary / turns_primary


def divider_rail_v(v_reference: float, r_top_ohm: float, r_bottom_ohm: float) -> float:
    """Rail that a feedback divider holds: V_ref (1 + R_top / R_bottom)."""
    return v_reference * (1.0 + r_top_ohm / r_bottom_ohm)


def skin_depth_m(f_hz: float, resistivity_ohm_m: float = COPPER_OHM_M) -> float:
    """Depth to which current of ``f_hz`` fills a conductor: sqrt(rho / (pi f mu0)); 66 mm / sqrt f for copper."""
    return math.sqrt(resistivity_ohm_m / (math.pi * f_hz * 4e-7 * math.pi))


def run_time_s(capacity_ah: float, i_mean_a: float, usable_share: float = 0.8) -> float:
    """Seconds on a battery at its mean current; ``usable_share`` of the capacity, as ageing and cold leave."""
    return capacity_ah * 3600.0 * usable_share / i_mean_a if i_mean_a > 0.0 else math.inf
