"""A rail: its mean, its ripple, and the bass that an output draws through it."""

import dataclasses
import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, Channel
from plinth.captures.figure import FigureList
from plinth.captures.kinds.switch_on import add_switch_on
from plinth.captures.signal.folding import folded
from plinth.captures.signal.frames import frames_of
from plinth.captures.signal.line_fit import between_bins, fit_lines, window_for
from plinth.captures.signal.scatter import white_noise
from plinth.captures.signal.spectrum import Spectrum, spectrum_of

_MAINS_HZ = (50.0, 60.0)
_OFF = 0.02
# What is left after a switch-on is a rail at rest if it lasts this long.
_RESTING_S = 0.1
_LOWEST_BASS_HZ, _HIGHEST_BASS_HZ = 5.0, 400.0
_STANDS_OUT = 16.0
# In so many parts of a ripple its form is looked at, if it is so many times its noise.
_FORM_PARTS, _FORM_SEEN = 120, 25.0
_MOST_FOR_FORM = 1_000_000


def add_rail(figures: FigureList, capture: Capture, channel: Channel) -> None:
    """Mean, nearest to zero, peak to peak, ripple and bass."""
    rate, unit = capture.sample_rate_hz, channel.unit
    started = add_switch_on(figures, channel, rate)
    rest = None if started is None else started.rest
    if rest is not None and (len(channel.samples) - rest) / rate >= _RESTING_S:
        figures.say(
            f"it is switched on in this record: mean and ripple are drawn from {rest / rate:.3g} s on, where it rests."
        )
        gaps = None if channel.gaps is None else channel.gaps[rest:]
        channel = dataclasses.replace(channel, samples=channel.samples[rest:], gaps=gaps)
    samples = channel.samples
    spectrum = spectrum_of(samples, rate, "hann" if len(samples) / rate < 0.6 else "blackman_harris")
    mains = mains_of(spectrum)
    ripple_hz = _ripple_line(spectrum, mains) if mains else None
    _add_extremes(figures, channel, rate, ripple_hz)
    if ripple_hz is None or ripple_hz * len(samples) / rate < 3.0:
        figures.miss("ripple_hz", "no line at once or twice 50 or 60 Hz stands out of it")
        finer = None
    else:
        frames = frames_of(samples, window_for(ripple_hz * min(len(samples), 2**18) / rate))
        fit = fit_lines(frames, np.array([2.0 * math.pi * ripple_hz / rate]), np.array([[1]]))
        finer = float(fit.bases[0]) * rate / (2.0 * math.pi)
        noise = _density(spectrum, finer, ripple_hz) * 0.5 * rate
        u = math.sqrt(fit.frequency_gain * noise) / abs(fit.phasors[0]) * rate / (2.0 * math.pi)
        figures.add(
            "ripple_hz", finer, 2.0 * u + 1e-7 * finer, "Hz", "the lowest strong line at once or twice the mains"
        )
        figures.add(
            "ripple_rms_v", abs(fit.phasors[0]) / math.sqrt(2.0), 2.0 * math.sqrt(0.5 * fit.noise_gain * noise), unit,
            f"root mean square of the line at {finer:.1f} Hz",
        )  # fmt: skip
    if finer is not None and mains is not None:
        _add_form(figures, channel, rate, (finer, mains))
    _add_bass(figures, channel, rate, spectrum, finer, mains)


def _add_form(figures: FigureList, channel: Channel, rate: float, lines_hz: tuple[float, float]) -> None:
    """How long the reservoir is charged in each ripple, and how fast it is emptied in between."""
    ripple_hz, mains_hz = lines_hz
    start = max(0, (len(channel.samples) - _MOST_FOR_FORM) // 2)
    shape, u = folded(channel.samples[start : start + _MOST_FOR_FORM], 2.0 * math.pi * ripple_hz / rate, _FORM_PARTS)
    height = float(np.ptp(shape))
    noise = float(np.sqrt(np.mean(u**2))) if np.isfinite(u).all() else math.inf
    if height < _FORM_SEEN * noise or rate / ripple_hz < _FORM_PARTS / 2:
        figures.miss("conduction_deg", "the ripple's form does not stand out of this record")
        return
    sign = 1.0 if float(np.mean(channel.samples)) >= 0.0 else -1.0
    low, high = int(np.argmin(sign * shape)), int(np.argmax(sign * shape))
    rising = (high - low) % _FORM_PARTS
    period_s = 1.0 / ripple_hz
    # One part either way, and where noise moves the extremes: it is flat there.
    off = (1.5 + _FORM_PARTS * 0.02 + _FORM_PARTS * 0.2 * noise / height * 4.0) / _FORM_PARTS
    figures.add(
        "conduction_deg", rising / _FORM_PARTS * period_s * mains_hz * 360.0, off * period_s * mains_hz * 360.0, "deg",
        "how long the rail rises in each ripple, in degrees of the mains",
    )  # fmt: skip
    falling = np.roll(sign * shape, -high)[: _FORM_PARTS - rising]
    inner = slice(len(falling) // 6, max(len(falling) - len(falling) // 6, len(falling) // 6 + 3))
    part_s = period_s / _FORM_PARTS
    slope, u_slope = _slope(falling[inner], part_s, noise)
    if slope < -3.0 * u_slope:
        mean = float(np.mean(falling[inner]))
        figures.add(
            "discharge_tau_s", -mean / slope, mean / slope**2 * 2.0 * u_slope + 0.02 * abs(mean / slope), "s",
            "volts over how fast they fall between two chargings",
        )  # fmt: skip
    else:
        figures.miss("discharge_tau_s", "how fast it falls does not stand out of this record")


def _slope(values: NDArray[np.float64], step_s: float, noise: float) -> tuple[float, float]:
    """Volts a second of a straight line through the values, and its standard uncertainty."""
    along = (np.arange(len(values)) - 0.5 * (len(values) - 1)) * step_s
    square = float(np.sum(along**2))
    return float(np.sum(along * values)) / square, noise / math.sqrt(square)


def mains_of(spectrum: Spectrum) -> float | None:
    """50 or 60, whichever multiples hold the more power, or None where neither stands out of what lies beside."""
    shares = []
    for mains in _MAINS_HZ:
        total = 0.0
        for multiple in (1, 2, 4, 6):
            reach = max(_OFF * mains * multiple, 1.5 * spectrum.bin_hz)
            band = spectrum.band(mains * multiple - reach, mains * multiple + reach)
            total += float(np.max(spectrum.power[band], initial=0.0))
        shares.append(total)
    best = int(np.argmax(shares))
    band = spectrum.band(20.0, 1000.0)
    if shares[best] <= _STANDS_OUT * float(np.median(spectrum.power[band])) if band.any() else True:
        return None
    return _MAINS_HZ[best]


def _ripple_line(spectrum: Spectrum, mains: float) -> float | None:
    tops = []
    for multiple in (2, 1):
        reach = max(_OFF * mains * multiple, 1.5 * spectrum.bin_hz)
        band = np.flatnonzero(spectrum.band(mains * multiple - reach, mains * multiple + reach))
        if len(band):
            peak = int(band[np.argmax(spectrum.power[band])])
            tops.append((float(spectrum.power[peak]), between_bins(spectrum.power, peak) * spectrum.bin_hz))
    return max(tops)[1] if tops else None


def _density(spectrum: Spectrum, about_hz: float, ripple_hz: float) -> float:
    """The power a hertz between the lines about a frequency."""
    reach = 0.45 * ripple_hz
    band = spectrum.band(max(about_hz - reach, 0.1 * ripple_hz), about_hz + reach)
    return float(np.median(spectrum.power[band])) / math.log(2.0) / spectrum.bin_hz


def _add_extremes(figures: FigureList, channel: Channel, rate: float, ripple_hz: float | None) -> None:
    samples, unit = channel.samples, channel.unit
    noise = white_noise(samples)
    width = _smoothing_rows(samples, rate, ripple_hz, noise)
    quiet, blur = _without_noise(samples, width, noise)
    half, _ = _without_noise(samples, width // 2 | 1, noise)
    mean = _mean_of(samples, rate, ripple_hz)
    figures.add(
        "mean_v", mean, 2.0 * (noise / math.sqrt(len(samples)) + _mean_off(samples, rate, ripple_hz)), unit,
        "mean over whole cycles of the ripple" if ripple_hz else "mean of all samples",
    )  # fmt: skip
    low, high = float(np.min(quiet)), float(np.max(quiet))
    raw = float(np.ptp(samples))
    # What is left of the noise makes the extremes further apart, what was smoothed away of the corners nearer.
    excess = (
        2.0 * blur * math.sqrt(2.0 * math.log(max(len(samples) * (blur / noise) ** 2, 3.0))) if noise > 0.0 else 0.0
    )
    pp = max(high - low - 0.5 * excess, 0.0)
    # Half the smoothing shows what it takes from the corners.
    corners = abs(float(np.ptp(half)) - (high - low))
    spread = 0.5 * excess + 2.0 * blur + channel.step + corners + 0.1 * max(raw - (high - low) - 9.0 * noise, 0.0)
    figures.add("pp_v", pp, spread, unit, "from the lowest to the highest value of the record, its noise smoothed")
    nearest = low if mean >= 0.0 else high
    shift = 0.25 * excess if mean >= 0.0 else -0.25 * excess
    if low <= 0.0 <= high:
        figures.add("nearest_zero_v", 0.0, channel.step + blur, unit, "it passes through zero")
    else:
        figures.add(
            "nearest_zero_v", nearest + shift, 0.5 * spread + blur, unit, "the value nearest to zero, noise smoothed"
        )


def _smoothing_rows(samples: NDArray[np.float64], rate: float, ripple_hz: float | None, noise: float) -> int:
    """Over how many samples to smooth: a small part of a ripple, smaller still where there is little noise."""
    least = noise / max(float(np.ptp(samples)), 1e-300)
    if least <= 1e-4:
        return 1
    widest = rate / (ripple_hz or 100.0) / 30.0
    return int(widest * min(1.0, (least / 0.02) ** 0.67)) | 1


def _without_noise(samples: NDArray[np.float64], width: int, noise: float) -> tuple[NDArray[np.float64], float]:
    """The record smoothed, and what noise is left in it."""
    import scipy.signal

    if width < 5:
        return samples, noise
    # A parabola through each stretch follows the slopes of a ripple; its middle value has this part of the noise.
    coefficients = scipy.signal.savgol_coeffs(width, 2)
    left = noise * float(np.sqrt(np.sum(coefficients**2)))
    return np.asarray(scipy.signal.savgol_filter(samples, width, 2, mode="interp")), left


def _mean_of(samples: NDArray[np.float64], rate: float, ripple_hz: float | None) -> float:
    if ripple_hz is None:
        return float(np.mean(samples))
    cycles = int(len(samples) * ripple_hz / rate)
    if cycles < 3:
        return float(np.mean(samples))
    if cycles < 12:
        return float(np.mean(samples[: round(cycles * rate / ripple_hz)]))
    # Under a window that fades in and out, what alternates does not move the mean, bass or ripple.
    weights = 0.5 - 0.5 * np.cos(2.0 * np.pi * (np.arange(len(samples)) + 0.5) / len(samples))
    return float(np.dot(samples, weights) / np.sum(weights))


def _mean_off(samples: NDArray[np.float64], rate: float, ripple_hz: float | None) -> float:
    """How far the means of parts of the record lie apart, as that of the whole may be off."""
    parts = np.array_split(samples, 8 if len(samples) > 800 else 2)
    means = [float(np.mean(part)) for part in parts]
    cycles = max(len(samples) * (ripple_hz or 50.0) / rate, 1.0)
    return float(np.std(means)) / len(parts) + 0.02 * float(np.std(samples)) / cycles


def _add_bass(
    figures: FigureList, channel: Channel, rate: float, spectrum: Spectrum, ripple_hz: float | None, mains: float | None
) -> None:
    lines = [] if ripple_hz is None else [ripple_hz * k / 2.0 for k in range(1, 20)]
    if mains and ripple_hz and abs(ripple_hz / mains - 1.0) < 0.1:
        lines = [ripple_hz * k for k in range(1, 20)]
    free = spectrum.beside(lines) & spectrum.band(
        max(_LOWEST_BASS_HZ, (spectrum.half_lobe_bins + 1.0) * spectrum.bin_hz), _HIGHEST_BASS_HZ
    )
    places = np.flatnonzero(free)
    if len(places) < 3:
        figures.miss("bass_hz, bass_rms_v", "the record is too short to part bass from ripple")
        return
    power = spectrum.power
    peak = int(places[np.argmax(power[places])])
    level = float(np.median(power[spectrum.band(_LOWEST_BASS_HZ, 20.0 * _HIGHEST_BASS_HZ)]))
    edge = not (free[max(peak - 1, 0)] and free[min(peak + 1, len(free) - 1)])
    if power[peak] < 40.0 * level or edge or power[peak] < max(power[peak - 1], power[min(peak + 1, len(power) - 1)]):
        figures.miss("bass_hz, bass_rms_v", "no line beside the ripple stands out of its noise")
        return
    # A half wave of the output pulls at a rail once a cycle: the lowest of the lines in a row is the tone itself.
    bass_hz = between_bins(power, peak) * spectrum.bin_hz
    for divisor in (2, 3):
        lower = bass_hz / divisor
        near = spectrum.band(lower - 1.5 * spectrum.bin_hz, lower + 1.5 * spectrum.bin_hz) & free
        if near.any() and np.max(power[near]) > 0.02 * power[peak] and np.max(power[near]) > 40.0 * level:
            bass_hz = lower
            break
    frames = frames_of(channel.samples, window_for(bass_hz * min(len(channel.samples), 2**18) / rate))
    bases = [2.0 * math.pi * bass_hz / rate]
    if ripple_hz is None:
        orders = np.array([[1]])
    else:
        bases.append(2.0 * math.pi * ripple_hz / rate)
        orders = np.array([[1, 0], [0, 1]])
    fit = fit_lines(frames, np.array(bases), orders)
    finer = float(fit.bases[0]) * rate / (2.0 * math.pi)
    noise = _density(spectrum, finer, 0.8 * finer) * 0.5 * rate
    size = float(abs(fit.phasors[0]))
    u_hz = math.sqrt(fit.frequency_gain * noise) / size * rate / (2.0 * math.pi)
    figures.add("bass_hz", finer, 2.0 * u_hz + 1e-7 * finer, "Hz", "the strongest line that is none of the ripple's")
    figures.add(
        "bass_rms_v", size / math.sqrt(2.0), 2.0 * math.sqrt(0.5 * fit.noise_gain * noise) + 1e-4 * size, channel.unit,
        "root mean square of that line alone",
    )  # fmt: skip
