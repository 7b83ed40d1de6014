"""A capture as a file: WAV that carries its own scale, or a table; a sweep to be played."""

import io
import math
import re
from dataclasses import dataclass

import numpy as np

from plinth.captures.capture import FULL_SCALE, Capture, CaptureError
from plinth.captures.options import Sweep
from plinth.captures.signal.sweep_shape import sweep_wave

# A table of more lines than this nobody opens.
MOST_TABLE_ROWS = 2_000_000
_LARGEST_WAV_BYTES = 2_000_000_000
_COMMENT = re.compile(r"Plinth: rate (?P<rate>\S+); full scale (?P<scales>.+)")
_BEFORE_S, _AFTER_S = 0.5, 1.0
_MOST_SWEEP_S = 120.0
# As often as can be told apart again; as long as can be averaged again (``kinds.sweep``).
_MOST_TIMES, _MOST_PLAYED_ROWS = 32, 11_000_000


@dataclass(frozen=True)
class WrittenScale:
    """What a WAV of Plinth's says of itself: its true rate, and of each channel what full scale is, and its unit."""

    rate_hz: float
    channels: tuple[tuple[float, str], ...]


def wav_bytes(capture: Capture) -> bytes:
    """A WAV (32 bit float) whose comment carries rate and scale. Raises CaptureError where it would be too large."""
    import soundfile

    if 4 * capture.rows * len(capture.channels) > _LARGEST_WAV_BYTES:
        raise CaptureError("found more than a WAV can hold, expected less than 2 GB: write a part of it")
    scales = [_full_scale(channel.samples, channel.unit) for channel in capture.channels]
    data = np.stack(
        [channel.samples / scale for channel, scale in zip(capture.channels, scales, strict=True)], axis=1
    ).astype(np.float32)
    told = ", ".join(
        f"{scale:.9g} {channel.unit}" for channel, scale in zip(capture.channels, scales, strict=True)
    )  # fmt: skip
    held = io.BytesIO()
    with soundfile.SoundFile(
        held, "w", max(1, round(capture.sample_rate_hz)), len(capture.channels), "FLOAT", format="WAV"
    ) as sound:
        sound.comment = f"Plinth: rate {capture.sample_rate_hz:.12g}; full scale {told}"
        sound.write(data)
    return held.getvalue()


def _full_scale(samples: np.ndarray, unit: str) -> float:
    """1, 2 or 5 times a power of ten that holds all of it; 1 where full scale is all that is known."""
    top = float(np.max(np.abs(samples)))
    if unit == FULL_SCALE or top <= 0.0:
        return 1.0
    power = 10.0 ** math.floor(math.log10(top))
    return next(step * power for step in (1.0, 2.0, 5.0, 10.0) if step * power >= top)


def written_scale(comment: str) -> WrittenScale | None:
    """What the comment of a WAV of Plinth's says; None where it is another's."""
    match = _COMMENT.fullmatch(comment.strip())
    if match is None:
        return None
    try:
        pairs = [part.split() for part in match["scales"].split(",")]
        return WrittenScale(float(match["rate"]), tuple((float(scale), unit) for scale, unit in pairs))
    except ValueError:
        return None


def table_bytes(capture: Capture) -> bytes:
    """Times in seconds and each channel, with a head. Raises CaptureError where it is longer than anybody opens."""
    if capture.rows > MOST_TABLE_ROWS:
        raise CaptureError(
            f"found {capture.rows / 1e6:.1f} million samples, expected {MOST_TABLE_ROWS / 1e6:.0f} million lines at "
            "most: write a part of it, or a WAV"
        )
    held = io.BytesIO()
    head = ",".join(["time [s]", *(f"{channel.name} [{channel.unit}]" for channel in capture.channels)])
    times = np.arange(capture.rows) / capture.sample_rate_hz
    columns = np.stack([times, *(channel.samples for channel in capture.channels)], axis=1)
    np.savetxt(held, columns, fmt="%.9g", delimiter=",", header=head, comments="")
    return held.getvalue()


def sweep_bytes(sweep: Sweep, rate_hz: int, level: float = 0.5, times: int = 1) -> bytes:
    """An exponential sweep as a WAV (24 bit), played ``times`` times: silence of 0.5 s first, of 1 s after each.

    It ends where it ends: a fade would be taken for the amplifier's. ``level`` its peak as a share of full scale.
    Raises CaptureError for what cannot be played.
    """
    import soundfile

    if not 0.0 < level <= 1.0:
        raise CaptureError(f"found a level of {level:g}, expected above 0 and at most 1 of full scale")
    if not 8000 <= rate_hz <= 768_000:
        raise CaptureError(f"found {rate_hz} samples a second, expected 8000 to 768000")
    if sweep.f2_hz > 0.5 * rate_hz:
        raise CaptureError(f"found {sweep.f2_hz:g} Hz at {rate_hz} samples a second, expected at most half of that")
    if not 0.1 <= sweep.seconds <= _MOST_SWEEP_S:
        raise CaptureError(f"found a sweep of {sweep.seconds:g} s, expected 0.1 to {_MOST_SWEEP_S:g}")
    if not 1 <= times <= _MOST_TIMES:
        raise CaptureError(f"found {times} times, expected 1 to {_MOST_TIMES}")
    if times * (sweep.seconds + _AFTER_S) * rate_hz > _MOST_PLAYED_ROWS:
        raise CaptureError(
            f"found {times * (sweep.seconds + _AFTER_S):.4g} s at {rate_hz} samples a second, expected at most "
            f"{_MOST_PLAYED_ROWS / rate_hz:.4g} s: fewer times, or a shorter sweep"
        )
    wave = sweep_wave(sweep.f1_hz, sweep.f2_hz, sweep.seconds, float(rate_hz))
    before, after = np.zeros(round(_BEFORE_S * rate_hz)), np.zeros(round(_AFTER_S * rate_hz))
    held = io.BytesIO()
    played = np.concatenate((before, *((wave, after) * times)))
    soundfile.write(held, level * played, rate_hz, "PCM_24", format="WAV")
    return held.getvalue()
