"""How many rows each table has is written down, so that one that goes missing is noticed."""

from alembic import op

from plinth.workshop.rows import count_all

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    count_all(op.get_bind())
