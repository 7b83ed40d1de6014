"""The numbers of a long text, a block of lines at a time: the quick way, and cell by cell where that finds a fault."""

import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinth.captures.capture import CaptureError
from plinth.captures.reading.text_layout import Layout, is_number

_BLOCK_BYTES = 8_000_000
_SHOWN = 20
_MOST_BROKEN, _NEARLY_ALL = 200_000, 0.9


@dataclass(frozen=True)
class Table:
    """Values by column (not a number where a cell was none), and the first cells that were none, in words."""

    columns: list[NDArray[np.float64]]
    broken: tuple[str, ...]
    broken_count: int


def read_table(data: bytes, start: int, layout: Layout, first_line: int) -> Table:
    """The table in ``data`` from byte ``start`` on, whose first line has the number ``first_line`` in the file."""
    # Room for every line at once: joined later, a long file would stand in memory twice.
    columns = [np.empty(data.count(b"\n", start) + 1) for _ in range(layout.columns)]
    broken: list[str] = []
    count, line, filled = 0, first_line, 0
    while start < len(data):
        end = start + _BLOCK_BYTES
        end = len(data) if end >= len(data) else data.find(b"\n", end) + 1 or len(data)
        block = data[start:end]
        values = None if layout.paired else _quickly(block, layout)
        if values is None:
            values, words, faults = _by_cell(block.decode("utf-8", "replace"), layout, line)
            broken += words[: _SHOWN - len(broken)]
            count += faults
            if count > _MOST_BROKEN and np.isnan(values).all(axis=1).mean() > _NEARLY_ALL:
                raise CaptureError(
                    f"found {count} lines that are no numbers up to line {line}, expected a table: export it anew"
                )
        for index, column in enumerate(columns):
            column[filled : filled + len(values)] = values[:, index]
        filled += len(values)
        line += block.count(b"\n")
        start = end
    return Table([column[:filled] for column in columns], tuple(broken), count)


def _quickly(block: bytes, layout: Layout) -> NDArray[np.float64] | None:
    """All rows at once, or None where any line is not just as many numbers as there are columns."""
    if b'"' in block or b"#" in block:
        return None
    if not block.endswith(b"\n"):
        block += b"\n"
    if b"\r" in block:
        block = block.replace(b"\r\n", b"\n")
        if b"\r" in block:
            return None
    rows = block.count(b"\n")
    if layout.delimiter:
        letters = np.frombuffer(block, np.uint8)
        ends = np.flatnonzero(letters == ord("\n"))
        marks = np.searchsorted(np.flatnonzero(letters == ord(layout.delimiter)), ends)
        if not np.array_equal(np.diff(marks, prepend=0), np.full(rows, layout.columns - 1)):
            return None
    if layout.decimal == ",":
        block = block.replace(b",", b".")
    if layout.delimiter:
        block = block.replace(layout.delimiter.encode(), b" ")
    with warnings.catch_warnings():
        # What could not be read to its end comes back short, and is seen by its count.
        warnings.simplefilter("ignore", DeprecationWarning)
        try:
            values = np.fromstring(block.decode("ascii"), dtype=np.float64, sep=" ")
        except (UnicodeDecodeError, ValueError):
            return None
    if values.size != rows * layout.columns or not np.isfinite(values).all():
        return None
    return values.reshape(rows, layout.columns)


def _by_cell(block: str, layout: Layout, first_line: int) -> tuple[NDArray[np.float64], list[str], int]:
    rows: list[list[float]] = []
    words: list[str] = []
    faults = 0
    columns = layout.columns
    for number, line in enumerate(block.split("\n"), first_line):
        text = line.strip()
        if not text or text.startswith("#"):
            continue
        parts = layout.fields(line)
        row = [float(part) if is_number(part) else np.nan for part in parts[:columns]]
        row += [np.nan] * (columns - len(row))
        if len(parts) != columns:
            faults += 1
            if len(words) < _SHOWN:
                words.append(f"line {number}: {len(parts)} values, expected {columns}")
        elif any(value != value for value in row):
            for column, value in enumerate(row):
                if value != value:
                    faults += 1
                    if len(words) < _SHOWN:
                        words.append(f"line {number}, column {column + 1}: {parts[column][:20]!r} is no number")
        rows.append(row)
    table = np.array(rows) if rows else np.empty((0, columns))
    return np.where(np.isfinite(table), table, np.nan), words, faults
