"""Make a design of every drawing on a page."""

import re

from perisect.core.job.recipe import DesignRecipe, JobRecipe
from perisect.core.job.remedy import RemedyError
from perisect.core.job.traced import TracedArtwork

MOST_DESIGNS = 60


def split_design(recipe: JobRecipe, design_id: str, artwork: TracedArtwork) -> JobRecipe:
    """The recipe with the design replaced by one for each drawing of its page, all at the page's scale.

    Raises:
        RemedyError: no such design, one drawing only, or more designs than a job holds.
    """
    page = next((design for design in recipe.designs if design.id == design_id), None)
    if page is None or len(artwork.pieces) < 2:
        raise RemedyError("there is nothing to split")
    if len(recipe.designs) - 1 + len(artwork.pieces) > MOST_DESIGNS:
        raise RemedyError(f"a job holds at most {MOST_DESIGNS} pieces")
    scale = page.longest_mm / artwork.outline.longest_px
    numbers = [int(found[1]) for design in recipe.designs if (found := re.fullmatch(r"d(\d+)", design.id))]
    first = max(numbers, default=0) + 1
    parts = tuple(
        DesignRecipe.model_validate(
            page.model_dump()
            | {
                "id": f"d{first + number}",
                "name": f"{page.name[:110]} {number + 1}",
                "mend": page.mend.model_dump() | {"piece": (piece.x_px, piece.y_px)},
                "longest_mm": min(400.0, max(5.0, round(max(piece.width_px, piece.height_px) * scale, 2))),
            }
        )
        for number, piece in enumerate(artwork.pieces)
    )
    at = recipe.designs.index(page)
    return recipe.model_copy(update={"designs": (*recipe.designs[:at], *parts, *recipe.designs[at + 1 :])})
