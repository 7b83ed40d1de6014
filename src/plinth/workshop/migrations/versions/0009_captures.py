"""Captures are kept beside the readings that were drawn from them."""

import sqlalchemy as sa
from alembic import op

from plinth.workshop.rows import count_new

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "captures",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("build_id", sa.Integer, nullable=False),
        sa.Column("subject", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("facts", sa.String, nullable=False),
        sa.Column("digest", sa.String, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("seal", sa.String, nullable=False, server_default=""),
    )
    op.create_index("captures_by_build", "captures", ["build_id"])
    count_new(op.get_bind(), "captures")
