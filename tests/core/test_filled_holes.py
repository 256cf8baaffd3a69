"""A line without its holes: what lay in a hole lies in the piece round it now."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from perisect.core.lines.holes import decide_holes
from perisect.core.lines.polygons import without_holes


def ring(x: float, y: float, outer: float, inner: float) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(outer, 4).difference(shapely.Point(x, y).buffer(inner, 4))


def test_without_a_hole_nothing_changes() -> None:
    shape = shapely.multipolygons([shapely.box(0, 0, 1, 1), shapely.box(2, 0, 3, 1)])
    assert without_holes(shape).equals(shape)


def test_rings_within_rings_become_one_piece() -> None:
    nested = shapely.multipolygons([ring(0, 0, 9, 8), ring(0, 0, 6, 5), shapely.Point(0, 0).buffer(2, 4)])
    filled = without_holes(nested)
    assert len(filled.geoms) == 1
    assert filled.area == pytest.approx(shapely.Point(0, 0).buffer(9, 4).area)


def test_a_piece_that_touches_a_ring_from_outside_stays() -> None:
    square = shapely.box(0, 0, 4, 4).difference(shapely.box(1, 1, 3, 3))
    outside = shapely.Polygon([(4, 4), (6, 4), (6, 6)])  # its first point is the corner of the square
    inside = shapely.Polygon([(1, 1), (2, 1.2), (1.2, 2)])  # and this one's that of the hole
    filled = without_holes(shapely.multipolygons([square, outside, inside]))
    assert shapely.is_valid(filled)
    assert [part.area for part in filled.geoms] == [16, 2]


@settings(deadline=None, max_examples=60)
@given(
    st.lists(
        st.tuples(st.integers(0, 3), st.integers(0, 3), st.integers(1, 4)),
        min_size=1,
        max_size=8,
        unique=True,
    )
)
def test_it_is_what_uniting_the_filled_rings_gives(rings: list[tuple[int, int, int]]) -> None:
    # Rings of four sizes that lie in each other, on a grid where those of different places are apart.
    shape = shapely.multipolygons([ring(20 * x, 20 * y, 2 * size, 2 * size - 1) for x, y, size in rings])
    united = shapely.union_all([shapely.Polygon(part.exterior) for part in shape.geoms])
    filled = without_holes(shape)
    assert shapely.is_valid(filled)
    assert np.all(shapely.get_num_interior_rings(shapely.get_parts(filled)) == 0)
    assert filled.symmetric_difference(united).area < 1e-9


@settings(deadline=None, max_examples=40)
@given(
    st.lists(st.integers(1, 6), min_size=2, max_size=6, unique=True), st.sampled_from([0.0, 7.0, 15.0, 400.0])
)
def test_of_rings_in_each_other_those_in_filled_holes_are_swallowed(sizes: list[int], fill_mm: float) -> None:
    shape = shapely.multipolygons([ring(0, 0, 3 * size, 3 * size - 1) for size in sizes])
    decided = decide_holes(shape, fill_mm)
    # A disc of each ring whose hole is filled, and all rings: united by GEOS.
    filled = [size for size in sizes if 2 * (3 * size - 1) < fill_mm]
    discs = [shapely.Point(0, 0).buffer(3 * size, 4) for size in filled]
    united = shapely.union_all([shape, *discs])
    assert shapely.is_valid(decided.shape)
    assert decided.shape.symmetric_difference(united).area < 1e-9
    assert sum(hole.filled for hole in decided.holes) == len(filled)
