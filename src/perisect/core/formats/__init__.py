"""Open formats, read and written. Writers take plain lines in sheet mm and flip at their own edge."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.curve import Chain

Ring = NDArray[np.float64]
"""(n, 2) points in mm, x right, y down; the first is not repeated at the end."""


@dataclass(frozen=True)
class CutSheet:
    """Lines of one sheet by process, with the outlines of its marks.

    `owners` says for each line which sticker of the sheet (from 0) it belongs to; `curves` holds the curves
    that the lines of a process are flattened from, in the same order, where there are any.
    """

    width_mm: float
    height_mm: float
    lines: dict[str, list[Ring]]
    owners: dict[str, list[int]]
    marks: list[Ring]
    curves: Mapping[str, Sequence[Chain]] = field(default_factory=dict)


def rings_of(shape: shapely.Geometry) -> list[Ring]:
    """Every ring of polygons, holes before the ring they lie in; of lines their points as they are."""
    rings: list[Ring] = []
    for part in shapely.get_parts(shape):
        if part.geom_type == "LineString":
            rings.append(shapely.get_coordinates(part))
            continue
        around = [*part.interiors, part.exterior]
        rings.extend(shapely.get_coordinates(ring)[:-1] for ring in around)
    return rings
