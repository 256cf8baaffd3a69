"""Stocks, printers and plotters of the shop."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "thing",
        sa.Column("kind", sa.String(16), primary_key=True),
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("recipe", JSONB, nullable=False),
    )
