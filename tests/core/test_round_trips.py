"""There and back: HPGL, placements, and a plan whose layout is frozen."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from perisect.core.formats import CutSheet
from perisect.core.formats.hpgl import read_hpgl, write_hpgl
from perisect.core.job import JobRecipe, plan_job
from perisect.core.job.cut_sheet import cut_sheet
from perisect.core.process import TABLE
from perisect.core.sheet.layout import as_recipes
from perisect.core.sheet.nest import nest
from perisect.core.sheet.placement import matrix, pose
from tests.core.test_sheet import planned, rectangle

ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(2)}
UNIT_MM = 1 / 40
mm = st.floats(0, 290, allow_nan=False, width=32)
rings = st.lists(st.lists(st.tuples(mm, mm), min_size=3, max_size=12), max_size=4)


@settings(deadline=None, max_examples=60, derandomize=True)
@given(st.dictionaries(st.sampled_from(sorted(TABLE)), rings))
def test_hpgl_reads_back_to_half_a_unit(lines: dict[str, list[list[tuple[float, float]]]]) -> None:
    drawn = {name: [np.array(ring) for ring in each] for name, each in lines.items()}
    owners = {name: [0] * len(each) for name, each in drawn.items()}
    strokes = read_hpgl(write_hpgl(CutSheet(210.0, 297.0, drawn, owners, [])))
    for name, each in drawn.items():
        back = [stroke.points for stroke in strokes if stroke.pen == TABLE[name].pen]
        assert len(back) == len(each)
        for ring, points in zip(each, back, strict=True):
            closed = np.vstack([ring, ring[:1]]) if TABLE[name].closed else ring
            # HPGL counts up from the lower edge, in fortieths of a millimetre.
            there = np.column_stack([points[:, 0] * UNIT_MM, 297.0 - points[:, 1] * UNIT_MM])
            assert there.shape == closed.shape
            assert np.abs(there - closed).max() <= UNIT_MM / 2 + 1e-6


@settings(deadline=None, max_examples=100, derandomize=True)
@given(mm, mm, st.floats(0, 360), st.floats(-50, 50), st.floats(-50, 50))
def test_a_point_of_a_design_is_found_again_from_its_sheet(
    x: float, y: float, turn: float, px: float, py: float
) -> None:
    m = matrix(pose("d", turn, x, y))
    there = m[:, :2] @ (px, py) + m[:, 2]
    back = np.linalg.solve(m[:, :2], there - m[:, 2])
    assert back == pytest.approx((px, py), abs=1e-6)
    # A turn keeps lengths and handedness.
    assert np.linalg.det(m[:, :2]) == pytest.approx(1, abs=1e-9)


PAIR = planned((400, 300, 40.0), (400, 300, 25.0), border_mm=1.0, copies=5, fill=False)


def test_places_set_by_hand_as_they_lie_are_the_same_layout_and_the_same_cut_file() -> None:
    by_hand = PAIR.recipe.model_dump()
    placements = as_recipes([placement for sheet in PAIR.sheets.sheets for placement in sheet])
    by_hand["sheet"] |= {"method": "hand", "placements": [place.model_dump() for place in placements]}
    again = plan_job(JobRecipe.model_validate(by_hand), ARTWORKS)
    assert again.sheets.count == PAIR.sheets.count == 10
    for number in range(len(PAIR.sheets.sheets)):
        ours, theirs = (cut_sheet(plan, number).lines["kiss"] for plan in (PAIR, again))
        for one, other in zip(ours, theirs, strict=True):
            # A hundredth of what a plotter steps: centres are written with rounded figures.
            assert np.abs(one - other).max() < UNIT_MM / 100


def test_a_nest_that_is_frozen_plans_to_the_same_cut_file() -> None:
    recipe = PAIR.recipe.model_dump()
    recipe["sheet"] |= {"method": "nest", "nest_s": 2, "turns": "quarter"}
    plan = plan_job(JobRecipe.model_validate(recipe), ARTWORKS, nested=nest)
    frozen = plan.frozen()
    assert frozen.sheet.method == "hand"
    again = plan_job(frozen, ARTWORKS)
    assert write_hpgl(cut_sheet(plan, 0)) == write_hpgl(cut_sheet(again, 0))
