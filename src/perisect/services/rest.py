"""What sheets cost, and what still fits on the last of them, with what the store knows."""

import time
from collections.abc import Mapping
from functools import lru_cache

from perisect.core.artwork import ArtworkError, decode_rgba
from perisect.core.job import DesignRecipe, JobPlan, JobRecipe
from perisect.core.job.rest import Offer, what_fits
from perisect.core.ledger.cost import Cost, cost_of, full_ink_px
from perisect.core.lines import LineError
from perisect.core.sheet import Footprint
from perisect.core.sheet.footprints import clearance_mm, footprint_of, with_clearance
from perisect.services.pictures import traced
from perisect.services.plans import plan as plan_recipe
from perisect.store import artwork, jobs
from perisect.store.artwork import UnknownArtwork
from perisect.store.database import transaction

OTHER_JOBS, OTHERS = 8, 4


@lru_cache(maxsize=512)
def _ink_share(picture: str) -> float:
    """Full ink of a picture as a share of its whole area."""
    rgba = decode_rgba(artwork.preview(picture))
    return full_ink_px(rgba) / (rgba.shape[0] * rgba.shape[1])


def ink_mm2(plan: JobPlan, design: DesignRecipe) -> float:
    facts = plan.artworks[design.id].facts
    px = facts.width_px * facts.height_px * plan.lines[design.id].mm_per_px ** 2
    return _ink_share(design.picture) * px


def cost(plan: JobPlan, sheets: int, copies: Mapping[str, int]) -> Cost:
    """Stock and ink of so many sheets with so many copies of each design."""
    sheet = plan.recipe.sheet
    ink = sum(
        ink_mm2(plan, design) * copies.get(design.id, 0)
        for design in plan.recipe.designs
        if design.id in plan.lines
    )
    panel = plan.area.stock.height_mm
    return cost_of(sheet.on, sheet.printed_by, sheets, panel, ink, sum(copies.values()))


def rest(recipe: JobRecipe) -> list[tuple[Offer, DesignRecipe, bool]]:
    """Offers for the last sheet: the job's own designs, then small ones of the newest other jobs."""
    plan = plan_recipe(recipe).plan
    others = _others(recipe)
    prints = [*plan.spaced, *(mine for _, mine in others)]
    own = {design.id: design for design in recipe.designs}
    designs = own | {design.id: design for design, _ in others}
    return [
        (offer, designs[offer.design], offer.design in own)
        for offer in what_fits(plan, prints, time.monotonic)
    ]


def _others(recipe: JobRecipe) -> list[tuple[DesignRecipe, Footprint]]:
    """The smallest designs of other jobs under ids that are free here."""
    with transaction() as session:
        known = [jobs.recipe(session, job) for job in jobs.newest(session, OTHER_JOBS)]
    have = {design.picture for design in recipe.designs}
    found: dict[str, tuple[DesignRecipe, Footprint]] = {}
    for design in (each for other in known for each in other.designs):
        if design.picture in have or design.picture in found:
            continue
        free = design.model_copy(update={"id": f"r{len(found) + 1}-{design.picture[:6]}", "copies": 1})
        try:
            lines = artwork.lines(traced(free), free, recipe.sheet.tooling)
        except (ArtworkError, UnknownArtwork, LineError):
            continue
        taken = footprint_of(free.id, 1, lines)
        found[design.picture] = free, with_clearance(taken, clearance_mm(lines, recipe.sheet))
    return sorted(found.values(), key=lambda each: each[1].area_mm2)[:OTHERS]
