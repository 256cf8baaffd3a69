"""Search nests in the sandbox and keep what was found."""

import time
from functools import partial

from perisect import sandbox
from perisect.core.job import JobRecipe
from perisect.core.job.questions import largest_size
from perisect.core.sheet.nest import PATIENCE, Nest, NestQuestion, nest
from perisect.services.plans import Planned, plan
from perisect.store import artwork, nests

PATIENCE_AGAIN = 3.0
"""Times the seconds asked for that the clock allows a search which a person wants in full after one that was cut short.
Chosen: the person waits for it, and can cancel; 90 s at most."""


def _search(_: bytes, question: NestQuestion, patience: float) -> Nest:
    return nest(question, sandbox.report, sandbox.asked_to_stop, sandbox.beside, patience, time.monotonic)


def nested_plan(recipe: JobRecipe, in_full: bool = False) -> Planned:
    """Plan a job, searching its nest where none is known.

    Args:
        recipe: the job.
        in_full: True to search again where the nest that is known was cut short.

    Raises:
        UnknownArtwork, ArtworkError: as `plan` does.
        Cancelled: nobody wants it any more.
    """
    planned = plan(recipe)
    layout = planned.plan.layout
    question = layout.question
    again = in_full and layout.is_cut_short
    if question is None or not (layout.waiting or again):
        return planned
    patience = PATIENCE_AGAIN if again else PATIENCE
    # A sheet is made ready before the clock of the search runs, and measured afterwards.
    seconds = sandbox.SECONDS + question.seconds * (patience if again else 1)
    found = sandbox.call(
        partial(_search, question=question, patience=patience), b"", seconds, seconds, sandbox.work.NEST
    )
    nests.save(question, found)
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
