"""Recipes kept by an earlier version are read by this one."""

import importlib

from perisect.core.job import JobRecipe
from perisect.core.job.made import made_key
from perisect.store import made_keys

later_mend = importlib.import_module("perisect.store.migrations.versions.0002_stations")._later
forget_tolerance = importlib.import_module(
    "perisect.store.migrations.versions.0006_tolerance"
)._left_to_the_picture


def kept(**mend: object) -> dict:
    """A recipe as the first version kept it."""
    design = {
        "id": "d1",
        "name": "Art",
        "artwork": "a" * 64,
        "longest_mm": 60.0,
        "border_mm": 2.0,
        "copies": 1,
    }
    before = {
        "background": "as_is",
        "tolerance": 12.0,
        "knock_out": [],
        "keep": [],
        "piece": None,
        "specks_px2": 0,
    }
    return {"designs": [design | {"mend": before | {"frame": None} | mend}], "sheet": {"stock": "a4"}}


def test_a_drawing_of_a_page_and_a_frame_come_over() -> None:
    recipe = kept(piece=[120, 80], frame={"shape": "rounded", "radius_pct": 8.0})
    assert later_mend(recipe["designs"][0]["mend"])
    mend = JobRecipe.model_validate(recipe).designs[0].mend
    assert mend.drawings == ((120, 80),)
    assert mend.frame is not None
    assert mend.frame.shape == "rounded"


def test_a_mend_that_changes_nothing_stays_nothing() -> None:
    recipe = kept()
    mend = recipe["designs"][0]["mend"]
    assert later_mend(mend)
    assert forget_tolerance(mend)
    assert JobRecipe.model_validate(recipe).designs[0].mend.is_nothing
    assert not later_mend(mend)  # and a second time there is nothing to do
    assert not forget_tolerance(mend)


def test_a_tolerance_that_took_a_background_away_stays() -> None:
    for took in ({"background": "plain"}, {"picked": [[3, 4]]}, {"tolerance": 20.0}):
        mend = kept(**took)["designs"][0]["mend"]
        assert not forget_tolerance(mend)
        assert mend["tolerance"] is not None


def test_a_print_whose_recipe_cannot_be_read_any_more_has_no_key() -> None:
    recipe = JobRecipe().model_dump_json()
    assert made_keys._key(recipe) == made_key(JobRecipe.model_validate_json(recipe))
    for broken in ('{"designs": 5}', "[]", "null", "{", "[" * 100_000 + "]" * 100_000):
        assert made_keys._key(broken) == ""
