"""What is left of a printed sheet."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("print", sa.Column("scrap", JSONB(none_as_null=True)))
    op.create_index("print_left", "print", ["id"], postgresql_where=sa.text("scrap IS NOT NULL"))
