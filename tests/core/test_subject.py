"""A subject cut out of a photo by a box and a few strokes, and the colours of a drawing exchanged."""

import json

import numpy as np
import pytest

from perisect.core.artwork import MendRecipe
from perisect.core.artwork.palette import palette_of, recoloured
from perisect.core.artwork.recipe import Mark, RecolourRecipe, SubjectRecipe
from perisect.core.artwork.rendered import Decoded
from perisect.core.artwork.subject import cut_out, subject_alpha
from perisect.core.job import DesignRecipe, trace_artwork
from tests.core.photos import as_jpeg, furry_photo, iou, marked, photo


@pytest.mark.long
def test_a_subject_is_found_by_a_box_and_three_strokes_at_most() -> None:
    """Eight photos here; a hundred are in bench."""
    found = []
    for seed in range(100, 108):
        picture, truth = photo(seed)
        recipe = marked(picture, truth)
        assert len(recipe.keep) + len(recipe.drop) <= 3
        found.append(iou(subject_alpha(picture, recipe), truth))
    assert np.median(found) >= 0.97
    assert min(found) >= 0.90


@pytest.mark.parametrize(
    ("quality", "strands", "least"), [(92, 0, 0.97), (75, 0, 0.97), (92, 160, 0.9), (75, 160, 0.88)]
)
def test_a_subject_is_found_in_what_a_camera_keeps(quality: int, strands: int, least: float) -> None:
    """A JPEG is smoother than what it shows: colour models of hardly any spread took most of the box for subject."""
    for seed in (28, 32):
        picture, truth = furry_photo(seed, strands)
        assert iou(subject_alpha(as_jpeg(picture, quality), marked(picture, truth, 0)), truth) >= least


def test_strokes_overrule_what_was_worked_out() -> None:
    picture, truth = photo(3)
    ys, xs = np.nonzero(truth > 0.5)
    box = (float(xs.min() - 12), float(ys.min() - 12), float(xs.max() + 12), float(ys.max() + 12))
    y, x = int(np.median(ys)), int(np.median(xs))
    assert subject_alpha(picture, SubjectRecipe(box=box))[y, x] > 200
    gone = SubjectRecipe(box=box, drop=(Mark(radius_px=25, points=((x, y), (x + 20.0, y))),))
    assert subject_alpha(picture, gone)[y, x] < 60
    corner = SubjectRecipe(box=box, keep=(Mark(radius_px=12, points=((20.0, 20.0),)),))
    assert subject_alpha(picture, corner)[20, 20] > 200  # outside the box, and yet it stays


def test_the_rim_of_a_subject_holds_none_of_its_ground_and_is_cut_smoothly() -> None:
    ground, body = np.array([30, 90, 200]), np.array([220, 160, 60])
    y, x = np.mgrid[0:500, 0:500]
    share = np.clip(150.5 - np.hypot(x - 250, y - 250), 0, 1)[..., None]
    picture = np.round(ground * (1 - share) + body * share).astype(np.uint8)
    rgba = np.dstack([picture, np.full((500, 500), 255, np.uint8)])
    out = cut_out(rgba, SubjectRecipe(box=(80, 80, 420, 420)))
    rim = (out[..., 3] > 20) & (out[..., 3] < 235)
    assert np.abs(out[rim][:, :3].astype(int) - body).max() <= 12
    assert (out[..., 3] > 127).sum() == pytest.approx(np.pi * 150**2, rel=0.01)
    mend = MendRecipe(subject=SubjectRecipe(box=(80, 80, 420, 420)))
    traced, _ = trace_artwork(Decoded(rgba, ()), mend, 60)
    ring = np.asarray(traced.outline.shape.geoms[0].exterior.coords)
    assert np.hypot(*(ring - 250).T) == pytest.approx(150, abs=1.5)


def test_what_was_mended_before_keeps_its_name() -> None:
    told = json.loads(MendRecipe(specks_px2=4).model_dump_json())
    assert "subject" not in told
    assert "recolour" not in told
    assert MendRecipe.model_validate(told) == MendRecipe(specks_px2=4)
    design = DesignRecipe(id="d1", name="Disc", artwork="a" * 64, mend=MendRecipe(specks_px2=4))
    changed = design.model_copy(update={"mend": MendRecipe(specks_px2=4, subject=SubjectRecipe())})
    assert design.picture != changed.picture


def flag() -> np.ndarray:
    """Half red, a third white, the rest dark, a soft rim between red and white, a shade of the red."""
    rgba = np.zeros((60, 120, 4), np.uint8)
    rgba[..., 3] = 255
    rgba[:, :60, :3] = (200, 40, 40)
    rgba[:10, :60, :3] = (180, 28, 30)
    rgba[:, 60:100, :3] = (250, 250, 250)
    rgba[:, 59, :3] = (225, 145, 145)
    rgba[:, 100:, :3] = (20, 30, 60)
    return rgba


def test_colours_are_told_by_area_and_shades_of_one_as_that_one() -> None:
    found = palette_of(flag())
    shares = [each.share for each in found]
    assert shares == pytest.approx([1 / 2, 1 / 3, 1 / 6], abs=0.02)
    assert found[1].colour == "#fafafa"


def test_an_exchanged_colour_takes_its_shades_and_its_rims_along() -> None:
    art = flag()
    out = recoloured(art, RecolourRecipe(exchanges=({"old": palette_of(art)[0].colour, "new": "#2050c0"},)))
    assert out[30, 20, :3] == pytest.approx([32, 80, 192], abs=4)
    # What was 20 and 12 levels darker is so still.
    assert out[5, 20, :3].astype(int) - out[30, 20, :3] == pytest.approx([-20, -12, -10], abs=3)
    # Half way between red and white is half way between blue and white now.
    assert out[30, 59, :3] == pytest.approx((np.array([32, 80, 192]) + 250) / 2, abs=12)
    assert (out[30, 80], out[30, 110].tolist()) == (pytest.approx(art[30, 80]), art[30, 110].tolist())
    assert np.array_equal(out[..., 3], art[..., 3])


def test_fewer_colours_one_colour_and_inverted() -> None:
    art = flag()
    two = recoloured(art, RecolourRecipe(most=2))
    assert {each.colour for each in palette_of(two)} <= {each.colour for each in palette_of(art)[:2]}
    one = recoloured(art, RecolourRecipe(form="one", colour="#102030"))
    assert one[30, 110].tolist() == [16, 32, 48, 255]
    assert one[30, 80, 3] == 0  # white is left clear
    assert recoloured(art, RecolourRecipe(form="inverted"))[30, 80].tolist() == [5, 5, 5, 255]


def test_a_subject_that_is_cut_out_is_not_asked_for_a_frame() -> None:
    from perisect.core.job.artwork_check import background_finding

    picture, truth = photo(5)
    rgba = np.dstack([picture, np.full(truth.shape, 255, np.uint8)])
    whole = DesignRecipe(id="d1", name="Quay", artwork="a" * 64)
    traced, _ = trace_artwork(Decoded(rgba, ()), whole.mend, 60)
    assert background_finding(whole, traced) is not None
    out = whole.model_copy(update={"mend": MendRecipe(subject=marked(picture, truth, 0))})
    traced, _ = trace_artwork(Decoded(rgba, ()), out.mend, 60)
    assert background_finding(out, traced) is None
