"""Make a design of every drawing on a page, part one further, or put several together again."""

import re

from perisect.core.job.design_frame import mm_per_px
from perisect.core.job.recipe import DesignRecipe, JobRecipe
from perisect.core.job.remedy import RemedyError
from perisect.core.job.traced import TracedArtwork

MOST_DESIGNS = 60


def split_design(recipe: JobRecipe, design_id: str, artwork: TracedArtwork) -> JobRecipe:
    """The recipe with the design replaced by one for each of its pieces, all at the scale it has.

    Raises:
        RemedyError: no such design, one drawing only, or more designs than a job holds.
    """
    page = next((design for design in recipe.designs if design.id == design_id), None)
    if page is None or len(artwork.pieces) < 2:
        raise RemedyError("there is nothing to split")
    if len(recipe.designs) - 1 + len(artwork.pieces) > MOST_DESIGNS:
        raise RemedyError(f"a job holds at most {MOST_DESIGNS} pieces")
    scale = mm_per_px(page, artwork)
    numbers = [int(found[1]) for design in recipe.designs if (found := re.fullmatch(r"d(\d+)", design.id))]
    first = max(numbers, default=0) + 1
    mend = page.mend.model_dump()
    if page.mend.drawings:
        # A drawing is parted along every gap there is.
        mend["split"] |= {"joining_px": 0.0}
    parts = tuple(
        DesignRecipe.model_validate(
            page.model_dump()
            | {
                "id": f"d{first + number}",
                "name": f"{page.name[:110]} {number + 1}",
                "mend": mend | {"drawings": ((piece.x_px, piece.y_px),)},
                "longest_mm": _held(max(piece.width_px, piece.height_px) * scale),
            }
        )
        for number, piece in enumerate(artwork.pieces)
    )
    at = recipe.designs.index(page)
    return recipe.model_copy(update={"designs": (*recipe.designs[:at], *parts, *recipe.designs[at + 1 :])})


def merge_designs(recipe: JobRecipe, ids: list[str], artworks: dict[str, TracedArtwork]) -> JobRecipe:
    """The recipe with drawings of one page put together in the place of the first, at its scale.

    Args:
        artworks: of the designs, by their ids.

    Raises:
        RemedyError: fewer than two, or not drawings of the same page mended in the same way.
    """
    chosen = [design for design in recipe.designs if design.id in ids]
    if len(chosen) < 2 or len(chosen) != len(set(ids)):
        raise RemedyError("two or more pieces make one")
    first = chosen[0]
    same = {
        (design.artwork, design.mend.model_copy(update={"drawings": (), "split": first.mend.split}))
        for design in chosen
    }
    if len(same) > 1 or not all(design.mend.drawings for design in chosen):
        raise RemedyError("only drawings of one page, mended in the same way, go together")
    boxes = [artworks[design.id].box_came_px for design in chosen]
    width = max(box[2] for box in boxes) - min(box[0] for box in boxes)
    height = max(box[3] for box in boxes) - min(box[1] for box in boxes)
    places = tuple(dict.fromkeys(place for design in chosen for place in design.mend.drawings))
    merged = DesignRecipe.model_validate(
        first.model_dump()
        | {
            "mend": first.mend.model_dump() | {"drawings": places},
            "longest_mm": _held(max(width, height) * mm_per_px(first, artworks[first.id])),
        }
    )
    gone = {design.id for design in chosen[1:]}
    designs = tuple(merged if d.id == first.id else d for d in recipe.designs if d.id not in gone)
    return recipe.model_copy(update={"designs": designs})


def _held(longest_mm: float) -> float:
    return min(400.0, max(5.0, round(longest_mm, 2)))
