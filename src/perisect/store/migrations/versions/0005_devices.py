"""Devices claimed by the database, operations, tones by printer, one truth for material and tool, later words."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

OVER = "('done', 'stopped', 'cancelled')"


def _when(name: str, nullable: bool = True) -> sa.Column:
    return sa.Column(
        name,
        sa.DateTime(timezone=True),
        nullable=nullable,
        server_default=None if nullable else sa.func.now(),
    )


def upgrade() -> None:
    # What a picture holds is derived, and kept with what else is.
    for column in ("width_px", "height_px", "background", "clear_share"):
        op.drop_column("artwork", column)
    _prints_and_runs()
    _jobs_and_steps()
    _shop()
    op.create_table(
        "operation",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("key", sa.String(80), nullable=False),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), index=True),
        sa.Column("request", JSONB, nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("doing", sa.String(80), nullable=False),
        sa.Column("share", sa.Float, nullable=False),
        sa.Column("stop", sa.String(8), nullable=False),
        sa.Column("tries", sa.Integer, nullable=False),
        sa.Column("result", JSONB),
        sa.Column("problem", JSONB),
        sa.Column("claim", sa.String(40)),
        _when("created_at", nullable=False),
        _when("heartbeat_at"),
        _when("finished_at"),
    )
    op.create_index(
        "operation_of_question",
        "operation",
        ["key"],
        unique=True,
        postgresql_where=sa.text("state IN ('queued', 'working')"),
    )
    for table in ("step", "print", "setup"):
        _later_words(table)
    _notify()


def _notify() -> None:
    """Whoever listens hears what changed: the table, the job and the row."""
    op.execute(
        "CREATE FUNCTION perisect_notify() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN "
        "PERFORM pg_notify('perisect', json_build_object('what', TG_TABLE_NAME, 'id', NEW.id, 'job', "
        "CASE WHEN TG_TABLE_NAME = 'job' THEN NEW.id ELSE (to_jsonb(NEW) ->> 'job_id')::int END)::text); "
        "RETURN NULL; END $$"
    )
    watched = {
        "job": "title, cursor, revision",
        "print": "state, message",
        "run": "state, message, lines_done, lines_total, registration, good, picture",
        "operation": "state, doing, share",
    }
    for table, columns in watched.items():
        op.execute(
            f"CREATE TRIGGER {table}_notify AFTER INSERT OR UPDATE OF {columns} ON {table} "
            "FOR EACH ROW EXECUTE FUNCTION perisect_notify()"
        )


def _prints_and_runs() -> None:
    op.add_column("print", sa.Column("printer", sa.String(40), nullable=False, server_default="desk"))
    op.add_column("run", sa.Column("plotter", sa.String(40), nullable=False, server_default="desk"))
    op.execute("UPDATE print SET printer = coalesce(recipe #>> '{sheet,printer,id}', 'desk')")
    op.execute(
        "UPDATE run SET plotter = coalesce(p.recipe #>> '{sheet,plotter,id}', 'desk') "
        "FROM print p WHERE p.id = run.print_id"
    )
    for table, column in (("print", "printer"), ("run", "plotter")):
        op.alter_column(table, column, server_default=None)
        op.add_column(table, sa.Column("claim", sa.String(40)))
    op.add_column("print", sa.Column("recipe_hash", sa.String(64), nullable=False, server_default=""))
    op.add_column("print", _when("heartbeat_at"))
    op.add_column("print", _when("finished_at"))
    op.add_column("run", sa.Column("swept", sa.Boolean, nullable=False, server_default=sa.false()))
    # Whatever was under way before this migration is not any more.
    op.execute(
        "UPDATE print SET state = 'failed', message = 'Perisect was changed meanwhile. Print the sheet again.' "
        "WHERE state = 'queued'"
    )
    op.execute(
        "UPDATE run SET state = 'stopped', finished_at = now(), message = 'Perisect was changed meanwhile.' "
        f"WHERE state NOT IN {OVER}"
    )
    printing = sa.text("state = 'printing'")
    op.create_index("print_has_printer", "print", ["printer"], unique=True, postgresql_where=printing)
    waiting = sa.text("state = 'queued'")
    op.create_index("print_waits", "print", ["printer", "id"], postgresql_where=waiting)
    open_run = sa.text(f"state NOT IN {OVER}")
    op.create_index("run_has_plotter", "run", ["plotter"], unique=True, postgresql_where=open_run)


def _jobs_and_steps() -> None:
    op.add_column("job", sa.Column("designs", sa.Integer, nullable=False, server_default="0"))
    op.add_column("job", sa.Column("recipe_hash", sa.String(64), nullable=False, server_default=""))
    op.execute(
        "UPDATE job SET designs = jsonb_array_length(coalesce(s.recipe -> 'designs', '[]')) "
        "FROM step s WHERE s.job_id = job.id AND s.number = job.cursor"
    )
    op.create_index("job_updated", "job", [sa.text("updated_at DESC"), "id"])
    op.add_column("step", sa.Column("batch", sa.String(40)))
    op.add_column("step", sa.Column("aside", sa.Boolean, nullable=False, server_default=sa.false()))


def _shop() -> None:
    op.rename_table("thing", "equipment")
    op.create_table(
        "tone",
        sa.Column("printer", sa.String(40), primary_key=True),
        sa.Column("stock", sa.String(40), primary_key=True),
        sa.Column("quality", sa.String(16), primary_key=True),
        sa.Column("tone", JSONB, nullable=False),
        sa.Column("profile", sa.String(200)),
        sa.Column("profile_name", sa.String(200)),
    )
    op.execute(
        "INSERT INTO tone (printer, stock, quality, tone, profile, profile_name) "
        "SELECT p.id, s.stock, 'standard', s.tone, s.profile, s.profile_name FROM stock_tone s, "
        "(SELECT id FROM equipment WHERE kind = 'printer' UNION SELECT 'desk' UNION SELECT 'roll-printer') p"
    )
    op.drop_table("stock_tone")
    op.create_table(
        "cut_setting",
        sa.Column("stock", sa.String(40), primary_key=True),
        sa.Column("process", sa.String(24), primary_key=True),
        sa.Column("setting", JSONB, nullable=False),
    )
    op.create_table(
        "device_address",
        sa.Column("kind", sa.String(16), primary_key=True),
        sa.Column("id", sa.String(40), primary_key=True),
        sa.Column("address", sa.String(200), nullable=False),
    )
    op.create_table(
        "shop_setting",
        sa.Column("key", sa.String(40), primary_key=True),
        sa.Column("value", sa.String(400), nullable=False),
    )
    op.create_table(
        "sign_in",
        sa.Column("token_hash", sa.LargeBinary, primary_key=True),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "sign_in_try",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("address", sa.String(64), nullable=False, index=True),
        _when("at", nullable=False),
    )
    bind = op.get_bind()
    for kind, thing_id, recipe in bind.execute(sa.text("SELECT kind, id, recipe FROM equipment")).all():
        _machine(kind, recipe)
        told = {"recipe": json.dumps(recipe), "kind": kind, "id": thing_id}
        bind.execute(
            sa.text("UPDATE equipment SET recipe = CAST(:recipe AS jsonb) WHERE kind = :kind AND id = :id"),
            told,
        )


def _later_words(table: str) -> None:
    """Recipes in their later words; what is left of a stock is the shop's, face and knife those of the sheet."""
    bind = op.get_bind()
    key = "name" if table == "setup" else "id"
    for row_key, recipe in bind.execute(sa.text(f"SELECT {key}, recipe FROM {table}")).all():
        before = json.dumps(recipe)
        for design in recipe.get("designs", []):
            _lines(design.get("lines"))
        _lines(recipe.get("lines"))
        _sheet(recipe.get("sheet"))
        if json.dumps(recipe) != before:
            told = {"recipe": json.dumps(recipe), "key": row_key}
            bind.execute(
                sa.text(f"UPDATE {table} SET recipe = CAST(:recipe AS jsonb) WHERE {key} = :key"), told
            )


def _lines(lines: dict[str, Any] | None) -> None:
    for gone in ("face", "knife_offset_mm"):
        if lines is not None:
            lines.pop(gone, None)


def _sheet(sheet: dict[str, Any] | None) -> None:
    if sheet is None:
        return
    later = {
        "shared": "common_line",
        "block": "perimeter_cut",
        "block_margin_mm": "perimeter_margin_mm",
        "stands": "placements",
    }
    for old, new in later.items():
        if old in sheet:
            sheet[new] = sheet.pop(old)
    for placement in sheet.get("placements", []):
        if "turn_deg" in placement:
            placement["rotation_deg"] = placement.pop("turn_deg")
    if sheet.get("paper"):
        sheet["paper"].pop("left", None)
    _machine("plotter", sheet.get("plotter"))


def _machine(kind: str, machine: dict[str, Any] | None) -> None:
    marks = (machine or {}).get("marks") if kind == "plotter" else None
    if marks and "school" in marks:
        marks["pattern"] = marks.pop("school")
