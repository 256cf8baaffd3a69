"""Set-ups kept by name."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "setup",
        sa.Column("name", sa.String(60), primary_key=True),
        sa.Column("recipe", JSONB, nullable=False),
    )
