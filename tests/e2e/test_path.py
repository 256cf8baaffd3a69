"""From two dropped pictures to a slip in the log, in the browser."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC, STAR
from tests.e2e.conftest import drop, new_job, unload

pytestmark = pytest.mark.browser


def type_length(page: Page, label: str, text: str) -> None:
    field = page.get_by_role("textbox", name=label)
    field.fill(text)
    field.press("Enter")


def test_two_pictures_become_cut_stickers(page: Page) -> None:
    new_job(page)
    drop(page, {"river-disc.png": DISC, "deck_star.png": STAR})
    pieces = page.get_by_role("list", name="Pieces")
    expect(pieces.get_by_role("listitem")).to_have_count(2)
    expect(pieces).to_contain_text("River disc")
    expect(page.get_by_label("Readings")).to_contain_text("clear")

    page.get_by_role("radio", name="All pieces").click()
    type_length(page, "Longest side", "2in")
    expect(page.get_by_label("Readings")).to_contain_text("50.8 × 50.8 mm")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Draw the cut lines").click()

    type_length(page, "White border", "2.5")
    page.get_by_role("radio", name="Peel edge").click()
    type_length(page, "Peel margin", "2")
    stub = page.get_by_role("navigation", name="Stations")
    expect(stub).to_contain_text("kiss 2.5 · through +2.0")

    # The slider moves the lines while it moves, and one step is kept when it is let go.
    steps = int(re.search(r"step (\d+)", page.locator("header").inner_text())[1])  # type: ignore[index]
    kiss = page.locator("path.line-kiss")
    before = kiss.get_attribute("d")
    thumb = page.get_by_role("slider", name="White border")
    thumb.press("ArrowRight")
    expect(stub).to_contain_text("kiss 2.6")
    expect(kiss).not_to_have_attribute("d", before or "")
    expect(page.locator("header")).to_contain_text(f"step {steps + 1}")

    page.get_by_role("link", name="Lay out the sheet").click()
    expect(page.get_by_role("radio", name="Fill a sheet")).to_be_checked()
    expect(stub).to_contain_text(re.compile(r"1[0-9] on 1 sheet · \d\d % used"))
    page.get_by_label("Stock", exact=True).select_option("letter")
    expect(page.get_by_role("region", name="Light table: Letter")).to_be_visible()
    expect(stub).to_contain_text("on 1 sheet")

    page.get_by_role("link", name="Go to print").click()
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.get_by_role("link", name="Go to the plotter").click()

    page.get_by_role("button", name="Load and cut").click()
    status = page.get_by_role("status").filter(has_text="line")
    expect(status).to_contain_text("Cutting")
    unload(page)
    # A cut sheet is not cut again by one click too many.
    page.get_by_role("button", name="Cut it again").click()
    asked = page.get_by_role("dialog", name="This sheet is cut already")
    asked.get_by_role("button", name="Cancel").click()
    expect(asked).to_be_hidden()
    expect(status).to_contain_text("Done")
    page.get_by_role("button", name="Cut it again").click()
    asked.get_by_role("button", name="Cut it a second time").click()
    expect(status).not_to_contain_text("Done")
    unload(page)
    expect(page.get_by_label("Readings")).to_contain_text("Registration from four marks")
    page.get_by_role("link", name="Open the log").click()

    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("Every sticker's slip stays within its border")
    largest = float(readings.get_by_text("largest").locator("b").inner_text())
    assert 0 < largest <= 0.2
    expect(page.locator("image[href$='cut.png']")).to_be_visible()
    expect(stub).to_contain_text(re.compile(r"\d+ of \d+ within · slip 0\.\d\d mm"))


def test_keys_units_undo_and_find(page: Page) -> None:
    job = new_job(page)
    drop(page, {"disc.png": DISC})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    expect(pieces).to_have_count(1)
    for key, path in zip("654321", ("log", "cut", "print", "sheet", "lines", "artwork"), strict=True):
        page.keyboard.press(key)
        page.wait_for_url(f"{job}/{path}")
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Drop your pictures here")).to_be_visible()
    page.keyboard.press("Control+Shift+Z")
    expect(pieces).to_have_count(1)
    page.get_by_role("button", name="in", exact=True).click()
    expect(page.get_by_label("Readings")).to_contain_text(" in")
    page.get_by_role("button", name="mm", exact=True).click()
    page.keyboard.press("Control+k")
    page.keyboard.type("lett")
    page.keyboard.press("Enter")
    page.wait_for_url(f"{job}/sheet")
    expect(page.get_by_label("Stock", exact=True)).to_have_value("letter")


def test_two_windows_never_overwrite_each_other(page: Page) -> None:
    job = new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    other = page.context.new_page()
    # It hears of nothing, as on a line that is slow: otherwise it would have the other version before it writes.
    other.route("**/events", lambda route: route.abort())
    other.goto(f"{job}/lines")
    expect(other.get_by_role("textbox", name="White border")).to_have_value("2.00")
    page.keyboard.press("2")
    type_length(page, "White border", "3")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("kiss 3.0")
    type_length(other, "White border", "4")
    dialog = other.get_by_role("dialog")
    expect(dialog).to_contain_text("border 3.00 mm")
    expect(dialog).to_contain_text("border 4.00 mm")
    dialog.get_by_role("button", name="Use mine").click()
    expect(other.get_by_role("navigation", name="Stations")).to_contain_text("kiss 4.0")
    other.keyboard.press("Control+z")
    expect(other.get_by_role("navigation", name="Stations")).to_contain_text("kiss 3.0")


def test_what_one_window_changes_the_other_shows(page: Page) -> None:
    job = new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    other = page.context.new_page()
    other.goto(f"{job}/lines")
    expect(other.get_by_role("textbox", name="White border")).to_have_value("2.00")
    page.keyboard.press("2")
    type_length(page, "White border", "3")
    expect(other.get_by_role("textbox", name="White border")).to_have_value("3.00")
    other.keyboard.press("Control+z")
    expect(page.get_by_role("textbox", name="White border")).to_have_value("2.00")


def test_any_job_is_found_by_its_title(page: Page) -> None:
    made = page.request.post("/api/jobs", data={"title": "Compass roses for the pilot house"}).json()
    page.goto("/shop")
    expect(page.get_by_role("heading", name="Stocks and machines")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("rose pilot")
    # Quick fingers: the answer is still to come.
    page.keyboard.press("Enter")
    page.wait_for_url(f"**/jobs/{made['id']}/artwork")
