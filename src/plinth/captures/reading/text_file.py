"""A text of numbers, as a scope or a spreadsheet writes it, as a capture."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import AMPERES, LEAST_ROWS, VOLTS, Capture, CaptureError, Channel
from plinth.captures.options import TIME_UNITS, Options
from plinth.captures.reading.gaps import bridged
from plinth.captures.reading.text_head import ColumnHead, column_heads, stated_rate_hz
from plinth.captures.reading.text_layout import Layout, layout_of
from plinth.captures.reading.text_numbers import Table, read_table
from plinth.captures.reading.time_column import TimeBase, looks_like_times, rows_of_nothing, time_base

_HEAD_BYTES = 200_000
_MOST_COLUMNS = 64


@dataclass(frozen=True)
class Text:
    """A text of numbers taken apart: its layout, what its head says, its table."""

    layout: Layout
    heads: list[ColumnHead]
    head_lines: list[str]
    table: Table
    remarks: list[str]


def read_text(data: bytes) -> Text:
    """The table in ``data`` (any common encoding). Raises CaptureError where there is none."""
    data, remarks = _as_utf8(data)
    lines = data[:_HEAD_BYTES].decode("utf-8", "replace").replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if len(data) > _HEAD_BYTES:
        lines.pop()
    if b"\r" in data[:_HEAD_BYTES] and b"\n" not in data[:_HEAD_BYTES]:
        data = data.replace(b"\r", b"\n")
    commented = [line.lstrip("#").strip() if line.startswith("#") else line for line in lines]
    layout = layout_of(commented)
    if layout.columns > _MOST_COLUMNS:
        raise CaptureError(f"found {layout.columns} columns, expected {_MOST_COLUMNS} at most, one a channel")
    head_lines = [line for line in commented[: layout.first] if line.strip()]
    heads = column_heads([layout.fields(line) for line in head_lines], layout.columns)
    start = 0
    for _ in range(layout.first):
        start = data.find(b"\n", start) + 1
    return Text(layout, heads, head_lines, read_table(data, start, layout, layout.first + 1), remarks)


def _as_utf8(data: bytes) -> tuple[bytes, list[str]]:
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            try:
                return (data[3:] if encoding == "utf-8-sig" else data.decode(encoding).encode()), []
            except UnicodeDecodeError as error:
                raise CaptureError(f"found a text that breaks off ({error.reason}), expected a whole one") from error
    head = data[:4096]
    zeros = head.count(0)
    if zeros > 0.3 * len(head) and zeros < 0.6 * len(head):
        try:
            return data.decode("utf-16-le" if head[1:2] == b"\0" else "utf-16-be").encode(), []
        except UnicodeDecodeError:
            pass
    if zeros or sum(byte < 32 and byte not in (9, 10, 12, 13, 26) for byte in head) > 0.02 * len(head):
        raise CaptureError("found neither text nor sound, expected CSV, WAV, FLAC, AIFF or a NumPy array (.npy)")
    return data.rstrip(b"\x1a"), []


def capture_of_text(text: Text, name: str, options: Options) -> Capture:
    """The columns as channels. Raises CaptureError where they cannot be."""
    layout, heads, head_lines, table, remarks = (text.layout, text.heads, text.head_lines, text.table, [*text.remarks])
    columns, rows = table.columns, len(table.columns[0]) if table.columns else 0
    if rows < LEAST_ROWS:
        raise CaptureError(f"found {rows} rows of numbers, expected at least {LEAST_ROWS}")
    if table.broken_count:
        shown = "; ".join(table.broken[:3])
        more = f"; {table.broken_count - 3} more" if table.broken_count > 3 else ""
        remarks.append(f"Not a row of numbers: {shown}{more}.")
    first_line = layout.first + 1
    time, dropped = _time_at(columns, heads, options)
    nothing = rows_of_nothing(columns[time]) if time is not None else ()
    if len(nothing):
        columns = [np.delete(column, nothing) for column in columns]
        rows -= len(nothing)
    base, rate_hz = _rate(
        columns, heads, head_lines=head_lines, time=time, first_line=first_line, options=options, remarks=remarks
    )
    start, stop = (0, rows) if base is None else (base.start, base.stop)
    channels: list[Channel] = []
    for index, (values, head) in enumerate(zip(columns, heads, strict=True)):
        if index in dropped:
            continue
        part = values[start:stop]
        if base is not None and base.uneven and time is not None:
            part = _even(columns[time][start:stop], part)
        sound = np.isfinite(part)
        if sound.sum() < max(LEAST_ROWS, 0.5 * len(part)):
            if not sound.any():
                continue
            raise CaptureError(
                f"column {index + 1}: found {int((~sound).sum())} of {len(part)} cells that are no number, "
                "expected fewer than half: export it anew"
            )
        filled = bridged(part)
        factor = head.factor if head.factor is not None and head.base in (VOLTS, AMPERES) else 1.0
        unit = head.base if head.base in (VOLTS, AMPERES) and head.base is not None else VOLTS
        label = head.name or f"ch{len(channels) + 1}"
        channels.append(
            Channel(
                label, filled * factor, unit, step=_step_of(part) * factor,
                missing=int((~np.isfinite(values)).sum()) + len(nothing),
                gaps=None if sound.all() else ~sound, unit_stated=head.base in (VOLTS, AMPERES),
            )
        )  # fmt: skip
    if not channels:
        raise CaptureError("found no column of readings beside the times, expected one a channel")
    if any(not channel.unit_stated for channel in channels) and not options.volts_per_full_scale:
        remarks.append("The head names no unit: its numbers are taken as volts.")
    used = stop - start
    return Capture(
        name, tuple(channels), rate_hz, tuple(remarks), u_rate=0.0 if base is None else base.u_share,
        rows_read=None if used == rows else rows,
    )  # fmt: skip


def _time_at(
    columns: list[NDArray[np.float64]], heads: list[ColumnHead], options: Options
) -> tuple[int | None, set[int]]:
    """Which column holds times, and which columns are no channels."""
    dropped = {index for index, head in enumerate(heads) if head.is_count and looks_like_times(columns[index])}
    for index, head in enumerate(heads):
        if head.is_time and index not in dropped:
            return index, dropped | {index}
    first = next((index for index in range(len(columns)) if index not in dropped), None)
    stated = first is not None and heads[first].base is not None
    if first is not None and not stated and len(columns) - len(dropped) > 1 and looks_like_times(columns[first]):
        values = columns[first]
        counts = bool(np.array_equal(values, np.arange(len(values)) + values[0])) and options.time_unit is None
        return (None if counts else first), dropped | {first}
    if first is None:
        dropped = set()
    return None, dropped


def _rate(
    columns: list[NDArray[np.float64]], heads: list[ColumnHead], head_lines: list[str], time: int | None,
    first_line: int, options: Options, remarks: list[str],
) -> tuple[TimeBase | None, float]:  # fmt: skip
    base = None
    if time is not None:
        unit = heads[time].factor if heads[time].base == "s" else None
        if options.time_unit is not None:
            unit = TIME_UNITS[options.time_unit]
        base = time_base(columns[time], first_line)
        if base is None and options.rate_hz is None:
            raise CaptureError(
                f"column {time + 1}: found times that do not rise, expected each later than the one before: "
                "give the rate (--rate)"
            )
        if base is not None:
            remarks += base.remarks
            rate_hz = 1.0 / (base.step_s * (1.0 if unit is None else unit))
            if options.rate_hz is not None:
                if abs(options.rate_hz / rate_hz - 1.0) > 1e-3:
                    remarks.append(
                        f"The times say {rate_hz:.6g} samples a second; {options.rate_hz:.6g} are taken, as stated."
                    )
                return base, options.rate_hz
            if unit is None:
                remarks.append("The head names no unit of time: seconds are taken.")
            return base, rate_hz
    stated = options.rate_hz or stated_rate_hz(head_lines)
    if stated is None:
        raise CaptureError("found neither times nor a rate in it, expected one: give the samples a second (--rate)")
    return base, stated


def _even(times: NDArray[np.float64], values: NDArray[np.float64]) -> NDArray[np.float64]:
    order = np.argsort(times, kind="stable")
    even = np.linspace(times[order[0]], times[order[-1]], len(times))
    return np.interp(even, times[order], values[order])


def _step_of(values: NDArray[np.float64]) -> float:
    """The smallest difference of two values, where they lie on steps."""
    sample = values[np.isfinite(values)][:20000]
    levels = np.unique(sample)
    if len(levels) < 2 or len(levels) > 0.7 * len(sample):
        return 0.0
    gaps = np.diff(levels)
    gaps = gaps[gaps > 1e-7 * (levels[-1] - levels[0])]
    return float(gaps.min()) if len(gaps) else 0.0
