"""Lines of what nobody would cut: an answer or a clear refusal, and soon."""

import time

import numpy as np
import pytest
import shapely

from perisect.core.artwork import ArtworkError, decode
from perisect.core.job import trace_artwork
from perisect.core.lines import LineError, LineRecipe, Outline, SizedArt
from perisect.core.lines.check import line_findings
from perisect.core.lines.material import Tooling
from tests.core import drawings
from tests.core.shapes import disc

pytestmark = pytest.mark.slow

SOON_S = 10.0
"""Far above what it takes here; a hang is minutes."""


def told(art: shapely.Geometry, border: float = 2.0, **recipe: object) -> set[str]:
    parts = [art] if art.geom_type == "Polygon" else list(shapely.get_parts(art))
    begun = time.monotonic()
    knife = Tooling(knife_offset_mm=float(recipe.pop("knife_offset_mm", 0.25)))  # type: ignore[arg-type]
    lines = SizedArt(Outline(shapely.multipolygons(parts), 0), 60).lines(
        border, 3.0, LineRecipe.model_validate(recipe), knife
    )
    found = {each.code for each in line_findings("d", "Art", lines, border)}
    assert time.monotonic() - begun < SOON_S
    assert lines.own.is_valid
    return found


@pytest.mark.long
def test_an_outline_of_a_hundred_thousand_nodes_gets_its_lines() -> None:
    turn = np.linspace(0, 2 * np.pi, 100_000, endpoint=False)
    radius = 2000 + 30 * np.sin(turn * 900) + 3 * np.random.default_rng(2).normal(size=len(turn))
    ring = np.column_stack([radius * np.cos(turn), radius * np.sin(turn)])
    told(shapely.polygons(ring).buffer(0))
    told(shapely.polygons(ring).buffer(0), 0.0)


def test_an_outline_of_more_nodes_than_anyone_cuts_is_refused() -> None:
    turn = np.linspace(0, 2 * np.pi, 420_000, endpoint=False)
    ring = np.column_stack([np.cos(turn), np.sin(turn)]) * (1 + 0.1 * (np.arange(len(turn)) % 2))[:, None]
    with pytest.raises(LineError, match="more corners"):
        told(shapely.polygons(ring))


@pytest.mark.long
def test_thousands_of_holes_are_cut_or_filled() -> None:
    plate = shapely.box(0, 0, 6000, 6000)
    grid = [(x, y) for x in range(100, 6000, 100) for y in range(100, 6000, 100)]
    holes = shapely.union_all(shapely.buffer(shapely.points(grid), 40, quad_segs=3))
    assert "holes_filled" not in told(shapely.difference(plate, holes), 0.0, knife_offset_mm=0.2)
    small = shapely.union_all(shapely.buffer(shapely.points(grid), 15, quad_segs=2))
    assert "holes_filled" in told(shapely.difference(plate, small), 0.0)


@pytest.mark.parametrize("border", [0.0, 20.0, -0.001])
def test_the_ends_of_what_a_border_may_be_give_lines(border: float) -> None:
    told(disc(1000), border)


def test_art_of_one_pixel_is_refused() -> None:
    alpha = np.zeros((5, 5), np.uint8)
    alpha[2, 2] = 255
    with pytest.raises(ArtworkError, match="smaller than dust"):
        trace_artwork(decode(drawings.png(alpha)))


def test_art_that_touches_itself_gives_valid_lines() -> None:
    eight = shapely.union_all([disc(1000), disc(1000, 2000)])  # two discs that meet in a point
    for border in (0.0, 0.5, -0.5):
        told(eight, border)
