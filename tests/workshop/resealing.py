"""Seals made anew over whatever stands in a file: a cell that is wrong, and sealed all the same."""

import json
import sqlite3
from pathlib import Path

from plinth.workshop import seals
from plinth.workshop.rows import ROWS, counted
from plinth.workshop.schema import SCHEMA_VERSION


def reseal(path: Path) -> None:
    """Seal every line, text and count of a workshop as it stands."""
    with sqlite3.connect(path) as connection:
        connection.text_factory = bytes
        for table, (key, query) in seals.TEXTS.items():
            for number, _, *texts in connection.execute(query).fetchall():
                connection.execute(
                    f"UPDATE {table} SET seal = ? WHERE {key} = ?",
                    (seals.text_seal(texts), number.decode() if isinstance(number, bytes) else number),
                )
        before, count = b"", 0
        for _, *facts in connection.execute(seals.lines(SCHEMA_VERSION)).fetchall():
            before = seals.line_seal(before, facts).encode()
            connection.execute("UPDATE entries SET seal = ? WHERE id = ?", (before.decode(), facts[0]))
            count += 1
        chain = json.dumps({"lines": count, "last": before.decode()})
        connection.execute("UPDATE settings SET value = ?, seal = '' WHERE key = ?", (chain, seals.CHAIN))
        kept = {
            table: counted(connection.execute(f"SELECT {key}, seal FROM {table}").fetchall(), table)
            for table, (key, _) in seals.TEXTS.items()
        }
        connection.execute("UPDATE settings SET value = ?, seal = '' WHERE key = ?", (json.dumps(kept), ROWS))
    connection.close()
