"""Room for a test cut between what is on a sheet."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from perisect.core.cutting.knife import KnifeSettings
from perisect.core.cutting.ladder import LadderPlace, ladder_columns, ladder_program, ladder_size, step_corner
from perisect.core.cutting.program import Cut
from perisect.core.cutting.setting import CutSetting
from perisect.core.cutting.spare import CLEAR_MM, clear_unsensed, spare_place
from perisect.core.sheet import Stock, usable_area

A4 = usable_area(Stock("a4", "A4", 210, 297))
STEPS = 7


def test_on_an_empty_sheet_it_lies_in_one_row_at_the_foot() -> None:
    spare = spare_place(A4, [], [], STEPS)
    assert spare is not None
    assert spare.columns == STEPS
    left, top, right, bottom = spare.box
    assert (right - left, bottom - top) == ladder_size(STEPS) == (60, 24)
    assert bottom == pytest.approx(A4.bottom_mm, abs=6)  # less the lead below it, to the whole mm


def test_it_is_folded_where_it_must_be_and_not_laid_where_there_is_no_room() -> None:
    # Seven steps: 60 x 24 mm, and 32 mm more for each further row of them.
    assert [ladder_size(STEPS, columns) for columns in ladder_columns(STEPS)] == [
        (60, 24),
        (33, 56),
        (24, 88),
        (15, 120),
        (6, 216),
    ]
    all_but_a_strip = (0.0, 0.0, A4.right_mm - 50, 297.0)
    spare = spare_place(A4, [all_but_a_strip], [], STEPS)
    assert spare is not None
    assert spare.columns == 4
    narrow = spare_place(A4, [(0.0, 0.0, A4.right_mm - 20, 297.0)], [], STEPS)
    assert narrow is not None
    assert narrow.columns == 1
    assert spare_place(A4, [(0.0, 0.0, 210.0, 297.0)], [], STEPS) is None
    # A single cut across a bare sheet is enough to halve it.
    across = [np.array([[0.0, 150.0], [210.0, 150.0]]), np.array([[105.0, 0.0], [105.0, 297.0]])]
    halved = spare_place(A4, [], across, STEPS)
    assert halved is not None
    assert halved.box[0] > 105 + CLEAR_MM


def test_a_sheet_that_nobody_looks_for_is_kept_clear_of_as_far_as_it_may_lie_off() -> None:
    # 2 mm beside the guide, and a degree over the 364 mm to the far corner: 8.35 mm.
    assert clear_unsensed(A4) == 9
    sticker = (50.0, 50.0, 150.0, 200.0)
    spare = spare_place(A4, [sticker], [], STEPS, clear_mm=9)
    assert spare is not None
    assert shapely.box(*spare.box).distance(shapely.box(*sticker)) >= 9


def test_a_turned_sheet_is_cut_where_it_lies() -> None:
    def lies(points: np.ndarray) -> np.ndarray:
        return points @ np.array([[0.0, 1.0], [-1.0, 0.0]]) + (200, 0)

    at, knife = LadderPlace(30, 40), KnifeSettings(offset_mm=0)
    setting = CutSetting(speed_cm_s=20, force=5, overcut_mm=0)
    straight, turned = (
        [
            motion.path_mm
            for step in ladder_program("kiss", setting, [3.0, 5.0], at, knife, *how)
            for motion in step.motions
            if isinstance(motion, Cut)
        ]
        for how in ((), (lies,))
    )
    for path, there in zip(straight, turned, strict=True):
        apart = shapely.hausdorff_distance(shapely.linestrings(lies(path)), shapely.linestrings(there))
        assert apart < 1e-9


def test_under_film_it_keeps_to_the_film() -> None:
    spare = spare_place(A4, [], [], STEPS, within=(30.0, 20.0, 160.0, 120.0))
    assert spare is not None
    assert shapely.box(30, 20, 160, 120).contains(shapely.box(*spare.box))


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0, 170), st.floats(0, 250), st.floats(5, 90), st.floats(5, 90)), max_size=12)
)
def test_it_touches_nothing_that_is_there(there: list[tuple[float, float, float, float]]) -> None:
    boxes = [(x, y, x + width, y + height) for x, y, width, height in there]
    spare = spare_place(A4, boxes, [], STEPS)
    if spare is None:
        return
    mine = shapely.box(*spare.box)
    assert all(mine.distance(shapely.box(*box)) >= CLEAR_MM - 1e-9 for box in (*boxes, *A4.notches))
    assert shapely.box(A4.left_mm, A4.top_mm, A4.right_mm, A4.bottom_mm).contains(mine)


def test_a_folded_ladder_stays_in_its_box_and_no_step_lies_on_another() -> None:
    forces = [float(force) for force in range(1, STEPS + 1)]
    for columns in ladder_columns(STEPS):
        setting = CutSetting(speed_cm_s=20, force=5, overcut_mm=0)
        done = ladder_program(
            "kiss", setting, forces, LadderPlace(30, 40, columns), KnifeSettings(offset_mm=0)
        )
        width, height = ladder_size(STEPS, columns)
        box = shapely.box(30, 40, 30 + width, 40 + height).buffer(1e-6)
        hulls = []
        for step in done[1:]:
            path = np.vstack([motion.path_mm for motion in step.motions if isinstance(motion, Cut)])
            hulls.append(shapely.MultiPoint(path).envelope)
            corner = np.array(step_corner(len(hulls) - 1, columns)) + (30, 40)
            assert path.min(axis=0) == pytest.approx(corner, abs=1e-6)
        assert all(box.contains(hull) for hull in hulls)
        assert all(not a.intersects(b) for n, a in enumerate(hulls) for b in hulls[:n])
