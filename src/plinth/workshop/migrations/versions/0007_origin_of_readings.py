"""Readings name who gave them: typed, an instrument by its identity, a capture; simulated is one of these."""

import hashlib
import json
import marshal
from collections.abc import Sequence
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

# As they are at this version: later changes of the seals belong to later migrations.
_LINES = (
    "SELECT e.id, e.build_id, e.at, e.kind, e.subject, e.words, e.reading_id, e.conditions, "
    "r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, r.taken_at, r.state, r.said, "
    "r.low, r.high, r.giver, r.bound, r.facts, r.instrument_id, r.capture "
    "FROM entries e LEFT JOIN readings r ON r.id = e.reading_id ORDER BY e.id"
)


def upgrade() -> None:
    op.add_column("readings", sa.Column("giver", sa.String, nullable=False, server_default="typed"))
    op.add_column("readings", sa.Column("instrument_id", sa.String, nullable=False, server_default=""))
    op.add_column("readings", sa.Column("capture", sa.String, nullable=False, server_default=""))
    connection = op.get_bind()
    connection.exec_driver_sql("UPDATE readings SET giver = 'simulated' WHERE simulated")
    op.drop_column("readings", "simulated")
    before, count = "", 0
    for line in connection.exec_driver_sql(_LINES).fetchall():
        before, count = _seal(before, line), count + 1
        connection.exec_driver_sql("UPDATE entries SET seal = ? WHERE id = ?", (before, line[0]))
    if count:
        told = json.dumps({"lines": count, "last": before})
        connection.exec_driver_sql("UPDATE settings SET value = ? WHERE key = 'chain'", (told,))


def _seal(before: str, facts: Sequence[Any]) -> str:
    raw: tuple[Any, ...] = tuple(
        [fact.encode("utf-8", "surrogatepass") if isinstance(fact, str) else fact for fact in facts]
    )
    return hashlib.blake2b(before.encode() + marshal.dumps(raw, 2), digest_size=16).hexdigest()
