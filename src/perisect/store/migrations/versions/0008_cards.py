"""Prints in batches with copies, names and the scale they had; set-up cards and head checks of printers."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("print", sa.Column("across", sa.Float, nullable=False, server_default="1"))
    op.add_column("print", sa.Column("along", sa.Float, nullable=False, server_default="1"))
    op.add_column("print", sa.Column("batch", sa.String(40)))
    op.add_column("print", sa.Column("copy", sa.Integer, nullable=False, server_default="1"))
    op.add_column("print", sa.Column("copies", sa.Integer, nullable=False, server_default="1"))
    op.add_column("print", sa.Column("name", sa.String(60), nullable=False, server_default=""))
    op.create_index("print_of_batch", "print", ["batch", "id"])
    op.create_table(
        "setup_card",
        sa.Column("printer", sa.String(40), primary_key=True),
        sa.Column("stock", sa.String(40), primary_key=True),
        sa.Column("card", JSONB, nullable=False),
        sa.Column("ticked_at", sa.DateTime(timezone=True)),
    )
    op.create_table(
        "head_check",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("printer", sa.String(40), nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("message", sa.String),
        sa.Column("stock", JSONB, nullable=False),
        sa.Column("picture", sa.String(200)),
        sa.Column("px_per_mm", sa.Float),
        sa.Column("gaps", JSONB, nullable=False, server_default="[]"),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("read_at", sa.DateTime(timezone=True)),
    )
    op.create_index(
        "head_check_under_way",
        "head_check",
        ["printer"],
        unique=True,
        postgresql_where=sa.text("state IN ('queued', 'printing')"),
    )
    op.create_index("head_check_of_printer", "head_check", ["printer", "id"])
