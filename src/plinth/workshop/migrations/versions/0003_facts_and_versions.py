"""Readings keep the facts that their sentences rest on; builds keep their versions; parts on the shelf their stock.

Sentences of readings of before stay as they were said. Of a build of before the state of today is its first version
kept: it belongs to the last line that made or changed it, and readings from before that line belong to none.
"""

import hashlib
import json
import marshal
from collections.abc import Sequence
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

# As they were at this version: later changes of the seals belong to later migrations.
_LINES = (
    "SELECT e.id, e.build_id, e.at, e.kind, e.subject, e.words, e.reading_id, e.conditions, "
    "r.build_id, r.subject, r.label, r.typed, r.value, r.unit, r.u, r.instrument, r.taken_at, r.state, r.said, "
    "r.low, r.high, r.simulated, r.bound, r.facts "
    "FROM entries e LEFT JOIN readings r ON r.id = e.reading_id ORDER BY e.id"
)
_LAST_CHANGE = "SELECT max(id) FROM entries WHERE build_id = ? AND kind IN ('made', 'changed')"


def upgrade() -> None:
    op.alter_column("readings", "sentence", new_column_name="said")
    op.add_column("readings", sa.Column("facts", sa.JSON, nullable=True))
    op.create_table(
        "versions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("build_id", sa.Integer, sa.ForeignKey("builds.id"), nullable=False),
        sa.Column("entry_id", sa.Integer, sa.ForeignKey("entries.id"), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("seal", sa.String, nullable=False, server_default=""),
    )
    op.create_index("versions_by_build", "versions", ["build_id", "entry_id"])
    op.add_column("parts", sa.Column("stock", sa.JSON, nullable=True))
    connection = op.get_bind()
    for part_id, *texts in connection.exec_driver_sql("SELECT id, kind, document, stock FROM parts").fetchall():
        connection.exec_driver_sql("UPDATE parts SET seal = ? WHERE id = ?", (_seal("", texts), part_id))
    before, count = "", 0
    for line in connection.exec_driver_sql(_LINES).fetchall():
        before, count = _seal(before, line), count + 1
        connection.exec_driver_sql("UPDATE entries SET seal = ? WHERE id = ?", (before, line[0]))
    if count:
        told = json.dumps({"lines": count, "last": before})
        connection.exec_driver_sql("UPDATE settings SET value = ? WHERE key = 'chain'", (told,))
    for build_id, document in connection.exec_driver_sql("SELECT id, document FROM builds").fetchall():
        (entry_id,) = connection.exec_driver_sql(_LAST_CHANGE, (build_id,)).one()
        if entry_id is not None:
            connection.exec_driver_sql(
                "INSERT INTO versions (build_id, entry_id, document, seal) VALUES (?, ?, ?, ?)",
                (build_id, entry_id, document, _seal("", (build_id, entry_id, document))),
            )


def _seal(before: str, facts: Sequence[Any]) -> str:
    raw: tuple[Any, ...] = tuple(
        [fact.encode("utf-8", "surrogatepass") if isinstance(fact, str) else fact for fact in facts]
    )
    return hashlib.blake2b(before.encode() + marshal.dumps(raw, 2), digest_size=16).hexdigest()
