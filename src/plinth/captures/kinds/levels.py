"""A sweep of levels: where clipping begins, and the levels of 1 % and 10 % distortion."""

import math
import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture, CaptureError, Channel
from plinth.captures.figure import FigureList
from plinth.captures.options import Options
from plinth.captures.signal.clipped_sine import CutSine, distortion_of, fitted_cut, limit_of, rms_at, rms_of
from plinth.captures.signal.line_fit import LineFit, harmonic_fit, strongest_line
from plinth.captures.signal.spectrum import spectrum_of

_HARMONICS = 20
_SETTLES, _ENDS = 0.2, 0.05
_LEAST_CYCLES = 4.0
_ONSET_MOST = 0.08
_RAMP_PARTS = 48
# Of the strongest, what is no tone any more; of the record, how much of that makes the rest a burst.
_SILENT, _LEAST_SILENCE = 0.02, 0.05
# A cut sine explains a wave where it leaves less than this of its harmonics.
_EXPLAINED = 0.25


@dataclass(frozen=True)
class Level:
    """The output at one level: peak of its fundamental, rms of the wave, distortion and what noise makes of that."""

    drive: float | None
    fundamental: float
    rms: float
    distortion: float
    u_distortion: float
    u_rms: float
    phasors: NDArray[np.complex128]
    count: int

    @property
    def limit(self) -> float:
        """Peak at which a sine cut alike on both sides would be this wave."""
        return limit_of(self.fundamental, self.distortion, self.count)


def levels_of(capture: Capture, options: Options) -> list[Level]:
    """The levels in one record, in order. Raises CaptureError where no steady tone is in it."""
    output = capture.channels[-1].samples
    drive = capture.channels[0].samples if len(capture.channels) > 1 else None
    lead = output if drive is None else drive
    omega = strongest_line(lead)
    parts = _parts(lead, omega, capture.sample_rate_hz, options.step_s)
    levels = [
        level
        for start, stop in parts
        if (level := level_of(output[start:stop], None if drive is None else drive[start:stop], omega)) is not None
    ]
    if not levels:
        raise CaptureError("found no steady tone in it, expected one at some levels")
    return levels


def level_of(output: NDArray[np.float64], drive: NDArray[np.float64] | None, omega: float) -> Level | None:
    """One stretch of a tone near ``omega``, or None where it holds none."""
    if len(output) * omega / (2.0 * math.pi) < _LEAST_CYCLES or float(np.ptp(output)) <= 0.0:
        return None
    fit = harmonic_fit(output, omega, _HARMONICS)
    if abs(float(fit.bases[0]) - omega) > 0.05 * omega + 4.0 * math.pi / len(output):
        return None
    spectrum = spectrum_of(output, 1.0)
    own = float(fit.bases[0]) / (2.0 * math.pi)
    lines = own * np.arange(1, int(0.5 / own) + 1)
    apart = own * len(output) > 14.0
    floor = spectrum.floor(spectrum.beside(lines)) if apart else None
    density = float(np.median(floor)) * len(output) / math.log(2.0) * 0.5 if floor is not None else _left(output, fit)
    u = math.sqrt(max(fit.noise_gain * density, 0.0))
    sizes = np.abs(fit.phasors)
    square = float(np.sum(sizes[1:] ** 2)) - 2.0 * u**2 * (len(sizes) - 1)
    first = float(sizes[0])
    if first < 5.0 * u or first <= 0.0:
        return None
    at_drive = None
    if drive is not None and float(np.ptp(drive)) > 0.0:
        at_drive = float(abs(harmonic_fit(drive, float(fit.bases[0]), 3).phasors[0]))
    u_square = math.sqrt(4.0 * u**2 * max(square, 0.0) + 4.0 * u**4 * (len(sizes) - 1))
    distortion = math.sqrt(max(square, 0.0)) / first
    return Level(
        at_drive, first, rms=math.sqrt(0.5 * (first**2 + max(square, 0.0))), distortion=distortion,
        u_distortion=0.5 * u_square / math.sqrt(max(square, u_square, 1e-30 * first**2)) / first,
        u_rms=u / math.sqrt(2.0),
        phasors=1j * fit.phasors, count=len(sizes),
    )  # fmt: skip


def _left(output: NDArray[np.float64], fit: LineFit) -> float:
    """Mean square that even sixty harmonics leave."""
    full = harmonic_fit(output, float(fit.bases[0]), 60)
    return float(np.mean((output - full.values_at(np.arange(len(output)))) ** 2))


def _parts(lead: NDArray[np.float64], omega: float, rate: float, step_s: float | None) -> list[tuple[int, int]]:
    """Stretches of one level each, without the part in which a level settles."""
    length = len(lead)
    if step_s is not None:
        step = step_s * rate
        count = max(1, int(length / step + 0.4))
        return [
            (int((k + _SETTLES) * step), min(length, int((k + 1 - _ENDS) * step)))
            for k in range(count)
            if (k + 0.6) * step < length
        ]
    cycle = 2.0 * math.pi / omega
    width = max(round(3.0 * cycle), 8)
    if length // width < 6:
        return [(0, length)]
    sizes, runs = _steady_runs(lead, width)
    if len(runs) >= 3 or _in_silence(sizes, runs):
        return [(int((a + _SETTLES * (b - a)) * width), int((b - _ENDS * (b - a)) * width)) for a, b in runs]
    part = max(int(8.0 * cycle), length // _RAMP_PARTS)
    return [(k * part, (k + 1) * part) for k in range(length // part)]


def _steady_runs(lead: NDArray[np.float64], width: int) -> tuple[NDArray[np.float64], list[tuple[int, int]]]:
    """The size of each block of ``width`` rows, and the runs of blocks (from, to) that are of one size."""
    count = len(lead) // width
    sizes = np.std(lead[: count * width].reshape(count, width), axis=1)
    top = float(np.max(sizes))
    steady = np.abs(np.diff(sizes)) < 0.012 * np.maximum(sizes[1:], sizes[:-1]) + 1e-6 * top
    runs: list[tuple[int, int]] = []
    begin = None
    for index, flat in enumerate([*steady.tolist(), False]):
        if flat and begin is None:
            begin = index
        elif not flat and begin is not None:
            if index - begin >= 3 and float(np.mean(sizes[begin : index + 1])) > 1e-3 * top:
                runs.append((begin, index + 1))
            begin = None
    return sizes, runs


def _in_silence(sizes: NDArray[np.float64], runs: list[tuple[int, int]]) -> bool:
    """Whether it is a burst or two in silence: its edges are no distortion, so only what is steady in it counts."""
    silent = sizes < _SILENT * float(np.max(sizes))
    sounding = int(np.count_nonzero(~silent))
    return bool(runs) and float(np.mean(silent)) > _LEAST_SILENCE and sum(b - a for a, b in runs) > 0.5 * sounding


def in_bursts(lead: NDArray[np.float64], omega: float) -> bool:
    """Whether a tone of ``omega`` (radians a sample) stands in silence, in bursts of one level each."""
    width = max(round(3.0 * 2.0 * math.pi / omega), 8)
    return len(lead) // width >= 6 and _in_silence(*_steady_runs(lead, width))


def natural_order(name: str) -> list[object]:
    """``level 9`` before ``level 10``."""
    return [int(piece) if piece.isdigit() else piece for piece in re.split(r"(\d+)", name.lower())]


def add_levels(figures: FigureList, levels: list[Level], channel: Channel, options: Options) -> None:
    """Onset and both distortions, in volts and, where the load is stated, in watts."""
    unit = channel.unit
    ordered = sorted(levels, key=lambda level: level.drive if level.drive is not None else level.fundamental)
    figures.add("levels", len(ordered), 0.0, "", "levels that were told apart")
    lowest, highest = ordered[0].rms, ordered[-1].rms
    words = f"{len(ordered)} levels from {lowest:.4g} to {highest:.4g} {unit}"
    alone = len(ordered) < 2
    if alone:
        words = f"the one level in it, {lowest:.4g} {unit}"
    gains = [level.fundamental / level.drive for level in ordered if level.drive]
    clean = [level for level in ordered if level.distortion < 0.003]
    if gains and clean and clean[0].drive:
        low = [level.fundamental / level.drive for level in clean if level.drive]
        figures.add("gain", float(np.median(low)), 2.0 * float(np.std(low)) / math.sqrt(len(low))
                    + 2.0 * max(level.u_rms / level.rms for level in clean[-3:]) * float(np.median(low)), "",
                    "output over drive at the fundamental, levels below clipping")  # fmt: skip
    floor = 0.0 if alone else min(level.distortion for level in ordered)
    clipping = [
        level
        for level in ordered
        if level.distortion > max(0.0015, 3.0 * floor, 5.0 * level.u_distortion)
        and level.rms > 0.5 * max(each.rms for each in ordered)
    ]
    if not clipping:
        figures.miss(
            "onset_rms_v, level_at_1pct_thd_rms_v, level_at_10pct_thd_rms_v",
            f"{'none of ' * (not alone)}{words}{' does not clip' if alone else ' clips'}",
        )
        return
    cuts = [fitted_cut(level.phasors) for level in clipping]
    _add_onset(figures, clipping, cuts=cuts, clean=clean, channel=channel, options=options, floor=floor)
    if alone:
        figures.miss("level_at_1pct_thd_rms_v, level_at_10pct_thd_rms_v", "one level only is in it")
        return
    for percent in (1, 10):
        _add_at(figures, percent, ordered=ordered, clipping=clipping, cuts=cuts, unit=unit, options=options)


def _add_onset(
    figures: FigureList, clipping: list[Level], cuts: list[CutSine | None], clean: list[Level], channel: Channel,
    options: Options, floor: float,
) -> None:  # fmt: skip
    early = [pair for pair in zip(clipping, cuts, strict=True) if pair[0].distortion < _ONSET_MOST][:6]
    limits, leads, doubt = [], [], 0.0
    for level, cut in early or [(clipping[0], cuts[0])]:
        alike = level.limit
        if cut is not None and cut.rest < _EXPLAINED:
            nearer = min(cut.upper, cut.lower)
            limits.append(nearer)
            leads.append(cut.amplitude)
            doubt = max(doubt, cut.rest * abs(alike - nearer) + 0.3 * cut.rest * (cut.amplitude - nearer))
        else:
            limits.append(alike)
            leads.append(level.fundamental)
            doubt = max(doubt, 0.02 * alike)
    limit, u = _at_touch(limits, leads)
    noise = max(level.u_rms for level in clipping[:6]) * math.sqrt(2.0)
    u_limit = math.hypot(u, noise, 0.3 * floor * limit)
    onset = limit / math.sqrt(2.0)
    spread = (2.0 * u_limit + doubt) / math.sqrt(2.0) + 2e-4 * onset
    highest_clean = max((level.rms for level in clean), default=0.0)
    if highest_clean > onset + spread:
        spread = max(spread, 1.1 * (highest_clean - onset))
    figures.add(
        "onset_rms_v", onset, spread, channel.unit,
        "the largest sine that is not yet cut on either side, root mean square, from the limits of those that are",
    )  # fmt: skip
    _add_power(figures, "onset_power_w", rms=onset, spread=spread, unit=channel.unit, options=options, words="at onset")


def _at_touch(limits: list[float], leads: list[float]) -> tuple[float, float]:
    """The limit where the sine just reaches it, by a line through limits over what the sine would have been."""
    if len(limits) < 3:
        return limits[0], abs(limits[0] - limits[-1]) * (1.0 if len(limits) > 1 else 0.0) + 0.002 * limits[0]
    x, y = np.array(leads), np.array(limits)
    if float(np.ptp(x)) < 1e-3 * float(np.mean(x)):
        return float(np.mean(y)), float(np.std(y))
    slope, base = np.polyfit(x, y, 1)
    off = y - (slope * x + base)
    if slope >= 0.9:
        return float(y[0]), float(np.ptp(y))
    touch = float(base / (1.0 - slope))
    u = float(np.sqrt(np.sum(off**2) / (len(x) - 2)))
    far = math.sqrt(1.0 / len(x) + (touch - float(np.mean(x))) ** 2 / float(np.sum((x - np.mean(x)) ** 2)))
    return touch, u * far + 0.05 * abs(touch - float(y[0]))


def _add_at(
    figures: FigureList, percent: int, ordered: list[Level], clipping: list[Level], cuts: list[CutSine | None],
    unit: str, options: Options,
) -> None:  # fmt: skip
    target = 0.01 * percent
    highest = max(ordered, key=lambda level: level.distortion)
    name = f"level_at_{percent}pct_thd_rms_v"
    if highest.distortion < target * 0.97:
        figures.miss(name, f"the highest distortion in it is {100.0 * highest.distortion:.3g} %")
        return
    explained = [
        (level, cut) for level, cut in zip(clipping, cuts, strict=True) if cut is not None and cut.rest < _EXPLAINED
    ]
    by_limits = _by_limits(explained, target) if len(explained) > 0.6 * len(clipping) else None
    by_distortion, doubt = _by_distortion(clipping, target)
    nearest = min(clipping, key=lambda level: abs(math.log(level.distortion / target)))
    value = by_distortion if by_limits is None else by_limits[0]
    spread = doubt if by_limits is None else by_limits[1]
    spread += 2.0 * nearest.u_rms + 0.2 * nearest.u_distortion * value + 3e-4 * value
    figures.add(
        name, value, spread, unit,
        f"root mean square of the wave whose harmonics 2 to {nearest.count} make {percent} % of its fundamental",
    )  # fmt: skip
    _add_power(
        figures,
        f"power_at_{percent}pct_thd_w",
        rms=value,
        spread=spread,
        unit=unit,
        options=options,
        words=f"at {percent} % distortion",
    )


def _by_limits(explained: list[tuple[Level, CutSine]], target: float) -> tuple[float, float] | None:
    """Where a sine cut at the limits seen, drawn on between levels, has this distortion; how far that may be off."""
    sides = []
    for upper in (True, False):
        touched = [
            (cut.amplitude, cut.upper if upper else cut.lower)
            for _, cut in explained
            if (cut.upper if upper else cut.lower) < 0.999 * cut.amplitude
        ]
        sides.append(sorted(touched))
    if not sides[0] and not sides[1]:
        return None

    def limits_at(amplitude: float) -> tuple[float, float]:
        top, bottom = (
            10.0 * amplitude if not side else _drawn_on(amplitude, side)
            for side in sides
        )  # fmt: skip
        return top, bottom

    count = explained[0][0].count
    low, high = 0.5 * explained[0][1].amplitude, 1.5 * explained[-1][1].amplitude
    for _ in range(50):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if distortion_of(middle, *limits_at(middle), count) < target else (low, middle)
    amplitudes = [cut.amplitude for _, cut in explained]
    near = sorted(explained, key=lambda pair: abs(pair[1].amplitude - low))[:3]
    rest = max(cut.rest for _, cut in near) * target * low
    outside = max(amplitudes[0] - low, low - amplitudes[-1], 0.0)
    limits = [min(cut.upper, cut.lower) for _, cut in near]
    doubt = 0.5 * rest + 0.1 * outside + 0.1 * (max(limits) - min(limits))
    return rms_of(low, *limits_at(low)), doubt


def _drawn_on(amplitude: float, side: list[tuple[float, float]]) -> float:
    """A limit over amplitude: straight between those seen, and on below the first by the slope it has there."""
    at = [point[0] for point in side]
    limits = [point[1] for point in side]
    if amplitude >= at[0] or len(side) < 3:
        return float(np.interp(amplitude, at, limits))
    slope = float(np.polyfit(at[:4], limits[:4], 1)[0])
    return limits[0] + (slope * (amplitude - at[0]) if abs(slope) < 0.9 else 0.0)


def _by_distortion(clipping: list[Level], target: float) -> tuple[float, float]:
    """The same where no cut sine explains the waves: by what cut alike would have that distortion, between levels."""
    rising = sorted(clipping, key=lambda level: level.distortion)
    logs = np.log([level.distortion for level in rising])
    limits = np.array([level.limit for level in rising])
    place = math.log(target)
    limit = float(np.interp(place, logs, limits))
    if len(logs) > 1:
        b = int(np.clip(np.searchsorted(logs, place), 1, len(logs) - 1))
        inside = logs[b - 1] <= place <= logs[b]
        share = (0.15 if inside else 1.0) * abs(float(limits[b] - limits[b - 1])) / limit
    else:
        share = 0.01
    nearest = rising[int(np.argmin(np.abs(logs - place)))]
    value = rms_at(limit, target, nearest.count)
    return value, share * value


def _add_power(
    figures: FigureList, name: str, rms: float, spread: float, unit: str, options: Options, words: str
) -> None:
    if options.load_ohm is None:
        figures.miss(name, "no load is stated (--load)")
    elif unit != "V":
        figures.miss(name, "no volts are known (--volts-per-full-scale)")
    else:
        power = rms**2 / options.load_ohm
        figures.add(name, power, 2.0 * spread / rms * power, "W", f"rms squared over {options.load_ohm:g} ohm {words}")
