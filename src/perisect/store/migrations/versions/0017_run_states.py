"""States of a run are guarded by the database, and requests to a run have a queue of their own."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

LED = ("loading", "sensing", "placing", "cutting", "paused", "held", "unloading", "measuring")
AT_IT = ("cutting", "paused", "held", "unloading", "measuring")
OVER = ("done", "cancelled", "stopped")
LATER = {
    "queued": (*LED, *OVER),
    "loading": ("sensing", "placing", *AT_IT, *OVER),
    "sensing": ("placing", *AT_IT, *OVER),
    "placing": (*AT_IT, *OVER),
    "cutting": ("paused", "held", "unloading", "measuring", *OVER),
    "paused": ("cutting", "held", "unloading", "measuring", *OVER),
    "held": ("cutting", "paused", "unloading", "measuring", *OVER),
    "unloading": ("measuring", *OVER),
    "measuring": OVER,
}
"""As `core.cutting.run_state.REACHABLE` was when this was written; a test compares the database with it."""
ALLOWED = ", ".join(f"'{before}>{after}'" for before, later in LATER.items() for after in later)


def upgrade() -> None:
    for column in ("cancel", "pause", "asked", "orders"):
        op.drop_column("run", column)
    op.create_table(
        "run_request",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("run_id", sa.Integer, sa.ForeignKey("run.id", ondelete="CASCADE"), nullable=False),
        sa.Column("request", JSONB, nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True)),
    )
    op.create_index("ix_run_request_run_id", "run_request", ["run_id"])
    op.create_index(
        "run_request_waits", "run_request", ["run_id"], postgresql_where=sa.text("taken_at IS NULL")
    )
    heartbeat = sa.Column(
        "heartbeat_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False
    )
    op.add_column("head_check", heartbeat)
    # A run that was closed since nothing was heard of its worker goes on when that worker reports.
    op.execute(
        f"""
        CREATE FUNCTION run_state_follows() RETURNS trigger LANGUAGE plpgsql AS $$
        BEGIN
            IF NOT OLD.swept AND OLD.state || '>' || NEW.state NOT IN ({ALLOWED}) THEN
                RAISE EXCEPTION 'run % cannot go from % to %', OLD.id, OLD.state, NEW.state;
            END IF;
            RETURN NEW;
        END $$
        """
    )
    op.execute(
        "CREATE TRIGGER run_state_follows BEFORE UPDATE OF state ON run FOR EACH ROW "
        "WHEN (OLD.state IS DISTINCT FROM NEW.state) EXECUTE FUNCTION run_state_follows()"
    )
