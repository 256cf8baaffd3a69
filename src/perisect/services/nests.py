"""Search nests in the sandbox and keep what was found."""

from functools import partial

from perisect import sandbox
from perisect.core.job import JobRecipe
from perisect.core.job.questions import largest_size
from perisect.core.sheet import Placement
from perisect.core.sheet.nest import NestQuestion, nest
from perisect.services.plans import Planned, plan
from perisect.store import artwork, nests


def _search(_: bytes, question: NestQuestion) -> list[Placement]:
    return nest(question, sandbox.report, sandbox.asked_to_stop, sandbox.beside)


def nested_plan(recipe: JobRecipe) -> Planned:
    """A recipe worked out, its nest searched and kept when there is none yet. Who says that it is enough gets the
    best so far.

    Raises:
        UnknownArtwork, ArtworkError: as `plan` does.
        Cancelled: nobody wants it any more.
    """
    planned = plan(recipe)
    question = planned.plan.layout.question
    if question is None or not planned.plan.layout.waiting:
        return planned
    # A slow machine takes longer than it was asked to, and a sheet is made ready first and measured afterwards.
    seconds = sandbox.SECONDS + question.seconds
    nests.save(question, sandbox.call(partial(_search, question=question), b"", seconds, seconds))
    return plan(recipe)


SIZE_TRIES, SIZE_SECONDS = 4, 3
MOST_LARGER = 1.4
"""A nested piece is hardly ever more than this times as large as one in rows."""


def largest_nested(recipe: JobRecipe, design_id: str, up: int) -> tuple[float, JobRecipe] | None:
    """The longest side at which so many of a design were nested on one sheet, to about a fortieth, and the recipe
    whose nest that is; None where not even rows hold them.

    Raises:
        KeyError: no such design.
        Cancelled: nobody wants it any more.
    """
    design = recipe.design(design_id)
    alone = recipe.model_copy(update={"designs": (design,)})
    found = largest_size(plan(alone).plan, design_id, up, artwork.lines)
    if found is None:
        return None
    low, high = found, min(400.0, found * MOST_LARGER)
    best = None
    for attempt in range(SIZE_TRIES):
        size = round((low + high) / 2 - 0.05, 1)
        sheet = {
            "method": "nest",
            "fill": False,
            "nest_s": SIZE_SECONDS,
            "seed": attempt + 1,
            "placements": (),
        }
        sized = design.model_copy(update={"longest_mm": size, "copies": up})
        tried = alone.model_copy(update={"designs": (sized,), "sheet": alone.sheet.model_copy(update=sheet)})
        sheets = nested_plan(tried).plan.sheets
        if len(sheets.sheets) == 1 and sheets.count == up:
            low, best = size, tried
        else:
            high = size
    return (low, best) if best is not None else (found, alone)
