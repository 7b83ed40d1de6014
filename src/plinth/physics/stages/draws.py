"""What each kind of output stage draws from its rails, and how far its output may go.

Rail currents count as drawn: a negative one is energy pumped back. Sources: D. Self, Audio Power Amplifier Design, for
class A and AB; for the half bridge charge and energy of one switching period: duty d = (v + V_n) / (V_p + V_n),
i+ = d i, i- = -(1 - d) i, which conserves power only with the rails of that instant.
"""

import dataclasses
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.physics.rails.network_steady import Loading, LoadLaw

Array = NDArray[np.float64]


@dataclasses.dataclass(frozen=True)
class OutputWave:
    """One period of output per volt of amplitude: ``volts`` and ``amperes`` at n + 1 instants and in between.

    ``volts_mid``, ``amperes_mid`` at the middles of the n steps. Amperes are those of one channel's load.
    """

    volts: Array
    amperes: Array
    volts_mid: Array
    amperes_mid: Array


def output_wave(cycles: int, steps: int, phase_rad: float, z_ohm: float, z_phase_rad: float = 0.0) -> OutputWave:
    """A sine of ``cycles`` periods into |Z| whose current lags by ``z_phase_rad`` (inductive above 0)."""
    angle = phase_rad + np.linspace(0.0, 2.0 * np.pi * cycles, 2 * steps + 1)
    volts, amperes = np.sin(angle), np.sin(angle - z_phase_rad) / z_ohm
    return OutputWave(volts[::2], amperes[::2], volts[1::2], amperes[1::2])


@dataclasses.dataclass(frozen=True)
class Channels:
    """How many channels are powered and how many play; ``i_idle_a`` per rail and powered channel."""

    powered: int
    driven: int
    i_idle_a: float


# A stage gives, for instants: amperes from each rail of one driven channel, and their slope by amplitude.
_Draw = Callable[[float, Array, Array], tuple[Array, Array]]


def _of_current(wave: OutputWave, channels: Channels, draw: _Draw) -> LoadLaw:
    """A law that does not depend on the rails; the charge of each step by Simpson's rule."""
    idle = (channels.powered - channels.driven) * channels.i_idle_a

    def loading(amplitude: float, _v: Array) -> Loading:
        ends, unit_ends = draw(amplitude, wave.volts, wave.amperes)
        middles, unit_middles = draw(amplitude, wave.volts_mid, wave.amperes_mid)
        mean = (ends[:-1] + 4.0 * middles + ends[1:]) / 6.0
        unit = (unit_ends[:-1] + 4.0 * unit_middles + unit_ends[1:]) / 6.0
        n = channels.driven
        return Loading(n * ends + idle, n * mean + idle, n * unit_ends, n * unit)

    return LoadLaw(loading, follows_rails=False)


def class_ab(wave: OutputWave, channels: Channels) -> LoadLaw:
    """I+ = I_q + max(i, 0), i- = I_q + max(-i, 0)."""

    def draw(a: float, _v: Array, i: Array) -> tuple[Array, Array]:
        halves = np.stack([np.maximum(i, 0.0), np.maximum(-i, 0.0)], axis=1)
        return channels.i_idle_a + a * halves, halves

    return _of_current(wave, channels, draw)


def bridged_class_ab(wave: OutputWave, channels: Channels, rails: int) -> LoadLaw:
    """Two stages in antiphase: every rail gives |i| and both stages' idle current."""

    def draw(a: float, _v: Array, i: Array) -> tuple[Array, Array]:
        both = np.repeat(np.abs(i)[:, None], rails, axis=1)
        return channels.i_idle_a + a * both, both

    return _of_current(wave, channels, draw)


def class_a_push_pull(wave: OutputWave, channels: Channels, i_bias_a: float) -> LoadLaw:
    """Both halves share the current until one runs dry at |i| = 2 I_bias; beyond, one carries all.

    ``channels.i_idle_a`` holds the bias and the drivers.
    """
    drivers = channels.i_idle_a - i_bias_a

    def draw(a: float, _v: Array, i: Array) -> tuple[Array, Array]:
        out = a * i
        plus = np.where(out > 2.0 * i_bias_a, out, np.maximum(i_bias_a + 0.5 * out, 0.0))
        minus = np.where(out < -2.0 * i_bias_a, -out, np.maximum(i_bias_a - 0.5 * out, 0.0))
        slope = np.where(np.abs(out) <= 2.0 * i_bias_a, 0.5 * i, 0.0)
        units = [np.where(out > 2.0 * i_bias_a, i, slope), np.where(out < -2.0 * i_bias_a, -i, -slope)]
        return drivers + np.stack([plus, minus], axis=1), np.stack(units, axis=1)

    return _of_current(wave, channels, draw)


def class_a_single_ended(wave: OutputWave, channels: Channels) -> LoadLaw:
    """A follower on the + rail against a current source on the - rail: i+ = I_q + i, i- = I_q."""

    def draw(a: float, _v: Array, i: Array) -> tuple[Array, Array]:
        out = a * i
        held = np.maximum(out, -channels.i_idle_a)
        units = np.stack([np.where(out > -channels.i_idle_a, i, 0.0), np.zeros_like(i)], axis=1)
        return np.stack([channels.i_idle_a + held, np.full_like(i, channels.i_idle_a)], axis=1), units

    return _of_current(wave, channels, draw)


def at_rest(i_a: tuple[float, ...], g_s: tuple[float, ...], steps: int) -> LoadLaw:
    """From each rail a current and what a conductance (S, 0 for none) takes, whatever the amplitude."""
    rails = len(i_a)
    none_at, none_mean = np.zeros((steps + 1, rails)), np.zeros((steps, rails))
    if not any(g_s):
        steady = Loading(none_at + i_a, none_mean + i_a, none_at, none_mean)
        return LoadLaw(lambda _a, _v: steady, follows_rails=False)
    each = np.array(g_s)
    g = tuple(tuple(each[r] if r == c else 0.0 for c in range(rails)) for r in range(rails))

    def draw(_a: float, v: Array) -> Loading:
        # What the laid-on slope adds is taken off again, so that the current is i + g v whatever v was.
        return Loading(i_a + v * each, i_a + 0.5 * (v[:-1] + v[1:]) * each, none_at, none_mean, g)

    return LoadLaw(draw, follows_rails=False)


def constant_power(p_w: float, steps: int, i_idle_a: float = 0.0) -> LoadLaw:
    """A converter that takes ``p_w`` from a single rail whatever its voltage: i = P / v."""
    none_at, none_mean = np.zeros((steps + 1, 1)), np.zeros((steps, 1))

    def draw(_a: float, v: Array) -> Loading:
        middle = 0.5 * (v[:-1] + v[1:])
        at, mean = p_w / v + i_idle_a, p_w / middle + i_idle_a
        return Loading(at, mean, none_at, none_mean, ((float(np.mean(-p_w / v**2)),),))

    return LoadLaw(draw, follows_rails=True)


# A stage whose current depends on the rails: amperes, their slope by amplitude, and by each rail's volts (the same row
# for every rail, as what flows from rail to rail changes both alike).
_Following = Callable[[float, Array, Array, Array], tuple[Array, Array, Array]]


def _following(wave: OutputWave, at: _Following) -> LoadLaw:
    def draw(amplitude: float, v: Array) -> Loading:
        middle = 0.5 * (v[:-1] + v[1:])
        ends, unit_ends, slopes = at(amplitude, v, wave.volts, wave.amperes)
        middles, unit_middles, _ = at(amplitude, middle, wave.volts_mid, wave.amperes_mid)
        mean = (ends[:-1] + 4.0 * middles + ends[1:]) / 6.0
        unit = (unit_ends[:-1] + 4.0 * unit_middles + unit_ends[1:]) / 6.0
        row = tuple(float(s) for s in np.mean(slopes[:-1], axis=0))
        return Loading(ends, mean, unit_ends, unit, (row,) * ends.shape[1])

    return LoadLaw(draw, follows_rails=True)


@dataclasses.dataclass(frozen=True)
class Switching:
    """A class D stage: ``r_path_ohm`` bridge and coil in the current's path (both legs of a bridge), ``loss_share``.

    ``loss_share`` further losses as a share of the output power of each instant: 1 / efficiency - 1.
    """

    r_path_ohm: float
    loss_share: float


def class_d_half_bridge(wave: OutputWave, channels: Channels, stage: Switching, antiphase: bool = False) -> LoadLaw:
    """Duty by the rails of each instant; losses from rail to rail. ``antiphase``: channels in pairs turned."""
    idle = channels.powered * channels.i_idle_a
    pairs = channels.driven // 2 if antiphase else 0
    straight, turned = channels.driven - pairs, pairs

    def at(a: float, v: Array, volts: Array, amperes: Array) -> tuple[Array, Array, Array]:
        rail_to_rail = v[:, 0] + v[:, 1]
        i, bridge = a * amperes, a * (volts + stage.r_path_ohm * amperes)
        loss = stage.loss_share * a * a * np.abs(volts * amperes) / rail_to_rail
        duty_part = bridge / rail_to_rail * i
        # Turned channels carry -v and -i: what depends on v i stays, what depends on i alone cancels.
        lean = (straight - turned) * i
        shared = channels.driven * (duty_part + loss)
        plus = v[:, 1] / rail_to_rail * lean + shared
        minus = -v[:, 0] / rail_to_rail * lean + shared
        by_amplitude = (lean / a if a else (straight - turned) * amperes, 2.0 * shared / a if a else 0.0 * i)
        units = np.stack(
            [
                v[:, 1] / rail_to_rail * by_amplitude[0] + by_amplitude[1],
                -v[:, 0] / rail_to_rail * by_amplitude[0] + by_amplitude[1],
            ],
            axis=1,
        )
        by_plus = -v[:, 1] / rail_to_rail**2 * lean - shared / rail_to_rail
        by_minus = v[:, 0] / rail_to_rail**2 * lean - shared / rail_to_rail
        slopes = np.stack([by_plus, by_minus], axis=1)
        return idle + np.stack([plus, minus], axis=1), units, slopes

    return _following(wave, at)


def class_d_bridged_pair(wave: OutputWave, channels: Channels, stage: Switching) -> LoadLaw:
    """Two half bridges in antiphase around one load: i = (v i + losses) / (V_p + V_n) from both rails, nothing pumped.

    ``stage.r_path_ohm`` of each half; ``channels.i_idle_a`` of both.
    """
    idle = channels.powered * channels.i_idle_a

    def at(a: float, v: Array, volts: Array, amperes: Array) -> tuple[Array, Array, Array]:
        rail_to_rail = v[:, 0] + v[:, 1]
        through = volts * amperes + 2.0 * stage.r_path_ohm * amperes**2 + stage.loss_share * np.abs(volts * amperes)
        i = channels.driven * a * a * through / rail_to_rail
        both = np.stack([i, i], axis=1)
        return idle + both, 2.0 * both / a if a else 0.0 * both, np.stack([-i / rail_to_rail] * 2, axis=1)

    return _following(wave, at)


def class_d_bridge(wave: OutputWave, channels: Channels, stage: Switching) -> LoadLaw:
    """A full bridge on one supply: the supply gives the output power, the path's loss and the rest, at its voltage."""
    idle = channels.powered * channels.i_idle_a

    def at(a: float, v: Array, volts: Array, amperes: Array) -> tuple[Array, Array, Array]:
        through = a * a * (volts * amperes + stage.r_path_ohm * amperes**2 + stage.loss_share * np.abs(volts * amperes))
        i = channels.driven * through / v[:, 0]
        return (idle + i)[:, None], (2.0 * i / a if a else 0.0 * i)[:, None], (-i / v[:, 0])[:, None]

    return _following(wave, at)
