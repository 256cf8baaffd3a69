"""Search a nest in a process of its own, under a ticket."""

from functools import partial

from perisect.core.job import JobPlan, JobRecipe
from perisect.core.job.questions import largest_size
from perisect.core.sheet.nest import Nested, NestQuestion, nest
from perisect.store import artwork, nests
from perisect.tasks import isolated
from perisect.tasks.artwork import plan


def _search(_: bytes, question: NestQuestion) -> list[Nested]:
    return nest(question, isolated.report, isolated.asked_to_stop)


def nested_plan(recipe: JobRecipe) -> JobPlan:
    """A recipe worked out, its nest searched and kept when there is none yet. One who cancels gets the best
    so far.

    Raises:
        UnknownArtwork, ArtworkError: as `plan` does.
    """
    planned = plan(recipe)
    question = planned.layout.question
    if question is None or not planned.layout.waiting:
        return planned
    isolated.stop_gently()
    nests.keep(question, isolated.call(partial(_search, question=question), b""))
    return plan(recipe)


SIZE_TRIES, SIZE_SECONDS = 4, 3
MOST_LARGER = 1.4
"""A nested piece is hardly ever more than this times as large as one in rows."""


def largest_nested(recipe: JobRecipe, design_id: str, up: int) -> tuple[float, JobRecipe] | None:
    """The longest side at which so many of a design were nested on one sheet, to about a fortieth, and the recipe
    whose nest that is; None where not even rows hold them.

    Raises:
        KeyError: no such design.
        Cancelled: by the ticket at hand.
    """
    design = recipe.design(design_id)
    alone = recipe.model_copy(update={"designs": (design,)})
    found = largest_size(plan(alone), design_id, up, artwork.lines)
    if found is None:
        return None
    low, high = found, min(400.0, found * MOST_LARGER)
    best = None
    for attempt in range(SIZE_TRIES):
        size = round((low + high) / 2 - 0.05, 1)
        sheet = {"method": "nest", "fill": False, "nest_s": SIZE_SECONDS, "seed": attempt + 1, "stands": ()}
        sized = design.model_copy(update={"longest_mm": size, "copies": up})
        tried = alone.model_copy(update={"designs": (sized,), "sheet": alone.sheet.model_copy(update=sheet)})
        planned = nested_plan(tried)
        if len(planned.sheets.sheets) == 1 and planned.sheets.count == up:
            low, best = size, tried
        else:
            high = size
    return (low, best) if best is not None else (found, alone)
