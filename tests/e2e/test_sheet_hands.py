"""The Sheet station in hand: pieces and marks moved, theme sheets, groups, ways, and a nest that is cut."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC, STAR
from tests.e2e.conftest import drop, new_job, unfold, unload, until

pytestmark = [pytest.mark.browser, pytest.mark.long]


def at_sheet(page: Page, pictures: dict[str, bytes]) -> Any:
    """A new job with these pictures, at station 3; returns its readings."""
    new_job(page)
    drop(page, pictures)
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(len(pictures))
    page.keyboard.press("3")
    return page.get_by_label("Readings")


def recipe_of(page: Page) -> dict:
    """The recipe as the server has it."""
    number = re.search(r"jobs/(\d+)", page.url)
    return page.request.get(f"/api/jobs/{number[1]}").json()["recipe"]  # type: ignore[index]


@pytest.mark.long
def test_a_piece_is_dragged_snaps_and_is_told_when_it_lies_on_another(page: Page) -> None:
    readings = at_sheet(page, {"disc.png": DISC})
    readings.get_by_role("radio", name="By hand").click()
    expect(readings.get_by_role("button", name="Move pieces")).to_have_attribute("aria-pressed", "true")
    piece = page.locator("use").first.bounding_box()
    assert piece is not None
    x, y = piece["x"] + piece["width"] / 2, piece["y"] + piece["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 11):
        page.mouse.move(x + step * piece["width"] / 20, y + step * 2)
    expect(readings).to_contain_text("overlap: one would be cut into")
    page.mouse.up()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("stopped")
    page.keyboard.press("Control+z")
    expect(readings).not_to_contain_text("overlap")
    before = recipe_of(page)["sheet"]["placements"]
    table = page.get_by_role("region", name="Light table")
    table.focus()
    page.keyboard.press("]")
    page.keyboard.press("r")
    expect(readings).to_contain_text("90°")
    page.keyboard.press("Enter")
    page.keyboard.press("Delete")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text(f"{len(before) - 1} on")


def test_a_mark_is_moved_with_the_keys_and_put_back(page: Page) -> None:
    readings = at_sheet(page, {"disc.png": DISC})
    readings.get_by_role("button", name="Machines and marks").click()
    readings.get_by_role("button", name="Move marks").click()
    page.get_by_role("region", name="Light table").focus()
    page.keyboard.press("]")
    for _ in range(2):
        page.keyboard.press("Shift+ArrowLeft")
    # The upper right mark stands 11 mm from the side of 210 and went 10 to the left.
    back = readings.get_by_role("button", name="Reset mark positions")
    expect(back).to_be_visible()
    assert recipe_of(page)["sheet"]["marks_at"][1] == [189, 12]
    expect(readings).to_contain_text("Reach outside the marks")
    back.click()
    expect(back).to_be_hidden()
    assert recipe_of(page)["sheet"]["marks_at"] == []


@pytest.mark.long
def test_a_theme_sheet_has_a_heading_cards_and_an_order_in_cards(page: Page, empty_log: None) -> None:
    readings = at_sheet(page, {"disc.png": DISC, "star.png": STAR})
    readings.get_by_role("button", name="Theme sheet").click()
    readings.get_by_role("switch", name="Pieces on a card").click()
    heading = readings.get_by_label("Heading", exact=True)
    heading.fill("Discs and stars")
    page.keyboard.press("Enter")
    # A card of 92 × 130 is too low for two pieces of 64 mm, their white and the heading.
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("stopped")
    readings.get_by_role("textbox", name="Height of the card").fill("160")
    page.keyboard.press("Enter")
    # Between the marks of an A4 sheet lie two upright cards of 92 × 160 and a turned one above them.
    expect(page.locator("path.line-through")).to_have_count(3)
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("6 on 1 sheet")
    unfold(page, "Stock and filling")
    expect(readings.get_by_role("radio", name="By number")).to_be_visible()
    expect(readings.get_by_role("radio", name="By hand")).to_be_hidden()
    unfold(page, "Theme sheet")
    readings.get_by_role("radio", name="Perforated").last.click()
    expect(page.locator("path.line-perforate")).to_have_count(3)
    readings.get_by_role("button", name="Questions").click()
    for name in ("Disc", "Star"):
        readings.get_by_role("textbox", name=f"Ordered: {name}").fill("9")
        page.keyboard.press("Enter")
    # At 3 rejects in a hundred 10 of each are 96 % sure: ten cards with one of each.
    readings.get_by_role("button", name=re.compile(r"^Print \d+$")).click()
    unfold(page, "Theme sheet")
    expect(readings.get_by_role("textbox", name="Cards", exact=True)).to_have_value("10")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("20 on 4 sheets")


@pytest.mark.long
def test_what_fits_on_the_rest_is_added_and_ways_are_compared(page: Page) -> None:
    readings = at_sheet(page, {"disc.png": DISC})
    readings.get_by_role("radio", name="By number").click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("1 on")
    readings.get_by_role("button", name="Compare layouts").click()
    readings.get_by_role("button", name="Compare this layout").click()
    unfold(page, "Stock and filling")
    readings.get_by_role("radio", name="Fill a sheet").click()
    expect(page.get_by_role("navigation", name="Stations")).not_to_contain_text(" 1 on")
    unfold(page, "Compare layouts")
    readings.get_by_role("button", name="Compare this layout").click()
    ways = readings.get_by_role("table", name="Layouts side by side").get_by_role("row", name="Stickers")
    figures = ways.get_by_role("cell")
    expect(figures.nth(0)).to_have_text("1")
    expect(figures.nth(1)).to_have_text(re.compile(r"^1\d$"))
    readings.get_by_role("button", name=re.compile("^Use Rows")).first.click()
    unfold(page, "Stock and filling")
    expect(readings.get_by_role("radio", name="By number")).to_be_checked()
    readings.get_by_role("button", name="Fill the rest of the sheet").click()
    # The job's own designs come first; a small one of another job may follow.
    add = readings.get_by_role("button", name=re.compile(r"^Add \d+ Disc$")).first
    more = int(re.search(r"\d+", add.get_attribute("aria-label") or "")[0])  # type: ignore[index]
    add.click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text(f"{more + 1} on")
    unfold(page, "Stock and filling")
    expect(readings.get_by_role("radio", name="By hand")).to_be_checked()


def test_pieces_of_a_group_stand_side_by_side(page: Page) -> None:
    readings = at_sheet(page, {"disc.png": DISC, "star.png": STAR})
    readings.get_by_role("button", name="Kept together").click()
    for name in ("Disc", "Star"):
        readings.get_by_label(name, exact=True).select_option("A")
    expect(readings).to_contain_text("1 group")
    number = re.search(r"jobs/(\d+)", page.url)[1]  # type: ignore[index]

    def counts() -> list[int]:
        sheets = page.request.get(f"/api/jobs/{number}").json()["sheets"]["sheets"]
        return [
            sum(place["design"] == design for place in sheets[0]["placements"]) for design in ("d1", "d2")
        ]

    until(lambda: counts()[0] == counts()[1] > 1)


def test_a_label_s_box_is_dragged_and_its_worst_row_is_shown(page: Page) -> None:
    readings = at_sheet(page, {"disc.png": DISC})
    readings.get_by_role("button", name="Labels from a list").click()
    readings.get_by_label("Paste a list").fill("name\nLime\nHeather honey of the ferry\nReed")
    readings.get_by_role("button", name="Use this list").click()
    preview = readings.get_by_role("application", name="Boxes of the label")
    expect(preview.locator("path")).to_have_count(1)
    worst = readings.get_by_role("list", name="Worst rows").get_by_role("button")
    expect(worst.first).to_contain_text("Row 2")
    shown = preview.locator("path").get_attribute("d")
    worst.nth(1).click()
    expect(preview.locator("path")).not_to_have_attribute("d", shown or "")
    before = recipe_of(page)["designs"][0]["labels"]["texts"][0]
    preview.scroll_into_view_if_needed()
    box = preview.locator("rect").first.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 20, steps=4)
    page.mouse.up()
    expect(page.locator("header")).to_contain_text("step 4")
    after = recipe_of(page)["designs"][0]["labels"]["texts"][0]
    assert after["y"] > before["y"] + 0.02
    assert after["x"] == pytest.approx(before["x"], abs=0.01)


@pytest.mark.long
def test_a_nested_sheet_is_printed_and_cut_where_it_was_nested(page: Page) -> None:
    readings = at_sheet(page, {"star.png": STAR})
    readings.get_by_role("radio", name="By number").click()
    readings.get_by_role("textbox", name="Star", exact=True).fill("5")
    page.keyboard.press("Enter")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("5 on")
    readings.get_by_role("radio", name="Nested").click()
    searching = page.get_by_role("button", name="Take the best so far")
    expect(searching).to_be_visible()
    searching.click()
    expect(page.get_by_role("progressbar")).to_be_hidden(timeout=30_000)
    # What was cut short says so, and is searched in full when somebody wants that.
    expect(readings).to_contain_text(re.compile("The search for (this|a) nest was cut short"))
    readings.get_by_role("button", name=re.compile(r"^Search the full \d+ s$")).click()
    expect(readings).not_to_contain_text("cut short", timeout=60_000)
    # Another nest need not be better: the one before can be taken back, at once.
    readings.get_by_role("button", name="Try another nest").click()
    searching.click()
    expect(page.get_by_role("progressbar")).to_be_hidden(timeout=30_000)
    expect(readings).to_contain_text(re.compile(r"Now 5 on 1 sheet, [\d.]+ %; before 5 on 1 sheet, [\d.]+ %"))
    readings.get_by_role("button", name="Use the previous nest").click()
    expect(readings.get_by_role("button", name="Use the previous nest")).to_be_hidden()
    expect(searching).to_be_hidden()
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    page.keyboard.press("6")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("5 of 5 within")


def test_a_small_job_keeps_the_rest_of_its_sheet_for_a_later_one(page: Page) -> None:
    readings = at_sheet(page, {"star.png": STAR})
    readings.get_by_role("radio", name="By number").click()
    readings.get_by_role("button", name=re.compile("^Keep .* for later$")).click()
    expect(page.get_by_text("kept for later", exact=True)).to_be_visible()
    unfold(page, "Fill the rest of the sheet")
    first = page.url
    readings.get_by_role("button", name="A job for the rest").click()
    expect(page).not_to_have_url(first)
    expect(page.locator("header")).to_contain_text("the rest of its sheet")
    page.keyboard.press("3")
    expect(page.get_by_role("button", name="Choose pictures").first).to_be_hidden()
    assert recipe_of(page)["sheet"]["from_mm"] > 40
