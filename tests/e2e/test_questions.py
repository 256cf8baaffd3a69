"""Questions of the Sheet station in the browser."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC, STAR
from tests.e2e.conftest import drop, new_job, unfold

pytestmark = [pytest.mark.browser, pytest.mark.long]


@pytest.mark.long
def test_an_order_is_planned_a_size_is_found_and_a_line_round_everything_is_drawn(
    page: Page, empty_log: None
) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC, "star.png": STAR})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(2)
    page.keyboard.press("3")
    readings = page.get_by_label("Readings")
    readings.get_by_role("button", name="Questions").click()
    readings.get_by_role("textbox", name="How many on one sheet").fill("6")
    page.keyboard.press("Enter")
    make = readings.get_by_role("button", name="Make it")
    expect(make).to_be_visible()
    for name in ("Disc", "Star"):
        readings.get_by_role("textbox", name=f"Ordered: {name}").fill("20")
        page.keyboard.press("Enter")
    # 20 good ones of each at 3 rejects in a hundred: 22 are 97 % sure, 21 are 87.
    expect(readings).to_contain_text("44 on")
    readings.get_by_role("button", name=re.compile(r"^Print \d+$")).click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("44 on")
    page.get_by_role("button", name="Cut error").click()
    expect(page.get_by_role("region", name="Light table")).to_contain_text("0.0")
    unfold(page, "Perimeter cut")
    readings.get_by_role("radio", name="Perforated").click()
    expect(readings).to_contain_text("Perimeter margin")
    expect(page.locator("path.line-perforate")).to_have_count(1)


@pytest.mark.long
def test_a_setup_is_kept_and_used_on_another_job(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("3")
    readings = page.get_by_label("Readings")
    stock = readings.get_by_label("Stock", exact=True)
    stock.select_option("letter")
    expect(page.get_by_role("region", name="Light table: Letter")).to_be_visible()
    readings.get_by_role("button", name="Set-ups").click()
    readings.get_by_label("Name of the set-up").fill("Ferry letter")
    page.keyboard.press("Enter")
    expect(readings.get_by_role("list", name="Set-ups")).to_contain_text("Ferry letter")
    new_job(page)
    drop(page, {"star.png": STAR})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("3")
    expect(stock).to_have_value("a4")
    readings.get_by_role("button", name="Set-ups").click()
    readings.get_by_role("button", name="Use Ferry letter").click()
    unfold(page, "Stock and filling")
    expect(stock).to_have_value("letter")
    unfold(page, "Set-ups")
    readings.get_by_role("button", name="Remove Ferry letter").click()
    expect(readings.get_by_role("list", name="Set-ups")).not_to_contain_text("Ferry letter")
