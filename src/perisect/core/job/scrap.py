"""A later job on what is left of a sheet that was cut."""

from perisect.core.job.plan import JobPlan
from perisect.core.job.recipe import JobRecipe
from perisect.core.sheet.placement import placed
from perisect.core.sheet.recipe import ScrapRecipe, SheetRecipe
from perisect.core.sheet.scrap import Ring, Scrap, marks_on, scrap_of


def left_of(plan: JobPlan, number: int) -> Scrap | None:
    """What is left of sheet `number` (from 0) after its cut; None where it is not worth keeping, or cannot hold marks:
    of sheets only, for what is left of a panel stays on its roll."""
    if plan.recipe.sheet.on.kind != "sheet" or plan.cards is not None or number >= len(plan.sheets.sheets):
        return None
    taken = [placed(plan.lines[p.key].taken, p) for p in plan.sheets.sheets[number]]
    perimeter = plan.perimeter(number)
    if not taken or perimeter is not None:
        return None
    found = scrap_of(plan.area, taken)
    return None if found is None or marks_on(found, plan.area) is None else found


def sheet_on(
    recipe: SheetRecipe, of_print: int, used: tuple[Ring, ...], marks_at: tuple[tuple[float, float], ...]
) -> SheetRecipe:
    """A job's sheet, on a scrap of the same stock: by number, wherever there is room."""
    update = {
        "scrap": ScrapRecipe(of_print=of_print, used=used),
        "marks_at": marks_at,
        "fill": False,
        "method": "rows",
        "placements": (),
        "perimeter_cut": "none",
        "common_line": False,
        "from_mm": 0.0,
        "until_mm": None,
    }
    return recipe.model_copy(update=update)


def may_stand_on_scrap(recipe: JobRecipe) -> bool:
    """Whether a job could use what is left of another's sheet: some pieces by number, on plain sheets."""
    sheet = recipe.sheet
    plain = sheet.on.kind == "sheet" and sheet.card is None and sheet.scrap is None and sheet.until_mm is None
    return plain and not sheet.fill and bool(recipe.designs)
