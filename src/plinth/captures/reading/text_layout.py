"""How a text of numbers is laid out: its delimiter, its decimal sign, where its numbers begin."""

import re
from dataclasses import dataclass

from plinth.captures.capture import CaptureError

_SAMPLE_LINES = 400
_NO_NUMBER = {"", "nan", "+nan", "-nan", "inf", "+inf", "-inf", "infinity", "-infinity", "na", "n/a", "null", "none",
              "-", "--", "#n/a", "overflow", "ovl", "ol"}  # fmt: skip
_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$")


@dataclass(frozen=True)
class Layout:
    """``delimiter`` ("" stands for blanks); ``decimal`` "." or ","; ``paired``: comma is both, two fields a number."""

    delimiter: str
    decimal: str
    columns: int
    first: int
    paired: bool = False

    def fields(self, line: str) -> list[str]:
        """The fields of a line, numbers with a decimal point; trailing empty ones beyond the columns are left out."""
        if self.delimiter:
            parts = [part.strip().strip('"').strip() for part in _split(line, self.delimiter)]
        else:
            parts = [part.strip('"') for part in line.split()]
        if self.paired:
            if len(parts) % 2:
                return parts
            return [f"{whole}.{part}" for whole, part in zip(parts[::2], parts[1::2], strict=True)]
        if self.decimal == ",":
            parts = [part.replace(",", ".") for part in parts]
        while len(parts) > max(self.columns, 1) and not parts[-1]:
            parts.pop()
        return parts


def is_number(text: str) -> bool:
    """Whether ``text`` (decimal point) is a finite number as such files write it."""
    return _NUMBER.match(text) is not None


def is_cell(text: str) -> bool:
    """Whether ``text`` can stand in a table of numbers: a number, or what is written where there is none."""
    return is_number(text) or text.lower() in _NO_NUMBER


def layout_of(lines: list[str]) -> Layout:
    """The layout under which the lines are a table of numbers. Raises CaptureError where there is none."""
    sample = lines[:_SAMPLE_LINES]
    best: tuple[int, int, Layout] | None = None
    for rank, (delimiter, decimal) in enumerate(
        (("\t", "."), ("\t", ","), (";", "."), (";", ","), ("|", "."), ("|", ","), (",", "."), ("", "."), ("", ","))
    ):
        if delimiter and not any(delimiter in line for line in sample):
            continue
        layout = _table(sample, Layout(delimiter, decimal, 0, 0))
        if layout is None:
            continue
        numeric = sum(_is_row(layout, line) for line in sample[layout.first :])
        if best is None or numeric > best[0]:
            best = (numeric, rank, layout)
    if best is None:
        raise CaptureError("found no table of numbers in it, expected lines of numbers, a column a channel")
    layout = best[2]
    if layout.delimiter == "," and (paired := _paired(sample, layout)) is not None:
        return paired
    return layout


def _split(line: str, delimiter: str) -> list[str]:
    if '"' not in line:
        return line.split(delimiter)
    parts: list[str] = []
    inside, start = False, 0
    for index, letter in enumerate(line):
        if letter == '"':
            inside = not inside
        elif letter == delimiter and not inside:
            parts.append(line[start:index])
            start = index + 1
    parts.append(line[start:])
    # A comma inside quotes beside a comma between fields is the decimal sign.
    return [part.replace(",", ".") if delimiter == "," and '"' in part else part for part in parts]


def _is_row(layout: Layout, line: str) -> bool:
    parts = layout.fields(line)
    return (
        len(parts) == layout.columns and any(is_number(part) for part in parts) and all(is_cell(part) for part in parts)
    )


def _table(lines: list[str], layout: Layout) -> Layout | None:
    """The layout with its columns and first line: the count of numbers a line that most lines have."""
    counts: dict[int, int] = {}
    for line in lines:
        parts = layout.fields(line) if line.strip() else []
        while parts and not parts[-1]:
            parts.pop()
        if parts and all(is_cell(part) for part in parts) and any(is_number(part) for part in parts):
            counts[len(parts)] = counts.get(len(parts), 0) + 1
    if not counts:
        return None
    columns = max(counts, key=lambda count: (counts[count], count))
    found = Layout(layout.delimiter, layout.decimal, columns, 0)
    rows = [_is_row(found, line) for line in lines]
    for index, row in enumerate(rows):
        # A head may hold a line of numbers of its own (a rate, a count); the table is where they go on.
        if row and (all(rows[index : index + 3]) or sum(rows[index : index + 8]) >= 6):
            return Layout(layout.delimiter, layout.decimal, columns, index)
    return None


def _paired(lines: list[str], layout: Layout) -> Layout | None:
    """The comma as both decimal sign and delimiter, where head and fields say so; refused where it may be either."""
    rows = [layout.fields(line) for line in lines[layout.first :] if line.strip()]
    whole = all(re.fullmatch(r"[+-]?\d+", part) for parts in rows for part in parts if part)
    if not whole or layout.columns % 2 or layout.columns < 2:
        return None
    fractions = [parts[1::2] for parts in rows if len(parts) == layout.columns]
    unsigned = all(part and part[0].isdigit() for parts in fractions for part in parts)
    # Digits behind a decimal sign have one width a column, and zeros in front where the number is small.
    padded = any(len(part) > 1 and part[0] == "0" for parts in fractions for part in parts)
    names = [len(layout.fields(line)) for line in lines[: layout.first] if layout.fields(line)]
    named_half = bool(names) and names[-1] == layout.columns // 2
    if unsigned and (padded or named_half) and len({len(parts) for parts in rows}) == 1:
        first = layout.first
        return Layout(",", ",", layout.columns // 2, first, paired=True)
    if unsigned and padded:
        raise CaptureError(
            "found commas both between the numbers and inside them, and not as many in each line, expected one meaning "
            "of the comma: export with a point, or with semicolons between the columns"
        )
    return None
