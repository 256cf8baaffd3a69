"""Marks that a person sets."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("run", sa.Column("ask", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("run", sa.Column("marking", JSONB))
    op.add_column("run", sa.Column("orders", JSONB))
