"""What a mains switcher draws from the wall, with and without a power-factor stage; how long it holds up."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.physics.mains.wave import mains_wave
from plinth.physics.rails.network_elements import RailElements, RailNetwork
from plinth.physics.rails.network_steady import NetworkState, RailSource, steady_state
from plinth.physics.rails.rail import rectified_emf
from plinth.physics.stages.draws import constant_power

Array = NDArray[np.float64]

STEPS = 500


@dataclasses.dataclass(frozen=True)
class BulkState:
    """The bulk capacitor behind the mains bridge: ``v`` over one half cycle, ``i_mains_a`` with the mains' sign."""

    v: Array
    i_mains_a: Array
    network: NetworkState | None

    @property
    def v_trough(self) -> float:
        """Lowest volts of the ripple: from where a drop-out of the mains is ridden through at worst."""
        return float(np.min(self.v))


def bulk_state(
    p_w: float,
    v_mains_rms: float,
    mains_hz: float,
    c_f: float,
    r_line_ohm: float,
    third_harmonic: float = 0.0,
    near: BulkState | None = None,
    *,
    v_bridge: float,
    esr_ohm: float,
) -> BulkState:
    """Mains bridge, bulk capacitor and a converter that takes ``p_w`` at any voltage; one half cycle, 501 instants.

    Two diodes of the bridge drop ``v_bridge``, ``esr_ohm`` is the capacitor's. Raises RailCollapseError where the line
    cannot carry the power.
    """
    emf = rectified_emf(math.sqrt(2.0) * v_mains_rms, v_bridge, 1, STEPS, third_harmonic)[:, None]
    step_s = 1.0 / (2.0 * mains_hz) / STEPS
    network = RailNetwork((RailElements(r_source_ohm=r_line_ohm, c_f=c_f, esr_ohm=esr_ohm),))
    source = RailSource(emf, emf, 0, step_s)
    state = steady_state(network, source, constant_power(p_w, STEPS), 0.0, near.network if near else None)
    return BulkState(state.waves.v_load[:, 0], state.waves.i_source[:, 0], state)


def corrected_state(
    p_w: float, v_mains_rms: float, v_boost: float, mains_hz: float, c_f: float, c_line_f: float = 0.0,
    thd: float = 0.0, shape: float = 0.5,
) -> BulkState:  # fmt: skip
    """A boost power-factor stage: current in the shape of the mains, its output rippling at twice the mains.

    The stage takes P (1 - cos 2 w t), so the capacitor ripples by P / (w C V) peak to peak. Source: energy balance of
    an ideal stage; real ones keep a few per cent of distortion (``thd``, here all of it third harmonic, which makes the
    top flat for a ``shape`` of 0, pointed for 1, and leaves its height nearly for 0.5), and the
    capacitors of the line filter (``c_line_f``) draw their part at a right angle: 1 / sqrt(1 + thd^2) and the cosine of
    atan(w C V^2 / P) are what is left of a factor of 1. ``v_boost`` must lie above the crest of the mains.
    Raises ValueError where it does not.
    """
    if v_boost <= math.sqrt(2.0) * v_mains_rms:
        raise ValueError(
            f"a power-factor stage of {v_boost:.0f} V cannot hold a mains of {v_mains_rms:.0f} V, whose crest is "
            f"{math.sqrt(2.0) * v_mains_rms:.0f} V: its output must lie above"
        )
    omega = 2.0 * math.pi * mains_hz
    angle = np.linspace(0.0, np.pi, STEPS + 1)
    swing = p_w / (2.0 * omega * c_f * v_boost)
    wave = mains_wave(angle)
    in_phase = math.sqrt(2.0) * p_w / v_mains_rms
    current = in_phase * (wave + thd * np.sin(3.0 * angle + np.pi * shape))
    current = current + math.sqrt(2.0) * v_mains_rms * omega * c_line_f * np.cos(angle)
    return BulkState(v_boost - swing * np.sin(2.0 * angle), current, None)


def hold_up_s(c_f: float, v_start: float, v_end: float, p_w: float) -> float:
    """Seconds that a bulk capacitor carries ``p_w`` from ``v_start`` down to ``v_end``: C (v0^2 - v1^2) / (2 P)."""
    return max(0.0, 0.5 * c_f * (v_start**2 - v_end**2) / p_w) if p_w > 0.0 else math.inf


def input_power_w(p_out_w: float, p_continuous_w: float, efficiency: float, p_idle_w: float) -> float:
    """A converter's intake: its idle draw, and so much per watt that ``efficiency`` is met at ``p_continuous_w``."""
    per_watt = (p_continuous_w / efficiency - p_idle_w) / p_continuous_w
    return p_idle_w + max(per_watt, 1.0) * p_out_w
