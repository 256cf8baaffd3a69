"""A small job on a part of a sheet, and a later one on what is left of it."""

from collections.abc import Iterable
from math import ceil

from perisect.core.finding import Finding, SetField
from perisect.core.job.plan import JobPlan
from perisect.core.job.recipe import JobRecipe
from perisect.core.message import mm, says
from perisect.core.sheet.placing import boxes_on
from perisect.core.sheet.usable import MARK_IN_MM

LEAST_KEPT_MM = 90.0
"""Less of a sheet is not worth keeping: it has to hold marks at both its ends, and pieces between."""
BETWEEN_MM = 2.0
"""Bare between the pieces and the lower marks."""
DRAWN_IN = ("four", "three", "frame")
"""Patterns whose marks can stand at the ends of a part of a sheet."""


class NothingKept(Exception):
    """The job keeps nothing of its sheet for later."""


def remainder_findings(plan: JobPlan) -> Iterable[Finding]:
    """One sheet used at its head alone: what is below can be kept."""
    sheet, area = plan.recipe.sheet, plan.area
    whole = sheet.until_mm is None and not sheet.from_mm and sheet.on.kind == "sheet" and not sheet.marks_at
    if len(plan.sheets.sheets) != 1 or not whole or area.machine.marks.pattern not in DRAWN_IN:
        return
    boxes = boxes_on({f.key: f for f in plan.footprints}, plan.sheets.sheets[0])
    lowest = max((bottom for *_, bottom in boxes), default=0.0)
    if plan.cards is not None or not boxes:
        return
    until = ceil(lowest + 2 * area.machine.marks.clear_mm + MARK_IN_MM + BETWEEN_MM)
    kept = area.stock.height_mm - until
    if kept < LEAST_KEPT_MM:
        return
    yield Finding(
        code="remainder",
        station="sheet",
        severity="good",
        message=says("remainder", until=mm(until), kept=mm(kept, 0)),
        measured=round(kept, 1),
        limit=LEAST_KEPT_MM,
        unit="mm",
        remedy=SetField.saying(
            says("remedy.keep_rest", kept=mm(kept, 0)), field="sheet.until_mm", value=float(until)
        ),
    )


def on_the_remainder(recipe: JobRecipe) -> JobRecipe:
    """An empty job on what another one keeps of its sheet.

    Raises:
        NothingKept: it uses the whole sheet.
    """
    if recipe.sheet.until_mm is None or recipe.sheet.on.kind != "sheet":
        raise NothingKept
    update = {
        "from_mm": recipe.sheet.until_mm,
        "until_mm": None,
        "fill": True,
        "method": "rows",
        "placements": (),
        "card": None,
        "marks_at": (),
        "scrap": None,
    }
    return JobRecipe(sheet=recipe.sheet.model_copy(update=update))
