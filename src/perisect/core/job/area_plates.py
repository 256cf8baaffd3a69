"""White under the art and varnish over the stickers of a sheet, computed from what is on it."""

from collections.abc import Mapping

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.job.plan import JobPlan
from perisect.core.job.recipe import DesignRecipe
from perisect.core.prepress.plates import AreaPlate, DrawnArea
from perisect.core.sheet.placing import placed

QUAD_SEGS = 16
SIMPLIFY_MM = 0.01


def area_plates(plan: JobPlan, number: int, plates: Mapping[str, AreaPlate]) -> list[DrawnArea]:
    """The areas of sheet `number` (from 0) that have a plate, as rings in sheet mm: outer ones and holes the other way
    round.

    Args:
        plates: by kind of area.
    """
    found = []
    for kind, plate in plates.items():
        shapes = {each.id: _area(plan, each, kind, plate.spread_mm) for each in plan.recipe.designs}
        on_it = [
            placed(shapes[each.key], each)
            for each in plan.sheets.sheets[number]
            if not shapes[each.key].is_empty
        ]
        # What two neighbours grow into is covered once.
        whole = shapely.union_all(on_it) if on_it else shapely.MultiPolygon()
        found.append(DrawnArea(kind, plate, tuple(_rings(whole))))
    return found


def _area(plan: JobPlan, design: DesignRecipe, kind: str, spread_mm: float) -> shapely.Geometry:
    """What a kind of area covers of one sticker, design mm: white lies under everything that is printed, varnish over
    the sticker as it comes off."""
    lines = plan.lines[design.id]
    if kind == "white" and plan.artworks[design.id].is_die:
        return shapely.MultiPolygon()  # nothing of it is printed
    shape: shapely.Geometry = lines.outline
    if (kind == "varnish" or design.lines.border_colour is not None) and not lines.own.is_empty:
        shape = shapely.union(lines.own, lines.outline) if kind == "white" else lines.own
    return shapely.simplify(shapely.buffer(shape, spread_mm, quad_segs=QUAD_SEGS), SIMPLIFY_MM)


def _rings(shape: shapely.Geometry) -> list[NDArray[np.float64]]:
    parts = shapely.get_parts(shape)
    areas = parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON]
    oriented = shapely.orient_polygons(areas)
    return [
        shapely.get_coordinates(ring)[:-1] for part in oriented for ring in (part.exterior, *part.interiors)
    ]
