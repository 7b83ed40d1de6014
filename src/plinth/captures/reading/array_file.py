"""A NumPy array (.npy): one channel, or a channel each row or column; with times where its first column rises."""

import io
from tokenize import TokenError

import numpy as np

from plinth.captures.capture import FULL_SCALE, LEAST_ROWS, MOST_SAMPLES, Capture, CaptureError, Channel
from plinth.captures.options import TIME_UNITS, Options
from plinth.captures.reading.gaps import bridged
from plinth.captures.reading.time_column import looks_like_times, time_base

MAGIC = b"\x93NUMPY"
_MOST_CHANNELS = 64


def read_array(data: bytes, name: str, options: Options) -> Capture:
    """The capture in ``data``. Raises CaptureError where it is no array of plain numbers, or its rate is not known."""
    try:
        array = np.load(io.BytesIO(data), allow_pickle=False)
    except (ValueError, EOFError, OSError, MemoryError, SyntaxError, TypeError, OverflowError, TokenError) as error:
        raise CaptureError(f"found an array that cannot be read ({error}), expected plain numbers") from error
    names: list[str] = []
    if array.dtype.names:
        names = list(array.dtype.names)
        try:
            array = np.stack([np.asarray(array[field], dtype=np.float64).ravel() for field in names], axis=1)
        except (TypeError, ValueError) as error:
            raise CaptureError(f"found fields that are no numbers ({error}), expected one a channel") from error
    if array.dtype.kind not in "iufb" or array.ndim not in (1, 2):
        raise CaptureError(
            f"found an array of {array.dtype} in {array.ndim} dimensions, expected real numbers in one or two"
        )
    whole = float(np.iinfo(array.dtype).max) + 1.0 if array.dtype.kind == "i" else 0.0
    table = np.asarray(array, dtype=np.float64)
    if whole:
        table = table / whole
    table = table[:, None] if table.ndim == 1 else table
    if table.shape[0] < table.shape[1]:
        table = table.T
    if table.size > MOST_SAMPLES:
        raise CaptureError(
            f"found {table.size / 1e6:.0f} million samples, expected {MOST_SAMPLES / 1e6:.0f} million at most: "
            "cut it first"
        )
    if table.shape[0] < LEAST_ROWS or not 1 <= table.shape[1] <= _MOST_CHANNELS:
        raise CaptureError(
            f"found {table.shape[0]} rows of {table.shape[1]} channels, expected at least {LEAST_ROWS} rows"
        )
    remarks: list[str] = []
    rate_hz = options.rate_hz
    first = 0
    if not whole and table.shape[1] > 1 and looks_like_times(table[:, 0]):
        base = time_base(table[:, 0], 0)
        if base is not None:
            remarks += base.remarks
            table, first = table[base.start : base.stop], 1
            if rate_hz is None:
                rate_hz = 1.0 / (base.step_s * TIME_UNITS[options.time_unit or "s"])
    if rate_hz is None:
        raise CaptureError("found no rate in it (an array has none), expected the samples a second: give --rate")
    names = names[first:] if names else [f"ch{k + 1}" for k in range(table.shape[1] - first)]
    channels = []
    for index, label in zip(range(first, table.shape[1]), names, strict=True):
        values = np.ascontiguousarray(table[:, index])
        sound = np.isfinite(values)
        if sound.sum() < max(LEAST_ROWS, 0.5 * len(values)):
            raise CaptureError(f"channel {label}: found mostly what is no number, expected samples")
        channels.append(
            Channel(
                label, bridged(np.where(sound, values, np.nan)), FULL_SCALE, step=1.0 / whole if whole else 0.0,
                missing=int((~sound).sum()), gaps=None if sound.all() else ~sound, ends_at=1.0 if whole else None,
            )
        )  # fmt: skip
    return Capture(name, tuple(channels), rate_hz, tuple(remarks))
