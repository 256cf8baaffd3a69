"""Station 3: how many are up, where they stand, and that nothing which cuts leaves the usable area."""

from dataclasses import replace

import numpy as np
import pytest
import shapely

from perisect.core.artwork import Background, Judged, PictureFacts, Verdict
from perisect.core.finding import SetField
from perisect.core.job import (
    DesignRecipe,
    JobPlan,
    JobRecipe,
    SheetRecipe,
    TracedArtwork,
    apply_remedy,
    plan_job,
)
from perisect.core.job.findings import findings_of
from perisect.core.lines import Outline
from perisect.core.sheet import A4, LETTER, Footprint, fill_sheets, usable_area
from perisect.core.sheet.check import sheet_findings
from perisect.core.sheet.grid import best_grid
from perisect.core.sheet.mark_shape import mark_shape
from perisect.core.sheet.placement import placed
from perisect.core.sheet.staggered import staggered

CLEAR = Judged(Verdict.CLEAR, "", 1.0)


def rectangle(width_px: int, height_px: int) -> TracedArtwork:
    shape = shapely.multipolygons([shapely.box(3, 3, 3 + width_px, 3 + height_px)])
    return TracedArtwork(
        PictureFacts(width_px + 6, height_px + 6, Background.CLEAR, 0.1), Outline(shape, 0), CLEAR
    )


def planned(
    *sizes: tuple[int, int, float], fill: bool = True, copies: int = 1, stock: str = "a4", **design: float
) -> JobPlan:
    """A job of rectangles: pixels wide, pixels high, longest side in mm."""
    artworks = {f"{n:064x}": rectangle(w, h) for n, (w, h, _) in enumerate(sizes)}
    designs = [
        DesignRecipe(
            id=f"d{n}", name=f"Piece {n}", artwork=f"{n:064x}", longest_mm=mm, copies=copies, **design
        )
        for n, (_, _, mm) in enumerate(sizes)
    ]
    return plan_job(JobRecipe(designs=tuple(designs), sheet=SheetRecipe(stock=stock, fill=fill)), artworks)


def footprint(width: float, height: float, copies: int = 1) -> Footprint:
    return Footprint("d", width, height, 0, 0, width, height, width * height, copies)


def test_the_usable_area_of_a4_is_the_sheet_less_margins_and_mark_corners() -> None:
    area = usable_area(A4)
    # 6 mm at the sides, 6 above, 9 below; corners of 16.5 × 17.5 above and 16.5 × 20.5 below.
    assert area.polygon.bounds == (6, 6, 204, 288)
    corners = 2 * (10.5 * 11.5) + 2 * (10.5 * 11.5)
    assert area.polygon.area == pytest.approx(198 * 282 - corners)


@pytest.mark.parametrize("stock", [A4, LETTER])
def test_marks_stand_at_four_corners_and_one_wears_a_ring(stock) -> None:
    area = usable_area(stock)
    assert [mark.kind for mark in area.marks] == ["ringed", "plain", "plain", "plain"]
    for mark in area.marks:
        clear = shapely.Point(mark.x_mm, mark.y_mm).buffer(5.5)
        assert clear.intersection(area.polygon).area == 0
        assert shapely.box(5, 5, stock.width_mm - 5, stock.height_mm - 5).contains(
            mark_shape(mark, area.machine.marks)
        )


def test_rows_and_columns_are_counted_as_by_hand() -> None:
    area = usable_area(A4)
    # Across 198 mm, between the marks' corners 297 - 17.5 - 20.5 = 259 mm: 4 × 45 + 3 × 2 = 186, 5 × 50 + 4 × 2 = 258.
    grid = best_grid(area, 45, 50, 2)
    assert (grid.count, grid.turned) == (20, False)


def test_the_better_of_two_orientations_is_taken() -> None:
    area = usable_area(A4)
    # Upright 100 mm: one column; turned 60 wide: three columns of two.
    grid = best_grid(area, 100, 60, 0)
    upright = (198 // 100) * (282 // 60)
    turned = (198 // 60) * (259 // 100)
    assert turned > upright
    assert (grid.count, grid.turned) == (turned, True)


@pytest.mark.parametrize(
    "sizes",
    [
        [(600, 400, 60.0)],
        [(400, 600, 37.0)],
        [(500, 500, 30.0), (300, 800, 80.0), (900, 200, 55.0)],
        [(700, 300, 150.0), (200, 200, 12.0)],
    ],
)
@pytest.mark.parametrize("stock", ["a4", "letter"])
def test_nothing_that_cuts_leaves_the_usable_area_and_nothing_overlaps(
    sizes: list[tuple[int, int, float]], stock: str
) -> None:
    plan = planned(*sizes, stock=stock, peel_mm=2.0)
    assert plan.sheets.count > 0
    area = plan.area.polygon.buffer(1e-6)
    for sheet in plan.sheets.sheets:
        lines = [plan.placed_lines(placement) for placement in sheet]
        outer = [each["through"] for each in lines]
        for each in lines:
            assert all(area.contains(shape) for shape in each.values())
        for index, one in enumerate(outer):
            for other in outer[index + 1 :]:
                assert one.distance(other) > 2 - 0.02


def test_copies_by_number_take_as_many_sheets_as_they_need() -> None:
    plan = planned((500, 500, 50.0), fill=False, copies=30, border_mm=1.0)
    # 52 mm with border, 54 with gap: 3 across 198 and 5 down 282, less two at each of two corner pairs,
    # or 3 × 4 between the marks, or 3 × 5 between the corners' sides (177 mm holds 3 × 52 + 2 × 2 = 160).
    per_sheet = len(plan.sheets.sheets[0])
    assert per_sheet == 15
    assert [len(sheet) for sheet in plan.sheets.sheets] == [15, 15]


def test_used_share_is_sticker_area_over_sheet_area() -> None:
    plan = planned((500, 500, 50.0), fill=False, copies=6, border_mm=0.0)
    assert plan.sheets.used_share == pytest.approx(6 * 2500 / (210 * 297), rel=1e-3)


def test_filling_with_several_takes_equal_numbers_and_then_what_still_fits() -> None:
    plan = planned((500, 500, 40.0), (500, 500, 40.0), (500, 500, 40.0))
    counts = [sum(p.key == f"d{n}" for p in plan.sheets.sheets[0]) for n in range(3)]
    assert max(counts) - min(counts) <= 1
    assert sum(counts) >= best_grid(plan.area, 44, 44, 2).count - 2


def test_a_turned_sticker_keeps_art_and_lines_together() -> None:
    plan = planned((1000, 600, 100.0), border_mm=0.0)
    placement = plan.sheets.sheets[0][0]
    assert placement.rotation_deg == 90
    assert (placement.width_mm, placement.height_mm) == pytest.approx((100, 60))
    left, top, right, bottom = plan.placed_lines(placement)["kiss"].bounds
    assert (right - left, bottom - top) == pytest.approx((60, 100), abs=0.02)
    centre = ((left + right) / 2, (top + bottom) / 2)
    assert centre == pytest.approx((placement.x_mm + 50, placement.y_mm + 30), abs=0.01)


def test_what_is_too_large_is_said_and_its_remedy_fits() -> None:
    plan = planned((1000, 900, 250.0))
    (finding,) = [f for f in findings_of(plan) if f.code == "too_large"]
    assert finding.severity == "stop"
    assert finding.remedy is not None
    mended = apply_remedy(plan.recipe, finding.remedy, finding.design)
    again = plan_job(mended, {f"{0:064x}": rectangle(1000, 900)})
    assert again.sheets.count >= 1
    assert not [f for f in findings_of(again) if f.severity == "stop"]


def test_too_many_copies_stop_at_sixty_sheets() -> None:
    area = usable_area(A4)
    plan = fill_sheets(area, [footprint(150, 200, copies=100)], 2, fill=False)
    assert len(plan.sheets) == 60
    assert plan.missing == {"d": 40}


def test_the_last_sheet_taken_by_others_is_not_mended_by_what_changes_nothing() -> None:
    area = usable_area(A4)
    large, other = footprint(150, 200, copies=100), replace(footprint(150, 190, copies=1), key="other")
    plan = fill_sheets(area, [large, other], 2, fill=False)
    assert plan.missing == {"d": 40, "other": 1}
    found = sheet_findings(area, plan, [large, other], {"d": "Deck", "other": "Bow"}, fill=False)
    first, second = [each for each in found if each.code == "too_many"]
    assert first.remedy.model_dump() == SetField(label="Make 60", field="copies", value=60).model_dump()
    assert second.remedy is None
    assert second.text.startswith("No sheet is left for Bow")


def test_a_plan_of_nothing_is_empty() -> None:
    plan = fill_sheets(usable_area(A4), [], 2, fill=True)
    assert (plan.count, plan.used_share) == (0, 0.0)
    assert np.isfinite(plan.used_share)


def clear_of(shapes: list[shapely.Geometry], gap: float) -> bool:
    """Every pair of shapes, measured."""
    return all(one.distance(other) >= gap - 1e-5 for n, one in enumerate(shapes) for other in shapes[n + 1 :])


TRIANGLE = shapely.Polygon([(0, 0), (40, 0), (20, 35)])
ROUND = shapely.Point(20, 20).buffer(20, quad_segs=64)


def shaped(shape: shapely.Polygon) -> Footprint:
    left, top, right, bottom = shape.bounds
    return Footprint("d", right - left, bottom - top, left, top, right, bottom, shape.area, 1, shape)


@pytest.mark.parametrize("style", ["half_turn", "half_step"])
@pytest.mark.parametrize("shape", [TRIANGLE, ROUND])
def test_rows_that_reach_into_each_other_hold_more_and_keep_their_gap(style, shape: shapely.Polygon) -> None:
    area = usable_area(A4)
    laid = staggered(area, shaped(shape), 2.0, style)
    shapes = [placed(shape, piece) for piece in laid]
    assert all(area.holds(each) for each in shapes)
    assert clear_of(shapes, 2.0)
    assert len(laid) > best_grid(area, *(np.ptp(np.array(shape.bounds).reshape(2, 2), axis=0)), 2.0).count


def test_half_turned_triangles_stand_as_close_as_geometry_lets_them() -> None:
    laid = staggered(usable_area(A4), shaped(TRIANGLE), 2.0, "half_turn")
    shapes = np.array([placed(TRIANGLE, piece) for piece in laid])
    nearest = [np.delete(shapely.distance(shapes, one), n).min() for n, one in enumerate(shapes)]
    # The simplified shapes that are searched with are a tenth larger all round, at most.
    assert np.median(nearest) == pytest.approx(2.0, abs=0.45)


def test_half_stepped_discs_stand_like_a_honeycomb() -> None:
    laid = staggered(usable_area(A4), shaped(ROUND), 2.0, "half_step")
    rows = sorted({round(piece.y_mm, 3) for piece in laid})
    # Centres 42 mm apart in all directions: rows 42 cos 30 = 36.4 mm.
    assert np.diff(rows) == pytest.approx(42 * np.cos(np.pi / 6), abs=0.6)


PLUS = shapely.box(18, 0, 22, 40).union(shapely.box(0, 18, 40, 22))
CHEVRON = shapely.Polygon([(0, 20), (20, 0), (40, 20), (40, 28), (20, 8), (0, 28)])


@pytest.mark.parametrize("style", ["half_turn", "half_step"])
@pytest.mark.parametrize("shape", [PLUS, CHEVRON])
def test_rows_beyond_the_next_keep_their_gap_too(style, shape: shapely.Polygon) -> None:
    laid = staggered(usable_area(A4), shaped(shape), 2.0, style)
    assert clear_of([placed(shape, piece) for piece in laid], 2.0)
