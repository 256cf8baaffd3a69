"""Prints say by which way they came to paper; printers are corrected for size."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("print", sa.Column("way", sa.String(8), nullable=False, server_default="link"))
    op.create_table(
        "print_scale",
        sa.Column("printer", sa.String(40), primary_key=True),
        sa.Column("stock", sa.String(40), primary_key=True),
        sa.Column("across", sa.Float, nullable=False),
        sa.Column("along", sa.Float, nullable=False),
        sa.Column("checked_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("print_of_printer", "print", ["printer", "id"])
