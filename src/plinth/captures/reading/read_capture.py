"""Any recorded file as a capture, told apart by its content; then the scales that are stated beside it."""

from dataclasses import replace
from pathlib import Path

import numpy as np

from plinth.captures.capture import (
    FULL_SCALE,
    LARGEST_BYTES,
    LARGEST_IN_PARTS,
    LEAST_ROWS,
    VOLTS,
    Capture,
    CaptureError,
    Channel,
    refuse_scale,
)
from plinth.captures.options import Options
from plinth.captures.reading import array_file
from plinth.captures.reading.text_file import capture_of_text, read_text

_ENDS = 3


def read_capture(path: Path, options: Options) -> Capture:
    """What ``path`` holds, scaled as stated. Raises CaptureError with one sentence where it is refused."""
    try:
        if _is_large_sound(path):
            return _finished(_part_of_sound(path, options), options)
        # Not held here: a long text is as large as its numbers, and need not stand beside them.
        return _finished(_decoded(file_bytes(path), path.name, options), options)
    except CaptureError as error:
        raise CaptureError(f"{path}: {error}") from error


def _is_large_sound(path: Path) -> bool:
    from plinth.captures.reading import audio_file

    try:
        if not path.is_file() or path.stat().st_size <= LARGEST_BYTES:
            return False
        with path.open("rb") as file:
            return audio_file.is_audio(file.read(4))
    except OSError:
        return False


def _part_of_sound(path: Path, options: Options) -> Capture:
    """The part that is stated of a sound file too large to be read whole. Raises CaptureError where none is."""
    from plinth.captures.reading import audio_file

    size = path.stat().st_size
    if options.span_s is None or size > LARGEST_IN_PARTS:
        limit = LARGEST_IN_PARTS if options.span_s else LARGEST_BYTES
        raise CaptureError(
            f"found {size / 1e6:.0f} MB, expected {limit / 1e6:.0f} MB at most: give --span for a part of it"
        )
    return audio_file.read_part(path, options.span_s)


def file_bytes(path: Path) -> bytes:
    """The bytes of a recorded file. Raises CaptureError where there is none, or it is too large."""
    try:
        size = path.stat().st_size
        if not path.is_file():
            raise CaptureError("found no plain file, expected one")
        if size > LARGEST_BYTES:
            raise CaptureError(
                f"found {size / 1e6:.0f} MB, expected {LARGEST_BYTES / 1e6:.0f} MB at most: cut it first"
            )  # fmt: skip
        return path.read_bytes()
    except OSError as error:
        raise CaptureError(f"found no readable file ({error.strerror or error}), expected one") from error


def read_content(data: bytes, name: str, options: Options) -> Capture:
    """What the bytes of a file of that name hold, scaled as stated. Raises CaptureError where they are refused."""
    return _finished(_decoded(data, name, options), options)


def _finished(decoded: Capture, options: Options) -> Capture:
    capture = scaled(decoded, options)
    refuse_scale(capture)
    return capture.with_remarks(*(remark for channel in capture.channels for remark in _said_of(channel)))


def _decoded(data: bytes, name: str, options: Options) -> Capture:
    if not data:
        raise CaptureError("found an empty file, expected samples")
    if data.startswith(array_file.MAGIC):
        return part_of(array_file.read_array(data, name, options), options)
    from plinth.captures.reading import audio_file

    if audio_file.is_audio(data[:4]):
        capture = audio_file.read_audio(data, name, options.span_s)
        if options.rate_hz is not None and abs(options.rate_hz / capture.sample_rate_hz - 1.0) > 1e-9:
            return Capture(
                name, capture.channels, options.rate_hz,
                (*capture.remarks, (f"Its head says {capture.sample_rate_hz:g} samples a second; "
                                   f"{options.rate_hz:g} are taken, as stated.")),
            )  # fmt: skip
        return capture
    text = read_text(data)
    del data
    return part_of(capture_of_text(text, name, options), options)


def part_of(capture: Capture, options: Options) -> Capture:
    """The part of a capture that is asked for; all of it where none is. Raises CaptureError where it holds nothing."""
    if options.span_s is None:
        return capture
    rate = capture.sample_rate_hz
    start, stop = (round(min(edge, capture.seconds) * rate) for edge in options.span_s)
    if stop - start < LEAST_ROWS:
        raise CaptureError(
            f"--span: found {stop - start} samples from {options.span_s[0]:g} to {options.span_s[1]:g} s of "
            f"{capture.seconds:.6g} s, expected at least {LEAST_ROWS}"
        )
    channels = tuple(
        replace(
            channel, samples=channel.samples[start:stop],
            missing=channel.missing if channel.gaps is None else int(np.count_nonzero(channel.gaps[start:stop])),
            gaps=None if channel.gaps is None else channel.gaps[start:stop],
        )
        for channel in capture.channels
    )  # fmt: skip
    words = f"Figures are drawn from {start / rate:.6g} to {stop / rate:.6g} s of {capture.seconds:.6g} s."
    return replace(capture, channels=channels, rows_read=None, remarks=(*capture.remarks, words))


def scaled(capture: Capture, options: Options) -> Capture:
    """Each channel in the volts (or amperes) that are stated, times its probe. Raises CaptureError on other counts."""
    count = len(capture.channels)
    channels = list(capture.channels)
    for option, values in (("--volts-per-full-scale", options.volts_per_full_scale), ("--probe", options.probe)):
        if not values:
            continue
        if len(values) not in (1, count):
            raise CaptureError(f"{option}: found {len(values)} values for {count} channels, expected 1 or {count}")
        each = values * count if len(values) == 1 else values
        for index, factor in enumerate(each):
            channel = channels[index]
            becomes = VOLTS if option == "--volts-per-full-scale" and channel.unit == FULL_SCALE else None
            channels[index] = channel.scaled(factor, becomes)
    return replace(capture, channels=tuple(channels))


def _said_of(channel: Channel) -> list[str]:
    remarks = []
    if channel.missing:
        remarks.append(f"{channel.name}: {channel.missing} cells were no number; a straight line bridges them.")
    cut = _flat_at_the_ends(channel)
    if cut:
        remarks.append(
            f"{channel.name}: {cut} samples stand at the end of the recorder's scale: it was overdriven, and every "
            "figure holds for what it recorded only."
        )
    return remarks


def _flat_at_the_ends(channel: Channel) -> int:
    """Samples in runs at full scale, where the file has one."""
    if channel.ends_at is None:
        return 0
    at_end = np.abs(channel.samples) >= channel.ends_at - 1.5 * channel.step
    if np.count_nonzero(at_end) < _ENDS:
        return 0
    runs = np.convolve(at_end.astype(np.int8), np.ones(_ENDS, np.int8), "valid") == _ENDS
    return int(np.count_nonzero(at_end)) if runs.any() else 0
