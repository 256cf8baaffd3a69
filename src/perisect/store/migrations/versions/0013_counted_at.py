"""When a sheet was counted."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("run", sa.Column("counted_at", sa.DateTime(timezone=True)))
