"""Tone per stock, sizes by use, the tone a sheet was printed with; mends in their later form."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "stock_tone",
        sa.Column("stock", sa.String(40), primary_key=True),
        sa.Column("tone", JSONB, nullable=False),
        sa.Column("profile", sa.String(200)),
        sa.Column("profile_name", sa.String(200)),
    )
    op.create_table(
        "size_by_use",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("use", sa.String(60), nullable=False),
        sa.Column("side", sa.String(16), nullable=False),
        sa.Column("mm", sa.Float, nullable=False),
        sa.Column("height_mm", sa.Float),
    )
    op.add_column("print", sa.Column("tone", JSONB, nullable=False, server_default="{}"))
    for table in ("step", "print"):
        _later_mends(table)


def _later_mends(table: str) -> None:
    """One drawing of a page became several; a frame's radius is in mm, where it was a share."""
    bind = op.get_bind()
    rows = bind.execute(sa.text(f"SELECT id, recipe FROM {table}")).all()
    for number, recipe in rows:
        mends = [design["mend"] for design in recipe.get("designs", []) if "mend" in design]
        changed = [_later(mend) for mend in mends]
        if any(changed):
            told = {"recipe": json.dumps(recipe), "id": number}
            bind.execute(sa.text(f"UPDATE {table} SET recipe = CAST(:recipe AS jsonb) WHERE id = :id"), told)


def _later(mend: dict[str, Any]) -> bool:
    before = json.dumps(mend)
    if "piece" in mend:
        place = mend.pop("piece")
        mend["drawings"] = [place] if place else []
    if mend.get("frame"):
        mend["frame"].pop("radius_pct", None)
    return json.dumps(mend) != before
