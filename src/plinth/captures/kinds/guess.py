"""What kind of capture a record is, by its looks alone."""

import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import AMPERES, Capture, Channel
from plinth.captures.kinds.edge import edges_of
from plinth.captures.kinds.intermodulation import two_tones
from plinth.captures.kinds.levels import in_bursts
from plinth.captures.kinds.rail import mains_of
from plinth.captures.kinds.relay import contact_of
from plinth.captures.kinds.switch_on import switch_on_of
from plinth.captures.signal.spectrum import Spectrum, spectrum_of
from plinth.captures.signal.sweep_shape import shape_seen

_LONGEST = 2**20
_MAINS_HZ, _HIGHEST_HUM_HZ = (50.0, 60.0), 400.0


def guessed(capture: Capture) -> str:
    """One of the kinds of ``options.KINDS``."""
    first, last = capture.channels[0], capture.channels[-1]
    rate = capture.sample_rate_hz
    if float(np.ptp(last.samples)) <= 0.0:
        return "plain"
    if len(capture.channels) > 1:
        if AMPERES in (first.unit, capture.channels[1].unit) or _is_wall(first, rate):
            return "mains"
        if _is_relay(capture):
            return "relay"
    if shape_seen(first.samples[: 8 * _LONGEST], rate) is not None:
        return "sweep"
    if _is_edge(last):
        return "edge"
    spectrum = spectrum_of(last.samples[:_LONGEST], rate)
    mean, alternating = abs(float(np.mean(last.samples))), float(np.std(last.samples))
    if mean > 3.0 * alternating and mains_of(spectrum) is not None:
        return "rail"
    if _is_rail_switched_on(last, rate):
        return "rail"
    if _is_levels(first, rate):
        return "levels"
    tones = two_tones(spectrum)
    if tones is not None and _are_two(spectrum, tones):
        return "intermodulation"
    return "tone" if _is_tone(spectrum) else "plain"


def _is_wall(channel: Channel, rate: float) -> bool:
    """Volts of the wall: a sine near 50 or 60 Hz of more than 60 V."""
    if channel.unit != "V" or float(np.std(channel.samples)) < 60.0:
        return False
    spectrum = spectrum_of(channel.samples[:_LONGEST], rate)
    place = float(np.argmax(spectrum.power)) * spectrum.bin_hz
    return min(abs(place - 50.0), abs(place - 60.0)) < 3.0 + spectrum.bin_hz


def _is_relay(capture: Capture) -> bool:
    given, behind = capture.channels[0].samples, capture.channels[1].samples
    count = 200
    width = len(given) // count
    if width < 4:
        return False
    sizes = np.sqrt(np.mean(given[: count * width].reshape(count, width) ** 2, axis=1))
    through = np.sqrt(np.mean(behind[: count * width].reshape(count, width) ** 2, axis=1))
    sure = sizes > 0.2 * float(np.max(sizes))
    if not sure.any():
        return False
    shares = through[sure] / sizes[sure]
    top = float(np.max(shares))
    if top < 0.3:
        return False
    closed, opened = shares > 0.85 * top, shares < 0.05 * top
    if not (np.mean(closed) > 0.03 and np.mean(opened) > 0.03 and np.mean(closed | opened) > 0.85):
        return False
    return bool(contact_of(given, behind).closes)


def _is_edge(channel: Channel) -> bool:
    """Most samples rest on one of two levels, with steps between."""
    samples = channel.samples[:_LONGEST]
    edges = edges_of(samples)
    if not edges:
        return False
    low, high = min(edges[0].before, edges[0].after), max(edges[0].before, edges[0].after)
    reach = 0.08 * (high - low)
    rests = (np.abs(samples - low) < reach) | (np.abs(samples - high) < reach)
    quick = [edge for edge in edges if _quickly(samples, edge.middle, 0.5 * (high - low))]
    return bool(np.mean(rests) > 0.72) and len(quick) > 0.5 * len(edges)


def _quickly(samples: NDArray[np.float64], middle: float, least: float) -> bool:
    reach = max(2, len(samples) // 50)
    part = samples[max(0, int(middle) - reach) : int(middle) + reach]
    return float(np.ptp(part)) > least


def _is_rail_switched_on(channel: Channel, rate: float) -> bool:
    """From nothing to a direct voltage with the ripple of a mains on it."""
    started = switch_on_of(channel.samples[: 8 * _LONGEST], rate)
    if started is None or started.rest is None:
        return False
    resting = channel.samples[started.rest :][:_LONGEST]
    if len(resting) < 0.1 * rate or abs(started.before) > 0.1 * abs(started.after):
        return False
    spectrum = spectrum_of(resting, rate)
    return abs(float(np.mean(resting))) > 3.0 * float(np.std(resting)) and mains_of(spectrum) is not None


def _is_levels(channel: Channel, rate: float) -> bool:
    """A tone of several levels, in bursts, or of one that rises (or falls) all the way."""
    samples = channel.samples
    count = 60
    width = len(samples) // count
    spectrum = spectrum_of(samples[:_LONGEST], rate)
    place = float(np.argmax(spectrum.power)) * spectrum.bin_hz
    if place > 0.0 and _peaked(spectrum, place) and in_bursts(samples[: 8 * _LONGEST], 2.0 * math.pi * place / rate):
        return True
    if width * place / rate < 3.0:
        return False
    sizes = np.std(samples[: count * width].reshape(count, width), axis=1)
    top = float(np.max(sizes))
    steps = np.diff(sizes)
    one_way = max(float(np.mean(steps > -0.01 * top)), float(np.mean(steps < 0.01 * top)))
    return bool(one_way > 0.95 and min(sizes[2], sizes[-3]) < 0.7 * top and _peaked(spectrum, place))


def _peaked(spectrum: Spectrum, place: float) -> bool:
    near = spectrum.band(0.9 * place, 1.1 * place)
    return float(np.sum(spectrum.power[near])) > 0.5 * float(np.sum(spectrum.power))


def _are_two(spectrum: Spectrum, tones: tuple[float, float]) -> bool:
    """Whether the second line is a tone of its own: strong, and neither a harmonic nor of the mains."""
    low, high = tones
    powers = [_power_about(spectrum, tone) for tone in tones]
    if min(powers) < 1e-3 * max(powers):
        return False
    if powers[0] < 0.25 * powers[1] and any(abs(low / mains - round(low / mains)) < 0.02 for mains in _MAINS_HZ):
        # Weaker, and a multiple of the mains: hum beside a tone.
        return low > _HIGHEST_HUM_HZ
    ratio = round(high / low)
    if abs(high / low - ratio) < 1.5 * spectrum.bin_hz / low and powers[1] < powers[0]:
        # Weaker, and at a multiple: a harmonic, unless the other multiples are empty.
        others = [_power_about(spectrum, k * low) for k in range(2, 8) if k != ratio]
        return max(others, default=0.0) < 0.01 * powers[1]
    return True


def _power_about(spectrum: Spectrum, line_hz: float) -> float:
    reach = spectrum.half_lobe_bins * spectrum.bin_hz
    return float(np.sum(spectrum.power[spectrum.band(line_hz - reach, line_hz + reach)]))


def _is_tone(spectrum: Spectrum) -> bool:
    peak = int(np.argmax(spectrum.power[2:])) + 2
    reach = math.ceil(spectrum.half_lobe_bins) + 1
    own = float(np.sum(spectrum.power[max(0, peak - reach) : peak + reach + 1]))
    return own > 0.3 * float(np.sum(spectrum.power[1:]))
