"""Which corners are lifted."""

import numpy as np
import pytest

from perisect.core.cutting.lifting import FIRST, LATER, corners_to_lift

GRID = np.array([(x, y) for y in range(0, 280, 40) for x in range(0, 200, 40)], float)


def test_corners_are_spread_over_the_sheet() -> None:
    """Of 5 x 7 stickers, 40 mm apart, no two are neighbours, and each is at most two fields away from one."""
    lifted = corners_to_lift(GRID, is_first=False)
    assert len(lifted) == LATER
    from_lifted = np.hypot(*(GRID[:, None] - GRID[lifted][None]).transpose(2, 0, 1))
    assert from_lifted.min(axis=1).max() <= 2 * np.hypot(40, 40)
    assert (from_lifted[lifted] + 1e3 * np.eye(LATER)).min() > 40


def test_of_ten_stickers_every_row_and_column_has_one_that_is_lifted() -> None:
    """One above three rows of three, as ten squares of 60 mm stand on A4."""
    places = np.array([(1, 0), *((x, y) for y in (1, 2, 3) for x in (0, 1, 2))], float) * 66
    lifted = places[corners_to_lift(places, is_first=False)] / 66
    assert set(lifted[:, 0]) == {0, 1, 2}
    assert set(lifted[:, 1]) == {0, 1, 2, 3}
    # The sheet's four outermost stickers are among them.
    assert {(1, 0), (0, 3), (2, 3)} <= {tuple(each) for each in lifted.tolist()}


def test_a_first_sheet_is_looked_at_more_closely() -> None:
    lifted = corners_to_lift(GRID, is_first=True)
    assert len(lifted) == len(set(lifted)) == FIRST
    assert lifted == sorted(lifted)


@pytest.mark.parametrize("many", [0, 1, 3])
def test_of_few_stickers_all_are_lifted_once(many: int) -> None:
    assert corners_to_lift(GRID[:many], is_first=True) == list(range(many))
    # Two pieces of one sticker may stand at one place.
    assert corners_to_lift(np.zeros((many, 2)), is_first=False) == list(range(many))
