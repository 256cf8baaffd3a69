"""Prints say by which way they came to paper."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("print", sa.Column("way", sa.String(8), nullable=False, server_default="link"))
    op.create_index("print_of_printer", "print", ["printer", "id"])
