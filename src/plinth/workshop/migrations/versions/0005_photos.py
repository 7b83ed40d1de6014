"""Checks, steps, readings and notes have photos."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "photos",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("build_id", sa.Integer, nullable=False),
        sa.Column("subject", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("marks", sa.String, nullable=False),
        sa.Column("digest", sa.String, nullable=False),
        sa.Column("seal", sa.String, nullable=False, server_default=""),
        sa.Column("scaled", sa.LargeBinary, nullable=False),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
    op.create_index("photos_by_build", "photos", ["build_id"])
