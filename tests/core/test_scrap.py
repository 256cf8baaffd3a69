"""What is left of a sheet after a cut, kept with its true shape and cut again."""

import numpy as np
import pytest
import shapely

from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.job.findings import findings_of
from perisect.core.job.questions import largest_size
from perisect.core.job.scrap import left_of, may_stand_on_scrap, sheet_on
from perisect.core.sheet.placement import placed
from perisect.core.sheet.scrap import marks_on, scrap_of
from tests.core.test_layout import ARTWORKS, stand, with_sheet
from tests.core.test_sheet import planned

SMALL = planned((400, 300, 40.0), (400, 300, 40.0), border_mm=1.0, copies=2, fill=False)


def cut(*places: dict) -> JobPlan:
    return with_sheet(SMALL, method="hand", placements=list(places))


def on(plan: JobPlan, first: JobPlan) -> JobPlan:
    scrap = left_of(first, 0)
    assert scrap is not None
    marks = marks_on(scrap, first.area)
    assert marks is not None
    return with_sheet(plan, **sheet_on(plan.recipe.sheet, 7, scrap.used, marks).model_dump())


def test_what_is_left_has_the_shape_that_is_left() -> None:
    """One piece of 42 x 32 with round corners in the middle of A4: the sheet within grip and margins (198 x 282), less
    that piece with 3.5 mm round it (49 x 39), less the four marks' corners (a square of 16.5 x 17.5 or so each)."""
    first = cut(stand(105, 150))
    scrap = left_of(first, 0)
    assert scrap is not None
    corners = [shapely.box(*notch) for notch in first.area.notches]
    whole = shapely.box(6, 6, 204, 288)
    round_it = shapely.box(105 - 24.5, 150 - 19.5, 105 + 24.5, 150 + 19.5)
    left = shapely.difference(whole, shapely.union_all([round_it, *corners]))
    assert scrap.free_mm2 == pytest.approx(left.area, rel=0.02)
    assert shapely.distance(scrap.free, round_it.centroid) == pytest.approx(16 + 3.5, abs=0.3)


@pytest.mark.parametrize(
    "places",
    [
        [stand(40, 50), stand(90, 50)],
        [stand(40, 50), stand(40, 100), stand(40, 150), stand(40, 200)],
        [stand(40, 50), stand(150, 240), stand(105, 60)],
    ],
)
def test_a_later_job_stands_on_the_rest_its_marks_with_it_and_touches_nothing_that_was_cut(
    places: list,
) -> None:
    first = cut(*places)
    later = on(SMALL, first)
    assert later.sheets.missing == {}
    assert len(later.sheets.sheets) == 1
    assert not [f for f in findings_of(later) if f.severity == "stop"]
    before = shapely.union_all([placed(first.lines[p.key].taken, p) for p in first.sheets.sheets[0]])
    now = [placed(later.lines[p.key].taken, p) for p in later.sheets.sheets[0]]
    assert shapely.distance(before, shapely.union_all(now)) >= 3
    marks = shapely.union_all([shapely.Point(m.x_mm, m.y_mm).buffer(5.5) for m in later.area.marks])
    assert not shapely.intersects(marks, shapely.union_all([before, *now]))
    old = np.array([(m.x_mm, m.y_mm) for m in first.area.marks])
    assert all(np.hypot(*(old - (m.x_mm, m.y_mm)).T).min() >= 11 for m in later.area.marks)


def test_what_is_left_after_the_second_cut_is_less_by_that() -> None:
    first = cut(stand(40, 50), stand(90, 50))
    second = on(SMALL, first)
    before, after = left_of(first, 0), left_of(second, 0)
    assert before is not None
    assert after is not None
    pieces, marks = 4 * 49 * 39, 4 * 12 * 12
    # What is too narrow for anything is lost beside them.
    assert 0.8 < (before.free_mm2 - after.free_mm2) / (pieces + marks) < 1.3
    third = on(SMALL, second)
    taken = shapely.union_all(
        [placed(p.lines[e.key].taken, e) for p in (first, second) for e in p.sheets.sheets[0]]
    )
    now = shapely.union_all([placed(third.lines[e.key].taken, e) for e in third.sheets.sheets[0]])
    assert shapely.distance(taken, now) >= 3


def test_what_lies_within_a_ring_of_stickers_is_left_too() -> None:
    """Stickers of 42 x 32 all along the edges, closer than what is left round each: the middle stays free."""
    along = [(x, y) for x in (30, 74, 118, 162) for y in (35, 260)]
    beside = [(x, y) for x in (27, 183) for y in (70, 104, 138, 172, 206, 230)]
    shapes = [shapely.box(x - 21, y - 16, x + 21, y + 16) for x, y in along + beside]
    scrap = scrap_of(SMALL.area, shapes)
    assert scrap is not None
    # Between x 48 and 162, y 51 and 244, less 3.5 mm and what is a step of the form.
    assert scrap.free.contains(shapely.box(56, 58, 154, 236))
    assert shapely.union_all([shapely.Polygon(ring) for ring in scrap.used]).intersection(scrap.free).area < 1
    assert marks_on(scrap, SMALL.area) is not None


def test_a_sheet_of_many_ragged_pieces_is_kept_in_few_points() -> None:
    """130 stars of eleven points each whose rims meet: whoever takes the scrap has them in a recipe."""
    turn = np.linspace(0, 2 * np.pi, 22, endpoint=False)
    star = np.column_stack([np.cos(turn), np.sin(turn)]) * np.where(np.arange(22) % 2, 4.0, 7.5)[:, None]
    shapes = [shapely.Polygon(star + (x, y)) for x in range(20, 195, 15) for y in range(34, 190, 15)]
    scrap = scrap_of(SMALL.area, shapes)
    assert scrap is not None
    assert sum(len(ring) for ring in scrap.used) <= 2000
    recipe = sheet_on(SMALL.recipe.sheet, 7, scrap.used, marks_on(scrap, SMALL.area) or ())
    assert type(recipe).model_validate(recipe.model_dump()) == recipe
    gone = shapely.union_all([shapely.Polygon(ring) for ring in scrap.used])
    assert gone.contains(shapely.buffer(shapely.union_all(shapes), 2.9))


def test_more_than_fits_is_missing_and_a_full_sheet_is_not_kept() -> None:
    first = cut(stand(40, 50))
    recipe = SMALL.recipe.model_dump()
    for design in recipe["designs"]:
        design["copies"] = 60
    many = with_sheet(SMALL, method="rows")
    many = type(many)(**(vars(many) | {"recipe": type(SMALL.recipe).model_validate(recipe)}))
    later = on(many, first)
    assert sum(later.sheets.missing.values()) > 0
    assert left_of(later, 0) is None
    assert may_stand_on_scrap(many.recipe)
    assert not may_stand_on_scrap(later.recipe)


def test_nothing_is_kept_of_a_sheet_that_is_covered() -> None:
    area = SMALL.area
    assert scrap_of(area, [shapely.box(10, 10, 200, 285)]) is None


def test_the_largest_size_of_which_two_fit_does_fit() -> None:
    later = on(SMALL, cut(stand(40, 50), stand(40, 100), stand(150, 240)))
    size = largest_size(later, "d0", 2)
    assert size is not None
    assert size > 60
    recipe = later.recipe.model_dump()
    recipe["designs"] = [recipe["designs"][0] | {"longest_mm": size, "copies": 2}]
    assert plan_job(JobRecipe.model_validate(recipe), ARTWORKS).sheets.missing == {}


def test_a_recipe_without_a_scrap_keeps_its_name() -> None:
    assert "scrap" not in SMALL.recipe.model_dump(mode="json")["sheet"]


def test_a_mark_that_is_put_where_the_sheet_was_cut_is_told() -> None:
    first = cut(stand(40, 50))
    later = on(SMALL, first)
    moved = with_sheet(later, marks_at=[(40, 50), (190, 20), (40, 270), (190, 270)])
    assert "mark_on_used" in {f.code for f in findings_of(moved) if f.severity == "stop"}
