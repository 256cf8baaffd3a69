"""Bleed has the colour of the nearest art, found here by a search tree, and the art stays as it is."""

import io

import numpy as np
import pikepdf
import pypdfium2
import pytest
from scipy.ndimage import distance_transform_edt
from scipy.spatial import cKDTree

from perisect.core.artwork import Decoded
from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe, plan_job, trace_artwork
from perisect.core.job.bleed_check import bleed_findings
from perisect.core.job.files import print_pdf, under_picture
from perisect.core.prepress.bleed_growth import bleed_under
from perisect.core.prepress.print_file import encode_picture
from tests.core import drawings, pictures


@pytest.mark.parametrize("seed", range(6))
def test_every_point_of_the_zone_has_the_colour_of_its_nearest_art_pixel(seed: int) -> None:
    art = pictures.art(np.random.default_rng(seed), 240)
    before = art.copy()
    under, pad = bleed_under(art, 17.0)
    assert (art == before).all()
    solid = np.argwhere(art[..., 3] >= 128)
    tree = cKDTree(solid)
    y, x = np.indices(under.shape[:2]) - pad
    away, _ = tree.query(np.column_stack([y.ravel(), x.ravel()]))
    away = away.reshape(under.shape[:2])
    assert ((under[..., 3] == 255) == (away <= 17.0)).all()
    # Of several equally near pixels any will do.
    rows = np.argwhere((away > 0) & (away <= 17.0))[::7]
    for row, column in rows:
        near = tree.query_ball_point([row - pad, column - pad], away[row, column] + 1e-9)
        colours = {tuple(art[tuple(solid[n])][:3]) for n in near}
        assert tuple(under[row, column, :3]) in colours


def test_far_from_a_large_shape_the_nearest_is_still_the_nearest() -> None:
    """By SciPy's exact transform; the colour of each pixel says where it is."""
    y, x = np.indices((900, 900))
    solid = (np.hypot(x - 450, y - 440) < 300) & ((x - 520) ** 2 + (y - 300) ** 2 > 70**2)
    art = np.dstack([x % 256, y % 256, x // 256 + 16 * (y // 256), solid * 255]).astype(np.uint8)
    under, pad = bleed_under(art, 130.0)
    away = distance_transform_edt(np.pad(~solid, pad, constant_values=True))
    zone = (away > 0) & (away <= 130)
    red, green, blue = (under[..., channel].astype(int) for channel in range(3))
    y, x = np.indices(under.shape[:2]) - pad
    there = np.hypot(red + 256 * (blue % 16) - x, green + 256 * (blue // 16) - y)
    assert there[zone] == pytest.approx(away[zone], abs=1e-6)


def job(**design: object) -> tuple[JobRecipe, dict, np.ndarray]:
    alpha, _ = drawings.coverage(drawings.disc(200))
    rgba = np.dstack([np.full(alpha.shape, c, np.uint8) for c in (15, 92, 87)] + [alpha])
    traced, rgba = trace_artwork(Decoded(rgba, ()))
    made = DesignRecipe.model_validate(
        {"id": "d1", "name": "Disc", "artwork": "a" * 64, "longest_mm": 40} | design
    )
    recipe = JobRecipe(designs=(made,), sheet=SheetRecipe(fill=False, gap_mm=4))
    return recipe, {made.picture: traced}, rgba


def printed(**design: object) -> np.ndarray:
    """The page of one disc of 40 mm, red, green, blue at 300 ppi."""
    recipe, traced, rgba = job(**design)
    plan = plan_job(recipe, traced)
    made = recipe.designs[0]
    under = under_picture(plan, made, rgba)
    pdf = print_pdf(plan, 0, {made.picture: encode_picture(rgba)}, {made.id: under} if under else {})
    assert len(pikepdf.open(io.BytesIO(pdf)).pages) == 1
    page = pypdfium2.PdfDocument(pdf)[0].render(scale=300 / 72, fill_color=(255, 255, 255, 255))
    return page.to_numpy()[..., 2::-1]


def across(page: np.ndarray, rgb: tuple[int, int, int]) -> float:
    """Diameter in mm of what is printed in a colour, from its area as a disc."""
    like = np.abs(page.astype(int) - rgb).max(axis=2) < 40
    return float(np.sqrt(like.sum() / np.pi) * 2 * 25.4 / 300)


@pytest.mark.slow
def test_bleed_reaches_past_the_line_and_no_further_than_half_the_gap() -> None:
    teal = (15, 92, 87)
    assert across(printed(border_mm=0), teal) == pytest.approx(40, abs=0.15)
    assert across(printed(border_mm=0, lines={"bleed_mm": 1.5}), teal) == pytest.approx(43, abs=0.15)
    assert across(printed(border_mm=0, lines={"bleed_mm": 9}), teal) == pytest.approx(44, abs=0.15)


def test_a_coloured_border_is_printed_up_to_its_line_and_past_it_by_the_bleed() -> None:
    red = (200, 40, 30)
    page = printed(border_mm=3, lines={"border_colour": "#c8281e", "bleed_mm": 1})
    ring = np.abs(page.astype(int) - red).max(axis=2) < 40
    area = np.pi / 4 * (48**2 - 40**2) * (300 / 25.4) ** 2
    assert ring.sum() == pytest.approx(area, rel=0.04)  # without its half-covered rims


def test_bleed_is_recommended_where_colour_touches_the_line_and_only_there() -> None:
    def said(**design: object) -> list[tuple[str, str]]:
        recipe, traced, _ = job(**design)
        made = recipe.designs[0]
        lines = plan_job(recipe, traced).lines[made.id]
        return [(f.code, f.severity) for f in bleed_findings(made, traced[made.picture], lines)]

    assert said(border_mm=0) == [("bleed", "look")]
    assert said(border_mm=0, lines={"bleed_mm": 1.5}) == [("bleed", "good")]
    assert said(border_mm=2) == []
    assert said(border_mm=2, lines={"bleed_mm": 1}) == [("bleed", "look")]
