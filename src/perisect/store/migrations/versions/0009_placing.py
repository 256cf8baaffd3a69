"""Marks that a person sets, what a plotter is trued by, how each run was aimed, what was on it and what was counted."""

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
    op.add_column("run", sa.Column("aimed", JSONB))
    op.add_column("run", sa.Column("stock", sa.String(40), nullable=False, server_default=""))
    op.execute(
        "UPDATE run SET stock = coalesce(print.recipe #>> '{sheet,paper,id}', print.recipe #>> '{sheet,stock}', '') "
        "FROM print WHERE print.id = run.print_id"
    )
    op.add_column("run", sa.Column("measured_by", sa.String(16), nullable=False, server_default="plotter"))
    op.add_column("run", sa.Column("stickers", JSONB))
    op.add_column("run", sa.Column("count", JSONB))
    op.add_column("run", sa.Column("count_version", sa.Integer, nullable=False, server_default="0"))
    op.add_column("run", sa.Column("counted_good", sa.Integer))
    op.add_column("run", sa.Column("counted_bad", sa.Integer))
    op.create_index("run_of_plotter", "run", ["plotter", "id"])
    op.create_table(
        "plotter_trueing",
        sa.Column("plotter", sa.String(40), primary_key=True),
        sa.Column("trueing", JSONB, nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_table(
        "vernier_page",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("plotter", sa.String(40), nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("message", sa.String),
        sa.Column("sheet", JSONB, nullable=False),
        sa.Column("picture", sa.String(200)),
        sa.Column("px_per_mm", sa.Float),
        sa.Column("photo", sa.String(200)),
        sa.Column("trued", JSONB),
        sa.Column("readings", JSONB),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_index("vernier_of_plotter", "vernier_page", ["plotter", "id"])
    op.create_index(
        "vernier_under_way",
        "vernier_page",
        ["plotter"],
        unique=True,
        postgresql_where=sa.text("state IN ('queued', 'printing', 'waiting', 'cutting')"),
    )
