"""A tolerance that nobody set is left to the picture's own grain."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

USUAL = 12.0
"""What every mend held until it was set."""


def upgrade() -> None:
    bind = op.get_bind()
    for step, recipe in bind.execute(sa.text("SELECT id, recipe FROM step")).all():
        changed = [_left_to_the_picture(design.get("mend")) for design in recipe.get("designs", [])]
        if any(changed):
            bind.execute(
                sa.text("UPDATE step SET recipe = CAST(:recipe AS jsonb) WHERE id = :id"),
                {"recipe": json.dumps(recipe), "id": step},
            )


def _left_to_the_picture(mend: dict[str, Any] | None) -> bool:
    """Forget the tolerance of a mend in which it did nothing; whether there was one."""
    if not mend or mend.get("tolerance") != USUAL:
        return False
    if mend.get("background", "as_is") != "as_is" or mend.get("picked"):
        return False  # it is what was seen and printed
    mend["tolerance"] = None
    return True
