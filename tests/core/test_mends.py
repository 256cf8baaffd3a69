"""Frames with borders, shapes behind, crop, brush, picked colours, specks one by one, splitting, resampling."""

import numpy as np
import pytest

from perisect.core.artwork import (
    ArtworkError,
    BackingRecipe,
    CropRecipe,
    Decoded,
    FrameRecipe,
    MendRecipe,
    SplitRecipe,
    Stroke,
    judge,
    mend,
)
from perisect.core.artwork.advice import edge_of
from perisect.core.artwork.kind import ArtKind, kind_of_art
from perisect.core.artwork.pieces import find_pieces
from perisect.core.artwork.preview import shrunk
from perisect.core.job import DesignRecipe, JobRecipe, RemedyError, merge_designs, split_design, trace_artwork
from perisect.core.job.artwork_check import artwork_findings
from perisect.core.lines import cut_lines
from tests.core import drawings, pictures
from tests.core.test_background import page_of_drawings

SOLID = pictures.solid(np.full((300, 400, 3), (40, 90, 140), np.uint8))


def disc(radius: float = 60) -> np.ndarray:
    alpha, _ = drawings.coverage(drawings.disc(radius))
    return np.dstack([np.full((*alpha.shape, 3), 90, np.uint8), alpha])


def mended(rgba: np.ndarray, longest_mm: float = 60, **recipe: object) -> np.ndarray:
    return mend(rgba, judge(rgba), MendRecipe.model_validate(recipe), longest_mm).rgba


def test_a_border_outside_takes_its_millimetres_from_the_whole() -> None:
    frame = FrameRecipe(shape="rectangle", border_mm=5, border="outside", colour="#ff0000")
    out = mended(SOLID, 60, frame=frame)
    # 400 px are 60 - 2 * 5 mm: 8 px a mm, 40 px of border each side.
    covered = out[..., 3] > 127
    assert (covered.any(axis=0).sum(), covered.any(axis=1).sum()) == (480, 380)
    red = covered & (out[..., 0] > 250) & (out[..., 1] < 5)
    assert red.sum() == pytest.approx(480 * 380 - 400 * 300, abs=50)


def test_a_border_inside_covers_the_picture_s_edge() -> None:
    out = mended(
        SOLID, 100, frame=FrameRecipe(shape="ellipse", border_mm=5, border="inside", colour="#ffffff")
    )
    assert out.shape[:2] == pytest.approx((300, 400), abs=4)
    white = (out[..., 3] > 127) & (out[..., 0] > 147)  # more border than picture
    # 4 px a mm: the ring between half axes 200 x 150 and 180 x 130.
    assert white.sum() == pytest.approx(np.pi * (200 * 150 - 180 * 130), rel=0.01)


def test_a_border_wider_than_the_piece_is_refused() -> None:
    with pytest.raises(ArtworkError, match="no room"):
        mended(SOLID, 20, frame=FrameRecipe(border_mm=10))
    with pytest.raises(ArtworkError, match="covers the whole"):
        mended(SOLID, 20, frame=FrameRecipe(border_mm=9, border="inside"))


def test_a_circle_behind_art_is_the_least_one_with_its_margin() -> None:
    art = np.zeros((300, 300, 4), np.uint8)
    art[100:200, 80:220] = (10, 20, 30, 255)
    out = mended(art, 60, backing=BackingRecipe(shape="circle", margin_mm=6, colour="#00ff00"))
    across = np.hypot(140, 100)  # px, and 60 - 2 * 6 mm
    whole = across * 60 / 48
    covered = out[..., 3] > 127
    assert covered.sum() == pytest.approx(np.pi * (whole / 2) ** 2, rel=0.01)
    assert (covered & (out[..., 1] > 250) & (out[..., 0] < 5)).sum() == pytest.approx(
        covered.sum() - 14_000, rel=0.01
    )


@pytest.mark.parametrize("shape", ["ellipse", "rounded", "rectangle", "circle"])
def test_every_shape_behind_holds_the_art(shape: str) -> None:
    art = disc(70)
    art[10:20, :40] = (200, 10, 10, 255)
    backing = BackingRecipe.model_validate(
        {"shape": shape, "margin_mm": 2, "radius_mm": 40, "colour": "#123456"}
    )
    out = mended(art, 50, backing=backing)
    traced, _ = trace_artwork(Decoded(art, ()), MendRecipe(backing=backing), 50)
    assert len(traced.outline.shape.geoms) == 1
    assert not any(part.interiors for part in traced.outline.shape.geoms)
    red = (out[..., 0] == 200) & (out[..., 3] == 255)
    assert red.sum() == 400  # nothing of the art was cut off


def test_a_crop_is_true_and_a_stretch_is_as_much_as_it_says() -> None:
    out = mended(SOLID, crop=CropRecipe(left_px=10, top_px=20, width_px=200, height_px=100))
    assert out.shape == (100, 200, 4)
    taller = mended(SOLID, crop=CropRecipe(left_px=0, top_px=0, width_px=400, height_px=300, stretch=1.1))
    assert taller.shape == (330, 400, 4)
    wider = mended(SOLID, crop=CropRecipe(left_px=0, top_px=0, width_px=400, height_px=300, stretch=0.8))
    assert wider.shape == (300, 500, 4)
    traced, _ = trace_artwork(
        Decoded(SOLID, ()), MendRecipe(crop=CropRecipe(left_px=10, top_px=20, width_px=200, height_px=100))
    )
    assert traced.shown_at(60, 50) == (50, 30)


def test_the_eraser_takes_and_the_restore_brush_brings_back() -> None:
    stroke = {"radius_px": 10, "points": ((100, 150), (300, 150))}
    erased = mended(SOLID, strokes=(Stroke(kind="erase", **stroke),))
    gone = 255 * 400 * 300 - erased[..., 3].astype(int).sum()
    assert gone / 255 == pytest.approx(200 * 20 + np.pi * 100, rel=0.03)  # a stroke with round ends
    back = mended(SOLID, strokes=(Stroke(kind="erase", **stroke), Stroke(kind="restore", **stroke)))
    assert back[150, 200, 3] == 255
    page = np.full((200, 200, 4), 255, np.uint8)
    page[60:140, 60:140, :3] = (20, 60, 120)
    dot = Stroke(kind="restore", radius_px=6, points=((20, 20),))
    with_dot = mended(page, background="plain", strokes=(dot,))
    assert tuple(with_dot[20, 20]) == (255, 255, 255, 255)  # white paper, as it came


def test_a_stroke_beside_the_picture_does_nothing() -> None:
    assert (
        mended(SOLID, strokes=(Stroke(kind="erase", radius_px=5, points=((-900, 5000),)),)) == SOLID
    ).all()


def test_a_colour_that_was_pointed_at_goes_as_far_as_it_hangs_together() -> None:
    art = np.zeros((200, 300, 4), np.uint8)
    art[20:180, 20:280] = (200, 40, 40, 255)
    art[60:140, 60:100, :3] = (30, 160, 60)
    art[60:140, 200:240, :3] = (30, 160, 60)
    out = mended(art, picked=((80, 100),))
    assert out[100, 80, 3] == 0
    assert out[100, 220, 3] == 255  # the same colour elsewhere stays
    assert out[10, 10, 3] == 0  # and what was clear stays clear
    assert (mended(art, picked=((5, 5), (900, 900))) == art).all()


def test_specks_go_by_size_and_one_by_one() -> None:
    art = np.zeros((200, 200, 4), np.uint8)
    art[50:150, 50:150] = (10, 20, 30, 255)
    for x, side in ((10, 3), (20, 6), (30, 9)):
        art[10 : 10 + side, x : x + side] = (10, 20, 30, 255)
    traced, _ = trace_artwork(Decoded(art, ()), MendRecipe(specks_px2=40))
    assert [part.area_px for part in traced.loose] == [9, 36, 81]  # all are listed, that one may be kept
    small, middle, large = (part.place for part in traced.loose)
    recipe = MendRecipe(specks_px2=40, specks_kept=(middle,), specks_gone=(large,))
    left, rgba = trace_artwork(Decoded(art, ()), recipe)
    assert (rgba[..., 3] > 0).sum() == 100 * 100 + 36
    assert [part.place for part in left.loose_left(recipe)] == [middle]
    assert small not in (middle, large)


def test_the_joining_distance_decides_what_is_one_drawing() -> None:
    page = np.zeros((600, 600, 4), np.uint8)
    page[100:200, 100:200] = 255
    page[100:200, 220:320] = 255  # 20 px away
    page[400:500, 100:200] = 255  # 200 px away

    def count(**split: float) -> int:
        return len(find_pieces(page, SplitRecipe(**split)))

    assert [count(joining_px=px) for px in (0, 15, 24, 190, 210)] == [3, 3, 2, 2, 1]
    assert count(joining_px=0, despeckle_px=101) == 0
    # What the screen's reduction shows is what the page itself gives, to a pixel of that.
    shown = find_pieces(shrunk(page, 300), SplitRecipe(joining_px=24), 600)
    made = find_pieces(page, SplitRecipe(joining_px=24))
    boxes = [[(p.left_px, p.top_px, p.width_px, p.height_px) for p in found] for found in (shown, made)]
    assert np.abs(np.subtract(*boxes)).max() <= 2


def test_a_sail_above_its_hull_is_one_drawing() -> None:
    page = np.zeros((600, 600, 4), np.uint8)
    page[100:300, 200:400] = 255
    page[140:260, 240:360] = 0
    page[180:220, 280:320] = 255  # inside the ring, 40 px from it
    page[450:550, 50:150] = 255
    assert len(find_pieces(page)) == 2


@pytest.mark.slow
def test_drawings_are_put_together_and_parted_again() -> None:
    decoded = Decoded(page_of_drawings(np.random.default_rng(1)), ())
    artwork, _ = trace_artwork(decoded)
    page = DesignRecipe(id="d1", name="Birds", artwork="a" * 64, longest_mm=280)
    recipe = split_design(JobRecipe(designs=(page,)), "d1", artwork)
    first, second, third = recipe.designs[:3]
    traced = {d.id: trace_artwork(decoded, d.mend)[0] for d in (first, second, third)}
    merged = merge_designs(recipe, [first.id, second.id], traced)
    assert len(merged.designs) == 23
    both = merged.designs[0]
    assert (both.name, len(both.mend.drawings)) == ("Birds 1", 2)
    again, _ = trace_artwork(decoded, both.mend)
    left, right = traced[first.id].box_came_px, traced[second.id].box_came_px
    assert again.outline.longest_px == pytest.approx(right[2] - left[0], abs=3)
    assert both.longest_mm == pytest.approx(
        again.outline.longest_px * 280 / artwork.outline.longest_px, rel=0.01
    )
    parted = split_design(merged, both.id, again)
    assert len(parted.designs) == 22 + len(again.pieces)
    with pytest.raises(RemedyError):
        merge_designs(recipe, [first.id], traced)
    with pytest.raises(RemedyError):
        merge_designs(JobRecipe(designs=(page, first)), ["d1", first.id], traced | {"d1": artwork})


def test_a_drawing_whose_middle_is_erased_is_still_that_drawing() -> None:
    page = np.zeros((400, 900, 4), np.uint8)
    for x in (100, 400, 700):
        page[100:300, x : x + 150] = (20, 90, 140, 255)
    middle = find_pieces(page)[1]
    place = (middle.x_px, middle.y_px)
    stroke = Stroke(kind="erase", radius_px=30, points=(place,))
    traced, rgba = trace_artwork(Decoded(page, ()), MendRecipe(drawings=(place,), strokes=(stroke,)))
    left, _, right, _ = traced.outline.box_px
    assert right - left == pytest.approx(150, abs=1)
    assert rgba.shape[1] < 160  # and nothing of the page is kept beside it
    assert traced.shown_at(400, 100) == (3, 3)


def test_drawings_of_a_page_know_only_their_own_islands_and_loose_parts() -> None:
    page = np.full((400, 900, 4), 255, np.uint8)
    for x in (100, 500):
        page[100:300, x : x + 200, :3] = (20, 90, 140)
        page[150:200, x + 50 : x + 100, :3] = 255
    recipe = MendRecipe(background="plain")
    whole, _ = trace_artwork(Decoded(page, ()), recipe)
    assert len(whole.islands) == 2
    for number, piece in enumerate(whole.pieces):
        alone, _ = trace_artwork(
            Decoded(page, ()), recipe.model_copy(update={"drawings": ((piece.x_px, piece.y_px),)})
        )
        (island,) = alone.islands
        assert island == sorted(whole.islands, key=lambda i: i.x_px)[number]


def test_enlarging_adds_pixels_and_no_detail() -> None:
    art = disc(40)
    recipe = MendRecipe(enlarge=3)
    traced, rgba = trace_artwork(Decoded(art, ()), recipe)
    assert rgba.shape[:2] == (art.shape[0] * 3, art.shape[1] * 3)
    plain, _ = trace_artwork(Decoded(art, ()))
    assert traced.outline.longest_px == pytest.approx(3 * plain.outline.longest_px, abs=0.3)
    design = DesignRecipe(id="d", name="Disc", artwork="a" * 64, longest_mm=20, mend=recipe)
    (told,) = [f for f in artwork_findings(design, traced) if f.code == "resolution"]
    assert told.measured == pytest.approx(80 / 20 * 25.4, abs=1)
    assert "added no detail" in told.text


def test_kinds_of_art_are_told_apart() -> None:
    rng = np.random.default_rng(2)
    assert kind_of_art(pictures.art(rng, 500)) is ArtKind.DRAWING
    assert kind_of_art(pictures.solid(pictures.photo(rng, 500))) is ArtKind.PHOTOGRAPH
    flat = pictures.as_jpeg(pictures.over(pictures.art(rng, 500), pictures.plain(rng, 500)), 75)
    assert kind_of_art(pictures.solid(flat)) is ArtKind.DRAWING
    ring, _ = drawings.coverage(drawings.ring(200, 194))
    assert kind_of_art(np.dstack([np.full((*ring.shape, 3), 20, np.uint8), ring])) is ArtKind.LINE


def findings(rgba: np.ndarray, longest_mm: float = 40, **design: object) -> dict[str, object]:
    traced, _ = trace_artwork(Decoded(rgba, ()))
    made = DesignRecipe.model_validate(
        {"id": "d", "name": "Art", "artwork": "a" * 64, "longest_mm": longest_mm} | design
    )
    return {
        f.code: f
        for f in artwork_findings(made, traced, cut_lines(traced.outline, longest_mm, made.border_mm))
    }


def test_art_cut_flat_by_the_picture_s_edge_is_pointed_at() -> None:
    art = disc(100)[:150]  # its lower part is missing
    flat = findings(art)["flat"]
    row = np.flatnonzero(art[-1, :, 3] > 127)
    traced, _ = trace_artwork(Decoded(art, ()))
    scale = 40 / traced.outline.longest_px
    assert flat.measured == pytest.approx(len(row) * scale, abs=0.1)
    assert flat.where_mm == pytest.approx((20, (150 - traced.outline.box_px[1]) * scale), abs=0.2)
    assert "flat" not in findings(disc(100))


def test_thin_busy_and_pale_art_is_pointed_at_and_a_plain_disc_is_not() -> None:
    plain = findings(disc(100), border_mm=0)
    assert set(plain) == {"resolution"}
    wand = np.zeros((300, 500, 4), np.uint8)
    wand[50:250, 50:250] = (20, 60, 120, 255)
    wand[145:151, 250:450] = (20, 60, 120, 255)  # 6 of 400 px: 0.6 mm at 40
    thin = findings(wand, border_mm=0)["thin"]
    assert thin.where_mm[0] > 20
    assert findings(wand, border_mm=2)["thin"].severity == "good"
    comb = np.zeros((300, 420, 4), np.uint8)
    comb[20:280, 20:400:20] = comb[20:280, 21:400:20] = comb[20:280, 22:400:20] = (20, 60, 120, 255)
    comb[140:150, 20:400] = (20, 60, 120, 255)
    assert findings(comb)["busy"].measured > 2.6
    pale = disc(100)
    pale[..., :3] = 246
    assert findings(pale)["pale"].measured > 0.9


def test_the_edge_s_contrast_is_that_of_its_colour() -> None:
    grey = disc(80)
    grey[..., :3] = 119  # L* = 50: CIELAB of sRGB 119
    assert edge_of(grey).contrast == pytest.approx(50, abs=0.5)
