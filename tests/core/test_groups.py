"""Groups: one of each stands side by side, and the copies that are over stand alone."""

import numpy as np
import pytest
import shapely

from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.sheet.fill import Footprint
from perisect.core.sheet.groups import grouped as side_by_side
from perisect.core.sheet.placing import shapes_on
from tests.core.test_sheet import planned, rectangle

ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(3)}
THREE = planned((400, 300, 40.0), (400, 300, 30.0), (400, 300, 20.0), border_mm=1.0, fill=False, copies=6)


def grouped(groups: list[str], copies: list[int], nested=None, **sheet: object) -> JobPlan:
    recipe = THREE.recipe.model_dump()
    for design, group, count in zip(recipe["designs"], groups, copies, strict=True):
        design |= {"group": group, "copies": count}
    recipe["sheet"] |= {"fill": False} | sheet
    found = {"nested": nested} if nested else {}
    return plan_job(JobRecipe.model_validate(recipe), ARTWORKS, **found)


def placed(plan: JobPlan) -> list[tuple[str, shapely.Geometry]]:
    by_key = {f.key: f for f in plan.footprints}
    return [
        (placement.key, shape)
        for sheet in plan.sheets.sheets
        for placement, shape in zip(sheet, shapes_on(by_key, sheet), strict=True)
    ]


@pytest.mark.parametrize("copies", [[6, 6, 6], [8, 5, 6]])
def test_every_piece_of_a_group_has_its_partner_next_to_it(copies: list[int]) -> None:
    plan = grouped(["A", "A", ""], copies)
    found = placed(plan)
    assert [sum(key == f"d{n}" for key, _ in found) for n in range(3)] == copies
    large = [shape for key, shape in found if key == "d0"]
    small = [shape for key, shape in found if key == "d1"]
    near = [min(one.distance(other) for other in small) for one in large]
    assert sum(distance < 2.1 for distance in near) >= min(copies[:2])


def test_groups_keep_the_gap_and_stay_in_the_area() -> None:
    for method in ("rows", "nest"):
        from perisect.core.sheet.nest import nest

        def quick(question):
            from dataclasses import replace

            return nest(replace(question, seconds=0))

        plan = grouped(["A", "A", "A"], [5, 5, 5], quick, method=method, turns="half")
        shapes = np.array([shape for _, shape in placed(plan)])
        assert len(shapes) == 15
        assert plan.area.hold(shapes).all()
        apart = shapely.distance(shapes[:, None], shapes[None, :])
        np.fill_diagonal(apart, np.inf)
        assert apart.min() > 2 - 0.02


def test_a_group_of_one_is_no_group() -> None:
    assert grouped(["A", "", ""], [3, 3, 3]).sheets == grouped(["", "", ""], [3, 3, 3]).sheets


def test_a_group_s_outline_is_its_pieces_own_and_not_their_hull() -> None:
    """A tall piece and a low one stand in an L: what the hull would bridge is free for others."""
    tall, low = (
        Footprint(key, w, h, 0, 0, w, h, w * h, 1, shapely.box(0, 0, w, h))
        for key, w, h in (("a", 20, 60), ("b", 30, 15))
    )
    made = side_by_side({"a": "G", "b": "G"}, [tall, low], 2.0)
    (footprint,) = made.footprints
    assert footprint.outline.geom_type == "Polygon"
    # Both, and a band of 0.4 mm over the gap of 2.
    assert footprint.outline.area == pytest.approx(20 * 60 + 30 * 15 + 2 * 0.4, abs=0.5)
    assert footprint.outline.convex_hull.area > footprint.outline.area + 300
    pieces = [
        shapely.transform(each.outline, lambda xy, at=at: xy + (at.x_mm, at.y_mm))
        for each, at in zip((tall, low), made.members[footprint.key], strict=True)
    ]
    assert all(footprint.outline.buffer(1e-6).contains(piece) for piece in pieces)
    assert pieces[0].distance(pieces[1]) == pytest.approx(2.0)
