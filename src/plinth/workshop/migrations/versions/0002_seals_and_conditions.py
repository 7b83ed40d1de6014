"""Seals over every line and text; conditions and bounds of readings.

Readings of before were kept without their conditions: those stay empty, and such readings count for no gate.
"""

import hashlib
import json
import marshal
from collections.abc import Sequence
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

# As they were at this version: later changes of the seals belong to later migrations.
_LINES = (
    "SELECT e.id, e.build_id, e.at, e.kind, e.subject, e.words, e.reading_id, e.conditions, "
    "r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, r.taken_at, r.state, r.sentence, "
    "r.low, r.high, r.simulated, r.bound "
    "FROM entries e LEFT JOIN readings r ON r.id = e.reading_id ORDER BY e.id"
)
_TEXTS = {
    "builds": ("id", "SELECT id, name, document, situation FROM builds"),
    "parts": ("id", "SELECT id, kind, document FROM parts"),
    "settings": ("key", "SELECT key, value FROM settings"),
}


def upgrade() -> None:
    op.add_column("readings", sa.Column("bound", sa.String, nullable=False, server_default=""))
    op.add_column("entries", sa.Column("conditions", sa.JSON, nullable=True))
    for table in ("entries", "builds", "parts", "settings"):
        op.add_column(table, sa.Column("seal", sa.String, nullable=False, server_default=""))
    op.create_index("entries_by_subject", "entries", ["build_id", "subject"])
    connection = op.get_bind()
    before, count = "", 0
    for line in connection.exec_driver_sql(_LINES).fetchall():
        before, count = _seal(before, line), count + 1
        connection.exec_driver_sql("UPDATE entries SET seal = ? WHERE id = ?", (before, line[0]))
    if count:
        told = json.dumps({"lines": count, "last": before})
        connection.exec_driver_sql("INSERT INTO settings (key, value, seal) VALUES ('chain', ?, '')", (told,))
    for table, (key, query) in _TEXTS.items():
        for key_value, *texts in connection.exec_driver_sql(query).fetchall():
            connection.exec_driver_sql(
                f"UPDATE {table} SET seal = ? WHERE {key} = ?",  # noqa: S608  # names of this module's own
                (_seal("", texts), key_value),
            )


def _seal(before: str, facts: Sequence[Any]) -> str:
    raw: tuple[Any, ...] = tuple(
        [fact.encode("utf-8", "surrogatepass") if isinstance(fact, str) else fact for fact in facts]
    )
    return hashlib.blake2b(before.encode() + marshal.dumps(raw, 2), digest_size=16).hexdigest()
