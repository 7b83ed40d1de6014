"""A capture as a window shows it: its figures, its waveform, and what lies beside it. Without a window."""

import dataclasses
import itertools
import math
import re
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from plinth.captures.analysis import analyse_capture, analyse_file
from plinth.captures.bundle import Content, content_of, laid_out
from plinth.captures.capture import Capture
from plinth.captures.figure import Analysis, CaptureFigure
from plinth.captures.kinds.guess import guessed
from plinth.captures.kinds.tone import fitted_tone
from plinth.captures.options import Options
from plinth.captures.reading.read_capture import read_capture, read_content
from plinth.captures.signal.spectrum import Spectrum, spectrum_of
from plinth.captures.words import KIND_WORDS, label_of, shown_unit
from plinth.drawing.series import Series
from plinth.report.csv_table import csv_text
from plinth.units.shown import MINUS, shown, shown_with_spread, split

__all__ = ["CaptureView", "Picture", "figure_rows", "figures_csv", "remark_words", "view_of", "view_of_kept"]

_OF_ANY = frozenset({"rows", "rows_used", "missing", "sample_rate_hz", "mean", "rms_ac"})
_POINTS = 1600
_CYCLES = 4.0
_LOWEST_DB = -170.0
# The output in ink, what stands beside it paler: the other colours mean something here.
_BESIDE = ("ink2", "claim", "zero")


@dataclasses.dataclass(frozen=True)
class Picture:
    """One plot: its curves and both ranges; ``aside`` what stands beside its title."""

    title: str
    x_name: str
    x_unit: str
    series: tuple[Series, ...]
    x: tuple[float, float]
    y: tuple[float, float]
    log_x: bool = False
    aside: str = ""


@dataclasses.dataclass(frozen=True)
class CaptureView:
    """``summary`` in one line: length, rate, channels; ``pictures`` the waveform first (none for a folder).

    ``capture`` its samples (None for a folder); ``options`` what was stated; ``content`` the recorder's own bytes.
    """

    name: str
    analysis: Analysis
    summary: str
    pictures: tuple[Picture, ...]
    options: Options
    content: Content
    capture: Capture | None = None

    @property
    def kind_words(self) -> str:
        """What it was read as."""
        return KIND_WORDS[self.analysis.kind]


def view_of(path: Path, options: Options) -> CaptureView:
    """Read, analysed and drawn. Raises CaptureError with one sentence where it is refused."""
    return _viewed(path, options, content_of(path, options))


def view_of_kept(content: Content, options: Options) -> CaptureView:
    """A capture that was kept, read and drawn anew. Raises CaptureError where it is refused now."""
    with laid_out(content, options) as (path, beside):
        return _viewed(path, beside, content)


def _viewed(path: Path, options: Options, content: Content) -> CaptureView:
    if path.is_dir():
        analysis = analyse_file(path, options)
        return CaptureView(path.name, analysis, "a folder, one level a file", (), options, content)
    capture = read_capture(path, options) if content.is_bundle else read_content(content.data, path.name, options)
    kind = options.guessed_kind() or guessed(capture)
    analysis = analyse_capture(capture, kind, options)
    count = len(capture.channels)
    summary = (
        f"{shown(capture.seconds, 's')} at {shown(capture.sample_rate_hz, 'Hz')}, "
        f"{count} {'channel' if count == 1 else 'channels'}, read as {KIND_WORDS[kind]}"
    )
    pictures = tuple(_pictures(capture, kind))
    return CaptureView(capture.name, analysis, summary, pictures, options, content, capture)


def figure_rows(analysis: Analysis) -> list[tuple[str, str, str, str]]:
    """Channel, figure, value with spread, definition: a row each, in words; what any capture has comes last."""
    many = len(analysis.channels) > 1
    rows = [
        (figure.name in _OF_ANY, channel.name if many else "", figure)
        for channel in analysis.channels
        for figure in channel.figures
    ]
    rows.sort(key=lambda row: row[0])
    return [(channel, label_of(figure.name), value_words(figure), figure.definition) for _, channel, figure in rows]


def value_words(figure: CaptureFigure) -> str:
    """A value with its spread, a ratio in decibels also as a share; no more digits than are known, and six at most."""
    unit = shown_unit(figure.name, figure.unit)
    if unit == "" and figure.spread == 0.0:
        return f"{figure.value:.10g}"
    if figure.spread < 1e-4 * abs(figure.value) and unit != "dB":
        words = shown(figure.value, unit, 6)
    elif figure.spread > abs(figure.value) > 0.0:
        # In the spread's own unit: microvolts known to millivolts are none.
        number, sign = split(figure.spread, unit, 2)
        own = figure.value * float(number) / figure.spread
        words = f"{own:.1f} ±{number} {sign}".strip().replace("-", MINUS)
    else:
        words = shown_with_spread(figure.value, figure.spread, unit)
    if unit == "dB" and ("thd" in figure.name or figure.name.startswith("h")) and figure.value < -6.0:
        words += f" ({100.0 * 10.0 ** (figure.value / 20.0):.3g} %)"
    return words


def remark_words(analysis: Analysis) -> list[str]:
    """The remarks, with figures called as they are in the table."""
    named = re.compile(r"[a-z0-9.]+(?:_[a-z0-9.]+)+")
    plain = [named.sub(lambda match: label_of(match.group()), remark) for remark in analysis.remarks]
    return [re.sub(r"(?<=[ (])-(?=\d)", MINUS, remark) for remark in plain]


def figures_csv(view: CaptureView) -> str:
    """All figures as CSV, SI, with spread, unit and definition; then the remarks."""
    rows: list[tuple[object, ...]] = [("file", "channel", "figure", "value", "spread (95 %)", "unit", "definition")]
    rows += [
        (view.name, channel.name, figure.name, figure.value, figure.spread, figure.unit, figure.definition)
        for channel in view.analysis.channels
        for figure in channel.figures
    ]
    rows += [(view.name, "", "remark", None, None, "", remark) for remark in view.analysis.remarks]
    return csv_text(rows)


def _pictures(capture: Capture, kind: str) -> list[Picture]:
    output = capture.channels[-1]
    pictures = []
    lines = kind in ("tone", "intermodulation", "impedance")
    spectrum = None
    start, stop = 0, capture.rows
    if lines and float(np.ptp(output.samples)) > 0.0:
        spectrum = spectrum_of(output.samples, capture.sample_rate_hz, "seven_terms")
        start, stop = _some_cycles(capture, spectrum)
    pictures.append(_waveform(capture, start, stop))
    if kind == "tone":
        rest = _rest_picture(capture, start, stop)
        pictures += [] if rest is None else [rest]
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
    series, low, high = [], math.inf, -math.inf
    # The output first, so that a drive, which is small, lies over it.
    for index, channel in enumerate(reversed(capture.channels)):
        rows, values = lowest_and_highest(channel.samples[start:stop])
        low, high = min(low, float(np.min(values))), max(high, float(np.max(values)))
        role = "ink" if index == 0 else _BESIDE[(index - 1) % len(_BESIDE)]
        series.append(Series(channel.name, (start + rows) / rate, values, role, channel.unit))
    room = 0.08 * max(high - low, 1e-12)
    units = " and ".join(dict.fromkeys(channel.unit for channel in capture.channels))
    if len(series) > 1:
        units += f": {series[0].name} dark, {', '.join(each.name for each in series[1:])} pale over it"
    part = "" if stop - start == capture.rows else f", {shown((stop - start) / rate, 's')} from the middle"
    return Picture(
        "Waveform", "t", "s", tuple(series), (start / rate, stop / rate), (low - room, high + room), aside=units + part
    )


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
    return Picture("Rest", "t", "s", (series,), span, (-reach, reach), aside=words)


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
    return Picture("Spectrum", "f", "Hz", (series,), x, (max(floor - 10.0, _LOWEST_DB), 5.0), log_x=True, aside=aside)


def lowest_and_highest(values: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Rows and values of a long wave as a screen can show it: the lowest and the highest of each column, in order."""
    columns = _POINTS // 2
    if len(values) <= 2 * _POINTS:
        return np.arange(len(values), dtype=np.float64), values
    width = len(values) // columns
    blocks = values[: columns * width].reshape(columns, width)
    places = np.stack((np.argmin(blocks, axis=1), np.argmax(blocks, axis=1)), axis=1)
    places.sort(axis=1)
    rows = (places + width * np.arange(columns)[:, None]).ravel()
    return rows.astype(np.float64), values[rows]
