"""A rim of art and ground mixed gives back what was mixed: Porter and Duff's "over", solved for alpha."""

import numpy as np
import pytest
from numpy.typing import NDArray

from perisect.core.artwork.unmix import unmix

Levels = NDArray[np.uint8]
WHITE = np.array([255, 255, 255], np.float32)


def half_plane(share: float, art: tuple[int, int, int], ground: NDArray[np.float32]) -> Levels:
    """40 x 40, art in the left half, one column that is so much of it, ground to the right."""
    alpha = np.zeros((40, 40))
    alpha[:, :20], alpha[:, 20] = 1, share
    colour = alpha[..., None] * np.array(art) + (1 - alpha[..., None]) * ground
    return np.dstack([colour.round(), np.full((40, 40), 255)]).astype(np.uint8)


def right_of(column: int) -> Levels:
    ground = np.zeros((40, 40), np.uint8)
    ground[:, column:] = 1
    return ground


@pytest.mark.parametrize("share", [0.1, 0.25, 0.5, 0.75, 0.9])
@pytest.mark.parametrize("art", [(180, 30, 40), (0, 0, 0), (20, 110, 200)])
@pytest.mark.parametrize("ground", [WHITE, np.array([40, 160, 90], np.float32)])
def test_a_mixed_column_has_its_share_and_the_art_s_colour(
    share: float, art: tuple[int, int, int], ground: NDArray[np.float32]
) -> None:
    out = unmix(half_plane(share, art, ground), right_of(21), lambda _: ground)
    assert np.abs(out[2:-2, 20, 3] / 255 - share).max() < 0.02
    assert np.abs(out[2:-2, 20, :3].astype(int) - art).max() <= 2


def test_the_palest_of_a_rim_gets_its_share_back_though_it_was_flooded() -> None:
    art = (180, 30, 40)
    out = unmix(half_plane(0.1, art, WHITE), right_of(20), lambda _: WHITE)
    assert np.abs(out[2:-2, 20, 3] / 255 - 0.1).max() < 0.02
    assert (out[:, 22:, 3] == 0).all()


def test_inside_the_art_and_beyond_the_rim_nothing_is_touched() -> None:
    picture = half_plane(0.5, (180, 30, 40), WHITE)
    out = unmix(picture, right_of(21), lambda _: WHITE)
    assert np.array_equal(out[:, :17], picture[:, :17])
    assert (out[:, 23:, 3] == 0).all()


def test_art_that_is_hardly_another_colour_than_the_ground_is_solid() -> None:
    art = (250, 250, 250)  # 8.7 levels from white
    out = unmix(half_plane(1.0, art, WHITE), right_of(20), lambda _: WHITE)
    assert (out[:, :20, 3] == 255).all()
    assert (out[:, 20:, 3] == 0).all()


def test_no_pixel_gets_more_than_the_alpha_it_had() -> None:
    picture = half_plane(0.9, (180, 30, 40), WHITE)
    picture[..., 3] = 120
    assert unmix(picture, right_of(21), lambda _: WHITE)[..., 3].max() == 120


def test_without_ground_a_picture_stays_as_it_is() -> None:
    picture = half_plane(0.5, (180, 30, 40), WHITE)
    assert np.array_equal(unmix(picture, np.zeros((40, 40), np.uint8), lambda _: WHITE), picture)
