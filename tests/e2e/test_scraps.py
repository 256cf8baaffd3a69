"""What is left of a sheet is kept after its cut and taken by the next small job."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.core import drawings
from tests.e2e.conftest import drop, new_job, printed_job, unload

pytestmark = [pytest.mark.browser, pytest.mark.long]
STAR = drawings.png(drawings.coverage(drawings.star(300, 120))[0], (30, 90, 150))


def test_a_small_job_takes_what_the_one_before_left(page: Page) -> None:
    printed_job(page, STAR, by_number=True)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    page.keyboard.press("6")
    page.get_by_role("button", name="Keep the leftover").click()
    expect(page.get_by_text("are kept")).to_be_visible()
    new_job(page)
    drop(page, {"star.png": STAR})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("3")
    page.get_by_role("radio", name="By number").click()
    page.get_by_role("button", name=re.compile("^Use what is left of")).first.click()
    expect(page.get_by_text("This job uses a leftover sheet")).to_be_visible()
    # Rows and nests would change nothing there.
    places = page.get_by_label("Places", exact=True).get_by_role("radio")
    expect(places).to_have_text(["Where there is room", "By hand"])
    expect(places.first).to_be_checked()
    page.get_by_role("button", name="Take a new sheet").click()
    expect(places).to_have_text(["Rows", "Nested", "By hand"])
    expect(page.get_by_role("button", name=re.compile("^Use what is left of")).first).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("This job uses a leftover sheet")).to_be_visible()
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible(timeout=60_000)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
