"""Checksums over what is kept, so that a changed or missing line is noticed.

Each line of the diary carries a seal: a checksum (BLAKE2b, 128 bits) over the seal of the line before it and over all
facts of the line and of its reading. The number of lines and the last seal stand in the settings, so that a lost end
shows as well. Builds, parts, papers and settings carry a seal each over their own texts; a paper's and a
photo's over a digest of its content as well, and a capture's.
"""

import hashlib
import json
import marshal
import sqlite3
from collections.abc import Sequence
from typing import Any

from plinth.workshop.schema import SCHEMA_VERSION

# Facts of a line with its reading, by version; the order is part of the seal.
_LINE = {
    2: (
        "SELECT e.seal, e.id, e.build_id, e.at, e.kind, e.subject, e.words, e.reading_id, e.conditions, "
        "r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, r.taken_at, r.state, r.sentence, "
        "r.low, r.high, r.simulated, r.bound "
        "FROM entries e LEFT JOIN readings r ON r.id = e.reading_id"
    ),
    3: (
        "SELECT e.seal, e.id, e.build_id, e.at, e.kind, e.subject, e.words, e.reading_id, e.conditions, "
        "r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, r.taken_at, r.state, r.said, "
        "r.low, r.high, r.simulated, r.bound, r.facts "
        "FROM entries e LEFT JOIN readings r ON r.id = e.reading_id"
    ),
}
_LINE[6] = _LINE[5] = _LINE[4] = _LINE[3]
_LINE[7] = (
    "SELECT e.seal, e.id, e.build_id, e.at, e.kind, e.subject, e.words, e.reading_id, e.conditions, "
    "r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, r.taken_at, r.state, r.said, "
    "r.low, r.high, r.giver, r.bound, r.facts, r.instrument_id, r.capture "
    "FROM entries e LEFT JOIN readings r ON r.id = e.reading_id"
)
_LINE[9] = _LINE[8] = _LINE[7]
ONE_LINE = f"{_LINE[SCHEMA_VERSION]} WHERE e.id = ?"
LAST_SEAL = "SELECT seal FROM entries ORDER BY id DESC LIMIT 1"
# What is sealed of each other table, by its key.
TEXTS = {
    "builds": ("id", "SELECT id, seal, name, document, situation FROM builds"),
    "versions": ("id", "SELECT id, seal, build_id, entry_id, document FROM versions"),
    "parts": ("id", "SELECT id, seal, kind, document, stock FROM parts"),
    "papers": ("id", "SELECT id, seal, part_id, name, note, words, digest FROM papers"),
    "photos": ("id", "SELECT id, seal, build_id, subject, at, name, words, marks, digest FROM photos"),
    "captures": ("id", "SELECT id, seal, build_id, subject, at, name, words, facts, digest, size FROM captures"),
    "settings": ("key", "SELECT key, seal, value FROM settings"),
}
# As they were in files of before, by table and the last version that had them so.
_TEXTS_BEFORE = {("parts", 2): "SELECT id, seal, kind, document FROM parts"}
CHAIN = "chain"


def lines(version: int) -> str:
    """The query for all lines of a file of that version: the seal, then what it is over."""
    return f"{_LINE[version]} ORDER BY e.id"


def texts(table: str, version: int) -> str:
    """The query for what is sealed of a table in a file of that version."""
    before = [query for (name, last), query in _TEXTS_BEFORE.items() if name == table and version <= last]
    return before[0] if before else TEXTS[table][1]


def line_seal(before: bytes, facts: Sequence[Any]) -> str:
    """The seal of a line from the seal before it and its facts (a row of ``lines`` without its first column)."""
    return hashlib.blake2b(before + _as_bytes(facts), digest_size=16).hexdigest()


def text_seal(facts: Sequence[Any]) -> str:
    """The seal of one row of ``TEXTS`` from its key and its texts."""
    return hashlib.blake2b(_as_bytes(facts), digest_size=16).hexdigest()


def _as_bytes(facts: Sequence[Any]) -> bytes:
    """Facts as bytes, texts in UTF-8.

    Marshal's format 2 has been the same for these types (bytes, int, float, None in a tuple) since Python 2.5; a test
    holds it to known seals. It takes half of the time that any text of our own would.
    """
    raw: tuple[Any, ...] = tuple(
        [fact.encode("utf-8", "surrogatepass") if isinstance(fact, str) else fact for fact in facts]
    )
    return marshal.dumps(raw, 2)


def broken_lines(connection: sqlite3.Connection, version: int) -> list[str]:
    """What is not as it was written in diary and readings, in words; reads raw bytes, decodes nothing."""
    broken: list[str] = []
    before, count = b"", 0
    connection.text_factory = bytes
    for seal, *facts in connection.execute(lines(version)):
        # Spelled out (it is line_seal): this loop is what opening a long diary waits for.
        if seal != hashlib.blake2b(before + marshal.dumps(tuple(facts), 2), digest_size=16).hexdigest().encode():
            broken.append(f"line {facts[0]} of the diary is not as it was written")
        before, count = seal if isinstance(seal, bytes) else b"", count + 1
    broken += _texts_turned_bytes(connection)
    row = connection.execute("SELECT value FROM settings WHERE key = 'chain'").fetchone()
    chain = _told(row[0] if row else None)
    if chain != (count, before):
        broken.append(
            "lines at the end of the diary are missing" if chain[0] > count else "the diary's end was altered"
        )
    return broken


def _texts_turned_bytes(connection: sqlite3.Connection) -> list[str]:
    """Lines of which a text became bytes: its seal is the same, and no query for that text finds it any more."""
    asked = []
    for table, short in (("entries", "e"), ("readings", "r")):
        columns = connection.execute(f"PRAGMA table_info({table})").fetchall()
        asked += [f"typeof({short}.{name.decode()}) = 'blob'" for _, name, kind, *_ in columns if kind != b"BLOB"]
    query = "SELECT e.id FROM entries e LEFT JOIN readings r ON r.id = e.reading_id WHERE "
    rows = connection.execute(f"{query}{' OR '.join(asked)} ORDER BY e.id").fetchall()
    return [f"line {number} of the diary is not as it was written" for (number,) in rows]


def _told(text: object) -> tuple[int, bytes]:
    try:
        chain = json.loads(text) if isinstance(text, str | bytes) else {}
        return int(chain["lines"]), str(chain["last"]).encode()
    except (ValueError, KeyError, TypeError, RecursionError):
        return -1, b""
