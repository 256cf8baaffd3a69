"""The shop's trade on the screen: an order from entry to packing list, and a whole shop put back."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.api.conftest import DISC
from tests.e2e.conftest import Shop, drop, empty_folder, new_job, start, stop, unfold, unload

pytestmark = pytest.mark.browser


def print_and_cut(page: Page) -> None:
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    page.keyboard.press("6")
    expect(page.get_by_role("checkbox", name=re.compile("^Sticker 1"))).to_be_visible(timeout=30_000)


def test_an_order_goes_from_entry_to_packing_list_with_a_bad_sticker_made_again(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("2")
    unfold(page, "Shelf")
    page.get_by_role("textbox", name="Tags, with commas between").fill("round, test")
    page.get_by_role("button", name="Keep Disc on the shelf").click()
    page.get_by_role("link", name="Look at it there").click()
    expect(page.get_by_role("button", name="Disc").first).to_be_visible()
    page.get_by_role("link", name="Orders", exact=True).click()
    page.get_by_role("button", name="New order").first.click()
    page.get_by_role("button", name="Enter the order").click()
    expect(page.get_by_role("alert")).to_have_text("Say who it is for.")
    page.get_by_role("textbox", name="Who it is for").fill("Lower mill")
    page.get_by_role("textbox", name="Address, a line each").fill("Weir path 2\nReedwater")
    page.get_by_label("Due").fill("2030-01-07T10:00")
    page.get_by_role("list", name="On the shelf").get_by_role("button", name="Disc").first.click()
    page.get_by_role("spinbutton", name="How many of Disc").fill("1")
    page.get_by_role("button", name="Enter the order").click()
    mine = page.get_by_role("region", name=re.compile(r"^Order \d+"))
    expect(mine).to_contain_text("Lower mill")
    expect(mine).to_contain_text("0 of 1")
    order = page.url
    mine.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("button", name="For Lower mill")).to_be_visible()
    print_and_cut(page)
    # Whatever else is on the sheet is bad too: the one that is wanted is to be made again.
    for sticker in page.get_by_role("checkbox", name=re.compile(r"^Sticker \d+$")).all():
        sticker.press("Space")
    page.get_by_role("button", name="Plan the 1 sticker that lacks").click()
    expect(page.get_by_role("button", name="For Lower mill, what lacks")).to_be_visible()
    print_and_cut(page)
    page.keyboard.press("g")
    expect(page.get_by_role("list", name="The order")).to_contain_text("1 of 1")
    page.goto(order)
    expect(mine).to_contain_text("1 of 1")
    paper = page.request.get(mine.get_by_role("link", name="Packing list").get_attribute("href") or "")
    assert paper.body().startswith(b"%PDF")
    mine.get_by_role("button", name="It is sent").click()
    page.get_by_role("radio", name="Sent").click()
    expect(page.get_by_role("list").get_by_text("Lower mill")).to_be_visible()


def test_a_backup_is_put_into_an_empty_shop(
    page: Page, browser: Browser, running: Shop, tmp_path: Path
) -> None:
    from perisect.up.cluster import free_port

    new_job(page)
    drop(page, {"ferry bell.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.goto("/shop")
    file = tmp_path / "shop.zip"
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save a backup").click()
    saved.value.save_as(file)
    page.get_by_label("A backup to put back").set_input_files(file)
    expect(page.get_by_text("This backup is not put back.")).to_be_visible()
    page.get_by_role("button", name="Put away").click()
    with empty_folder() as local:
        other = start(local, "--port", str(free_port()), "--no-demo")
        try:
            second = browser.new_page(base_url=other.url)
            second.goto("/shop")
            second.get_by_label("A backup to put back").set_input_files(file)
            expect(second.get_by_text(re.compile(r"rows and \d+ files are back"))).to_be_visible()
            second.get_by_role("navigation", name="The shop").get_by_role("link", name="Jobs").click()
            second.get_by_role("link", name=re.compile("Ferry bell")).first.click()
            expect(second.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
            second.close()
        finally:
            assert stop(other) == 0
