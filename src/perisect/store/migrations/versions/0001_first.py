"""Artwork, jobs with steps, prints, runs, and the queue's own tables."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def _when(name: str, nullable: bool = False) -> sa.Column:
    default = None if nullable else sa.func.now()
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable, server_default=default)


def upgrade() -> None:
    op.create_table(
        "artwork",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("width_px", sa.Integer, nullable=False),
        sa.Column("height_px", sa.Integer, nullable=False),
        sa.Column("background", sa.String(16), nullable=False),
        sa.Column("clear_share", sa.Float, nullable=False),
        sa.Column("byte_count", sa.BigInteger, nullable=False),
        _when("created_at"),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer, sa.Identity(start=101), primary_key=True),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("cursor", sa.Integer, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        _when("created_at"),
        _when("updated_at"),
    )
    op.create_table(
        "step",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent", sa.Integer),
        sa.Column("label", sa.String(160), nullable=False),
        sa.Column("recipe", JSONB, nullable=False),
        _when("created_at"),
        sa.UniqueConstraint("job_id", "number"),
    )
    op.create_index("step_parent", "step", ["job_id", "parent"])
    op.create_table(
        "print",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("step", sa.Integer, nullable=False),
        sa.Column("sheet", sa.Integer, nullable=False),
        sa.Column("recipe", JSONB, nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("message", sa.String),
        sa.Column("picture", sa.String(200)),
        sa.Column("px_per_mm", sa.Float),
        _when("created_at"),
    )
    op.create_table(
        "run",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "print_id", sa.Integer, sa.ForeignKey("print.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column(
            "job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("message", sa.String),
        sa.Column("lines_done", sa.Integer, nullable=False),
        sa.Column("lines_total", sa.Integer, nullable=False),
        sa.Column("cancel", sa.Boolean, nullable=False),
        sa.Column("registration", JSONB),
        sa.Column("seconds", sa.Float),
        sa.Column("slips", JSONB),
        sa.Column("slip_largest_mm", sa.Float),
        sa.Column("slip_mean_mm", sa.Float),
        sa.Column("good", sa.Integer),
        sa.Column("bad", sa.Integer),
        sa.Column("picture", sa.String(200)),
        _when("created_at"),
        _when("heartbeat_at"),
        _when("finished_at", nullable=True),
    )
    # The queue's schema comes as one script; without parameters the driver itself leaves its % signs alone.
    cursor = op.get_bind().connection.cursor()
    cursor.execute(SchemaManager.get_schema())
    cursor.close()


def downgrade() -> None:
    for table in ("run", "print", "step", "job", "artwork"):
        op.drop_table(table)
