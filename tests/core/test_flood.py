"""What hangs together with the picture's edge is ground; what art encloses is an island."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import ndimage

from perisect.core.artwork.flood import LEAST_ISLAND_PX, flood, from_outside


def framed(width: int, hole: int) -> np.ndarray:
    """Like the ground everywhere but in a square frame that encloses a hole so wide."""
    like = np.ones((width, width), np.uint8)
    begin = (width - hole) // 2
    like[begin - 2 : begin + hole + 2, begin - 2 : begin + hole + 2] = 0
    like[begin : begin + hole, begin : begin + hole] = 1
    return like


def test_a_hole_that_art_encloses_is_not_reached_from_outside() -> None:
    like = framed(40, 10)
    ground = from_outside(like)
    assert ground.sum() == 40 * 40 - 14 * 14
    assert ground[20, 20] == 0


def test_ground_at_the_edge_is_ground_however_little_of_it_there_is() -> None:
    like = np.zeros((9, 9), np.uint8)
    like[0, 4] = like[4, 0] = like[8, 8] = like[4, 4] = 1
    assert from_outside(like).sum() == 3


def test_ground_that_meets_at_a_corner_alone_does_not_hang_together() -> None:
    like = np.zeros((6, 6), np.uint8)
    like[:3, :3] = like[3:5, 3:5] = 1
    assert from_outside(like).sum() == 9


@settings(deadline=None, max_examples=60)
@given(hnp.arrays(np.uint8, st.tuples(st.integers(1, 12), st.integers(1, 12)), elements=st.integers(0, 1)))
def test_it_is_what_labels_of_another_library_say(like: np.ndarray) -> None:
    labels, _ = ndimage.label(np.pad(like, 1, constant_values=1))
    assert np.array_equal(from_outside(like), labels[1:-1, 1:-1] == labels[0, 0])


def test_an_island_is_told_with_its_area_and_how_wide_it_is() -> None:
    (island,) = flood(framed(60, 15), ()).islands
    assert island.area_px == 15 * 15
    # To the middle of the frame's first pixels; the small chamfer counts a step as 0.955.
    assert island.width_px == pytest.approx(16 * 0.955)
    assert (island.x_px, island.y_px) == (29, 29)


def test_patches_of_a_few_pixels_are_no_islands() -> None:
    least = int(np.ceil(np.sqrt(LEAST_ISLAND_PX)))
    assert len(flood(framed(40, least), ()).islands) == 1
    assert flood(framed(40, least - 1), ()).islands == ()


def test_an_island_that_is_named_is_knocked_out_and_others_stay() -> None:
    like = np.hstack([framed(40, 10), framed(40, 10)])
    ground = flood(like, ((20, 20),)).ground
    assert ground[20, 20] == 1
    assert ground[20, 60] == 0
    assert ground.sum() == 2 * (40 * 40 - 14 * 14) + 10 * 10


@pytest.mark.parametrize("place", [(0, 0), (14, 20), (500, -3), (-1, 20)])
def test_a_place_outside_of_every_island_knocks_nothing_out(place: tuple[int, int]) -> None:
    like = framed(40, 10)
    assert np.array_equal(flood(like, (place,)).ground, from_outside(like))


def test_a_picture_that_is_all_ground_or_all_art_has_no_islands() -> None:
    for value, ground in ((1, 64), (0, 0)):
        flooded = flood(np.full((8, 8), value, np.uint8), ((3, 3),))
        assert (flooded.islands, int(flooded.ground.sum())) == ((), ground)
