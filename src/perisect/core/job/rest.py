"""What still fits on the last sheet of a plan."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from perisect.core.clock import Clock
from perisect.core.job.plan import JobPlan
from perisect.core.sheet import Footprint
from perisect.core.sheet.layout import as_recipes
from perisect.core.sheet.nest.pockets import Pockets
from perisect.core.sheet.perimeter import area_inside_perimeter
from perisect.core.sheet.placement import Placement, boxed
from perisect.core.sheet.placing import shapes_on
from perisect.core.sheet.recipe import PlacementRecipe

MOST = 40
SECONDS = 2.0


@dataclass(frozen=True)
class Offer:
    """So many more of a design, and where they would stand on the last sheet."""

    design: str
    placements: tuple[PlacementRecipe, ...]


def what_fits(plan: JobPlan, candidates: Sequence[Footprint], clock: Clock) -> list[Offer]:
    """For each candidate alone, find how many more the last sheet holds, in two seconds of `clock` at most."""
    sheets = plan.sheets.sheets
    if not sheets or plan.area.polygon.is_empty:
        return []
    sheet, gap = plan.recipe.sheet, plan.recipe.sheet.between_mm
    area, number = area_inside_perimeter(plan.area, sheet), len(sheets) - 1
    by_key = {f.key: f for f in plan.spaced}
    standing = shapes_on(by_key, sheets[-1])
    offers = []
    for footprint in candidates:
        pockets = Pockets(area, {footprint.key: footprint.outline}, gap, "quarter")
        pockets.occupy(list(standing))
        placements: list[Placement] = []
        end = clock() + SECONDS / len(candidates)
        while len(placements) < MOST and clock() < end:
            laid = pockets.put(footprint.key)
            if laid is None:
                break
            piece = boxed(laid, footprint.width_mm, footprint.height_mm)
            placements.append(replace(piece, sheet=number))
        if placements:
            offers.append(Offer(footprint.key, as_recipes(placements)))
    return offers
