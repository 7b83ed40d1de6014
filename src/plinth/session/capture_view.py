"""A capture as a window shows it: its figures, its waveform, and what lies beside it. Without a window."""

import contextlib
import dataclasses
import re
from pathlib import Path

from plinth.captures.analysis import analyse_capture, analyse_file
from plinth.captures.bundle import Content, content_of, laid_out
from plinth.captures.capture import Capture, CaptureError
from plinth.captures.figure import Analysis
from plinth.captures.figure_words import OF_ANY, value_words
from plinth.captures.kinds.guess import guessed
from plinth.captures.options import Options
from plinth.captures.reading.read_capture import read_capture, read_content
from plinth.captures.words import KIND_WORDS, label_of
from plinth.report.csv_table import csv_text
from plinth.session.capture_pictures import Picture, pictures_of
from plinth.units.shown import MINUS, shown

__all__ = [
    "CaptureView",
    "Picture",
    "figure_rows",
    "figures_csv",
    "remark_words",
    "view_as_before",
    "view_of",
    "view_of_kept",
]

# What a recorder's files have in common from one to the next.
_REMEMBERED = ("volts_per_full_scale", "probe", "rate_hz")


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
    content = content_of(path, options)
    if not path.is_dir() and content.name != path.name and not content.is_bundle:
        # A part of a file too large to be kept: from here on it is that part, at its own scale.
        plain = dataclasses.replace(options, span_s=None, volts_per_full_scale=(), probe=(), rate_hz=None)
        return _viewed(Path(content.name), plain, content)
    return _viewed(path, options, content)


def view_as_before(path: Path, options: Options, last: Options | None) -> CaptureView:
    """The file with the scale of the ``last`` such file, where nothing is stated of this one and it goes with it."""
    if last is not None and not (options.volts_per_full_scale or options.probe or options.rate_hz):
        scales = {name: getattr(last, name) for name in _REMEMBERED}
        with contextlib.suppress(CaptureError):
            return view_of(path, dataclasses.replace(options, **scales))
    return view_of(path, options)


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
    pictures = tuple(pictures_of(capture, kind, options))
    return CaptureView(
        capture.name, analysis, summary, pictures, options=options, content=content, capture=capture
    )  # fmt: skip


def figure_rows(analysis: Analysis) -> list[tuple[str, str, str, str]]:
    """Channel, figure, value with spread, definition: a row each, in words; what any capture has comes last."""
    many = len(analysis.channels) > 1
    rows = [
        (figure.name in OF_ANY, channel.name if many else "", figure)
        for channel in analysis.channels
        for figure in channel.figures
    ]
    rows.sort(key=lambda row: row[0])
    return [(channel, label_of(figure.name), value_words(figure), figure.definition) for _, channel, figure in rows]


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
