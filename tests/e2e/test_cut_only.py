"""Bare stock in the browser: from a picture to a cut sheet without a print."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC
from tests.e2e.conftest import drop, new_job, unload

pytestmark = pytest.mark.browser


def test_bare_stock_is_cut_without_a_print(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("3")
    readings = page.get_by_label("Readings")
    page.get_by_role("radio", name="By number").click()
    readings.get_by_role("radio", name="Cut only").click()
    stub = page.get_by_role("navigation", name="Stations")
    expect(stub).to_contain_text("cut only, nothing is printed")
    expect(stub).to_contain_text("0 of 1 sheet cut")
    page.keyboard.press("4")
    expect(page.get_by_text("This job is cut from bare stock")).to_be_visible()
    page.keyboard.press("5")
    expect(readings).to_contain_text("there are no marks to correct how it lies")
    expect(readings.get_by_role("region", name="Setting of Kiss")).to_contain_text("Force")
    expect(readings).to_contain_text("Total time, about")
    page.get_by_role("button", name="Load and cut sheet 1").click()
    unload(page)
    expect(stub).to_contain_text("1 of 1 sheet cut")
    expect(readings.get_by_role("button", name=re.compile("^Bare sheet .*, sheet 1"))).to_contain_text("cut")
    expect(readings.get_by_role("button", name="Load another sheet 1")).to_be_visible()
    page.keyboard.press("6")
    expect(readings).to_contain_text("Slip is not measured on bare stock")
    page.get_by_role("button", name="All good").click()
    expect(stub).to_contain_text("1 good of 1")
    # It can be printed after all.
    page.keyboard.press("3")
    readings.get_by_role("radio", name="Print and cut").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Change it").click()
    expect(stub).to_contain_text("0 of 1 sheet printed")
