"""A small job on a part of a sheet, and a later one on what it keeps."""

import pydantic
import pytest
import shapely

from perisect.core.formats.svg import write_svg
from perisect.core.job import DesignRecipe, JobPlan, JobRecipe, SheetRecipe, apply_remedy, plan_job
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.job.findings import findings_of
from perisect.core.job.remainder import NothingKept, on_the_remainder
from perisect.core.sheet.equipment import MarksRecipe, PlotterRecipe
from tests.core.layouts import FIT_MM, traced
from tests.core.reading import read_svg
from tests.core.shapes import disc

ART = {"0" * 64: traced(disc(20))}
DISC = DesignRecipe(id="d1", name="Disc", artwork="0" * 64, longest_mm=40, border_mm=2, copies=4)
PATTERNS = ("four", "three", "frame")


def on(pattern: str = "four", **sheet: object) -> JobPlan:
    plotter = PlotterRecipe(id="p", name="Plotter", marks=MarksRecipe(pattern=pattern))
    return plan_job(JobRecipe(designs=(DISC,), sheet=SheetRecipe(plotter=plotter, **sheet)), ART)


def lines(plan: JobPlan) -> shapely.MultiPolygon:
    shapes = read_svg(write_svg(cut_sheet(plan, 0)))["kiss"]
    return shapely.MultiPolygon([shapely.Polygon(ring) for ring in shapes])


def marks(plan: JobPlan) -> shapely.Geometry:
    clear = plan.area.machine.marks.clear_mm
    return shapely.union_all([shapely.Point(m.x_mm, m.y_mm).buffer(clear) for m in plan.area.marks])


@pytest.mark.parametrize("pattern", PATTERNS)
def test_a_small_job_keeps_what_it_does_not_need_and_a_later_one_stands_there(pattern: str) -> None:
    whole = on(pattern, fill=False)
    (found,) = (each for each in findings_of(whole) if each.code == "remainder")
    assert found.remedy is not None
    small = plan_job(apply_remedy(whole.recipe, found.remedy, None), ART)
    until = small.recipe.sheet.until_mm
    # One row of four discs of 44 mm below 6 mm of grip and the marks; as many marks below them.
    assert until is not None
    assert 70 < until < 120
    assert "remainder" not in {each.code for each in findings_of(small)}
    assert not [each for each in findings_of(small) if each.severity == "stop"]
    assert (len(small.sheets.sheets), small.sheets.count) == (1, 4)
    later = plan_job(
        on_the_remainder(small.recipe).model_copy(update={"designs": (DISC,)}),
        ART,
    )
    assert not [each for each in findings_of(later) if each.severity == "stop"]
    # 297 mm less what was used: three rows of 44 mm and more than the four discs from before.
    assert later.sheets.count >= 12
    assert shapely.bounds(shapely.union(lines(small), marks(small)))[3] <= until
    assert shapely.bounds(shapely.union(lines(later), marks(later)))[1] >= until
    for plan in (small, later):
        assert len(plan.area.marks) == len(whole.area.marks)
        assert shapely.distance(lines(plan), marks(plan)) >= 0
        assert not shapely.intersects(lines(plan), marks(plan))


def test_a_full_sheet_keeps_nothing() -> None:
    plan = on()
    assert "remainder" not in {each.code for each in findings_of(plan)}
    with pytest.raises(NothingKept):
        on_the_remainder(plan.recipe)


def test_a_part_of_nothing_is_refused() -> None:
    with pytest.raises(pydantic.ValidationError, match="20 mm or more"):
        SheetRecipe(from_mm=100, until_mm=110)
    beyond = on(from_mm=400)
    assert {"marks_lost", "too_large"} & {
        each.code for each in findings_of(beyond) if each.severity == "stop"
    }


def test_a_nest_on_the_rest_stays_below_what_was_used() -> None:
    plan = on(from_mm=120, method="nest", nest_s=2)
    assert plan.sheets.count >= 8
    assert shapely.bounds(lines(plan))[1] >= 120 - FIT_MM
    assert not shapely.intersects(lines(plan), marks(plan))
