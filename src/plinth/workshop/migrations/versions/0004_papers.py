"""Parts on the shelf have papers: sheets, pictures, texts."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "papers",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("part_id", sa.Integer, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("note", sa.String, nullable=False),
        sa.Column("words", sa.String, nullable=False),
        sa.Column("digest", sa.String, nullable=False),
        sa.Column("seal", sa.String, nullable=False, server_default=""),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
    op.create_index("papers_by_part", "papers", ["part_id"])
