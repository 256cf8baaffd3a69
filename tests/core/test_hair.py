"""Hair at the rim of a subject that is cut out of a photo."""

import cv2
import numpy as np
import pytest

from perisect.core.artwork import subject
from perisect.core.artwork.recipe import Mark, SubjectRecipe
from perisect.core.artwork.subject import cut_out, subject_alpha
from tests.core.photos import as_jpeg, furry_photo, iou, marked


def without_hair(monkeypatch: pytest.MonkeyPatch, picture: np.ndarray, recipe: SubjectRecipe) -> np.ndarray:
    with monkeypatch.context() as patch:
        patch.setattr(subject, "with_hair", lambda rgb, alpha, said: None)
        return subject_alpha(picture, recipe)


@pytest.mark.long
@pytest.mark.parametrize(("seed", "strands"), [(1, 25), (2, 80), (3, 200), (4, 200)])
def test_strands_are_kept_and_the_ground_between_them_is_not(
    monkeypatch: pytest.MonkeyPatch, seed: int, strands: int
) -> None:
    """Of what the graph cut alone gets wrong more than half is right, pixel by pixel."""
    picture, truth = furry_photo(seed, strands)
    recipe = marked(picture, truth, 0)
    found = subject_alpha(picture, recipe)
    plain = without_hair(monkeypatch, picture, recipe)
    wrong = [float(np.abs(each / 255 - truth).sum()) for each in (found, plain)]
    assert wrong[0] < 0.6 * wrong[1]
    assert iou(found, truth) > max(0.93, iou(plain, truth))


@pytest.mark.long
@pytest.mark.parametrize(("seed", "blades"), [(1, 0), (5, 0), (2, 150), (3, 400)])
def test_a_smooth_rim_stays_as_it_was_whatever_grows_behind_it(
    monkeypatch: pytest.MonkeyPatch, seed: int, blades: int
) -> None:
    picture, truth = furry_photo(seed, strands=0, blades=blades)
    recipe = marked(picture, truth, 0)
    assert np.array_equal(subject_alpha(picture, recipe), without_hair(monkeypatch, picture, recipe))


@pytest.mark.parametrize(
    ("seed", "quality", "contrast"),
    [
        (31, None, (45, 110)),
        pytest.param(31, 88, (45, 110), marks=pytest.mark.long),
        pytest.param(211, None, (22, 60), marks=pytest.mark.long),
        pytest.param(220, 88, (22, 60), marks=pytest.mark.long),
    ],
)
def test_no_holes_in_a_body_that_is_grained_almost_as_the_ground(
    monkeypatch: pytest.MonkeyPatch, seed: int, quality: int | None, contrast: tuple[float, float]
) -> None:
    """Body is what is left when strands are taken off: a place that a disc of 31 px fits into."""
    picture, truth = furry_photo(seed, 160, contrast=contrast)
    picture = picture if quality is None else as_jpeg(picture, quality)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (31, 31))
    body = cv2.morphologyEx((truth > 0.99).astype(np.uint8), cv2.MORPH_OPEN, disc)
    inner = cv2.erode(body, np.ones((5, 5), np.uint8)) > 0
    recipe = marked(picture, truth, 0)
    found, plain = (
        each[inner] < 128
        for each in (subject_alpha(picture, recipe), without_hair(monkeypatch, picture, recipe))
    )
    assert not (found & ~plain).any()


def test_hair_takes_the_colour_of_the_subject_and_a_stroke_overrules_it() -> None:
    picture, truth = furry_photo(3)
    recipe = marked(picture, truth, 0)
    out = cut_out(np.dstack([picture, np.full(truth.shape, 255, np.uint8)]), recipe)
    body, ground = picture[truth == 1].mean(axis=0), picture[truth == 0].mean(axis=0)
    strand = (truth > 0.2) & (truth < 0.8) & (out[..., 3] > 60)
    towards = (out[strand][:, :3] - body) @ (ground - body) / np.square(ground - body).sum()
    assert np.percentile(towards, 90) < 0.2
    y, x = (int(v) for v in np.argwhere((truth > 0.9) & (out[..., 3] > 200))[0])
    gone = recipe.model_copy(update={"drop": (Mark(radius_px=12, points=((float(x), float(y)),)),)})
    assert subject_alpha(picture, gone)[y, x] < 60
