"""``plinth analyse``: the figures of a capture."""

import json
import sys
from collections.abc import Mapping
from pathlib import Path

from plinth.captures.analysis import analyse_file
from plinth.captures.capture import CaptureError
from plinth.captures.figure import Analysis
from plinth.captures.options import Options, Sweep, numbers_of
from plinth.units.shown import shown_with_spread

BAD_INPUT = 2


def run_analyse(path: Path, words: Mapping[str, str | None], *, as_json: bool) -> int:
    """Print the figures of the capture in ``path``; 0, or 2 with a sentence on stderr."""
    try:
        analysis = analyse_file(path, options_from(words))
    except CaptureError as error:
        sys.stderr.write(f"{error}\n")
        return BAD_INPUT
    except MemoryError:
        sys.stderr.write(f"{path}: found more samples than the memory holds, expected fewer: cut the file first\n")
        return BAD_INPUT
    text = json.dumps(analysis.as_document(), indent=2, ensure_ascii=False) if as_json else as_table(analysis)
    sys.stdout.write(text + "\n")
    return 0


def options_from(words: Mapping[str, str | None]) -> Options:
    """What is stated on the command line. Raises CaptureError with the option's name."""

    def single(option: str, key: str) -> float | None:
        text = words.get(key)
        return None if text is None else numbers_of(option, text, count=1)[0]

    def several(option: str, key: str) -> tuple[float, ...]:
        text = words.get(key)
        return () if text is None else numbers_of(option, text)

    sweep, band = words.get("sweep"), words.get("band")
    low_high = None if band is None else numbers_of("--band", band, separator=":", count=2)
    opened, span = words.get("open"), words.get("span")
    part = None if span is None else numbers_of("--span", span, separator=":", count=2)
    return Options(
        kind=words.get("kind"),
        volts_per_full_scale=several("--volts-per-full-scale", "volts_per_full_scale"),
        probe=several("--probe", "probe"),
        rate_hz=single("--rate", "rate"),
        time_unit=words.get("time_unit"),
        load_ohm=single("--load", "load"),
        step_s=single("--step-s", "step_s"),
        sweep=None if sweep is None else Sweep(*numbers_of("--sweep", sweep, separator=":", count=3)),
        at_hz=several("--at", "at"),
        open_file=None if opened is None else Path(opened),
        band_hz=None if low_high is None else (low_high[0], low_high[1]),
        span_s=None if part is None else (part[0], part[1]),
    )


def as_table(analysis: Analysis) -> str:
    """The figures as lines for people."""
    lines = [f"Read as: {analysis.kind}; ± about 95 %"]
    for channel in analysis.channels:
        lines += ["", channel.name]
        for figure in channel.figures:
            value = (
                shown_with_spread(figure.value, figure.spread, figure.unit) if figure.spread else f"{figure.value:.9g}"
            )
            lines.append(f"  {figure.name:<28}{value:<26}{figure.definition}")
    if analysis.remarks:
        lines += ["", *analysis.remarks]
    return "\n".join(lines)
