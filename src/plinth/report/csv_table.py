"""Tables as CSV, and readings among them: SI values, one line a row."""

import csv
import io
from collections.abc import Callable, Iterable, Mapping, Sequence

from plinth.record.reading import Reading
from plinth.report.reading_words import sentence_of

COLUMNS = (
    "taken_at", "subject", "label", "typed", "value", "unit", "u", "bound", "low", "high", "state", "instrument",
    "giver", "instrument_id", "capture", "conditions", "facts", "sentence", "counts",
)  # fmt: skip
# A spreadsheet takes a cell that begins so for a formula, and runs it.
_FORMULA = ("=", "+", "-", "@", "\t")


def csv_text(rows: Iterable[Sequence[object]]) -> str:
    """Rows as CSV text. None is an empty cell; a text that a spreadsheet would run has an apostrophe before it."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    for row in rows:
        writer.writerow([_cell(value) for value in row])
    return out.getvalue()


def _cell(value: object) -> object:
    if value is None:
        return ""
    if not isinstance(value, str):
        return value
    plain = value.replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")
    return f"'{plain}" if plain.startswith(_FORMULA) else plain


def readings_csv(readings: Sequence[Reading], why_not: Callable[[Reading], str] = lambda _reading: "") -> str:
    """All readings with a head line; unknown uncertainties and open window sides are empty cells.

    ``why_not`` why one does not count any more; empty where it does.
    """
    rows: list[Sequence[object]] = [COLUMNS]
    for r in readings:
        cells = {column: getattr(r, column, None) for column in COLUMNS} | {
            "taken_at": r.taken_at.isoformat(),
            "bound": str(r.bound),
            "giver": str(r.origin.giver),
            "instrument_id": r.origin.instrument_id,
            "capture": r.origin.capture,
            "conditions": _named(r.conditions or {}),
            "facts": _named(r.facts),
            "sentence": sentence_of(r),
            "counts": why_not(r) or "yes",
        }
        rows.append(list(cells.values()))
    return csv_text(rows)


def _named(values: Mapping[str, float | str]) -> str:
    return "; ".join(f"{name} {value}" for name, value in values.items())
