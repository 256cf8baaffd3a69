"""A job for what an order lacks."""

from collections.abc import Mapping

from perisect.core.job.recipe import JobRecipe


class NothingLacks(Exception):
    """The order has what it wants, or will have it when what is under way is cut."""


def job_for_more(recipe: JobRecipe, more: Mapping[str, int]) -> JobRecipe:
    """The same pieces, as many as are lacking; on what the job keeps of its sheet where it keeps a part.

    Raises:
        NothingLacks.
    """
    designs = [
        design.model_copy(update={"copies": more[design.id]})
        for design in recipe.designs
        if more.get(design.id, 0) > 0
    ]
    if not designs:
        raise NothingLacks
    sheet = recipe.sheet
    keeps = sheet.until_mm is not None and sheet.on.kind == "sheet"
    update: dict[str, object] = {
        "from_mm": sheet.until_mm if keeps else sheet.from_mm,
        "until_mm": None,
        "fill": False,
        "method": "rows",
        "placements": (),
        "card": None,
    }
    if sheet.scrap is not None:
        # That one is printed on by now.
        update |= {"scrap": None, "marks_at": ()}
    return JobRecipe(designs=tuple(designs), sheet=sheet.model_copy(update=update))
