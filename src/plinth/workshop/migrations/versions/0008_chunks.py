"""Large contents stand in chunks of their own."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "chunks",
        sa.Column("digest", sa.String, primary_key=True),
        sa.Column("place", sa.Integer, primary_key=True),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
