"""Readings as CSV: SI values, one line a reading."""

import csv
import io
from collections.abc import Sequence

from plinth.record.reading import Reading

COLUMNS = (
    "taken_at", "subject", "label", "typed", "value", "unit", "u", "low", "high", "state", "instrument", "simulated",
    "sentence",
)  # fmt: skip


def readings_csv(readings: Sequence[Reading]) -> str:
    """All readings with a head line; unknown uncertainties and open window sides are empty cells."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for r in readings:
        cells = [getattr(r, column) for column in COLUMNS]
        cells[0] = r.taken_at.isoformat()
        writer.writerow(["" if cell is None else cell for cell in cells])
    return out.getvalue()
