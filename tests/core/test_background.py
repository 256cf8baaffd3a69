"""Backgrounds: the verdict is right, and what is removed leaves the art and nothing else."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image, ImageCms

from perisect.core.artwork import (
    ArtworkError,
    Decoded,
    FrameRecipe,
    Judged,
    MendRecipe,
    Verdict,
    decode,
    judge,
    mend,
)
from perisect.core.artwork.pieces import find_pieces, only_drawings
from perisect.core.artwork.specks import loose_parts
from perisect.core.job import DesignRecipe, JobRecipe, split_design, trace_artwork
from tests.core import drawings, pictures

SIZE = 320
SEEDS = range(12)


def backgrounds(seed: int) -> list[tuple[Verdict, np.ndarray, np.ndarray]]:
    """The same art on every kind of background, half of it after JPEG: verdict, picture, true art."""
    rng = np.random.default_rng([7, seed])
    art = pictures.art(rng, SIZE)
    made = [(Verdict.CLEAR, art, art)]
    for verdict, behind in (
        (Verdict.PLAIN, pictures.plain(rng, SIZE)),
        (Verdict.CHECKERBOARD, pictures.squares(rng, SIZE)),
    ):
        flat = pictures.over(art, behind)
        if seed % 2:
            flat = pictures.as_jpeg(flat, int(rng.integers(70, 96)))
        made.append((verdict, pictures.solid(flat), art))
    made.append((Verdict.PHOTOGRAPH, pictures.solid(pictures.photo(rng, SIZE)), art))
    return made


def without_background(picture: np.ndarray, judged: Judged) -> np.ndarray:
    """As a person would: remove it, then knock out what is left inside."""
    recipe = MendRecipe(background=judged.verdict.value)  # type: ignore[arg-type]
    islands = mend(picture, judged, recipe).islands
    places = (
        tuple((island.x_px, island.y_px) for island in islands) if judged.verdict is Verdict.PLAIN else ()
    )
    return mend(picture, judged, recipe.model_copy(update={"knock_out": places})).rgba


@pytest.mark.parametrize("seed", SEEDS)
def test_verdicts(seed: int) -> None:
    for wanted, picture, _ in backgrounds(seed):
        judged = judge(picture)
        assert judged.verdict is wanted, judged.reason
        assert judged.reason.endswith(".")
        assert 0 < judged.confidence <= 1


@pytest.mark.long
@pytest.mark.slow
def test_removal_against_the_true_alpha() -> None:
    overlap: dict[Verdict, list[float]] = {Verdict.PLAIN: [], Verdict.CHECKERBOARD: []}
    rim: dict[Verdict, list[float]] = {Verdict.PLAIN: [], Verdict.CHECKERBOARD: []}
    for seed in SEEDS:
        for verdict, picture, art in backgrounds(seed)[1:3]:
            found = without_background(picture, judge(picture))
            ours, true = found[..., 3] > 127, art[..., 3] > 127
            overlap[verdict].append((ours & true).sum() / (ours | true).sum())
            if seed % 2 == 0:
                edge = (art[..., 3] > 0) & (art[..., 3] < 255)
                on_black = [a[..., :3].astype(float) * a[..., 3:] / 255 for a in (found, art)]
                rim[verdict].append(np.abs(on_black[0] - on_black[1])[edge].mean())
    assert np.mean(overlap[Verdict.PLAIN]) >= 0.99
    assert np.mean(overlap[Verdict.CHECKERBOARD]) >= 0.98
    assert np.mean(rim[Verdict.PLAIN]) < 4
    assert np.mean(rim[Verdict.CHECKERBOARD]) < 4


def test_white_inside_the_art_stays_until_it_is_knocked_out() -> None:
    picture = np.full((200, 200, 4), 255, np.uint8)
    picture[50:150, 50:150, :3] = (20, 60, 120)
    picture[80:120, 80:120, :3] = 255  # a white sail
    judged = judge(picture)
    kept = mend(picture, judged, MendRecipe(background="plain"))
    assert kept.rgba[100, 100, 3] == 255
    assert kept.rgba[10, 10, 3] == 0
    (island,) = kept.islands
    assert island.area_px == 40 * 40
    gone = mend(picture, judged, MendRecipe(background="plain", knock_out=((island.x_px, island.y_px),)))
    assert gone.rgba[100, 100, 3] == 0
    assert (picture[..., 3] == 255).all()  # the original is never touched


def test_feathered_edges_are_measured() -> None:
    ramp = np.clip((150 - np.hypot(*(np.mgrid[:400, :400] - 200))) / 20 + 0.5, 0, 1)
    rgba = np.dstack([np.full((400, 400, 3), 90, np.uint8), (ramp * 255).astype(np.uint8)])
    judged = judge(rgba)
    assert judged.verdict is Verdict.FEATHERED
    # Coverage from 16 to 239 of 255 on a ramp of 20 px: 17.5 px.
    assert judged.soft_edge_px == pytest.approx(17.5, rel=0.1)


def test_a_mend_for_another_background_is_refused() -> None:
    picture = pictures.solid(pictures.photo(np.random.default_rng(1), 200))
    with pytest.raises(ArtworkError, match="no plain background"):
        mend(picture, judge(picture), MendRecipe(background="plain"))


def test_specks_are_found_and_only_they_are_removed() -> None:
    alpha, _ = drawings.coverage(drawings.disc(60))
    alpha[2:5, 2:5] = 255
    alpha[-9:-3, 3:9] = 255
    rgba = np.dstack([np.full((*alpha.shape, 3), 90, np.uint8), alpha])
    assert [part.area_px for part in loose_parts(rgba)] == [9, 36]
    judged = judge(rgba)
    small = mend(rgba, judged, MendRecipe(specks_px2=10)).rgba
    assert [part.area_px for part in loose_parts(small)] == [36]
    both = mend(rgba, judged, MendRecipe(specks_px2=1e6)).rgba
    assert loose_parts(both) == ()
    assert (both[..., 3] > 127).sum() == pytest.approx(np.pi * 60**2, rel=0.01)  # the largest stays


@pytest.mark.parametrize(
    ("frame", "area"),
    [
        (FrameRecipe(shape="rectangle"), 400 * 300),
        (FrameRecipe(shape="ellipse"), np.pi * 200 * 150),
        (FrameRecipe(shape="circle"), np.pi * 150**2),
        (FrameRecipe(shape="rounded", radius_mm=9), 400 * 300 - (4 - np.pi) * 60**2),
    ],
)
def test_frames_have_the_area_of_their_shape(frame: FrameRecipe, area: float) -> None:
    picture = pictures.solid(pictures.photo(np.random.default_rng(2), 400)[:300])
    framed = mend(picture, judge(picture), MendRecipe(frame=frame), longest_mm=60).rgba
    assert framed[..., 3].sum() / 255 == pytest.approx(area, rel=1e-3)
    assert framed.shape == picture.shape


def page_of_drawings(rng: np.random.Generator) -> np.ndarray:
    """An A4 page at 300 ppi: 24 drawings in rows, some in parts that nearly touch, and 200 specks."""
    alpha = np.zeros((3508, 2480), np.uint8)
    for row in range(6):
        for column in range(4):
            x, y = 310 + column * 620, 290 + row * 580
            cv2.circle(alpha, (x, y), int(rng.integers(90, 200)), 255, -1, cv2.LINE_AA)
            if (row + column) % 3 == 0:  # a letter's dot: 8 px away
                cv2.rectangle(alpha, (x - 20, y + 230), (x + 20, y + 250), 255, -1)
                cv2.rectangle(alpha, (x - 20, y), (x + 20, y + 222), 255, -1)
    for x, y in rng.integers(5, (2470, 3495), (200, 2)):
        cv2.circle(alpha, (int(x), int(y)), int(rng.integers(1, 4)), 255, -1)
    return np.dstack([np.full((*alpha.shape, 3), 80, np.uint8), alpha])


def test_a_page_of_24_drawings_with_200_specks_splits_into_24() -> None:
    page = page_of_drawings(np.random.default_rng(1))
    pieces = find_pieces(page)
    assert len(pieces) == 24
    assert [p.left_px // 620 for p in pieces] == [0, 1, 2, 3] * 6  # in reading order
    piece = pieces[9]
    alone = only_drawings(page, ((piece.x_px, piece.y_px),))
    y, x = np.nonzero(alone[..., 3] > 127)
    # The page is told apart at 1400 px: a pixel of that is two and a half of the page.
    assert (x.min(), y.min()) == pytest.approx((piece.left_px, piece.top_px), abs=3)
    size = (x.max() + 1 - x.min(), y.max() + 1 - y.min())
    assert size == pytest.approx((piece.width_px, piece.height_px), abs=5)


def test_each_drawing_becomes_a_design_at_the_page_s_scale() -> None:
    artwork, _ = trace_artwork(Decoded(page_of_drawings(np.random.default_rng(1)), ()))
    page = DesignRecipe(id="d1", name="Birds", artwork="a" * 64, longest_mm=280)
    split = split_design(JobRecipe(designs=(page,)), "d1", artwork)
    assert [design.name for design in split.designs][:2] == ["Birds 1", "Birds 2"]
    scale = 280 / artwork.outline.longest_px
    for design, piece in zip(split.designs, artwork.pieces, strict=True):
        assert design.longest_mm == pytest.approx(max(piece.width_px, piece.height_px) * scale, abs=0.01)
        assert design.mend.drawings == ((piece.x_px, piece.y_px),)


def saved(image: Image.Image, kind: str, **options: object) -> bytes:
    file = io.BytesIO()
    image.save(file, kind, **options)
    return file.getvalue()


PHOTO = Image.fromarray(pictures.photo(np.random.default_rng(3), 120)[:80])


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "TIFF"])
def test_every_kind_comes_in_and_a_cut_off_one_is_refused(kind: str) -> None:
    data = saved(PHOTO, kind)
    decoded = decode(data)
    assert decoded.rgba.shape == (80, 120, 4)
    assert np.abs(decoded.rgba[..., :3].astype(int) - np.asarray(PHOTO)).mean() < 12
    with pytest.raises(ArtworkError):
        decode(data[: len(data) // 2])


def test_a_camera_s_turn_is_taken_and_said() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6
    decoded = decode(saved(PHOTO, "JPEG", exif=exif.tobytes(), quality=95))
    assert decoded.rgba.shape == (120, 80, 4)
    assert decoded.notes == ("It was rotated by its EXIF orientation.",)


def test_printing_colours_and_profiles_come_to_the_screen() -> None:
    cmyk = decode(saved(Image.new("CMYK", (20, 20), (0, 255, 255, 0)), "JPEG", quality=95))
    red, green, blue = cmyk.rgba[10, 10, :3].astype(int)
    assert red > 200
    assert max(green, blue) < 80
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    tagged = decode(saved(PHOTO, "PNG", icc_profile=lab))
    assert np.abs(tagged.rgba[..., :3].astype(int) - np.asarray(PHOTO)).max() <= 1
    broken = decode(saved(PHOTO, "PNG", icc_profile=b"not a profile at all"))
    assert "profile" in broken.notes[0]


def test_of_an_animation_the_first_frame_is_used_and_said() -> None:
    frames = [Image.new("RGBA", (30, 30), colour) for colour in ("red", "blue")]
    decoded = decode(saved(frames[0], "WEBP", save_all=True, append_images=frames[1:], lossless=True))
    assert decoded.rgba[15, 15, 0] > 200
    assert decoded.notes == ("It holds 2 pictures; the first one is used.",)
