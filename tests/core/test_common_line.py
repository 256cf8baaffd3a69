"""Shared lines between boxes, and gaps by the kind of line that meets."""

import numpy as np
import pytest
import shapely

from perisect.core.cutting.order import cut_order
from perisect.core.formats.hpgl import read_hpgl, write_hpgl
from perisect.core.formats.svg import write_svg
from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.job.findings import findings_of
from perisect.core.sheet.common_line import slits
from tests.core.reading import read_svg
from tests.core.test_sheet import planned, rectangle

ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(2)}
BOXES = planned((400, 300, 40.0), border_mm=0.0, fill=False, copies=6)


def shared(lines: dict, plan: JobPlan = BOXES, **sheet: object) -> JobPlan:
    recipe = plan.recipe.model_dump()
    recipe["sheet"] |= {"common_line": True} | sheet
    recipe["designs"][0]["lines"] |= lines
    return plan_job(JobRecipe.model_validate(recipe), ARTWORKS)


def test_edges_of_boxes_that_touch_are_one_cut() -> None:
    box = np.array([(0, 0), (10, 0), (10, 5), (0, 5)], float)
    cuts, others = slits([box, box + (10, 0), box + (0, 5), box + (10, 5)])
    assert others == []
    # Three cuts across 20 mm long and three down 10 mm long, where four boxes have sixteen edges.
    lengths = sorted(float(np.hypot(*np.diff(cut, axis=0)[0])) for cut in cuts)
    assert lengths == pytest.approx([10, 10, 10, 20, 20, 20])
    apart, _ = slits([box, box + (30, 0)])
    assert len(apart) == 8  # nothing is joined over a gap
    turned, others = slits([box @ np.array([[0.8, 0.6], [-0.6, 0.8]])])
    assert (turned, others) == ([], [0])


def test_boxes_of_a_sheet_are_parted_by_straight_cuts_through_it() -> None:
    plan = shared({"own": "through", "shape": "rectangle", "corner": "mitre"})
    cut = cut_sheet(plan, 0)
    assert "through" not in cut.lines
    assert len(plan.sheets.sheets[0]) == 6
    total = sum(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in cut.lines["slit"])
    loose = 6 * 2 * (40 + 30)
    assert total < 0.85 * loose
    # Cut apart along the slits, the block falls into just six boxes of 40 by 30.
    pieces = shapely.polygonize(
        [shapely.unary_union([shapely.LineString(line) for line in cut.lines["slit"]])]
    )
    sizes = [piece.area for piece in shapely.get_parts(pieces)]
    assert len(sizes) == 6
    assert sizes == pytest.approx([1200] * 6, rel=2e-3)


def test_shared_cuts_are_written_and_cut_last() -> None:
    plan = shared({"own": "through", "shape": "rectangle", "corner": "mitre"})
    cut = cut_sheet(plan, 0)
    assert len(read_svg(write_svg(cut))["slit"]) == len(cut.lines["slit"])
    assert {stroke.pen for stroke in read_hpgl(write_hpgl(cut))} == {6}
    order = cut_order(cut)
    assert [line.closed for line in order] == [False] * len(order)


def test_what_is_no_box_is_told() -> None:
    plan = shared({})  # kiss only
    assert "not_shared" in {finding.code for finding in findings_of(plan)}
    boxed = shared({"own": "through", "shape": "rectangle", "corner": "mitre"})
    assert "not_shared" not in {finding.code for finding in findings_of(boxed)}


def test_through_lines_keep_their_own_gap_and_kiss_lines_theirs() -> None:
    pair = planned((400, 300, 40.0), (400, 300, 40.0), border_mm=1.0)
    recipe = pair.recipe.model_dump()
    recipe["sheet"] |= {"gap_mm": 1.0, "through_gap_mm": 5.0}
    recipe["designs"][0]["peel_mm"] = 2.0
    plan = plan_job(JobRecipe.model_validate(recipe), ARTWORKS)
    outer: dict[str, list[shapely.Geometry]] = {"d0": [], "d1": []}
    for placement in plan.sheets.sheets[0]:
        lines = plan.placed_lines(placement)
        outer[placement.key].append(lines.get("through", lines["kiss"]))
    assert min(len(shapes) for shapes in outer.values()) > 1

    def nearest(some: list[shapely.Geometry], others: list[shapely.Geometry]) -> float:
        return min(one.distance(other) for one in some for other in others if one is not other)

    # Half of each one's gap: 5 between two that are cut through, 1 between two that are not, 3 between both.
    assert nearest(outer["d0"], outer["d0"]) >= 5 - 0.03
    assert nearest(outer["d1"], outer["d1"]) == pytest.approx(1, abs=0.05)
    assert nearest(outer["d0"], outer["d1"]) >= 3 - 0.03
