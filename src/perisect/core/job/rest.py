"""What still fits on the last sheet of a plan."""

import time
from collections.abc import Sequence
from dataclasses import dataclass

from perisect.core.job.block import area_inside_block
from perisect.core.job.layout import as_stands
from perisect.core.job.plan import JobPlan
from perisect.core.job.recipe import StandRecipe
from perisect.core.sheet import Footprint
from perisect.core.sheet.fill import Placement
from perisect.core.sheet.layout import placement_of, shapes_on
from perisect.core.sheet.nest import Nested
from perisect.core.sheet.pocket import Pockets

MOST = 40
SECONDS = 2.0


@dataclass(frozen=True)
class Offer:
    """So many more of a design, and where they would stand on the last sheet."""

    design: str
    stands: tuple[StandRecipe, ...]


def what_fits(plan: JobPlan, candidates: Sequence[Footprint]) -> list[Offer]:
    """For each candidate alone, how many more the last sheet holds; in about two seconds at most."""
    sheets = plan.sheets.sheets
    if not sheets or plan.area.polygon.is_empty:
        return []
    sheet, gap = plan.recipe.sheet, plan.recipe.sheet.between_mm
    area, number = area_inside_block(plan.area, sheet), len(sheets) - 1
    by_key = {f.key: f for f in plan.spaced}
    standing = shapes_on(by_key, sheets[-1])
    offers = []
    for footprint in candidates:
        pockets = Pockets(area, {footprint.key: footprint.outline}, gap, "quarter")
        pockets.occupy(list(standing))
        placements: list[Placement] = []
        end = time.monotonic() + SECONDS / len(candidates)
        while len(placements) < MOST and time.monotonic() < end:
            laid = pockets.put(footprint.key)
            if laid is None:
                break
            piece = Nested(footprint.key, number, laid.turn_deg, laid.x_mm, laid.y_mm)
            placements.append(placement_of(footprint, piece))
        if placements:
            stands = as_stands([[]] * number + [placements])
            offers.append(Offer(footprint.key, stands))
    return offers
