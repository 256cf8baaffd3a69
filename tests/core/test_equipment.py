"""Rolls grow as far as they have to; what sheets cost; what fits on the rest; a second life for waste."""

import numpy as np
import pytest
import shapely

from perisect.core.clock import stopped
from perisect.core.job import JobPlan, JobRecipe, plan_job
from perisect.core.job.findings import findings_of
from perisect.core.job.rest import what_fits
from perisect.core.ledger.cost import cost_of, full_ink_px
from perisect.core.sheet.placing import shapes_on
from perisect.core.sheet.recipe import PANEL_STEP_MM
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS, EXAMPLE_PRINTERS, EXAMPLE_STOCKS
from tests.core.test_sheet import planned, rectangle

ARTWORKS = {f"{n:064x}": rectangle(400, 300) for n in range(3)}
ROLL = next(stock for stock in EXAMPLE_STOCKS if stock.kind == "roll")
ON_ROLL = {
    "paper": ROLL.recipe.model_dump(),
    "printer": EXAMPLE_PRINTERS[1].recipe.model_dump(),
    "plotter": EXAMPLE_PLOTTERS[1].recipe.model_dump(),
}


def on(plan: JobPlan, copies: int, **sheet: object) -> JobPlan:
    recipe = plan.recipe.model_dump()
    recipe["sheet"] |= {"fill": False} | sheet
    for design in recipe["designs"]:
        design["copies"] = copies
    return plan_job(JobRecipe.model_validate(recipe), ARTWORKS, nested=lambda question: None)


ONE = planned((400, 300, 40.0), border_mm=1.0)


def test_a_panel_is_no_longer_than_its_stickers_need() -> None:
    lengths = []
    for copies in (1, 20, 60):
        plan = on(ONE, copies, **ON_ROLL)
        assert plan.sheets.count == copies
        assert len(plan.sheets.sheets) == 1
        lengths.append(plan.area.stock.height_mm)
        lowest = max(
            shape.bounds[3] for shape in shapes_on({f.key: f for f in plan.footprints}, plan.sheets.sheets[0])
        )
        # Grip and margin below, a row of marks, and the step of a panel.
        assert plan.area.stock.height_mm - lowest < 20 + 32 + 2 * PANEL_STEP_MM
    assert lengths == sorted(lengths)
    assert lengths[0] < 130


def test_an_order_longer_than_a_panel_takes_panels_of_one_length() -> None:
    plan = on(ONE, 400, **ON_ROLL)
    assert plan.sheets.count == 400
    assert len(plan.sheets.sheets) == 2
    assert plan.area.stock.height_mm < ROLL.height_mm
    assert len(plan.area.marks) % 2 == 0
    spacing = np.diff(sorted({mark.y_mm for mark in plan.area.marks}))
    assert spacing.max() <= 300


def test_what_is_locked_on_a_roll_is_counted_in() -> None:
    locked = {"design": "d0", "x_mm": 160, "y_mm": 90, "rotation_deg": 30, "locked": True}
    plan = on(ONE, 20, placements=[locked], **ON_ROLL)
    assert plan.sheets.count == 20
    assert len(plan.sheets.sheets) == 1


def test_sheets_cost_their_stock_and_their_ink() -> None:
    printer = EXAMPLE_PRINTERS[0].model_copy(update={"ink_ml_m2": 10.0, "ink_price": 0.5})
    paper = EXAMPLE_STOCKS[0].model_copy(update={"price": 0.4})
    # A square metre of full ink is 10 ml at 0.5: a tenth of it 0.5.
    cost = cost_of(paper, printer, 3, 297, 100_000, 30)
    assert (cost.stock, cost.ink, cost.each) == pytest.approx((1.2, 0.5, 1.7 / 30))
    roll = ROLL.model_copy(update={"price": 4.0})
    assert cost_of(roll, printer, 2, 750, 0, 0).stock == pytest.approx(4.0 * 1.5)
    assert cost_of(roll, printer, 2, 750, 0, 0).each == 0


def test_ink_is_what_is_darker_than_paper_and_covers_it() -> None:
    rgba = np.zeros((4, 4, 4), np.uint8)
    rgba[0, 0] = (0, 0, 0, 255)
    rgba[0, 1] = (255, 255, 255, 255)
    rgba[0, 2] = (255, 0, 0, 255)
    rgba[0, 3] = (0, 0, 0, 51)
    # 1 for black, 0 for white, two thirds for red, a fifth for a fifth of black.
    assert full_ink_px(rgba) == pytest.approx(1 + 2 / 3 + 0.2, abs=1e-6)


def test_what_fits_on_the_rest_stands_free_of_what_is_there() -> None:
    plan = on(planned((400, 300, 60.0), (400, 300, 30.0), border_mm=1.0), 3)
    offers = what_fits(plan, plan.footprints, clock=stopped)
    assert {offer.design for offer in offers} == {"d0", "d1"}
    by_key = {f.key: f for f in plan.footprints}
    for offer in offers:
        stands = [stand.model_dump() for stand in offer.placements]
        recipe = plan.recipe.model_dump()
        from perisect.core.sheet.layout import as_recipes

        there = [
            stand.model_dump() for stand in as_recipes([p for sheet in plan.sheets.sheets for p in sheet])
        ]
        recipe["sheet"] |= {"method": "hand", "placements": there + stands}
        both = plan_job(JobRecipe.model_validate(recipe), ARTWORKS)
        assert not [f for f in findings_of(both) if f.code in ("outside", "overlap", "close")]
    small = next(offer for offer in offers if offer.design == "d1")
    large = next(offer for offer in offers if offer.design == "d0")
    assert len(small.placements) > len(large.placements)
    assert shapely.area(by_key["d1"].outline) < shapely.area(by_key["d0"].outline)


def test_an_order_on_a_roll_is_answered_for_panels_as_long_as_it_needs() -> None:
    from perisect.core.job.questions import order_answer

    plan = on(ONE, 1, **ON_ROLL)  # a panel for one sticker
    assert order_answer(plan, {"d0": 60}, 0.0).sheets == 1
    assert order_answer(plan, {"d0": 400}, 0.0).sheets == len(on(ONE, 400, **ON_ROLL).sheets.sheets)


def test_questions_know_of_the_gap_of_through_lines() -> None:
    from perisect.core.job.questions import largest_size

    recipe = ONE.recipe.model_dump()
    recipe["designs"][0]["peel_mm"] = 2.0
    near = plan_job(JobRecipe.model_validate(recipe), ARTWORKS)
    recipe["sheet"]["through_gap_mm"] = 10.0
    far = plan_job(JobRecipe.model_validate(recipe), ARTWORKS)
    size = largest_size(far, "d0", 12)
    assert size is not None
    assert size < (largest_size(near, "d0", 12) or 0) - 3
    recipe["designs"][0]["longest_mm"] = size
    assert plan_job(JobRecipe.model_validate(recipe), ARTWORKS).sheets.count >= 12
