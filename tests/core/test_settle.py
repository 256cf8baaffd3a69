"""Copies that overlap a little come apart exactly, measured by Shapely; and are pressed together, by hand."""

import itertools

import numpy as np
import pytest
import shapely
from shapely import affinity

from perisect.core.sheet.nest.settle import TOUCHING_MM, settle
from tests.core.shapes import star

BOX = (0.0, 0.0, 200.0, 200.0)


def square(x: float, y: float, side: float = 10.0) -> shapely.Polygon:
    return shapely.box(x, y, x + side, y + side)


def moved(shapes: list[shapely.Polygon], by: np.ndarray) -> list[shapely.Polygon]:
    return [affinity.translate(shape, *d) for shape, d in zip(shapes, by.tolist(), strict=True)]


def deepest(a: shapely.Geometry, b: shapely.Geometry) -> float:
    """How far one reaches into the other, at most: their common part shrinks to nothing by half of it."""
    common = a.intersection(b)
    low, high = 0.0, 5.0
    while high - low > 1e-4:
        middle = (low + high) / 2
        low, high = (low, middle) if common.buffer(-middle).is_empty else (middle, high)
    return 2 * high


def test_what_stands_free_stays() -> None:
    by = settle([square(0, 0), square(10.5, 0)], [], BOX).moved
    assert by is not None
    assert not by.any()


def test_two_that_overlap_by_half_a_millimetre_come_apart_by_it() -> None:
    shapes = [square(50, 50), square(59.5, 50)]
    by = settle(shapes, [], BOX).moved
    assert by is not None
    one, other = moved(shapes, by)
    assert other.bounds[0] - one.bounds[2] >= -TOUCHING_MM
    # Squares may part along either axis, and 0.5 mm is the shorter way.
    assert by[1, 0] - by[0, 0] == pytest.approx(0.5, abs=0.02)


def test_where_there_is_no_room_nothing_is_found() -> None:
    # Three of 10 mm in 29.
    assert settle([square(0, 0), square(9.5, 0), square(19, 0)], [], (0, 0, 29, 10)).moved is None
    # A hair more than 30 will do.
    by = settle([square(0, 0), square(9.6, 0), square(19.2, 0)], [], (0, 0, 30.01, 10)).moved
    assert by is not None
    assert by[:, 0] == pytest.approx([0, 0.4, 0.8], abs=0.015)


def test_what_stands_in_the_way_stays_where_it_is() -> None:
    (by,) = settle([square(0, 19.4)], [shapely.box(-5, 0, 15, 20)], BOX).moved  # type: ignore[misc]
    assert by == pytest.approx((0, 0.6), abs=0.02)
    # Between two of them that are 10.2 mm apart.
    walls = [shapely.box(0, 0, 20, 200), shapely.box(30.2, 0, 50, 200)]
    (by,) = settle([square(20.5, 60)], walls, BOX).moved  # type: ignore[misc]
    assert 20 - 0.01 <= 20.5 + by[0] <= 20.2 + 0.01


def test_pressed_a_column_is_as_long_as_its_pieces() -> None:
    shapes = [square(0, 1.0), square(0, 11.7), square(0, 22.4)]
    by = settle(shapes, [], (0, 0, 10, 200), press=True).moved
    assert by is not None
    there = moved(shapes, by)
    assert there[-1].bounds[3] == pytest.approx(30, abs=0.05)
    assert all(deepest(a, b) < 0.01 for a, b in itertools.pairwise(there))


def a_heap(seed: int, in_the_way: shapely.Polygon) -> list[shapely.Polygon]:
    """Fourteen pieces as they come from a raster: hardly nearer than they may be."""
    rng = np.random.default_rng(seed)
    kinds = [star(12, 6), shapely.box(-9, -4, 9, 4), shapely.Point(0, 0).buffer(8, 8)]
    shapes: list[shapely.Polygon] = []
    while len(shapes) < 14:
        turned = affinity.rotate(kinds[len(shapes) % 3], rng.uniform(0, 360), origin=(0, 0))
        one = affinity.translate(turned, *rng.uniform(14, 120, 2))
        if all(deepest(one, other) < 0.8 for other in [*shapes, in_the_way]):
            shapes.append(one)
    return shapes


def test_stars_bars_and_discs_that_overlap_a_little_are_apart_for_every_pair() -> None:
    in_the_way = shapely.box(60, 60, 70, 70)
    found = 0
    for seed in range(10):
        shapes = a_heap(seed, in_the_way)
        by = settle(shapes, [in_the_way], (0, 0, 134, 134)).moved
        if by is None:  # two tips may be crossed like scissors
            continue
        found += 1
        there = [*moved(shapes, by), in_the_way]
        assert max(deepest(a, b) for n, a in enumerate(there) for b in there[:n]) < 0.02
        bounds = shapely.bounds(there)
        assert bounds.min() >= -1e-6
        assert bounds.max() <= 134 + 1e-6
    assert found >= 8


def test_who_lies_on_another_as_a_whole_is_not_taken_for_free() -> None:
    assert settle([square(50, 50, 30), square(60, 60, 4)], [], BOX).moved is None


def test_which_ones_do_not_come_apart_is_told() -> None:
    # Three in room for two and a bit, and one that stands free.
    shapes = [square(0, 0), square(6, 0), square(12, 0), square(0, 60)]
    walls = [shapely.box(-10, -10, 200, 0), shapely.box(-10, 10, 200, 20), shapely.box(22, 0, 30, 10)]
    found = settle(shapes, walls, BOX)
    assert found.moved is None
    assert found.overlapping
    assert 3 not in found.overlapping
    assert settle(shapes[:1], [], BOX).overlapping == ()
