"""A capture drawn: waves and their rest, spectrum, response and orders of a sweep, distortion over level, and more."""

import dataclasses
import enum
import itertools
import math

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import Capture
from plinth.captures.kinds.levels import levels_of
from plinth.captures.kinds.sweep import answer_of
from plinth.captures.kinds.tone import fitted_tone
from plinth.captures.options import Options
from plinth.captures.pyramid import Pyramid
from plinth.captures.signal.deconvolution import Answer
from plinth.captures.signal.spectrum import Spectrum, spectrum_of
from plinth.drawing.series import Series
from plinth.units.shown import shown

__all__ = ["Drawn", "Picture", "against_each_other", "lowest_and_highest", "pictures_of", "waves_between"]

_POINTS = 1600
_CYCLES = 4.0
_LOWEST_DB = -170.0
# The output in ink, what stands beside it paler: the other colours mean something here.
_BESIDE = ("ink2", "claim", "zero")


class Drawn(enum.StrEnum):
    """What a picture of a capture draws; the values are its titles."""

    WAVES = "Waveform"
    REST = "Rest"
    LESS_PREDICTED = "Read less predicted"
    SPECTRUM = "Spectrum"
    RESPONSE = "Response"
    DELAY = "Group delay"
    ORDERS = "Distortion by order"
    LEVELS = "Distortion over level"
    AGAINST = "X-Y"


@dataclasses.dataclass(frozen=True)
class Picture:
    """One plot: what it draws, its curves and both ranges; ``aside`` what stands beside its title."""

    what: Drawn
    x_name: str
    x_unit: str
    series: tuple[Series, ...]
    x: tuple[float, float]
    y: tuple[float, float]
    log_x: bool = False
    aside: str = ""

    @property
    def title(self) -> str:
        """What stands above it."""
        return self.what.value


def pictures_of(capture: Capture, kind: str, options: Options) -> list[Picture]:
    """The pictures of a capture of a kind: the waveform first."""
    output = capture.channels[-1]
    lines = kind in ("tone", "intermodulation", "impedance")
    spectrum = None
    start, stop = 0, capture.rows
    if lines and float(np.ptp(output.samples)) > 0.0:
        spectrum = spectrum_of(output.samples, capture.sample_rate_hz, "seven_terms")
        start, stop = _some_cycles(capture, spectrum)
    pictures = [_waveform(capture, start, stop)]
    if kind == "tone":
        rest = _rest_picture(capture, start, stop)
        pictures += [] if rest is None else [rest]
    if kind == "sweep":
        pictures += _sweep_pictures(capture, options)
    if kind == "levels":
        pictures += _levels_pictures(capture, options)
    if spectrum is None and kind in ("plain", "rail", "mains") and float(np.ptp(output.samples)) > 0.0:
        spectrum = spectrum_of(output.samples, capture.sample_rate_hz, "blackman_harris")
    if spectrum is not None:
        pictures.append(_spectrum_picture(spectrum))
    return pictures


def _some_cycles(capture: Capture, spectrum: Spectrum) -> tuple[int, int]:
    """A few cycles of the strongest line, from the middle of the record."""
    peak = int(np.argmax(spectrum.power[1:])) + 1
    rows = min(capture.rows, math.ceil(_CYCLES * capture.sample_rate_hz / (peak * spectrum.bin_hz)) + 1)
    start = (capture.rows - rows) // 2
    return start, start + rows


def _waveform(capture: Capture, start: int, stop: int) -> Picture:
    rate = capture.sample_rate_hz
    series = waves_between([Pyramid(channel.samples) for channel in capture.channels], capture, start, stop)
    low = min(float(np.min(each.y)) for each in series)
    high = max(float(np.max(each.y)) for each in series)
    room = 0.08 * max(high - low, 1e-12)
    units = " and ".join(dict.fromkeys(channel.unit for channel in capture.channels))
    if len(series) > 1:
        units += f": {series[0].name} dark, {', '.join(each.name for each in series[1:])} pale over it"
    part = "" if stop - start == capture.rows else f", {shown((stop - start) / rate, 's')} from the middle"
    return Picture(
        Drawn.WAVES, "t", "s", tuple(series), (start / rate, stop / rate), (low - room, high + room), aside=units + part
    )


def waves_between(pyramids: list[Pyramid], capture: Capture, start: int, stop: int) -> list[Series]:
    """The waves of all channels from one row to another, as a screen can show them."""
    series = []
    output = pyramids[-1].largest
    # The output first, so that a drive, which is small, lies over it.
    for index, (channel, pyramid) in enumerate(reversed(list(zip(capture.channels, pyramids, strict=True)))):
        rows, values = pyramid.between(start, stop, _POINTS // 2)
        role = "ink" if index == 0 else _BESIDE[(index - 1) % len(_BESIDE)]
        part = 1.0 if channel.unit == capture.channels[-1].unit else _round_part(pyramid.largest, output)
        name = channel.name if part == 1.0 else f"{channel.name} ÷ {part:g}"
        series.append(Series(name, rows / capture.sample_rate_hz, values / part, role, channel.unit))
    return series


def _round_part(top: float, output: float) -> float:
    """A round number by which another unit is divided so that both are seen on one axis."""
    if top <= 0.0 or output <= 0.0 or 0.2 < top / output < 5.0:
        return 1.0
    power = 10.0 ** math.floor(math.log10(top / output))
    return next(step * power for step in (10.0, 5.0, 2.0, 1.0) if step * power <= top / output * 1.0000001)


def against_each_other(capture: Capture) -> Picture:
    """The last channel over the first, a point a sample, of a stretch that is not too long to be seen."""
    first, last = capture.channels[0], capture.channels[-1]
    count = min(capture.rows, 8 * _POINTS)
    start = (capture.rows - count) // 2
    x, y = first.samples[start : start + count], last.samples[start : start + count]
    series = Series(f"{last.name} over {first.name}", x, y, "ink", last.unit)
    return Picture(
        Drawn.AGAINST, first.name, first.unit, (series,), _with_room(x, 1e-12), _with_room(y, 1e-12),
        aside=f"{last.name} in {last.unit} over {first.name} in {first.unit}, "
        f"{shown(count / capture.sample_rate_hz, 's')} from the middle",
    )  # fmt: skip


def _sweep_pictures(capture: Capture, options: Options) -> list[Picture]:
    """Response, phase with its group delay, and distortion by order, over frequency."""
    answer = answer_of(capture, options)
    low, high = answer.shape.f1_hz, min(answer.shape.f2_hz, 0.49 * capture.sample_rate_hz)
    grid = np.geomspace(low * 1.001, high * 0.999, 400)
    values = answer.linear(grid)
    if not np.all(np.abs(values) > 0.0):
        return []
    sizes = 20.0 * np.log10(np.abs(values))
    phase = np.unwrap(np.angle(values))
    group_s = answer.arrival_s - np.gradient(phase, 2.0 * math.pi * grid)
    x = (float(grid[0]), float(grid[-1]))
    pictures = [
        Picture(
            Drawn.RESPONSE, "f", "Hz", (Series("response", grid, sizes, "ink", "dB"),), x, _with_room(sizes, 1.0),
            log_x=True, aside="dB, second channel over first" if len(capture.channels) > 1 else "dB",
        )
    ]  # fmt: skip
    # At the very ends the phase turns with what is not known beyond them.
    inner = (grid > 2.5 * low) & (grid < 0.9 * high)
    delays = group_s[inner] * 1e3
    pictures.append(
        Picture(
            Drawn.DELAY, "f", "Hz", (Series("group delay", grid[inner], delays, "ink", "ms"),), x,
            _with_room(delays, 0.02),
            log_x=True, aside="ms",
        )
    )  # fmt: skip
    orders = _orders_picture(answer, low, high)
    return pictures if orders is None else [*pictures, orders]


def _orders_picture(answer: Answer, low: float, high: float) -> Picture | None:
    """What of each order a fundamental makes; what lies in the noise is left out."""
    series = []
    for order, role in ((2, "ink"), (3, "claim"), (4, "ink2"), (5, "zero")):
        if order * low * 4.0 >= high:
            continue
        grid = np.geomspace(max(low * 3.0, 1.0), high / order * 0.98, 36)
        shares = np.array([answer.order(order, float(f)) for f in grid])
        floors = np.array([answer.u_order(order, float(f)) for f in grid])
        seen = shares > 3.0 * floors
        if np.count_nonzero(seen) > 2:
            decibels = np.where(seen, 20.0 * np.log10(np.maximum(shares, 1e-12)), np.nan)
            series.append(Series(f"order {order}", grid[seen], decibels[seen], role, "dB", label=f"{order}"))
    if not series:
        return None
    every = np.concatenate([each.y for each in series])
    return Picture(
        Drawn.ORDERS, "f", "Hz", tuple(series), (low * 1.001, high * 0.999), _with_room(every, 3.0),
        log_x=True, aside="dB to the fundamental, at its frequency; what lies in the noise is left out",
    )  # fmt: skip


def _levels_pictures(capture: Capture, options: Options) -> list[Picture]:
    """Distortion over the level at the output."""
    levels = [level for level in levels_of(capture, options) if level.rms > 0.0]
    if len(levels) < 2:
        return []
    order = np.argsort([level.rms for level in levels])
    rms = np.array([levels[k].rms for k in order])
    share = np.array([max(levels[k].distortion, levels[k].u_distortion, 1e-9) for k in order])
    decibels = 20.0 * np.log10(share)
    unit = capture.channels[-1].unit
    series = Series("distortion", rms, decibels, "ink", "dB", discs=len(levels) < 60)
    return [
        Picture(
            Drawn.LEVELS, "level", unit, (series,), (float(rms[0]), float(rms[-1]) * 1.02 + 1e-12),
            _with_room(decibels, 3.0), log_x=True, aside=f"dB to the fundamental, over {unit} rms",
        )
    ]  # fmt: skip


def _with_room(values: NDArray[np.float64], least: float) -> tuple[float, float]:
    low, high = float(np.min(values)), float(np.max(values))
    room = max(0.08 * (high - low), least)
    return low - room, high + room


def _rest_picture(capture: Capture, start: int, stop: int) -> Picture | None:
    """What is left of a tone without its fundamental and its direct part, over the same stretch."""
    output = capture.channels[-1]
    tone = fitted_tone(capture, output)
    if tone is None:
        return None
    rows = np.arange(start, stop)
    turns = np.exp(1j * tone.omega * (rows - tone.fit.middle))
    rest = output.samples[start:stop] - tone.fit.dc - (turns * tone.fit.phasors[0]).real
    at, values = lowest_and_highest(rest)
    reach = 1.1 * max(float(np.max(np.abs(values))), 1e-15)
    where = (start + at) / capture.sample_rate_hz
    series = Series("what is not the fundamental", where, values, "claim", output.unit)
    span = (start / capture.sample_rate_hz, stop / capture.sample_rate_hz)
    words = f"{output.unit}, what is not {shown(tone.fundamental_hz, 'Hz')}"
    return Picture(Drawn.REST, "t", "s", (series,), span, (-reach, reach), aside=words)


def _spectrum_picture(spectrum: Spectrum) -> Picture:
    """Lines to the strongest one, in decibels over frequency."""
    top = float(np.max(spectrum.power[1:]))
    decibels = np.maximum(10.0 * np.log10(np.maximum(spectrum.power, 1e-300) / top), _LOWEST_DB)
    frequencies = spectrum.frequencies_hz
    first = max(1, math.ceil(10.0 / spectrum.bin_hz))
    # As many columns as a screen has, evenly over octaves; in each the highest bin, so that no line is lost.
    edges = np.unique(np.geomspace(first, len(decibels), _POINTS).astype(np.int64))
    highest = np.maximum.reduceat(decibels, edges[:-1])
    places = [int(a) + int(np.argmax(decibels[a:b])) for a, b in itertools.pairwise(edges)]
    floor = float(np.percentile(highest, 2.0))
    series = Series("spectrum", frequencies[places], highest, "ink", "dB")
    aside = f"dB below the strongest line, bins of {shown(spectrum.bin_hz, 'Hz')}"
    x = float(frequencies[places[0]]), float(frequencies[-1])
    return Picture(
        Drawn.SPECTRUM, "f", "Hz", (series,), x, (max(floor - 10.0, _LOWEST_DB), 5.0), log_x=True, aside=aside
    )


def lowest_and_highest(values: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Rows and values of a long wave as a screen can show it: the lowest and the highest of each column."""
    return Pyramid(values).between(0, len(values), _POINTS // 2)
