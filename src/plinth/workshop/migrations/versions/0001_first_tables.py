"""Builds, readings, diary, shelf and settings."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "builds",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("situation", sa.JSON, nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "readings",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("build_id", sa.Integer, sa.ForeignKey("builds.id"), nullable=False),
        sa.Column("subject", sa.String, nullable=False),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("typed", sa.String, nullable=False),
        sa.Column("value", sa.Float, nullable=False),
        sa.Column("unit", sa.String, nullable=False),
        sa.Column("u", sa.Float, nullable=True),
        sa.Column("instrument", sa.String, nullable=False),
        sa.Column("taken_at", sa.DateTime, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("sentence", sa.String, nullable=False),
        sa.Column("low", sa.Float, nullable=True),
        sa.Column("high", sa.Float, nullable=True),
        sa.Column("simulated", sa.Boolean, nullable=False),
    )
    op.create_index("readings_by_build", "readings", ["build_id", "subject"])
    op.create_table(
        "entries",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("build_id", sa.Integer, sa.ForeignKey("builds.id"), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("subject", sa.String, nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("reading_id", sa.Integer, sa.ForeignKey("readings.id"), nullable=True),
    )
    op.create_index("entries_by_build", "entries", ["build_id"])
    op.create_table(
        "parts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_table(
        "settings",
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("value", sa.JSON, nullable=False),
    )
