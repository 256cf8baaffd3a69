"""Wrong passphrases by network, and the addresses that have signed in."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sign_in_try", sa.Column("network", sa.String(64), nullable=False, server_default=""))
    op.create_index("ix_sign_in_try_network", "sign_in_try", ["network"])
    op.create_table(
        "sign_in_address",
        sa.Column("address", sa.String(64), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
