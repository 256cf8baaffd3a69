"""What a picture's piece begins with."""

import pytest

from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
from perisect.core.job.new_piece import ComesOff, usual_lines, with_picture
from perisect.core.lines.material import Tooling
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS

A, B = "a" * 64, "b" * 64


@pytest.mark.parametrize(
    ("comes_off", "peel_mm", "own", "outer", "tab"),
    [
        ("sheet", None, "kiss", "through", False),
        ("edge", 3.0, "kiss", "through", False),
        ("tab", 3.0, "kiss", "through", True),
        ("through", None, "through", "through", False),
        ("tear_out", 3.0, "kiss", "perforate", False),
    ],
)
def test_the_first_piece_comes_off_as_the_shop_is_used_to(
    comes_off: ComesOff, peel_mm: float | None, own: str, outer: str, tab: bool
) -> None:
    recipe, design_id = with_picture(JobRecipe(), A, "grey_heron.PNG", habit=comes_off)
    piece = recipe.design(design_id)
    assert (piece.name, piece.peel_mm) == ("Grey heron", peel_mm)
    assert (piece.lines.own, piece.lines.outer, piece.lines.tab is not None) == (own, outer, tab)


def test_holes_are_filled_and_no_bend_is_tighter_than_the_knife_follows() -> None:
    assert usual_lines("sheet", Tooling("paper", 0.25))[1].radius_mm == 0.5
    counter = next(each.recipe for each in EXAMPLE_PLOTTERS if each.id == "counter")
    recipe, _ = with_picture(JobRecipe(sheet=SheetRecipe(plotter=counter)), A, "jar.png")
    lines = recipe.designs[0].lines
    assert (lines.radius_mm, lines.fill_holes_mm) == (2 * counter.knife_offset_mm, 400.0)


def test_a_set_stays_a_set_but_rights_and_places_are_each_pieces_own() -> None:
    first, _ = with_picture(JobRecipe(), A, "one.png", habit="tab")
    own = first.designs[0]
    moved = own.lines.model_copy(
        update={
            "tab": own.lines.tab.model_copy(update={"near": (0.5, 1.0), "width_mm": 20.0}),
            "fill_holes_mm": 0.0,
        }
    )
    rights = own.rights.model_copy(update={"may_be_sold": "yes"})
    edited = DesignRecipe.model_validate(
        own.model_dump() | {"border_mm": 1.5, "copies": 4, "lines": moved, "rights": rights}
    )
    recipe, new = with_picture(first.model_copy(update={"designs": (edited,)}), B, "two.png", habit="sheet")
    piece = recipe.design(new)
    assert (piece.border_mm, piece.copies, piece.peel_mm) == (1.5, 4, 3.0)
    assert (piece.lines.tab.width_mm, piece.lines.tab.near) == (20.0, None)
    assert (piece.lines.fill_holes_mm, piece.rights.may_be_sold) == (0.0, "unknown")
