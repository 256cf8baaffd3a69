"""Runs that wait between two lines; what the shop has, its orders, its shelf and its plan; jobs that are due or put
away."""

import json

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

NOW = sa.func.now()
TIME = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.add_column("run", sa.Column("pause", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("run", sa.Column("cut_m", sa.Float, nullable=False, server_default="0"))
    op.add_column("job", sa.Column("due_at", TIME))
    op.add_column("job", sa.Column("archived_at", TIME))
    op.add_column(
        "job", sa.Column("more_of", sa.Integer, sa.ForeignKey("job.id", ondelete="SET NULL"), index=True)
    )
    op.add_column("job", sa.Column("pictures", JSONB, nullable=False, server_default="[]"))
    op.create_index("job_due", "job", ["due_at", "id"])
    _pictures_of_jobs()
    op.alter_column("shop_setting", "value", type_=sa.Text)
    op.create_table(
        "stock_move",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("item", sa.String(60), nullable=False),
        sa.Column("out_of", sa.String(16), nullable=False),
        sa.Column("into_place", sa.String(16), nullable=False),
        sa.Column("quantity", sa.Numeric(14, 3), nullable=False),
        sa.Column("why", sa.String(200), nullable=False),
        sa.Column("key", sa.String(80), unique=True),
        sa.Column("job_id", sa.Integer),
        sa.Column("at", TIME, nullable=False, server_default=NOW, index=True),
        sa.CheckConstraint("quantity > 0", name="stock_move_is_some"),
        sa.CheckConstraint("out_of <> into_place", name="stock_move_is_a_move"),
    )
    op.create_index("stock_move_of_item", "stock_move", ["item", "id"])
    op.create_table(
        "stock_item",
        sa.Column("item", sa.String(60), primary_key=True),
        sa.Column("settings", JSONB, nullable=False),
    )
    op.create_table(
        "shelf_item",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("tags", JSONB, nullable=False),
        sa.Column("recipe", JSONB, nullable=False),
        sa.Column("sheet", JSONB, nullable=False),
        sa.Column("picture", sa.String(64), nullable=False),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("created_at", TIME, nullable=False, server_default=NOW),
        sa.Column("updated_at", TIME, nullable=False, server_default=NOW),
    )
    op.create_table(
        "shelf_use",
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("design", sa.String(40), primary_key=True),
        sa.Column(
            "shelf_id",
            sa.Integer,
            sa.ForeignKey("shelf_item.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("version", sa.Integer, nullable=False),
    )
    op.create_table(
        "customer_order",
        sa.Column("id", sa.Integer, sa.Identity(start=501), primary_key=True),
        sa.Column("who", sa.String(120), nullable=False),
        sa.Column("address", sa.String(400), nullable=False, server_default=""),
        sa.Column("note", sa.String(400), nullable=False, server_default=""),
        sa.Column("due_at", TIME),
        sa.Column("price", sa.Numeric(12, 2)),
        sa.Column("state", sa.String(16), nullable=False, server_default="open"),
        sa.Column("version", sa.Integer, nullable=False, server_default="1"),
        sa.Column("created_at", TIME, nullable=False, server_default=NOW),
        sa.Column("closed_at", TIME),
    )
    op.create_table(
        "order_item",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "order_id", sa.Integer, sa.ForeignKey("customer_order.id", ondelete="CASCADE"), nullable=False
        ),
        sa.Column(
            "shelf_id", sa.Integer, sa.ForeignKey("shelf_item.id", ondelete="RESTRICT"), nullable=False
        ),
        sa.Column("longest_mm", sa.Float, nullable=False),
        sa.Column("quantity", sa.Integer, nullable=False),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="SET NULL")),
        sa.Column("design", sa.String(40)),
        sa.CheckConstraint("quantity > 0", name="order_item_is_some"),
    )
    op.create_index("order_item_of_job", "order_item", ["job_id"])
    op.create_table(
        "job_pin",
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("step", sa.String(24), primary_key=True),
        sa.Column("start_at", TIME, nullable=False),
    )
    op.create_table(
        "day_plan",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=False),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("begin_at", TIME, nullable=False),
        sa.Column("plan", JSONB, nullable=False),
        sa.Column("made_at", TIME, nullable=False, server_default=NOW),
        sa.CheckConstraint("id = 1", name="day_plan_is_one"),
    )
    op.create_table(
        "own_font",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("rights", sa.String(80), nullable=False),
        sa.Column("letters", sa.Integer, nullable=False),
        sa.Column("created_at", TIME, nullable=False, server_default=NOW),
    )


def _pictures_of_jobs() -> None:
    """The first pictures of what each job holds now; a job's own picture is known when it is next changed."""
    bind = op.get_bind()
    rows = bind.execute(
        sa.text(
            "SELECT job.id, step.recipe -> 'designs' FROM job "
            "JOIN step ON step.job_id = job.id AND step.number = job.cursor"
        )
    ).all()
    for job_id, designs in rows:
        # The original stands for the picture as mended, whose name only the recipe's code knows.
        shown = [each["artwork"] for each in (designs or [])[:4]]
        bind.execute(
            sa.text("UPDATE job SET pictures = CAST(:pictures AS jsonb) WHERE id = :id"),
            {"pictures": json.dumps(shown), "id": job_id},
        )
