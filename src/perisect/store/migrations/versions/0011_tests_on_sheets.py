"""Test cuts under film, and on the spare area of a printed sheet."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("ladder_cut", sa.Column("laminated", sa.Boolean, nullable=False, server_default="false"))
    op.add_column(
        "ladder_cut",
        sa.Column("print_id", sa.Integer, sa.ForeignKey("print.id", ondelete="SET NULL"), index=True),
    )
