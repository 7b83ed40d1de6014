"""One file (or a folder of levels) and what is stated beside it -> every figure it can give."""

from pathlib import Path
from typing import Any

from plinth.captures.capture import Capture, CaptureError, refuse_scale
from plinth.captures.figure import Analysis, FigureList
from plinth.captures.kinds.edge import add_edge
from plinth.captures.kinds.every_capture import add_every
from plinth.captures.kinds.guess import guessed
from plinth.captures.kinds.impedance import add_impedance
from plinth.captures.kinds.intermodulation import add_intermodulation
from plinth.captures.kinds.levels import Level, add_levels, levels_of, natural_order
from plinth.captures.kinds.mains import add_mains, volts_and_amperes
from plinth.captures.kinds.plain import add_plain
from plinth.captures.kinds.rail import add_rail
from plinth.captures.kinds.relay import add_relay
from plinth.captures.kinds.sweep import add_sweep
from plinth.captures.kinds.tone import add_tone
from plinth.captures.options import Options
from plinth.captures.reading.read_capture import read_capture

_MOST_FILES = 2000


def analyse(path: str | Path, **stated: Any) -> Analysis:
    """The figures of a capture, for scripts; ``stated`` are the fields of ``Options``, as ``load_ohm=8.0``.

    Raises CaptureError with one sentence where the file, or what is stated, is refused.
    """
    return analyse_file(Path(path), Options(**stated))


def analyse_file(path: Path, options: Options) -> Analysis:
    """The figures of ``path``. Raises CaptureError with one sentence where it is refused."""
    if path.is_dir():
        if options.guessed_kind() not in (None, "levels"):
            raise CaptureError(f"{path}: found a folder, expected one file (a folder is read as a sweep of levels)")
        return _of_folder(path, options)
    capture = read_capture(path, options)
    kind = options.guessed_kind() or guessed(capture)
    try:
        return analyse_capture(capture, kind, options)
    except CaptureError as error:
        raise CaptureError(f"{path}: {error}") from error


def analyse_capture(capture: Capture, kind: str, options: Options) -> Analysis:
    """The figures of a capture that is read already. Raises CaptureError where it cannot be of that kind."""
    refuse_scale(capture)
    lists = [FigureList(channel.name) for channel in capture.channels]
    for figures, channel in zip(lists, capture.channels, strict=True):
        add_every(figures, capture, channel)
    last, output = lists[-1], capture.channels[-1]
    if kind == "tone":
        for figures, channel in zip(lists, capture.channels, strict=True):
            add_tone(figures, capture, channel, options)
    elif kind == "intermodulation":
        for figures, channel in zip(lists, capture.channels, strict=True):
            add_intermodulation(figures, capture, channel)
    elif kind == "rail":
        for figures, channel in zip(lists, capture.channels, strict=True):
            add_rail(figures, capture, channel)
    elif kind == "levels":
        add_levels(last, levels_of(capture, options), output, options)
    elif kind == "edge":
        add_edge(last, capture, output, capture.channels[0] if len(capture.channels) > 1 else None)
    elif kind == "sweep":
        add_sweep(last, capture, options)
    elif kind == "relay":
        add_relay(lists[min(1, len(lists) - 1)], capture)
    elif kind == "impedance":
        if options.open_file is None:
            raise CaptureError("found one record, expected the same without the load beside it: give --open FILE")
        unloaded = read_capture(options.open_file, options)
        add_impedance(last, capture, unloaded, options)
    elif kind == "mains":
        of = volts_and_amperes(capture)
        places = [capture.channels.index(channel) for channel in of]
        add_mains(lists[places[0]], lists[places[1]], capture, of)
    else:
        for figures, channel in zip(lists, capture.channels, strict=True):
            add_plain(figures, channel, capture.sample_rate_hz)
    remarks = [*capture.remarks, *(remark for figures in lists for remark in figures.remarks)]
    return Analysis(kind, tuple(figures.done() for figures in lists), tuple(remarks))


def _of_folder(folder: Path, options: Options) -> Analysis:
    """Each file of a folder as one level."""
    files = sorted(
        (path for path in folder.iterdir() if path.is_file() and not path.name.startswith(".")),
        key=lambda path: natural_order(path.name),
    )
    if not 1 <= len(files) <= _MOST_FILES:
        raise CaptureError(f"{folder}: found {len(files)} files, expected one a level, {_MOST_FILES} at most")
    levels: list[Level] = []
    remarks: list[str] = []
    first: Capture | None = None
    whole = Options(**{**options.__dict__, "step_s": None})
    for path in files:
        try:
            capture = read_capture(path, whole)
            if first is not None and len(capture.channels) != len(first.channels):
                raise CaptureError(
                    f"{path}: found {len(capture.channels)} channels, expected {len(first.channels)} as before"
                )
            level = _level_of_file(capture)
        except CaptureError as error:
            remarks.append(f"Left out: {error}.")
            continue
        first = first or capture
        levels.append(level)
        remarks += [remark for remark in capture.remarks if remark not in remarks]
    if first is None:
        raise CaptureError(f"{folder}: found no file with a tone in it ({remarks[0] if remarks else 'empty'})")
    figures = FigureList(first.channels[-1].name)
    figures.add("rows", first.rows, 0.0, "", "samples of the first file")
    figures.add("missing", first.channels[-1].missing, 0.0, "", "cells of the first file that were no number")
    figures.add("sample_rate_hz", first.sample_rate_hz, 0.0, "Hz", "samples a second, by the recorder's own clock")
    add_levels(figures, levels, first.channels[-1], options)
    return Analysis("levels", (figures.done(),), (*remarks, *figures.remarks))


def _level_of_file(capture: Capture) -> Level:
    from plinth.captures.kinds.levels import level_of
    from plinth.captures.signal.line_fit import strongest_line

    drive = capture.channels[0].samples if len(capture.channels) > 1 else None
    lead = capture.channels[-1].samples if drive is None else drive
    level = level_of(capture.channels[-1].samples, drive, strongest_line(lead))
    if level is None:
        raise CaptureError(f"{capture.name}: found no tone in it")
    return level
