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
    op.add_column("run", sa.Column("first_line", sa.Integer, nullable=False, server_default="0"))
    op.add_column("run", sa.Column("left_out", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("run", sa.Column("laid_in_before", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("run", sa.Column("notice", sa.String))
    op.add_column("run", sa.Column("hold", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("run", sa.Column("asked", JSONB))
    op.add_column("run", sa.Column("share", sa.Float, nullable=False, server_default="0"))
    op.add_column("run", sa.Column("predicted_s", sa.Float))
    op.add_column("run", sa.Column("marks", JSONB))
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
    op.create_table(
        "cut_book",
        sa.Column("stock", sa.String(40), primary_key=True),
        sa.Column("process", sa.String(24), primary_key=True),
        sa.Column("plotter", sa.String(40), primary_key=True),
        sa.Column("blade", sa.String(40), primary_key=True, server_default=""),
        sa.Column("laminated", sa.Boolean, primary_key=True, server_default="false"),
        sa.Column("setting", JSONB, nullable=False),
        sa.Column("source", sa.String(12), nullable=False),
        sa.Column("sure", sa.Float),
        sa.Column("note", sa.String(200), nullable=False, server_default=""),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    # What was set by stock alone was meant for whatever plotter: as the nearest known it is brought over.
    op.execute(
        "INSERT INTO cut_book (stock, process, plotter, setting, source, at) "
        "SELECT stock, process, '', setting, 'hand', now() FROM cut_setting"
    )
    op.drop_table("cut_setting")
    op.create_table(
        "ladder_cut",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("plotter", sa.String(40), nullable=False),
        sa.Column("stock_id", sa.String(40), nullable=False),
        sa.Column("process", sa.String(24), nullable=False),
        sa.Column("blade", sa.String(40), nullable=False, server_default=""),
        sa.Column("stock", JSONB, nullable=False),
        sa.Column("start", JSONB, nullable=False),
        sa.Column("prior", sa.Float, nullable=False),
        sa.Column("state", sa.String(12), nullable=False),
        sa.Column("ladders", JSONB, nullable=False, server_default="[]"),
        sa.Column("message", sa.String),
        sa.Column("picture", sa.String(200)),
        sa.Column("heartbeat_at", sa.DateTime(timezone=True)),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_index(
        "ladder_has_plotter",
        "ladder_cut",
        ["plotter"],
        unique=True,
        postgresql_where=sa.text("state IN ('queued', 'cutting')"),
    )
    op.create_index("ladder_of", "ladder_cut", ["plotter", "stock_id", "process", "id"])
