"""A print's key holds what is made of a recipe, and nothing that is only known about it."""

import json
from typing import Any

import pytest

from perisect.core.job import JobRecipe
from perisect.core.job.made import made_key, made_of
from perisect.core.sheet.equipment import PlotterRecipe, PrinterRecipe, StockRecipe

PAPER = {"id": "a4", "name": "A4 paper", "width_mm": 210, "height_mm": 297, "price": 0.42}
HERON = {"id": "d1", "name": "Heron", "artwork": "a" * 64, "border_mm": 2.0, "longest_mm": 60.0}


def key(design: dict[str, Any] | None = None, sheet: dict[str, Any] | None = None, **job: object) -> str:
    told = {"designs": [HERON | (design or {})], "sheet": sheet or {}, **job}
    return made_key(JobRecipe.model_validate(told))


def test_names_rights_and_prices_leave_a_printed_sheet_current() -> None:
    assert key() == key({"name": "Grey heron"})
    assert key() == key({"rights": {"source": "own drawing", "licence": "ours", "may_be_sold": "yes"}})
    assert key() == key({"kind": "photograph"})
    assert key() == key(order=True)
    on_paper = key(sheet={"paper": PAPER})
    assert on_paper == key(sheet={"paper": PAPER | {"price": 0.5, "name": "A4, matt"}})
    printer = {"id": "p", "name": "Printer"}
    assert key(sheet={"printer": printer}) == key(
        sheet={"printer": printer | {"name": "Desk", "ink_price": 9, "ink_ml_m2": 1}}
    )


@pytest.mark.parametrize(
    "sheet",
    [
        {"paper": PAPER | {"height_mm": 298}},
        {"paper": PAPER | {"id": "kraft"}},
        {"printer": {"id": "desk", "name": "P", "margin_top_mm": 6}},
        {"plotter": {"id": "desk", "name": "P", "knife_offset_mm": 0.3}},
        {"gap_mm": 3},
        {"fill": False},
        {"small_marks": True},
        {"quality": "best"},
        {"seed": 2},
    ],
)
def test_numbers_of_the_work_make_another_sheet(sheet: dict[str, Any]) -> None:
    assert key(sheet=sheet) != key()


def test_art_and_lines_make_another_sheet() -> None:
    others = [
        {"border_mm": 3},
        {"longest_mm": 61},
        {"artwork": "b" * 64},
        {"copies": 2},
        {"peel_mm": 2},
        {"lines": {"bleed_mm": 1}},
        {"mend": {"background": "plain"}},
    ]
    assert len({key(), *(key(each) for each in others)}) == len(others) + 1


def test_the_usual_machines_are_the_same_chosen_and_not() -> None:
    now = JobRecipe().sheet
    chosen = {
        "paper": now.on.model_dump(),
        "printer": now.printed_by.model_dump(),
        "plotter": now.cut_by.model_dump(),
    }
    assert key(sheet=chosen) == key()


def test_of_places_set_by_hand_only_the_places_count() -> None:
    place = {"design": "d1", "x_mm": 60.0, "y_mm": 80.0}
    by_hand = {"method": "hand", "placements": [place]}
    same = [{"seed": 3}, {"nest_s": 20}, {"turns": "free"}, {"fill": False}]
    assert {key(sheet=by_hand | each) for each in same} == {key(sheet=by_hand)}
    assert key({"copies": 7}, by_hand) == key(sheet=by_hand)
    locked = by_hand | {"placements": [place | {"locked": True}]}
    assert key(sheet=locked) == key(sheet=by_hand)
    moved = by_hand | {"placements": [place | {"x_mm": 60.1}]}
    assert key(sheet=moved) != key(sheet=by_hand)
    # On a card, and on a roll, numbers of copies still say how much there is.
    card = by_hand | {"card": {}}
    assert key({"copies": 7}, card) != key(sheet=card)
    roll = by_hand | {"paper": PAPER | {"kind": "roll"}}
    assert key(sheet=roll | {"fill": False}) != key(sheet=roll)


def test_a_field_that_is_left_at_its_default_is_not_in_the_key() -> None:
    """A field that a later version adds with a default changes no earlier key."""
    whole = json.loads(JobRecipe.model_validate({"designs": [HERON]}).model_dump_json())
    assert made_key(JobRecipe.model_validate(whole)) == key()
    made = made_of(JobRecipe.model_validate(whole))
    assert made["designs"] == [{"id": "d1", "artwork": "a" * 64}]
    assert set(made["sheet"]) == {"paper", "printer", "plotter"}


GOLDEN = {
    # As the first version saved them, and one of each kind that came later.
    "first": (
        {"designs": [HERON | {"copies": 3}], "sheet": {"stock": "letter", "fill": False}},
        "04926b5fdb6081189a840b72f19a54ef65b1732609b596a7f7692beb3e388a2f",
    ),
    "peel": (
        {"designs": [HERON | {"peel_mm": 2.0, "border_mm": 0.0}], "sheet": {"gap_mm": 3.5}},
        "f0ef02d20f0c0500b35336be4427b17669c4b0161131843be9b4130db17a53c2",
    ),
    "hand": (
        {
            "designs": [HERON],
            "sheet": {
                "method": "hand",
                "placements": [{"design": "d1", "x_mm": 61.25, "y_mm": 90.5, "rotation_deg": 12.5}],
            },
        },
        "3f33251d8525877f67cde14b1331d2d1adf3d38e0fb363b0a502f5e2d5008fce",
    ),
    "card": (
        {"designs": [HERON], "sheet": {"card": {"heading": "Ferry kiosk", "copies": 2}, "fill": False}},
        "185abb2dd75856ddeaacf0a4c37828f0f66783735c426df53f74f56a292be8be",
    ),
    "roll": (
        {
            "designs": [HERON | {"copies": 24}],
            "sheet": {
                "paper": PAPER | {"kind": "roll", "width_mm": 320, "height_mm": 1200, "face": "vinyl"},
                "plotter": {"id": "roll-plotter", "name": "Roll plotter", "marks": {"pattern": "pairs"}},
                "fill": False,
                "panel_mm": 400.0,
            },
        },
        "96913f345b749eef2effab2bb38e445203f3f510b2343f5d657bc713f64c725a",
    ),
    "mended": (
        {
            "designs": [
                HERON
                | {
                    "mend": {"background": "plain", "frame": {"shape": "rounded"}},
                    "lines": {"bleed_mm": 2.0},
                }
            ]
        },
        "cb634970ebb258acf8726e86d3d07b1531d0cb73d4f8b1bd3c73152ccf121964",
    ),
    "scrap": (
        {
            "designs": [HERON],
            "sheet": {"scrap": {"of_print": 7, "used": [[[10.0, 10.0], [80.0, 10.0], [80.0, 90.0]]]}},
        },
        "8ef76f7bd1d6f0f80c7a9c1adc80a571de82762c716969aa364739bf9310fe68",
    ),
}


@pytest.mark.parametrize("name", GOLDEN)
def test_recipes_of_every_earlier_version_keep_their_key(name: str) -> None:
    """Pinned: another key makes every sheet that was printed before "an older version"."""
    recipe, pinned = GOLDEN[name]
    assert made_key(JobRecipe.model_validate(recipe)) == pinned


def test_a_field_that_is_added_to_a_machine_has_a_default() -> None:
    """Recipes of before lack it, and have to be read."""
    for model in (StockRecipe, PrinterRecipe, PlotterRecipe):
        required = {name for name, field in model.model_fields.items() if field.is_required()}
        assert required - {"id", "name"} == ({"width_mm", "height_mm"} if model is StockRecipe else set())
