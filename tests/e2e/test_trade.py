"""The shop's trade on the screen: an order from entry to packing list, and a whole shop put back."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.api.conftest import DISC
from tests.e2e.conftest import Shop, drop, empty_folder, new_job, printed_job, start, stop, unfold, unload

pytestmark = [pytest.mark.browser, pytest.mark.long]


def print_and_cut(page: Page) -> None:
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    page.keyboard.press("6")
    expect(page.get_by_role("checkbox", name=re.compile("^Sticker 1"))).to_be_visible(timeout=30_000)


@pytest.mark.long
def test_an_order_goes_from_entry_to_packing_list_with_a_bad_sticker_made_again(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("2")
    unfold(page, "Shelf")
    page.get_by_role("textbox", name="Tags, with commas between").fill("round, test")
    page.get_by_role("button", name="Keep Disc on the shelf").click()
    page.get_by_role("link", name="Open the shelf").click()
    expect(page.get_by_role("button", name="Disc").first).to_be_visible()
    page.get_by_role("link", name="Orders", exact=True).click()
    page.get_by_role("button", name="New order").first.click()
    page.get_by_role("button", name="Save the order").click()
    expect(page.get_by_role("alert")).to_have_text("Enter a customer.")
    page.get_by_role("textbox", name="Customer").fill("Lower mill")
    page.get_by_role("textbox", name="Address").fill("Weir path 2\nReedwater")
    page.get_by_label("Due").fill("2030-01-07T10:00")
    page.get_by_role("list", name="On the shelf").get_by_role("button", name="Disc").first.click()
    page.get_by_role("spinbutton", name="How many of Disc").fill("1")
    page.get_by_role("button", name="Save the order").click()
    mine = page.get_by_role("region", name=re.compile(r"^Order \d+"))
    expect(mine).to_contain_text("Lower mill")
    expect(mine).to_contain_text("0 of 1")
    order = page.url
    mine.get_by_role("button", name="Make it").click()
    page.wait_for_url("**/jobs/*/*")
    expect(page.get_by_role("button", name="Lower mill", exact=True)).to_be_visible()
    print_and_cut(page)
    # Whatever else is on the sheet is bad too: the one that is wanted is to be made again.
    for sticker in page.get_by_role("checkbox", name=re.compile(r"^Sticker \d+$")).all():
        sticker.press("Space")
    page.get_by_role("button", name="Plan the 1 sticker that lacks").click()
    expect(page.get_by_role("button", name="Lower mill, what is missing")).to_be_visible()
    print_and_cut(page)
    page.keyboard.press("g")
    expect(page.get_by_role("list", name="The order")).to_contain_text("1 of 1")
    page.goto(order)
    expect(mine).to_contain_text("1 of 1")
    paper = page.request.get(mine.get_by_role("link", name="Packing list").get_attribute("href") or "")
    assert paper.body().startswith(b"%PDF")
    mine.get_by_role("button", name="Mark as sent").click()
    page.get_by_role("radio", name="Sent").click()
    expect(page.get_by_role("list").get_by_text("Lower mill")).to_be_visible()


def test_what_the_log_says_of_a_rate_is_taken_by_a_click(page: Page) -> None:
    log = [{"rate": "print_min", "value": 1.62, "times": 23}]
    page.route("**/api/shop/rates/log", lambda route: route.fulfill(json=log))
    page.goto("/shop")
    rates = page.get_by_role("region", name="Hourly rates and wear")
    field = rates.get_by_label("Print time per sheet, min", exact=True)
    before = field.input_value()
    assert before != "1.6"
    rates.get_by_role("button", name="Use 1.6 for Print time per sheet, min, from the log").click()
    expect(field).to_have_value("1.6")
    # What agrees with the log is no longer pointed at.
    expect(rates.get_by_role("button", name=re.compile("from the log"))).to_be_hidden()
    page.reload()
    expect(field).to_have_value("1.6")
    field.fill(before)
    field.press("Enter")
    expect(rates.get_by_role("button", name=re.compile("from the log"))).to_be_visible()


@pytest.mark.long
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
    page.get_by_label("Backup to restore").set_input_files(file)
    expect(page.get_by_text("The backup was not restored.")).to_be_visible()
    page.get_by_role("button", name="Close").click()
    with empty_folder() as local:
        other = start(local, "--port", str(free_port()), "--no-demo")
        try:
            second = browser.new_page(base_url=other.url)
            second.goto("/shop")
            second.get_by_label("Backup to restore").set_input_files(file)
            expect(second.get_by_text(re.compile(r"rows and \d+ files are back"))).to_be_visible()
            second.get_by_role("navigation", name="The shop").get_by_role("link", name="Jobs").click()
            second.get_by_role("link", name=re.compile("Ferry bell")).first.click()
            expect(second.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
            second.close()
        finally:
            assert stop(other) == 0


def test_the_stockroom_is_entered_by_hand_and_nothing_that_cannot_be(page: Page) -> None:
    kraft = next(
        each["name"] for each in page.request.get("/api/stockroom").json() if each["item"] == "stock:a4-kraft"
    )
    page.goto("/stockroom")
    page.get_by_label("Stock").get_by_role("button", name=kraft).click()
    mine = page.get_by_role("region", name=kraft)
    expect(mine).to_contain_text("50 sheets there · 0 used")

    def enter(what: str, quantity: str, note: str = "") -> None:
        mine.get_by_role("radio", name=what).click()
        mine.locator("input[inputmode=decimal]").first.fill(quantity)
        mine.get_by_label("Note").fill(note)
        mine.get_by_role("button", name="Enter it").click()

    for wrong in ("", "-4", "many"):
        enter("Count", wrong)
        expect(mine.get_by_role("alert")).to_contain_text("Type how many")
    enter("Count", "80")
    expect(mine).to_contain_text("80 sheets there")
    enter("Delivery", "20", "by the morning boat")
    expect(mine).to_contain_text("100 sheets there")
    enter("Waste", "3", "wet")
    expect(mine).to_contain_text("97 sheets there")
    expect(mine).to_contain_text("3 wasted")
    for told in ("delivered", "wasted", "corrected", "by the morning boat"):
        expect(mine.get_by_role("list").last).to_contain_text(told)
    expect(page.get_by_label("Stock")).to_contain_text("97 sheets")


@pytest.mark.long
def test_every_plot_of_the_figures_has_its_table(page: Page) -> None:
    printed_job(page, DISC)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    job = page.url.split("/jobs/")[1].split("/")[0]
    page.goto("/figures")
    slips = page.get_by_role("region", name="Mean slip of a cut, mm")
    expect(slips.locator("svg.recharts-surface").first).to_be_visible()
    slips.get_by_role("button", name="Table").click()
    newest = slips.get_by_role("row").nth(1)
    expect(newest).to_contain_text(re.compile(r"0\.\d{3}"))
    expect(newest.get_by_role("link")).to_have_attribute("href", f"/jobs/{job}/log")
    hours = page.get_by_role("region", name="Hours and waste")
    expect(hours).to_contain_text("Printed sheets thrown away")
    # Nothing was ever cut on a roll here.
    page.get_by_label("Stock", exact=True).select_option("roll-vinyl")
    expect(slips).to_contain_text("The slip of each measured cut appears here.")
    newest_link = page.get_by_role("link", name="Every cut as CSV")
    csv = page.request.get(newest_link.get_attribute("href") or "").text()
    assert csv.splitlines()[0].startswith("id,")
