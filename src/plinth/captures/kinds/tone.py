"""A single tone: level, distortion by harmonic, noise and hum beside it (IEC 60268-3, AES17)."""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, Channel
from plinth.captures.figure import FigureList
from plinth.captures.options import Options
from plinth.captures.signal.decibels import decibels, spread_db
from plinth.captures.signal.folding import folded
from plinth.captures.signal.line_fit import LineFit, harmonic_fit, strongest_line
from plinth.captures.signal.spectrum import Spectrum, spectrum_of
from plinth.captures.signal.steps import repeats_after, u_of_steps
from plinth.captures.signal.weighting import a_weighting, itu_r_468

HARMONICS = 10
LEAST_CYCLES = 3.0
_BANDS = (("20_20k", 20.0, 20e3), ("20_22k", 20.0, 22e3), ("20_80k", 20.0, 80e3), ("22k_80k", 22e3, 80e3))
_FEWEST_BINS_APART = 22.0
_STANDS_OUT = 3.0
_HUM_LINES = 12
# The floor beside a line is itself known from few bins: as a variance.
_FEW = 1.1
# So far harmonics are looked for where they would stand folded; so much over what lies beside they stand out.
_MOST_FOLDED, _FOLDED_OVER = 60, 1000.0
# In so many parts of a cycle distortion is looked at, if it stands so far out of noise and is such a share of the wave;
# so much steeper at one place than at the other it stands there plainly.
_PARTS, _SEEN, _LEAST_SHARE, _PLAINLY = 96, 8.0, 1e-4, 2.5
_MOST_FOR_FORM = 60_000


@dataclass(frozen=True)
class Tone:
    """A tone fitted with its harmonics: ``spectrum`` of the record (of what is left of it where ``rest`` says so)."""

    fit: LineFit
    omega: float
    fundamental_hz: float
    spectrum: Spectrum
    rest: bool
    lines_hz: NDArray[np.float64]
    floor: NDArray[np.float64]
    rate_hz: float
    step: float
    period: int

    @property
    def amplitude(self) -> float:
        """Peak of the fundamental."""
        return float(abs(self.fit.phasors[0]))

    @cached_property
    def under_higher_lines(self) -> NDArray[np.bool_]:
        """Which bins lie under a harmonic that is not fitted, and under none that is."""
        fitted = len(self.fit.phasors)
        return ~self.spectrum.beside(self.lines_hz[fitted:]) & self.spectrum.beside(self.lines_hz[:fitted])

    def u_line(self, frequency_hz: float) -> float:
        """Standard uncertainty of each quadrature of a line's amplitude: noise beside it, and steps of the recorder."""
        noise = self.spectrum.density(self.floor, frequency_hz) * 0.5 * self.rate_hz
        return math.sqrt(_FEW * self.fit.noise_gain * noise + self.u_steps() ** 2)

    def u_steps(self) -> float:
        """What the recorder's steps put on a line."""
        return u_of_steps(self.step, self.period, max(float(np.sum(self.floor)), 0.0), self.amplitude)


def fitted_tone(capture: Capture, channel: Channel) -> Tone | None:
    """The strongest tone of a channel with its harmonics, or None where fewer than three of its cycles are there."""
    samples = channel.samples
    omega = strongest_line(samples)
    if omega * len(samples) / (2.0 * math.pi) < LEAST_CYCLES - 0.2:
        return None
    fit = harmonic_fit(samples, omega, HARMONICS)
    if channel.gaps is not None:
        # The straight line over a gap is no sine: what was fitted stands there instead, once more and once more.
        rows = np.flatnonzero(channel.gaps)
        samples = samples.copy()
        for _ in range(3):
            samples[rows] = fit.values_at(rows)
            fit = harmonic_fit(samples, float(fit.bases[0]), HARMONICS)
    omega = float(fit.bases[0])
    rate = capture.sample_rate_hz
    frequency = omega * rate / (2.0 * math.pi)
    frame_cycles = omega / (2.0 * math.pi) * min(len(samples), 2**18)
    rest = frame_cycles < _FEWEST_BINS_APART
    if rest:
        # The lobes of the harmonics would cover the whole spectrum: they are taken off first.
        full = harmonic_fit(samples, omega, 60)
        left = samples - full.values_at(np.arange(len(samples)))
        spectrum = spectrum_of(left, rate, "hann")
        lines = np.array([])
    else:
        spectrum = spectrum_of(samples, rate, "seven_terms")
        lines = frequency * np.arange(1, int(0.5 * rate / frequency) + 1)
    floor = spectrum.floor(spectrum.beside(lines))
    return Tone(
        fit,
        omega,
        fundamental_hz=frequency,
        spectrum=spectrum,
        rest=rest,
        lines_hz=lines,
        floor=floor,
        rate_hz=rate,
        step=channel.step,
        period=repeats_after([frequency / rate], len(samples)),
    )


def add_tone(figures: FigureList, capture: Capture, channel: Channel, options: Options) -> None:
    """All figures of a tone."""
    if float(np.ptp(channel.samples)) <= 0.0:
        figures.miss("figures of a tone", "every sample is the same")
        return
    tone = fitted_tone(capture, channel)
    if tone is None:
        figures.miss("figures of a tone", "fewer than three cycles of the strongest line are in it")
        return
    if 4.0 * tone.u_line(tone.fundamental_hz) > tone.amplitude:
        figures.miss("figures of a tone", "no line stands out of its noise")
        return
    _add_level(figures, tone, channel, capture.u_rate)
    _add_harmonics(figures, tone)
    _add_noise(figures, tone, channel, options)
    _say_coupling(figures)
    _say_folded(figures, tone)
    _say_where(figures, tone, channel.samples)


def _say_where(figures: FigureList, tone: Tone, samples: NDArray[np.float64]) -> None:
    """Where on the wave the distortion stands: at zero a bias too low, at the top clipping; evenly neither."""
    # A stretch from the middle: a form needs no ten million samples.
    start = max(0, (len(samples) - _MOST_FOR_FORM) // 2)
    rows = np.arange(start, min(len(samples), start + _MOST_FOR_FORM))
    phase = float(np.angle(tone.fit.phasors[0])) + tone.omega * (start - tone.fit.middle)
    fundamental = tone.amplitude * np.cos(tone.omega * (rows - start) + phase)
    rest = samples[rows] - tone.fit.dc - fundamental
    shape, u = folded(rest, tone.omega, _PARTS, phase)
    if not np.isfinite(u).all():
        return
    size, noise = float(np.sqrt(np.mean(shape**2))), float(np.sqrt(np.mean(u**2)))
    if size < _SEEN * noise or size < _LEAST_SHARE * tone.amplitude:
        return
    # The fundamental is a cosine there: at its top in the first and the middle part, at zero a quarter on.
    angle = (np.arange(_PARTS) + 0.5) / _PARTS * 360.0
    top = np.minimum(np.minimum(angle, np.abs(angle - 180.0)), 360.0 - angle)
    steep = np.abs(np.gradient(np.concatenate((shape[-2:], shape, shape[:2])))[2:-2])
    at_top, at_zero = float(np.mean(steep[top < 30.0])), float(np.mean(steep[top > 72.0]))
    if at_zero > _PLAINLY * at_top:
        figures.say(
            "what is not the fundamental changes most where the wave passes through zero: crossover, a bias too low."
        )
    elif at_top > _PLAINLY * at_zero:
        figures.say("what is not the fundamental changes most at the top of the wave: it begins to clip.")


def _say_coupling(figures: FigureList) -> None:
    """That nothing of a direct part is seen says nothing where the recorder may block it."""
    if "dc" in figures and abs(figures["dc"].value) <= figures["dc"].spread:
        figures.say("no direct part is told from 0; a recorder that blocks direct current would show the same.")


def _say_folded(figures: FigureList, tone: Tone) -> None:
    """Harmonics above half the rate that were recorded without a filter stand folded among the others."""
    half, base = 0.5 * tone.rate_hz, tone.fundamental_hz
    reach = (tone.spectrum.half_lobe_bins + 1.5) * tone.spectrum.bin_hz
    for order in range(int(half / base) + 1, _MOST_FOLDED + 1):
        folded = abs((order * base + half) % tone.rate_hz - half)
        nearest = abs(folded / base - round(folded / base)) * base
        # On a harmonic of its own, on zero or at the very end it cannot be told from what stands there.
        if nearest < 2.0 * reach or not 2.0 * reach < folded < half - 2.0 * reach:
            continue
        place = round(folded / tone.spectrum.bin_hz)
        top = float(np.max(tone.spectrum.power[place - 1 : place + 2]))
        beside = np.r_[tone.spectrum.power[place - 30 : place - 10], tone.spectrum.power[place + 11 : place + 31]]
        if len(beside) and top > _FOLDED_OVER * float(np.median(beside)):
            figures.say(
                f"aliased: harmonic {order} of {base:.6g} Hz, above half the rate, stands folded at {folded:.6g} Hz. "
                "It was recorded without a filter, and distortion and noise hold for what was recorded only."
            )
            return


def _add_level(figures: FigureList, tone: Tone, channel: Channel, u_rate: float) -> None:
    unit, amplitude, dc = channel.unit, tone.amplitude, tone.fit.dc
    u_line = tone.u_line(tone.fundamental_hz)
    noise = tone.spectrum.density(tone.floor, tone.fundamental_hz) * 0.5 * tone.rate_hz
    u_omega = math.sqrt(tone.fit.frequency_gain * noise) / amplitude
    u_hz = u_omega * tone.rate_hz / (2.0 * math.pi)
    u_clock = u_rate * tone.fundamental_hz
    figures.add(
        "frequency_hz", tone.fundamental_hz, 2.0 * math.hypot(u_hz, u_clock) + 1e-9 * tone.fundamental_hz, "Hz",
        "least squares of the fundamental and its harmonics; by the recorder's own clock",
    )  # fmt: skip
    u_dc = math.sqrt(0.5 * tone.fit.noise_gain * tone.spectrum.density(tone.floor, 0.0) * 0.5 * tone.rate_hz)
    figures.add(
        "dc",
        dc,
        2.0 * math.hypot(u_dc, tone.u_steps()) + 1e-3 * channel.step,
        unit,
        "mean of the fitted wave, over whole cycles",
    )
    other = max(_rest_power(tone), 0.0)
    harmonics = 0.5 * float(np.sum(np.abs(tone.fit.phasors[1:]) ** 2))
    alternating = 0.5 * amplitude**2 + other + (harmonics if tone.rest else 0.0)
    rms = math.sqrt(alternating + dc**2)
    u_noise = other * tone.spectrum.u_share(tone.floor, slice(None))
    u_rms = math.hypot(amplitude * u_line, u_noise, 2.0 * dc * u_dc) / (2.0 * rms) if rms > 0.0 else 0.0
    figures.add(
        "rms", rms, 2.0 * u_rms * math.sqrt(2.0) + 1e-3 * channel.step, unit,
        "true root mean square of all that was recorded, direct part included",
    )  # fmt: skip
    peak, model = float(np.max(np.abs(channel.samples))), _model_peak(tone)
    figures.add(
        "crest", max(peak, model) / rms, (1.3 * abs(peak - model) + 2.0 * u_line + 1e-5 * peak) / rms, "",
        "highest value over the root mean square; the spread reaches to the wave without its noise",
    )  # fmt: skip


def _add_harmonics(figures: FigureList, tone: Tone) -> None:
    amplitude = tone.amplitude
    count = len(tone.fit.phasors)
    phase = _sine_phases(tone)
    power, u_power, below = 0.0, 0.0, []
    u_first = tone.u_line(tone.fundamental_hz)
    for index in range(1, count):
        order = index + 1
        u = tone.u_line(order * tone.fundamental_hz)
        size = float(abs(tone.fit.phasors[index]))
        # Two quadratures of noise stand in the square of any line.
        square = size**2 - 2.0 * u**2
        power += square
        u_power += 4.0 * max(square, 0.0) * u**2 + 4.0 * u**4
        if size < _STANDS_OUT * u or square <= 0.0:
            below.append(order)
            continue
        line = math.sqrt(square)
        share = 2.0 * math.hypot(u / line, u_first / amplitude)
        figures.add(
            f"h{order}_db", decibels(line / amplitude), spread_db(share), "dB", f"harmonic {order} to the fundamental"
        )
        turn = math.hypot(u / line, order * u_first / amplitude)
        figures.add(
            f"h{order}_phase_deg", math.degrees(phase[index]), math.degrees(2.0 * turn), "deg",
            f"x = a1 sin q + a{order} sin({order} q + phase)",
        )  # fmt: skip
    if below:
        bound = decibels(_STANDS_OUT * max(tone.u_line(order * tone.fundamental_hz) for order in below) / amplitude)
        figures.miss(
            ", ".join(f"h{order}_db" for order in below),
            f"{'it lies' if len(below) == 1 else 'they lie'} in the noise of this record (below {bound:.0f} dB)",
        )
    if count < HARMONICS:
        figures.miss(
            ", ".join(f"h{order}_db" for order in range(count + 1, HARMONICS + 1)),
            f"above half the rate of {tone.rate_hz:g} samples a second",
        )
    if count < 2:
        figures.miss("thd_db", "no harmonic lies below half the rate")
    elif power <= 2.0 * math.sqrt(u_power):
        bound = math.sqrt(max(power, 0.0) + 2.0 * math.sqrt(u_power)) / amplitude
        figures.miss(
            "thd_db", f"all harmonics lie in the noise of this record (together below {decibels(bound):.0f} dB)"
        )
    else:
        ratio = math.sqrt(power) / amplitude
        figures.add(
            "thd_db", decibels(ratio), spread_db(min(2.0 * 0.5 * math.sqrt(u_power) / power, 0.9)), "dB",
            f"harmonics 2 to {count}, root sum square, to the fundamental (IEC 60268-3)",
        )  # fmt: skip


def _add_noise(figures: FigureList, tone: Tone, channel: Channel, options: Options) -> None:
    unit, amplitude, half = channel.unit, tone.amplitude, 0.5 * tone.rate_hz
    if tone.rest and tone.spectrum.power.size < 8:
        figures.miss("noise, thdn and sinad", "the record is too short")
        return
    for name, low, high in _BANDS:
        if high > half * 1.0001:
            figures.miss(f"thdn_{name}_db", f"the record reaches {half:g} Hz only")
            continue
        power, u_power = _beside_fundamental(tone, low, high)
        _add_ratio(
            figures, f"thdn_{name}_db", power, u_power, amplitude,
            f"all but the fundamental from {low:g} to {high:g} Hz, steep edges, unweighted, to the fundamental (AES17)",
        )  # fmt: skip
    power, u_power = _beside_fundamental(tone, 0.0, half)
    if power > 0.0:
        share = u_power / power
        figures.add(
            "sinad_db", -decibels(math.sqrt(2.0 * power) / amplitude), spread_db(min(share, 0.9)), "dB",
            f"fundamental to all else but the direct part, up to {half:g} Hz (IEEE 1241)",
        )  # fmt: skip
        bits = (-decibels(math.sqrt(2.0 * power) / amplitude) - 1.76) / 6.02
        figures.add("enob_bits", bits, spread_db(min(share, 0.9)) / 6.02, "", "from sinad, at this level (IEEE 1241)")
    bands = [("20_20k", 20.0, 20e3)]
    if options.band_hz is not None:
        bands.append((f"{options.band_hz[0]:g}_{options.band_hz[1]:g}", *options.band_hz))
    hum = _hum_lines(tone)
    quiet = tone.spectrum.floor(tone.spectrum.beside([*tone.lines_hz, *(line for line, _ in hum)]))
    for name, low, high in bands:
        if high > half * 1.0001:
            figures.miss(f"noise_rms_{name}", f"the record reaches {half:g} Hz only")
            continue
        chosen = tone.spectrum.stretch(low, high)
        noise = float(np.sum(quiet[chosen]))
        rms = math.sqrt(noise)
        # Rounding that repeats with the tone stands in lines of its own, not in the noise.
        rounding = 2.0 * tone.u_steps() ** 2 / tone.fit.noise_gain * (high - low) / half
        spread = tone.spectrum.u_share(quiet, chosen) * rms + min(rounding / max(rms, 1e-300), math.sqrt(rounding))
        figures.add(
            f"noise_rms_{name}", rms, spread, unit,
            f"broad noise, {low:g} to {high:g} Hz, without the tone, its harmonics and lines of the mains; unweighted",
        )  # fmt: skip
    chosen = tone.spectrum.stretch(20.0, min(20e3, half))
    share = tone.spectrum.u_share(tone.floor, chosen)
    place = tone.spectrum.frequencies_hz[chosen]
    for name, curve, standard in (
        ("noise_a_rms", a_weighting(place), "A-weighted (IEC 61672-1)"),
        ("noise_468_rms", itu_r_468(place), "weighted by ITU-R BS.468, root mean square"),
    ):
        weighted = tone.floor[chosen] * curve**2
        power = float(np.sum(weighted))
        figures.add(name, math.sqrt(power), share * math.sqrt(power), unit,
                    f"{standard}, without the tone and its harmonics, up to {min(20e3, half):g} Hz")  # fmt: skip
    for line, size in hum:
        u = tone.u_line(line)
        figures.add(f"hum_{round(line)}hz_rms", size / math.sqrt(2.0), 2.0 * u / math.sqrt(2.0), unit,
                    f"the line at {round(line)} Hz, a multiple of the mains")  # fmt: skip


def _add_ratio(figures: FigureList, name: str, power: float, u_power: float, amplitude: float, definition: str) -> None:
    if power <= 0.0:
        figures.miss(name, "nothing is left beside the tone")
        return
    figures.add(
        name, decibels(math.sqrt(2.0 * power) / amplitude), spread_db(min(u_power / power, 0.9)), "dB", definition
    )


def _rest_power(tone: Tone) -> float:
    """Mean square of all but the fundamental (and, where they were taken off, the harmonics) and the direct part."""
    if tone.rest:
        return float(np.sum(tone.spectrum.power))
    return _beside_fundamental(tone, 0.0, 0.5 * tone.rate_hz)[0]


def _beside_fundamental(tone: Tone, low: float, high: float) -> tuple[float, float]:
    """Mean square of all but the fundamental in a band, and its standard uncertainty."""
    chosen = tone.spectrum.stretch(low, high)
    lines, u_lines = 0.0, 0.0
    for index, phasor in enumerate(tone.fit.phasors[1:], 2):
        place = index * tone.fundamental_hz
        if low <= place <= high:
            u = tone.u_line(place)
            lines += 0.5 * max(abs(phasor) ** 2 - 2.0 * u**2, 0.0)
            u_lines += (abs(phasor) * u) ** 2
    floor = tone.floor
    noise = float(np.sum(floor[chosen]))
    u_noise = noise * tone.spectrum.u_share(floor, chosen)
    if not tone.rest and len(tone.lines_hz) > len(tone.fit.phasors):
        # Harmonics above the tenth are not fitted: what stands under their lobes above the floor.
        under = tone.under_higher_lines[chosen]
        beneath = floor[chosen][under]
        extra = float(np.sum(tone.spectrum.power[chosen][under] - beneath))
        lines += max(extra, 0.0)
        u_lines += (float(np.sum(beneath)) * 0.3) ** 2
    return noise + lines, math.sqrt(u_noise**2 + u_lines)


def _sine_phases(tone: Tone) -> NDArray[np.float64]:
    """Phases of the harmonics to the zero of the fundamental's sine, within half a turn."""
    angles = np.angle(tone.fit.phasors) + 0.5 * math.pi
    orders = np.arange(1, len(angles) + 1)
    return np.asarray((angles - orders * angles[0] + math.pi) % (2.0 * math.pi) - math.pi)


def _model_peak(tone: Tone) -> float:
    turns = np.linspace(0.0, 2.0 * math.pi, 2048, endpoint=False)
    orders = np.arange(1, len(tone.fit.phasors) + 1)
    wave = tone.fit.dc + (np.exp(1j * np.outer(turns, orders)) @ tone.fit.phasors).real
    return float(np.max(np.abs(wave)))


def _hum_lines(tone: Tone) -> list[tuple[float, float]]:
    """Lines at multiples of 50 or 60 Hz that stand out of the floor beside them: frequency and peak."""
    spectrum = tone.spectrum
    half = math.ceil(spectrum.half_lobe_bins)
    free = spectrum.beside(tone.lines_hz)
    best: list[tuple[float, float]] = []
    for mains in (50.0, 60.0):
        lines = []
        for multiple in range(1, _HUM_LINES + 1):
            line = mains * multiple
            place = round(line / spectrum.bin_hz)
            near = np.abs(tone.lines_hz - line) < 2.5 * half * spectrum.bin_hz
            if line > 0.45 * tone.rate_hz or near.any() or place <= half:
                continue
            under = spectrum.power[place - half : place + half + 1]
            beside = [slice(max(place - 6 * half, 0), place - half), slice(place + half + 1, place + 6 * half + 1)]
            around = np.concatenate([spectrum.power[part][free[part]] for part in beside])
            if len(around) < 8:
                continue
            level = float(np.median(around)) / math.log(2.0)
            square = float(np.sum(under)) - level * len(under)
            if float(np.max(under)) > 12.0 * level and square > 0.0:
                lines.append((line, math.sqrt(2.0 * square)))
        if len(lines) > len(best) or (len(lines) == len(best) and sum(a for _, a in lines) > sum(a for _, a in best)):
            best = lines
    return best
