"""One line round everything on a sheet."""

import numpy as np
import pytest
import shapely

from perisect.core.artwork import decode
from perisect.core.cutting.order import cut_order
from perisect.core.job import DesignRecipe, JobPlan, JobRecipe, SheetRecipe, plan_job, trace_artwork
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.sheet.placement import placed
from tests.core.test_files import HASH, RING


def with_perimeter(how: str, **design: object) -> JobPlan:
    artwork, _ = trace_artwork(decode(RING))
    one = DesignRecipe(id="d1", name="Ring", artwork=HASH, longest_mm=40, **design)  # type: ignore[arg-type]
    sheet = SheetRecipe(perimeter_cut=how, perimeter_margin_mm=4)  # type: ignore[arg-type]
    return plan_job(JobRecipe(designs=(one,), sheet=sheet), {HASH: artwork})


@pytest.mark.parametrize("how", ["through", "perforate"])
def test_a_perimeter_runs_its_margin_outside_all_stickers_clear_of_the_marks(how: str) -> None:
    plan = with_perimeter(how)
    ring = plan.perimeter(0)
    assert ring is not None
    stickers = shapely.union_all([placed(plan.lines["d1"].taken, p) for p in plan.sheets.sheets[0]])
    box = np.array(stickers.bounds) + (-4, -4, 4, 4)
    assert shapely.polygons(ring).bounds == pytest.approx(box, abs=0.01)
    assert shapely.polygons(ring).within(shapely.buffer(plan.area.polygon, 1e-6))
    assert plan.sheets.count > 10


@pytest.mark.parametrize("how", ["through", "perforate"])
def test_a_perimeter_is_cut_after_everything_in_it(how: str) -> None:
    plan = with_perimeter(how, peel_mm=3.0, lines={"outer": "perforate"})
    sheet = cut_sheet(plan, 0)
    ordered = cut_order(sheet)
    outermost = [n for n, line in enumerate(ordered) if sheet.owners[line.process][line.index] < 0]
    assert outermost == list(range(outermost[0], len(ordered)))
    assert {ordered[n].process for n in outermost} == {how}


def test_without_a_perimeter_there_is_no_line_round_the_stickers() -> None:
    plan = with_perimeter("none")
    assert plan.perimeter(0) is None
    assert min(cut_sheet(plan, 0).owners["kiss"]) == 0
