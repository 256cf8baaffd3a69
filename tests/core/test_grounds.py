"""Grounds as strangers bring them: pale art stays, gradients go whole, shadows are told, doubts are said."""

import cv2
import numpy as np
import pytest
from bench.strangers import KINDS, overlap

from perisect.core.artwork import Decoded, MendRecipe, Verdict, judge, mend
from perisect.core.artwork.mend import page_art
from perisect.core.job import DesignRecipe, trace_artwork
from perisect.core.job.artwork_check import artwork_findings
from tests.core import pictures

PLAIN = MendRecipe(background="plain")


def findings(picture: np.ndarray, **mend: object) -> dict[str, object]:
    """What is said of a picture whose background is removed, by code."""
    design = DesignRecipe.model_validate(
        {"id": "d", "name": "Heron", "artwork": "0" * 64, "mend": {"background": "plain", **mend}}
    )
    traced, _ = trace_artwork(Decoded(picture, ()), design.mend)
    return {found.code: found for found in artwork_findings(design, traced)}


@pytest.mark.long
@pytest.mark.parametrize("kind", KINDS)
def test_strangers_are_judged_and_cut_out_or_a_doubt_is_said(kind: str) -> None:
    for seed in range(300, 303):
        rgba, verdict, true = KINDS[kind](np.random.default_rng([list(KINDS).index(kind), seed]))
        judged = judge(rgba)
        assert judged.verdict == verdict, (seed, judged.reason)
        if true is not None and verdict != "clear":
            mended = mend(rgba, judged, MendRecipe(background=verdict))  # type: ignore[arg-type]
            assert overlap(mended.rgba, true) >= 0.98 or mended.doubts, (kind, seed)


def test_art_that_hardly_differs_from_white_stays() -> None:
    # 247 of 255 is 2.8 in L: less than the eye takes for another white on its own, more than a clean ground has.
    cover = pictures.disc()
    picture = pictures.on(255.0, 246.0, cover)
    mended = mend(picture, judge(picture), PLAIN)
    assert overlap(mended.rgba, cover >= 0.5) > 0.99
    # As far from the ground as twice its tolerance would be: so it is pointed at.
    assert [doubt.kind for doubt in mended.doubts] == ["left"]
    (x, y) = mended.doubts[0].x_px, mended.doubts[0].y_px
    assert cover[y, x] == 1
    assert "removal_left" in findings(picture)


def test_a_tolerance_set_by_hand_is_the_one_that_counts() -> None:
    cover = pictures.disc()
    picture = pictures.on(255.0, (225, 240, 250), cover)
    judged = judge(picture)
    lab = cv2.cvtColor(np.float32([[[225, 240, 250]]]) / 255, cv2.COLOR_RGB2LAB)[0, 0]
    apart = float(np.linalg.norm(lab - [100, 0, 0]))
    for tolerance, stays in ((apart - 0.5, True), (apart + 0.5, False)):
        left = mend(picture, judged, PLAIN.model_copy(update={"tolerance": tolerance})).rgba[..., 3] > 127
        assert left[200, 200] == stays


def test_the_tolerance_follows_the_grain() -> None:
    cover, rng = pictures.disc(), np.random.default_rng(4)
    clean = pictures.on(250.0, 60.0, cover)
    grain = rng.normal(0, 4, (400, 400, 3))
    grainy = pictures.solid((clean[..., :3] + grain).clip(0, 255).round().astype(np.uint8))
    measured = [page_art(each, judge(each), PLAIN).tolerance for each in (clean, grainy)]
    assert measured[0] == 2.5
    assert measured[1] is not None
    assert measured[1] > 3.5
    assert overlap(mend(grainy, judge(grainy), PLAIN).rgba, cover >= 0.5) > 0.985


@pytest.mark.parametrize("bend", [1, 2])
def test_a_gradient_goes_whole(bend: int) -> None:
    cover = pictures.disc()
    way = np.linspace(0, 1, 400)[:, None] ** bend * np.ones((1, 400))
    ground = np.array([250, 230, 200]) + way[..., None] * np.array([-40, -60, -20])
    picture = pictures.on(ground, (40, 90, 160), cover)
    judged = judge(picture)
    assert judged.verdict is Verdict.PLAIN
    assert "changes gently" in judged.reason
    assert overlap(mend(picture, judged, PLAIN).rgba, cover >= 0.5) > 0.995


def test_a_soft_shadow_goes_stays_soft_or_is_cut_round() -> None:
    picture, cover, dark = pictures.shadowed()
    judged = judge(picture)
    gone, soft, both = (
        mend(picture, judged, PLAIN.model_copy(update={"shadow": choice}))
        for choice in ("drop", "soft", "with")
    )
    assert overlap(gone.rgba, cover >= 0.5) > 0.985
    assert overlap(soft.rgba, cover >= 0.5) > 0.985
    # On white paper the soft one looks as the picture did, to within some levels.
    a = soft.rgba[..., 3:] / 255
    shown = soft.rgba[..., :3] * a + 255 * (1 - a)
    beside = (cover == 0) & (dark > 0.05)
    assert np.abs(shown - picture[..., :3])[beside].mean() < 4
    # The line round both follows the shadow as far as it can be seen.
    assert (both.rgba[..., 3] > 127)[(dark > 0.05) & (cover == 0)].mean() > 0.99
    assert not (both.rgba[..., 3] > 127)[dark < 0.005][cover[dark < 0.005] == 0].any()
    told = findings(picture)
    assert told["shadow"].remedy.field == "mend.shadow"  # type: ignore[attr-defined]
    assert "shadow" not in findings(picture, shadow="soft")


def test_pale_grey_art_is_no_shadow() -> None:
    cover = pictures.disc()
    picture = pictures.on(255.0, 225.0, cover)
    page = page_art(picture, judge(picture), PLAIN)
    assert not page.shadow
    assert overlap(page.rgba, cover >= 0.5) > 0.995


def test_a_ground_that_runs_into_art_through_a_gap_is_pointed_at() -> None:
    # A ring of the ground's own colour inside, with a gap of 3 px.
    cover = pictures.disc(400, 120) - pictures.disc(400, 110)
    cover[198:201, 300:] = 0
    picture = pictures.on(255.0, 40.0, cover)
    mended = mend(picture, judge(picture), PLAIN)
    assert mended.rgba[200, 200, 3] == 0
    (leak,) = [doubt for doubt in mended.doubts if doubt.kind == "leak"]
    assert np.hypot(leak.x_px - 200, leak.y_px - 200) < 10
    assert leak.area_px == pytest.approx(np.pi * 110**2, rel=0.1)


def test_white_art_on_a_board_of_squares_stays() -> None:
    for light, dark in ((255, 204), (255, 230), (153, 102), (255, 247)):
        y, x = np.mgrid[:400, :400]
        board = np.where((x // 12 + y // 12) % 2 == 0, light, dark)[..., None].repeat(3, 2)
        art = np.where(pictures.disc(400, 60)[..., None] > 0, np.array([light] * 3), np.array([30, 70, 150]))
        cover = pictures.disc()
        picture = pictures.solid(
            (art * cover[..., None] + board * (1 - cover[..., None])).round().astype(np.uint8)
        )
        judged = judge(picture)
        assert judged.verdict is Verdict.CHECKERBOARD, (light, dark)
        mended = mend(picture, judged, MendRecipe(background="checkerboard"))
        assert overlap(mended.rgba, cover >= 0.5) > 0.995, (light, dark)


def test_nothing_left_is_said() -> None:
    picture = pictures.on(255.0, 254.0, pictures.disc())
    mended = mend(picture, judge(picture), PLAIN)
    assert [doubt.kind for doubt in mended.doubts] == ["nothing"]


@pytest.mark.parametrize(
    "size", [(1, 1), (1, 50), (2, 2), (3, 700), (1, 3000), (3000, 2), (8, 8), (17, 1201)]
)
def test_slips_of_pictures_are_judged_and_mended_all_the_same(size: tuple[int, int]) -> None:
    rng, (height, width) = np.random.default_rng(3), size
    across, along = np.linspace(60, 220, width)[None, :, None], np.linspace(60, 220, height)[:, None, None]
    even = np.zeros((height, width, 3))
    for colours in (
        even + rng.integers(0, 256, 3),
        even + across,
        even + along,
        rng.integers(0, 256, even.shape),
    ):
        picture = pictures.solid(colours.astype(np.uint8))
        judged = judge(picture)
        if judged.verdict is Verdict.PLAIN:
            assert mend(picture, judged, PLAIN).rgba.shape == picture.shape
        picked = MendRecipe(picked=((0, 0), (width - 1, height - 1)))
        assert mend(picture, judged, picked).rgba.shape == picture.shape


def eyed(count: int, across_px: int) -> np.ndarray:
    """A dark square of 1000 px on white with so many square patches of white in it."""
    picture = np.full((1200, 1200, 4), 255, np.uint8)
    picture[100:1100, 100:1100, :3] = (40, 60, 130)
    for n in range(count):
        picture[500 : 500 + across_px, 200 + 200 * n : 200 + 200 * n + across_px, :3] = 255
    return picture


@pytest.mark.parametrize("count", [1, 4])
def test_patches_that_the_knife_could_not_close_are_nothing_to_look_at(count: int) -> None:
    """At 60 mm for 1000 px, 8 px are 0.48 mm across and 16 px 0.96; a knife closes loops of 0.75 mm."""
    small, large = (findings(eyed(count, across))["island"] for across in (8, 16))
    assert (small.severity, large.severity) == ("good", "look")
    assert "too small for the knife" in small.text
    assert "too small for the knife" not in large.text
    assert len(large.remedy.places) == count


def test_of_several_patches_those_are_knocked_out_that_the_knife_can_close() -> None:
    picture = eyed(3, 8)
    picture[800:840, 500:540, :3] = 255
    told = findings(picture)["island"]
    assert told.severity == "look"
    assert "3 of them are too small for the knife" in told.text
    assert told.remedy.label == "Remove the other 1 patch"
    ((x, y),) = told.remedy.places
    assert picture[y, x, 0] == 255
    assert 800 <= y < 840
