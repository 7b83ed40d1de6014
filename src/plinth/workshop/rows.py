"""How many rows each table has, and a sum over their seals: a row that goes missing, or another's number, is noticed.

Each row gives a number of 128 bits (BLAKE2b over table, key and seal); they are added up modulo 2^128, so that a row
that is added, changed or taken away alters the sum by its own number only. Both stand in a setting of their own.
"""

import hashlib
import json
import sqlite3
from collections.abc import Sequence
from typing import Any, Protocol

from plinth.workshop import seals
from plinth.workshop.schema import tables

ROWS = "rows"
COUNTED_SINCE = 6
_WORDS = {
    "builds": ("build", "builds"), "versions": ("version of a build", "versions of builds"),
    "parts": ("part on the shelf", "parts on the shelf"), "papers": ("paper", "papers"),
    "photos": ("photo", "photos"), "captures": ("capture", "captures"), "settings": ("setting", "settings"),
}  # fmt: skip
_MODULUS = 1 << 128
_OWN = (seals.CHAIN, ROWS)


class _Runs(Protocol):
    """A connection of SQLAlchemy: runs a statement of its driver's own."""

    def exec_driver_sql(self, statement: str, parameters: Any = ..., /) -> Any: ...


def _number(table: str, key: object, seal: object) -> int:
    named = f"{table}/{_plain(key)}/{_plain(seal)}"
    return int.from_bytes(hashlib.blake2b(named.encode("utf-8", "surrogatepass"), digest_size=16).digest())


def _plain(value: object) -> str:
    return value.decode("utf-8", "replace") if isinstance(value, bytes) else str(value)


def counted(rows: Sequence[Sequence[object]], table: str) -> list[Any]:
    """How many rows (key and seal) a table has, the sum over their keys, and that over keys and seals."""
    mine = [row for row in rows if table != "settings" or _plain(row[0]) not in _OWN]
    keys = sum(_number(table, key, "") for key, _ in mine) % _MODULUS
    both = sum(_number(table, key, seal) for key, seal in mine) % _MODULUS
    return [len(mine), f"{keys:032x}", f"{both:032x}"]


def count_all(connection: _Runs) -> None:
    """Write down how many rows there are, of a file that never did."""
    counts = {}
    present = _present(connection)
    for table, (key, _) in seals.TEXTS.items():
        # Tables that a later version adds count their own.
        if table not in present:
            continue
        rows = connection.exec_driver_sql(f"SELECT {key}, seal FROM {table}").fetchall()  # noqa: S608
        counts[table] = counted(rows, table)
    _write(connection, counts)


def count_new(connection: _Runs, table: str) -> None:
    """Write down that a table that was just added has no rows."""
    text = connection.exec_driver_sql("SELECT value FROM settings WHERE key = ?", (ROWS,)).scalar()
    counts = {} if text is None else json.loads(text)
    _write(connection, {**counts, table: counted([], table)})


def _present(connection: _Runs) -> set[str]:
    rows = connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
    return {name for (name,) in rows}


def row_changed(connection: _Runs, table: str, key: object, before: str | None, after: str | None) -> None:
    """A row was added (``before`` None), sealed anew, or taken away (``after`` None)."""
    text = connection.exec_driver_sql("SELECT value FROM settings WHERE key = ?", (ROWS,)).scalar()
    if text is None:
        count_all(connection)
        return
    counts = json.loads(text)
    count, keys, both = counts[table][0], int(counts[table][1], 16), int(counts[table][2], 16)
    for seal, sign in ((before, -1), (after, 1)):
        if seal is not None:
            count += sign
            keys += sign * _number(table, key, "")
            both += sign * _number(table, key, seal)
    counts[table] = [count, f"{keys % _MODULUS:032x}", f"{both % _MODULUS:032x}"]
    _write(connection, counts)


def _write(connection: _Runs, counts: dict[str, Any]) -> None:
    connection.exec_driver_sql(
        "INSERT INTO settings (key, value, seal) VALUES (?, ?, '') "
        "ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (ROWS, json.dumps(counts)),
    )


def missing_rows(connection: sqlite3.Connection) -> list[str]:
    """What is not there any more, or under another number, in words."""
    kept = _kept(connection)
    if kept is None:
        return ["what it says of how many rows it has is not as it was written"]
    missing = []
    for table, (count, keys, _) in kept.items():
        here = _here(connection, table)
        singular, plural = _WORDS[table]
        if here[0] < count:
            lost = count - here[0]
            missing.append(f"{lost} {singular if lost == 1 else plural} {'is' if lost == 1 else 'are'} missing")
        elif here[0] > count:
            missing.append(f"it has {plural} that were not written by Plinth")
        elif here[1] != keys:
            missing.append(f"the number of one of its {plural} is not as it was written")
    return missing


def resealed_rows(connection: sqlite3.Connection) -> list[str]:
    """Of what all rows are there, but not as Plinth sealed them, a sentence each."""
    kept = _kept(connection) or {}
    return [
        f"One of the {_WORDS[table][1]} in it was written by another program. Whatever cannot be read is left out."
        for table, (_, _, both) in kept.items() if _here(connection, table)[2] != both
    ]  # fmt: skip


def _here(connection: sqlite3.Connection, table: str) -> list[Any]:
    key = seals.TEXTS[table][0]
    query = f"SELECT CAST({key} AS BLOB), CAST(seal AS BLOB) FROM {table}"  # noqa: S608  # names of our own
    return counted(connection.execute(query).fetchall(), table)


def _kept(connection: sqlite3.Connection) -> dict[str, tuple[int, str, str]] | None:
    row = connection.execute("SELECT CAST(value AS BLOB) FROM settings WHERE key = ?", (ROWS,)).fetchone()
    if row is None or row[0] is None:
        return None
    try:
        counts = json.loads(row[0])
        (version,) = connection.execute("PRAGMA user_version").fetchone()
        return {
            table: (int(counts[table][0]), str(counts[table][1]), str(counts[table][2]))
            for table in seals.TEXTS
            if table in tables(version)
        }
    except (ValueError, KeyError, TypeError, IndexError, RecursionError):
        return None
