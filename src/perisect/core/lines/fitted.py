"""Polygons whose rings are curves."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from perisect.core.curve import FINE_MM, FLAT_MM, Curve, straight
from perisect.core.lines.curves import fit_curves
from perisect.core.lines.polygons import polygons_of

RADIUS_MARGIN = 0.985
"""A fitted bend may be tighter than a promised radius by this much; it was rounded a little wider."""


MOST_RINGS = 800
"""Fitting takes a millisecond for each ring, and nobody waits for thousands."""


@dataclass(frozen=True)
class Fitted:
    """Polygons as curves: `curves` in the order of their rings, holes before the ring they lie in, and
    `shape` the same flattened. Without `fits` they are its rings as they are."""

    shape: shapely.MultiPolygon
    fits: tuple[Curve, ...] | None = None

    @cached_property
    def curves(self) -> tuple[Curve, ...]:
        """A curve for each ring."""
        return tuple(straight(ring) for ring in _rings(self.shape)) if self.fits is None else self.fits

    @property
    def nodes(self) -> int:
        """Nodes of all curves."""
        return sum(len(curve.nodes) for curve in self.curves)

    @property
    def outer(self) -> list[tuple[NDArray[np.float64], Curve]]:
        """The outer ring of each polygon, (n, 2), and its curve."""
        parts = shapely.get_parts(self.shape)
        last = np.cumsum(np.array(holes_of(self.shape), int) + 1) - 1
        rings = [shapely.get_coordinates(part.exterior)[:-1] for part in parts]
        return [(ring, self.curves[n]) for ring, n in zip(rings, last.tolist(), strict=True)]


NOTHING = Fitted(shapely.MultiPolygon())


def fitted(
    shape: shapely.MultiPolygon, tolerance_mm: float, keep_corners: bool = True, radius_mm: float = 0.0
) -> Fitted:
    """The polygons as curves; see `fitted_all`."""
    return fitted_all([shape], tolerance_mm, keep_corners, radius_mm)[0]


def fitted_all(
    shapes: Sequence[shapely.MultiPolygon],
    tolerance_mm: float,
    keep_corners: bool = True,
    radius_mm: float = 0.0,
) -> list[Fitted]:
    """Polygons as curves that leave them by `tolerance_mm` at most; as they are where that is 0.

    All are fitted at once, which takes little longer than one; more than `MOST_RINGS` are left as they are.
    Curves that would cross are fitted again to a quarter of the tolerance, and left straight where even that
    does not help.
    """
    if tolerance_mm <= 0:
        return [Fitted(shape) for shape in shapes]
    rings = [_rings(shape) for shape in shapes]
    found: list[Fitted | None] = [NOTHING if not each else None for each in rings]
    for tolerance in (tolerance_mm, tolerance_mm / 4):
        open_still = [n for n, each in enumerate(found) if each is None]
        if not open_still or sum(map(len, rings)) > MOST_RINGS:
            break
        together = [ring for n in open_still for ring in rings[n]]
        curves = fit_curves(together, tolerance, keep_corners, radius_mm * RADIUS_MARGIN)
        for n in open_still:
            mine, curves = curves[: len(rings[n])], curves[len(rings[n]) :]
            made = rebuilt(mine, holes_of(shapes[n]), FINE_MM if radius_mm > 0 else FLAT_MM)
            if made is not None:
                found[n] = Fitted(made, tuple(mine))
    return [each or Fitted(shape) for each, shape in zip(found, shapes, strict=True)]


def _rings(shape: shapely.MultiPolygon) -> list[NDArray[np.float64]]:
    parts = shapely.get_parts(shape)
    return [shapely.get_coordinates(ring)[:-1] for part in parts for ring in (*part.interiors, part.exterior)]


def holes_of(shape: shapely.MultiPolygon) -> list[int]:
    """How many holes each polygon has."""
    return [int(count) for count in shapely.get_num_interior_rings(shapely.get_parts(shape))]


def rebuilt(
    curves: list[Curve], holes: list[int], sagitta_mm: float = FLAT_MM
) -> shapely.MultiPolygon | None:
    """Polygons of curves, `holes` of each before its outer ring; None where they would not be valid."""
    rings = [curve.flat(sagitta_mm) for curve in curves]
    if any(len(ring) < 3 for ring in rings):
        return None
    flat = shapely.linearrings(
        np.concatenate(rings), indices=np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    )
    polygons, first = [], 0
    for count in holes:
        polygons.append(
            shapely.polygons(flat[first + count], holes=list(flat[first : first + count]) or None)
        )
        first += count + 1
    made = shapely.multipolygons(polygons)
    return polygons_of(made) if shapely.is_valid(made) else None
