"""Two tones and what a stage makes of them: products at sums of their multiples (IEC 60268-3)."""

import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, Channel
from plinth.captures.figure import FigureList
from plinth.captures.signal.decibels import decibels, spread_db
from plinth.captures.signal.frames import frames_of
from plinth.captures.signal.line_fit import between_bins, fit_lines, window_for
from plinth.captures.signal.spectrum import Spectrum, spectrum_of
from plinth.captures.signal.steps import repeats_after, u_of_steps

HIGHEST_ORDER = 5
_STANDS_OUT = 3.0
_LEAST_BINS = 16.0


def two_tones(spectrum: Spectrum) -> tuple[float, float] | None:
    """The two highest lines of a spectrum in hertz, lower first, or None where the second does not stand out."""
    power = spectrum.power.copy()
    half = math.ceil(spectrum.half_lobe_bins) + 1
    power[: half + 1] = 0.0
    places = []
    for _ in range(2):
        peak = int(np.argmax(power))
        if power[peak] <= 0.0:
            return None
        places.append((between_bins(spectrum.power, peak) * spectrum.bin_hz, float(power[peak])))
        power[max(0, peak - half) : peak + half + 1] = 0.0
    (first, top), (second, lower) = places
    if lower < 1e-5 * top or lower < 100.0 * float(np.median(spectrum.power)):
        return None
    return min(first, second), max(first, second)


def products(low_hz: float, high_hz: float, limit_hz: float) -> list[tuple[int, int]]:
    """Orders (m of the lower, n of the upper tone) of the products below ``limit_hz``, both tones in each."""
    chosen: list[tuple[int, int]] = []
    for total in range(2, HIGHEST_ORDER + 1):
        for n in range(1, total):
            for m in (total - n, n - total):
                place = m * low_hz + n * high_hz
                pair = (m, n) if place > 0.0 else (-m, -n)
                if 10.0 < abs(place) < limit_hz and pair not in chosen:
                    chosen.append(pair)
    return chosen


def add_intermodulation(figures: FigureList, capture: Capture, channel: Channel) -> None:
    """The tones, each product that stands out of the noise, and all of them together."""
    rate = capture.sample_rate_hz
    spectrum = spectrum_of(channel.samples, rate, "seven_terms")
    tones = two_tones(spectrum)
    if tones is None:
        figures.miss("figures of intermodulation", "no two tones stand out of its noise")
        return
    low_hz, high_hz = tones
    length = min(len(channel.samples), 2**18)
    if min(low_hz, high_hz - low_hz) * length / rate < _LEAST_BINS:
        figures.miss("figures of intermodulation", "the record is too short to part the two tones and their products")
        return
    pairs = _apart(products(low_hz, high_hz, 0.49 * rate), low_hz, high_hz, 4.5 * rate / length)
    orders = np.array([(1, 0), (0, 1), *pairs], dtype=np.int64)
    frames = frames_of(channel.samples, window_for(_LEAST_BINS))
    bases = 2.0 * math.pi * np.array([low_hz, high_hz]) / rate
    fit = fit_lines(frames, bases, orders)
    lines_hz = np.abs(fit.omega) * rate / (2.0 * math.pi)
    harmonics = [k * base for base in lines_hz[:2] for k in range(2, 11) if k * base < 0.5 * rate]
    floor = spectrum.floor(spectrum.beside([*lines_hz, *harmonics]))

    period = repeats_after([low_hz / rate, high_hz / rate], len(channel.samples))
    steps = u_of_steps(channel.step, period, float(np.sum(floor)), float(np.max(np.abs(fit.phasors[:2]))))

    def u_of(line_hz: float) -> float:
        return math.hypot(math.sqrt(1.1 * fit.noise_gain * spectrum.density(floor, line_hz) * 0.5 * rate), steps)

    sizes = np.abs(fit.phasors)
    reference, u_reference = float(sizes[1]), u_of(float(lines_hz[1]))
    words = f"to the tone at {_whole(lines_hz[1])} Hz, the upper of the two"
    for index, name in ((0, "low"), (1, "high")):
        u = u_of(float(lines_hz[index]))
        gain = math.sqrt(fit.frequency_gain * spectrum.density(floor, float(lines_hz[index])) * 0.5 * rate)
        figures.add(
            f"tone_{name}_hz", float(lines_hz[index]),
            2.0 * gain / float(sizes[index]) * rate / (2.0 * math.pi) + 1e-9 * float(lines_hz[index]), "Hz",
            "least squares of both tones and their products",
        )  # fmt: skip
        figures.add(
            f"tone_{name}_rms", float(sizes[index]) / math.sqrt(2.0), 2.0 * u / math.sqrt(2.0), channel.unit,
            "root mean square of this tone alone",
        )  # fmt: skip
    power, u_power, below = 0.0, 0.0, []
    for (m, n), line_hz, size in zip(orders.tolist(), lines_hz, sizes, strict=True):
        u = u_of(float(line_hz))
        square = float(size) ** 2 - 2.0 * u**2
        product = bool(m) and bool(n)
        if product:
            power += square
            u_power += 4.0 * max(square, 0.0) * u**2 + 4.0 * u**4
        if size < _STANDS_OUT * u or square <= 0.0:
            below.append(_whole(line_hz))
            continue
        share = 2.0 * math.hypot(u / math.sqrt(square), u_reference / reference)
        what = f"product {_order_words(m, n)}" if product else "tone"
        figures.add(
            f"line_{_whole(line_hz)}hz_db", decibels(math.sqrt(square) / reference), spread_db(min(share, 0.9)), "dB",
            f"{what} {words}",
        )  # fmt: skip
    if below:
        shown = ", ".join(f"line_{line}hz_db" for line in sorted(below)[:6]) + (" ..." if len(below) > 6 else "")
        figures.miss(shown, f"{'it lies' if len(below) == 1 else 'they lie'} in the noise of this record")
    if power > 2.0 * math.sqrt(u_power):
        figures.add(
            "imd_db", decibels(math.sqrt(power) / reference), spread_db(min(math.sqrt(u_power) / power, 0.9)), "dB",
            f"all products to order {HIGHEST_ORDER}, root sum square, {words} (products of IEC 60268-3)",
        )  # fmt: skip
    else:
        figures.miss("imd_db", "all products lie in the noise of this record")


def _apart(pairs: list[tuple[int, int]], low_hz: float, high_hz: float, least_hz: float) -> list[tuple[int, int]]:
    """The products that lie on no line of lower order, so that each can be told apart."""
    taken = [low_hz, high_hz]
    kept = []
    for m, n in pairs:
        place = abs(m * low_hz + n * high_hz)
        if all(abs(place - other) > least_hz for other in taken):
            taken.append(place)
            kept.append((m, n))
    return kept


def _order_words(m: int, n: int) -> str:
    first = "" if abs(n) == 1 else str(abs(n))
    second = "" if abs(m) == 1 else str(abs(m))
    if m * n > 0:
        return f"{first}f2 + {second}f1"
    return f"{first}f2 - {second}f1" if n > 0 else f"{second}f1 - {first}f2"


def _whole(line_hz: float | NDArray[np.float64]) -> int:
    return round(float(line_hz))
