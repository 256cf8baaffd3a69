"""What a blade had cut when a setting was kept, and what test cuts were taken over with."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("cut_book", sa.Column("blade_m", sa.Float))
    op.add_column("ladder_cut", sa.Column("taken_force", sa.Float))
    op.add_column("ladder_cut", sa.Column("taken_m", sa.Float))
