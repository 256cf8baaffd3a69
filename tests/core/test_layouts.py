"""Random layouts of every method, read back from their exported cut files."""

import pytest

from perisect.core.job import JobRecipe, plan_job
from tests.core import layouts

pytestmark = pytest.mark.slow


@pytest.mark.long
@pytest.mark.parametrize("method", list(layouts.METHODS))
@pytest.mark.parametrize("seed", range(6))
def test_nothing_that_is_exported_leaves_its_place(method: str, seed: int) -> None:
    told: list[str] = []
    wrong, count = layouts.wrong_pieces(layouts.random_plan(method, seed), told.append)
    assert (wrong, told) == (0, [])
    assert count > 0


def test_the_check_sees_what_is_wrong() -> None:
    plan = layouts.random_plan("rows", 1)
    recipe = plan.recipe.model_dump()
    stands = [{"design": "d0", "x_mm": x, "y_mm": 120} for x in (10.0, 100.0, 101.0)]
    recipe["sheet"] |= {"method": "hand", "placements": stands}
    recipe["designs"][0]["longest_mm"] = 30
    hand = plan_job(JobRecipe.model_validate(recipe), {f"{0:064x}": plan.artworks["d0"]})
    # One hangs over the side, and two lie on each other: what overlaps is told as one line or as two that meet.
    assert layouts.wrong_pieces(hand)[0] >= 2
