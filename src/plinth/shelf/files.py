"""Parts written out and taken in: JSON with all that is known of them, or a CSV table of one line a part."""

import csv
import io
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from plinth.builds.fields import part_fields
from plinth.builds.files import BuildFileError, read_document, read_text
from plinth.builds.listed import LISTED
from plinth.builds.parts import PART_KINDS, Part
from plinth.builds.properties import value_at
from plinth.builds.stock import Stock
from plinth.shelf.item import ShelfItem

FORMAT = "plinth parts 1"
_STOCK = ("currency", "in_drawer", "ordered", "due", "supplier", "note")


def written_json(items: Sequence[ShelfItem]) -> dict[str, Any]:
    """All that is known of parts, as a document."""
    return {
        "format": FORMAT,
        "parts": [
            {
                "kind": type(item.part).__name__,
                "part": item.part.model_dump(mode="json", exclude_none=True),
                "stock": item.stock.model_dump(mode="json", exclude_defaults=True),
            }
            for item in items
        ],
    }


def written_csv(items: Sequence[ShelfItem]) -> str:
    """One line a part in SI units: its kind, its stock, then every plain property that any of them has."""
    paths = list(dict.fromkeys(field.path for item in items for field in part_fields(item.part) if _plain(field.path)))
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["kind", "price", *_STOCK, *paths])
    for item in items:
        own = {field.path for field in part_fields(item.part)}
        stock = item.stock.model_dump(mode="json")
        each = item.stock.each_at(1)
        values = [value_at(item.part, path) if path in own else None for path in paths]
        writer.writerow(
            [type(item.part).__name__, _cell(each), *(_cell(stock[name]) for name in _STOCK), *map(_cell, values)]
        )
    return out.getvalue()


def _plain(path: str) -> bool:
    return path not in LISTED


def _cell(value: object) -> object:
    if value is None:
        return ""
    text = str(value) if not isinstance(value, str) else value.replace("\0", "").replace("\r", " ")
    return f"'{text}" if text.startswith(("=", "+", "@", "\t")) else text


def read_items(path: Path) -> list[tuple[Part, Stock]]:
    """Parts of a file. Raises BuildFileError with a sentence for each thing that is wrong; then none is taken."""
    text = read_text(path)
    if path.suffix.lower() == ".csv":
        return _from_csv(text, str(path))
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BuildFileError([f"{path}: found broken JSON, expected parts written by Plinth"]) from error
    if (
        not isinstance(document, dict)
        or document.get("format") != FORMAT
        or not isinstance(document.get("parts"), list)
    ):
        raise BuildFileError([f"{path}: found no parts in it, expected a file with format {FORMAT!r}"])
    items, wrong = [], []
    for number, entry in enumerate(document["parts"], 1):
        try:
            items.append(_from_json(entry, f"{path}: part {number}"))
        except BuildFileError as error:
            wrong += error.sentences
    if wrong or not items:
        raise BuildFileError(wrong or [f"{path}: found no part, expected at least one"])
    return items


def _from_json(entry: object, where: str) -> tuple[Part, Stock]:
    if not isinstance(entry, dict) or entry.get("kind") not in PART_KINDS:
        kind = entry.get("kind") if isinstance(entry, dict) else entry
        raise BuildFileError([f"{where}: found kind {kind!r}, expected one of {', '.join(PART_KINDS)}"])
    part = read_document(PART_KINDS[entry["kind"]], json.dumps(entry.get("part")), where)
    return part, read_document(Stock, json.dumps(entry.get("stock") or {}), where)


def _from_csv(text: str, where: str) -> list[tuple[Part, Stock]]:
    rows = list(csv.DictReader(io.StringIO(text)))
    if not rows or "kind" not in rows[0] or "name" not in rows[0]:
        raise BuildFileError([f"{where}: found no columns kind and name, expected a table of parts written by Plinth"])
    items, wrong = [], []
    for number, row in enumerate(rows, 2):
        try:
            items.append(_from_row(row, f"{where}: line {number}"))
        except BuildFileError as error:
            wrong += error.sentences
    if wrong:
        raise BuildFileError(wrong)
    return items


def _from_row(row: dict[str, str | None], where: str) -> tuple[Part, Stock]:
    kind = PART_KINDS.get(row.get("kind") or "")
    if kind is None:
        raise BuildFileError([f"{where}: found kind {row.get('kind')!r}, expected one of {', '.join(PART_KINDS)}"])
    document: dict[str, Any] = {}
    for path, text in row.items():
        if path in ("kind", "price", *_STOCK) or path is None or not text:
            continue
        target = document
        *steps, last = path.split(".")
        for step in steps:
            target = target.setdefault(step, {})
        target[last] = text.removeprefix("'")
    stock: dict[str, Any] = {name: row[name] for name in _STOCK if row.get(name)}
    if row.get("price"):
        stock["prices"] = [{"each": row["price"]}]
    return read_document(kind, json.dumps(document), where), read_document(Stock, json.dumps(stock), where)
