"""Rails over seconds: switch-on with or without soft start, a note that begins, power off.

Everything is a march over many mains half cycles, from a state that is not the steady one: of ``physics.network``, or
where the rails are alike and plain of one of them by the quicker ways.
"""

import dataclasses
import functools
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plinth.physics.mains.lamp import Lamp
from plinth.physics.mains.wave import mains_wave
from plinth.physics.numbers.cancellation import still_wanted
from plinth.physics.numbers.roots import bracketed
from plinth.physics.rails.leaky_rail import march_leaky
from plinth.physics.rails.network import Drives, Motion, NetworkWaves, march_network, waves_of
from plinth.physics.rails.network_elements import RailNetwork
from plinth.physics.rails.rail import LoadCurrent, RailCircuit
from plinth.physics.rails.rail_march import RailOnGrid
from plinth.physics.rails.transients import bleed_down_s

Array = NDArray[np.float64]

KELVIN = 273.15
# Half cycles marched at once where nothing changes between them.
TOGETHER = 10
# A thermistor is sought up to here above its surroundings; hotter ones do not last.
HOTTEST_K = 400.0
# A cold filament glows, a thermistor gives way within milliseconds: first pieces of a half cycle, and how far it may
# go in one of them.
PIECES, MOVES = 200, 0.02
# What moves less than this share of it within a piece is not gone over again.
SLIGHTLY = 0.1


@dataclasses.dataclass(frozen=True)
class MainsSource:
    """The rectified source seen from a rail: ``v_amplitude`` V, ``v_drop`` V, mains frequency, third harmonic."""

    v_amplitude: float
    v_drop: float
    f_mains_hz: float
    third_harmonic: float = 0.0

    def emf(self, angle_rad: Array) -> Array:
        """Volts that drive a rail at mains angles."""
        return np.asarray(self.v_amplitude * np.abs(mains_wave(angle_rad, self.third_harmonic)) - self.v_drop)


# Two moments nearer than this are one.
ON_TIME_S = 1e-9


@dataclasses.dataclass(frozen=True)
class Thermistor:
    """An NTC resistor: ``r_25_ohm`` cold, R = R_25 exp(B (1/T - 1/298.15)), one thermal mass."""

    r_25_ohm: float
    beta_k: float
    dissipation_w_per_k: float
    heat_capacity_j_per_k: float

    def ohm(self, t_c: float) -> float:
        """Resistance at a temperature (degrees)."""
        return self.r_25_ohm * math.exp(self.beta_k * (1.0 / (t_c + KELVIN) - 1.0 / 298.15))

    def steady(self, i_rms_a: float, ambient_c: float) -> tuple[float, float]:
        """Temperature (degrees) and resistance at which a steady current keeps it: I^2 R(T) = d (T - ambient)."""

        def over_w(t_c: float) -> float:
            return i_rms_a**2 * self.ohm(t_c) - self.dissipation_w_per_k * (t_c - ambient_c)

        low, high = ambient_c, ambient_c + HOTTEST_K
        if over_w(high) >= 0.0:
            return high, self.ohm(high)
        t_c = bracketed(over_w, (low, over_w(low)), (high, over_w(high)), 1e-9 * self.dissipation_w_per_k)
        return t_c, self.ohm(t_c)


@dataclasses.dataclass(frozen=True)
class SoftStart:
    """Ahead of the primary: a resistor, NTC or lamp, bridged after ``bypass_s`` (infinite: it stays)."""

    r_ohm: float
    bypass_s: float = math.inf
    ntc: Thermistor | None = None
    lamp: Lamp | None = None

    @property
    def changes(self) -> bool:
        """Whether its resistance follows its temperature."""
        return self.ntc is not None or self.lamp is not None

    def ohm_at(self, t_s: float, t_c: float) -> float:
        """Resistance at a time and its temperature (degrees)."""
        if t_s >= self.bypass_s - ON_TIME_S:
            return 0.0
        if self.lamp is not None:
            return self.lamp.ohm(t_c + KELVIN)
        return self.r_ohm if self.ntc is None else self.ntc.ohm(t_c)

    def warmed_c(self, t_c: float, i_rms_a: float, ohm: float, seconds: float, ambient_c: float) -> float:
        """Temperature after a short time under a current (degrees)."""
        if self.lamp is not None:
            return self.lamp.warmed_k(t_c + KELVIN, i_rms_a**2 * ohm, seconds) - KELVIN
        if self.ntc is not None:
            return _warmed(self.ntc, t_c, i_rms_a**2 * ohm, seconds, ambient_c)
        return t_c


@dataclasses.dataclass(frozen=True)
class Course:
    """Rails over time: ``t_s`` (n + 1,), volts and source currents (n + 1, rails), ``i_primary_a`` (n + 1,) its size.

    ``r_soft_ohm`` of the soft start over pieces, and ``t_soft_c`` where they end, at the indices ``piece_ends`` of
    ``t_s``.
    """

    t_s: Array
    v_load: Array
    v_reservoir: Array
    i_source_a: Array
    i_primary_a: Array
    r_soft_ohm: Array
    t_soft_c: Array
    piece_ends: NDArray[np.int_]

    @property
    def inrush_peak_a(self) -> float:
        """Highest current of the primary, A."""
        return float(np.max(self.i_primary_a))

    def i2t_a2s(self, until_s: float = math.inf) -> float:
        """Integral of the primary current's square, A^2 s: what a fuse sees."""
        upto = int(np.searchsorted(self.t_s, until_s))
        return float(np.trapezoid(self.i_primary_a[:upto] ** 2, self.t_s[:upto]))


def switch_on(
    network: RailNetwork,
    source: MainsSource,
    turns_ratio: float,
    seconds: float,
    idle_a: float,
    soft: SoftStart | None = None,
    phase_deg: float = 0.0,
    steps: int = 200,
    ambient_c: float = 25.0,
) -> Course:
    """From empty capacitors, the mains joining at ``phase_deg`` after its zero crossing (0 to 180).

    ``turns_ratio`` primary over secondary volts; ``steps`` per half cycle; ``idle_a`` what the modules draw from each
    rail once it is half way up. The soft start's resistance is brought to the secondary by the ratio squared, and its
    temperature taken anew at each zero crossing (a lamp's more often).
    """
    half_s = 1.0 / (2.0 * source.f_mains_hz)
    step_s, at = half_s / steps, round(phase_deg / 180.0 * steps) % steps
    end = math.ceil(seconds / half_s) * steps
    alike, network = _one_of_alike(network)
    m = len(network.rails)
    x, temperature, t = np.zeros(network.size), ambient_c, 0.0
    pieces: list[_Piece] = []
    piece = steps if soft is None or not soft.changes else max(1, steps // PIECES)
    whole = source.emf(np.linspace(0.0, np.pi, steps + 1))
    crest = float(np.max(whole))
    caps = np.array([place["v_cap2" if rail.two_stages else "v_cap"]
                     for rail, place in zip(network.rails, network.places, strict=True)])  # fmt: skip
    while at < end:
        still_wanted()
        ohm = 0.0 if soft is None else soft.ohm_at(t, temperature)
        up = x[caps] > 0.5 * crest
        place = at % steps
        count = min(
            _steps_alike(soft, t, ohm, up=bool(up.all()), half_s=half_s, steps=steps, place=place, piece=piece),
            end - at,
        )
        if soft is not None and ohm > 0.0 and math.isfinite(soft.bypass_s):
            # It is bridged when it is, not at the next zero crossing.
            count = min(count, max(1, round((soft.bypass_s - t) / step_s)))
        emf = whole[(place + np.arange(count + 1)) % steps]
        emf = np.repeat(emf[:, None], m, axis=1)
        drawn = np.tile(np.where(up, idle_a, 0.0), (len(emf), 1))
        # A piece that begins elsewhere than at a zero crossing ends before the next.
        drives = Drives(emf, -emf - 2.0 * source.v_drop, drawn, drawn[:-1], 0 if place else steps)
        lasted, begun = count * step_s, x
        behind = functools.partial(_behind, network, drives, step_s, begun, alike / turns_ratio**2)
        x, waves = behind(ohm)
        if soft is not None and ohm > 0.0:
            after = soft.warmed_c(temperature, _rms_a(waves, alike, turns_ratio), ohm, lasted, ambient_c)
            moved = abs(soft.ohm_at(t, after) - ohm) / ohm
            if moved > SLIGHTLY * MOVES:
                # Once more with what it has on the mean of the piece.
                ohm = 0.5 * (ohm + soft.ohm_at(t, after))
                x, waves = behind(ohm)
                after = soft.warmed_c(temperature, _rms_a(waves, alike, turns_ratio), ohm, lasted, ambient_c)
            temperature = after
            # What hardly changes its resistance is looked at less often.
            piece = min(steps, 2 * piece) if moved < MOVES / 3.0 else max(1, piece // 2) if moved > MOVES else piece
        pieces.append(_Piece(waves, ohm, temperature))
        t, at = t + lasted, at + count
    return _joined(pieces, step_s, turns_ratio, alike)


def _behind(
    network: RailNetwork, drives: Drives, step_s: float, x: Array, to_secondary: float, ahead_ohm: float
) -> tuple[Array, NetworkWaves]:
    """Where a piece of a course leads with a resistance ahead of the primary."""
    laid = dataclasses.replace(network, r_shared_ohm=network.r_shared_ohm + to_secondary * ahead_ohm)
    return _moved(laid, drives, step_s, x)


def _rms_a(waves: NetworkWaves, alike: int, turns_ratio: float) -> float:
    """RMS current of the primary over a piece, A."""
    return alike * math.sqrt(float(np.mean(np.sum(waves.i_source, axis=1) ** 2))) / turns_ratio


def _steps_alike(
    soft: SoftStart | None, t: float, ohm: float, up: bool, half_s: float, steps: int, place: int, piece: int
) -> int:
    """Steps from ``place`` in a half cycle over which nothing changes but the mains; ``piece`` those of what warms."""
    if place or (soft is not None and soft.changes and ohm > 0.0):
        return min(piece, steps - place)
    if not up:
        return steps
    if soft is not None and t < soft.bypass_s - ON_TIME_S:
        # A whole number of half cycles left is just so many, whatever their last binary digit.
        left = (soft.bypass_s - ON_TIME_S - t) / half_s
        return steps * max(1, math.ceil(min(TOGETHER, left)))
    return steps * TOGETHER


def _one_of_alike(network: RailNetwork) -> tuple[int, RailNetwork]:
    """How many rails are alike, and one in place of them: what they share carries the current of all."""
    rails = network.rails
    if any(rail != rails[0] for rail in rails) or network.g_load:
        return 1, network
    return len(rails), RailNetwork(rails[:1], len(rails) * network.r_shared_ohm)


def _moved(network: RailNetwork, drives: Drives, step_s: float, x: Array) -> tuple[Array, NetworkWaves]:
    """Where a piece of a course leads, and its waveforms."""
    rail = network.rails[0]
    if len(network.rails) > 1 or rail.two_stages:
        march: Motion = march_network(network, drives, step_s, x)
    elif rail.l_source_h > 0.0:
        march = march_leaky(network, drives, step_s, x)
    elif drives.zero_every:
        return _plain_moved(network, drives, step_s, float(x[0]))
    else:
        march = march_network(network, drives, step_s, x)
    return march.x[-1], waves_of(network, drives, step_s, march)


def _plain_moved(network: RailNetwork, drives: Drives, step_s: float, v: float) -> tuple[Array, NetworkWaves]:
    """A plain rail from a zero crossing on, where its diode is off, by the quick way."""
    of = network.rails[0]
    circuit = RailCircuit(of.r_source_ohm + network.r_shared_ohm, of.c_f, of.esr_ohm, of.g_bleed_s)
    rail = RailOnGrid(circuit, drives.emf[:, 0], step_s)
    load = LoadCurrent(drives.load_at[:, 0], drives.load_mean[:, 0])
    laid = rail.under(load)
    march = rail.march(laid, v)
    _, v_node = rail.waveform(laid, march)
    i_source = rail.diode_current(march, v_node)
    bleed, none = circuit.g_bleed_s * v_node, np.zeros((len(v_node), 1))
    at = [values[:, None] for values in (v_node, i_source, i_source - load.at - bleed, load.at, bleed)]
    return np.array([march.v_end]), NetworkWaves(
        v_load=at[0], v_reservoir=at[0], i_source=at[1], i_cap=at[2], i_series=none, i_cap2=none, i_load=at[3],
        i_bleed=at[4],
    )  # fmt: skip


@dataclasses.dataclass(frozen=True)
class _Piece:
    waves: NetworkWaves
    r_soft_ohm: float
    t_soft_c: float


def _warmed(ntc: Thermistor, t_c: float, p_w: float, seconds: float, ambient_c: float) -> float:
    """One thermal mass under a steady power, exactly."""
    final = ambient_c + p_w / ntc.dissipation_w_per_k
    return final + (t_c - final) * math.exp(-seconds * ntc.dissipation_w_per_k / ntc.heat_capacity_j_per_k)


def _joined(pieces: list[_Piece], step_s: float, turns_ratio: float, alike: int) -> Course:
    def whole(of: Callable[[NetworkWaves], Array]) -> Array:
        joined = np.concatenate([of(p.waves) if k == 0 else of(p.waves)[1:] for k, p in enumerate(pieces)])
        return np.repeat(joined, alike, axis=1)

    i_source = whole(lambda w: w.i_source)
    ends = np.cumsum([len(p.waves.v_load) - 1 for p in pieces])
    return Course(
        t_s=np.linspace(0.0, (len(i_source) - 1) * step_s, len(i_source)),
        v_load=whole(lambda w: w.v_load),
        v_reservoir=whole(lambda w: w.v_reservoir),
        i_source_a=i_source,
        i_primary_a=np.sum(i_source, axis=1) / turns_ratio,
        r_soft_ohm=np.array([p.r_soft_ohm for p in pieces]),
        t_soft_c=np.array([p.t_soft_c for p in pieces]),
        piece_ends=ends,
    )


@functools.lru_cache(maxsize=64)
def bridged_peak_a(
    network: RailNetwork,
    source: MainsSource,
    turns_ratio: float,
    soft: SoftStart,
    idle_a: float,
    ambient_c: float = 25.0,
    steps: int = 100,
) -> float:
    """The second surge: highest primary current when a soft start is bridged, at the worst moment of the mains, A.

    From the capacitors' state at the zero crossing before; ``soft.bypass_s`` finite.
    """
    half_s = 1.0 / (2.0 * source.f_mains_hz)
    before = switch_on(
        network, source, turns_ratio, seconds=max(1, round(soft.bypass_s / half_s)) * half_s, idle_a=idle_a,
        soft=dataclasses.replace(soft, bypass_s=math.inf), phase_deg=0.0, steps=steps, ambient_c=ambient_c,
    )  # fmt: skip
    v = before.v_reservoir[-1]
    x = np.zeros(network.size)
    for r, place in enumerate(network.places):
        for name, at in place.items():
            if name.startswith("v_"):
                x[at] = before.v_load[-1, r] if name == "v_cap2" else v[r]
    return worst_inrush(network, source, turns_ratio, start=tuple(x))[0]


@functools.lru_cache(maxsize=64)
def worst_inrush(
    network: RailNetwork,
    source: MainsSource,
    turns_ratio: float,
    r_soft_ohm: float = 0.0,
    phases: int = 8,
    steps: int = 250,
    start: tuple[float, ...] | None = None,
) -> tuple[float, float]:
    """Highest first peak of the primary current over the moments of closing: (amperes, that moment in degrees).

    All capacitors empty, or as ``start`` (the network's state) has them. Without leakage the current jumps at once, and
    the worst moment is the crest of the mains; with it the peak comes later and the worst moment earlier.
    """
    laid = dataclasses.replace(network, r_shared_ohm=network.r_shared_ohm + r_soft_ohm / turns_ratio**2)
    half_s = 1.0 / (2.0 * source.f_mains_hz)
    whole = source.emf(np.linspace(0.0, np.pi, steps + 1))
    m = len(network.rails)
    none = np.zeros((steps + 1, m))
    begin = np.zeros(network.size) if start is None else np.array(start)

    def peak(first: int, last: int = steps) -> float:
        emf = np.repeat(whole[first : last + 1, None], m, axis=1)
        drives = Drives(emf, -emf - 2.0 * source.v_drop, none[first : last + 1], none[first:last], steps)
        march = march_network(laid, drives, half_s / steps, begin)
        return float(np.max(np.sum(waves_of(laid, drives, half_s / steps, march).i_source, axis=1)))

    if all(rail.l_source_h == 0.0 for rail in network.rails):
        # It is highest at the first instant.
        worst = int(np.argmax(whole))
        return peak(worst, worst + 2) / turns_ratio, 180.0 * worst / steps
    # The peak is a smooth function of the moment: a scan, then a parabola through the best three.
    tried = np.linspace(0.12, 0.55, phases)
    peaks = np.array([peak(round(share * steps)) for share in tried])
    k = int(np.clip(np.argmax(peaks), 1, phases - 2))
    a, b, c = peaks[k - 1 : k + 2]
    bend = a - 2.0 * b + c
    shift = 0.5 * (a - c) / bend if bend < 0.0 else 0.0
    highest = float(max(b - 0.125 * (a - c) ** 2 / bend if bend < 0.0 else b, np.max(peaks)))
    return highest / turns_ratio, 180.0 * float(tried[k] + shift * (tried[1] - tried[0]))


def rails_after_switch_off(
    c_f: float, g_bleed_s: float, i_idle_a: float, v_start: float, v_stops_v: float, t_s: Array
) -> Array:
    """A rail after power off: the module draws its idle current until ``v_stops_v``, then only the bleeder is left.

    Exact: an exponential towards -I/G, then one towards 0; straight without a bleeder.
    """
    r_ohm = math.inf if g_bleed_s == 0.0 else 1.0 / g_bleed_s
    until = bleed_down_s(c_f, r_ohm, v_start, v_stops_v, i_idle_a)
    first = _fall(c_f, g_bleed_s, i_idle_a, v_start, np.minimum(t_s, until))
    return np.where(t_s <= until, first, _fall(c_f, g_bleed_s, 0.0, min(v_start, v_stops_v), t_s - until))


def _fall(c_f: float, g_bleed_s: float, i_a: float, v_start: float, t_s: Array) -> Array:
    if g_bleed_s == 0.0:
        return np.maximum(v_start - i_a * t_s / c_f, 0.0)
    floor = i_a / g_bleed_s
    return np.asarray((v_start + floor) * np.exp(-t_s * g_bleed_s / c_f) - floor)
