"""Lines while a slider moves: as close as a screen that shows all of the piece can tell, in a part of the nodes."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
import shapely

from perisect.core.lines import CutLines, LineError, LineRecipe, Outline, SizedArt
from tests.core.test_growth import lobed

SCREEN_PX = 1000
"""Across a piece that fills a screen."""
ROUNDED = LineRecipe(fit_mm=0.0, radius_mm=0.5, fill_holes_mm=400.0)


def page_of(count: int, size_mm: float) -> SizedArt:
    """So many flowers in rows as one piece, `size_mm` across."""
    flower = lobed(60, 0.04, 25)
    across = int(np.ceil(np.sqrt(count)))
    parts = [shapely.affinity.translate(flower, 85 * (n % across), 85 * (n // across)) for n in range(count)]
    return SizedArt(Outline(shapely.multipolygons(parts), 0), size_mm)


@pytest.mark.parametrize("recipe", [ROUNDED, LineRecipe(fit_mm=0.0), LineRecipe(fit_mm=0.0, bridge_mm=1.0)])
@pytest.mark.parametrize("border_mm", [-0.5, 0.0, 0.3, 0.7, 2.35, 6.0])
@pytest.mark.parametrize("size_mm", [40.0, 190.0])
def test_between_a_line_that_moves_and_the_one_that_is_kept_is_no_whole_pixel(
    recipe: LineRecipe, border_mm: float, size_mm: float
) -> None:
    art = page_of(9, size_mm)
    kept, moving = (each.lines(border_mm, 3.0, recipe) for each in (art, art.moving))
    pixel = size_mm / SCREEN_PX
    for before, after in ((kept.own, moving.own), (kept.around, moving.around)):
        between = before.symmetric_difference(after)
        # Nowhere is what lies between the two lines as wide: also not where a crevice closes a little further on.
        assert between.buffer(-pixel / 2).is_empty
    assert (moving.pieces, moving.holes) == (kept.pieces, kept.holes)


def test_a_page_of_drawings_moves_with_less_than_half_the_nodes() -> None:
    art = page_of(16, 190.0)

    def nodes(lines: CutLines) -> int:
        return int(shapely.get_num_coordinates(lines.own) + shapely.get_num_coordinates(lines.around))

    assert nodes(art.moving.lines(2.0, 3.0, ROUNDED)) < 0.5 * nodes(art.lines(2.0, 3.0, ROUNDED))


def test_what_is_told_of_the_art_itself_is_the_same_while_it_moves() -> None:
    art = page_of(4, 60.0)
    kept, moving = art.lines(1.0, None, ROUNDED), art.moving.lines(1.0, None, ROUNDED)
    assert moving.joins_at_mm == kept.joins_at_mm
    assert moving.outline is kept.outline
    assert (moving.width_mm, moving.height_mm) == (kept.width_mm, kept.height_mm)


def test_who_asks_at_the_same_time_gets_the_lines_that_one_gets_alone() -> None:
    """Of an outline so large that both of its lines are grown at a time."""
    borders = [0.8, 1.7, 2.4, 3.3, 0.8, 5.2, 2.4, 1.1]
    alone = [page_of(9, 190.0).lines(border, 3.0, ROUNDED) for border in borders]
    art = page_of(9, 190.0)
    with ThreadPoolExecutor(len(borders)) as crowd:
        together = list(crowd.map(lambda border: art.lines(border, 3.0, ROUNDED), borders))
    for one, other in zip(alone, together, strict=True):
        assert one.own.equals_exact(other.own, 0)
        assert one.around.equals_exact(other.around, 0)


def test_a_piece_of_which_nothing_is_left_says_so_while_it_moves_too() -> None:
    art = page_of(9, 190.0)
    for each in (art, art.moving):
        with pytest.raises(LineError, match="leaves nothing"):
            each.lines(-60.0, 3.0, LineRecipe(fit_mm=0.0))
