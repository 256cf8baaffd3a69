"""Printing, cutting and logging as somebody who does it all day sees it."""

import re
import zipfile
from collections.abc import Iterator

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC
from tests.e2e.conftest import Shop, drop, new_job, printed_job, unload

pytestmark = pytest.mark.browser


@pytest.mark.long
def test_a_sheet_is_seen_as_drawn_and_as_printed(page: Page) -> None:
    printed_job(page, DISC, by_number=True)
    expect(page.locator("image[href$='printed.png']")).to_be_visible()
    page.get_by_role("radio", name="As drawn").click()
    expect(page.locator("image[href$='printed.png']")).to_have_count(0)
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("100 %, no fit to page")
    expect(readings).to_contain_text("maker’s manual")  # the caution stands where the act is


@pytest.mark.long
def test_a_change_after_printing_asks_for_a_new_print(page: Page) -> None:
    printed_job(page, DISC, by_number=True)
    stub = page.get_by_role("navigation", name="Stations")
    expect(stub).to_contain_text("1 of 1 sheet printed")
    page.keyboard.press("2")
    border = page.get_by_role("textbox", name="White border")
    border.fill("3")
    # The sheet is on paper: the change is asked about, and a key held down does not answer.
    for _ in range(4):
        page.keyboard.down("Enter")
    question = page.get_by_role("alertdialog")
    expect(question).to_be_visible()
    for _ in range(4):
        page.keyboard.down("Enter")
    page.keyboard.up("Enter")
    question.get_by_role("button", name="Change it").click()
    expect(stub).to_contain_text("0 of 1 sheet printed")
    page.get_by_role("region", name="Light table").focus()
    page.keyboard.press("4")
    expect(page.get_by_label("Readings")).to_contain_text("1 older print is of a version before this one")
    page.keyboard.press("5")
    expect(page.get_by_label("Readings")).to_contain_text("older version")
    page.keyboard.press("Control+z")
    expect(stub).to_contain_text("1 of 1 sheet printed")


@pytest.mark.long
def test_a_cut_is_followed_and_logged_sticker_by_sticker(page: Page) -> None:
    printed_job(page, DISC, by_number=True)
    page.keyboard.press("5")
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("Blades cut")
    expect(readings).to_contain_text(re.compile(r"1\. Kiss\s*1 · 0\.\d\d m"))
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    expect(readings).to_contain_text("Largest residual")
    page.keyboard.press("6")
    rows = page.get_by_role("table").get_by_role("row")
    expect(rows).to_have_count(2)
    expect(rows.nth(1)).to_contain_text(re.compile(r"Disc\s*0\.\d\d"))
    page.get_by_role("button", name="Slip").click()
    page.get_by_role("button", name="Slip").click()
    page.get_by_role("button", name="in", exact=True).click()
    expect(rows.nth(1)).to_contain_text(re.compile(r"Disc\s*0\.00\d"))


def test_an_empty_job_teaches_the_next_act_at_every_station(page: Page) -> None:
    new_job(page)
    for key, text in (
        ("1", "Drop your pictures here"),
        ("2", "Its outline becomes the kiss line here"),
        ("3", "this sheet fills itself"),
        ("4", "Fill one at station 3"),
        ("5", "Print one at station 4 first"),
        ("6", "After the first cut"),
    ):
        page.keyboard.press(key)
        expect(page.get_by_text(text)).to_be_visible()


def test_a_server_that_is_gone_is_said_and_nothing_is_lost(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("2")
    page.route("**/recipe", lambda route: route.abort())
    border = page.get_by_role("textbox", name="White border")
    border.fill("3")
    border.press("Enter")
    notice = page.get_by_role("status").filter(has_text="does not answer")
    expect(notice).to_contain_text("Nothing was lost")
    notice.get_by_role("button", name="Close").click()
    page.unroute("**/recipe")
    border.fill("4")
    border.press("Enter")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("kiss 4.0")


def one_by_number(page: Page) -> None:
    """A new job of one disc, as many as are asked for."""
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("3")
    page.get_by_role("radio", name="By number").click()


def tab_to(page: Page, name: str) -> None:
    """Tab until something of this name has the focus, as somebody without a mouse does."""
    for _ in range(60):
        page.keyboard.press("Tab")
        focused = page.evaluate(
            "(document.activeElement?.ariaLabel || document.activeElement?.textContent || '').trim()"
        )
        if focused.startswith(name):
            return
    raise AssertionError(f"{name} cannot be reached with Tab")


def test_the_whole_path_with_the_keyboard_alone(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
    tab_to(page, "New job")
    page.keyboard.press("Enter")
    page.wait_for_url("**/artwork")
    drop(page, {"disc.png": DISC})  # the operating system's file picker is the one thing left out
    stub = page.get_by_role("navigation", name="Stations")
    expect(stub).to_contain_text("1 piece")
    page.keyboard.press("2")
    tab_to(page, "White border")
    for _ in range(5):
        page.keyboard.press("ArrowRight")
    expect(stub).to_contain_text("kiss 2.5")
    tab_to(page, "Lay out the sheet")
    page.keyboard.press("Enter")
    tab_to(page, "A4")
    page.keyboard.type("Letter")
    expect(page.get_by_label("Stock", exact=True)).to_have_value("letter")
    tab_to(page, "Go to print")
    page.keyboard.press("Enter")
    tab_to(page, "Print sheet 1")
    page.keyboard.press("Enter")
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    tab_to(page, "Load and cut")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Lift a corner")).to_be_visible(timeout=60_000)
    expect(page.get_by_role("button", name="It peels cleanly: unload")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="line")).to_contain_text("Done", timeout=60_000)
    tab_to(page, "Open the log")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Readings")).to_contain_text("Every sticker's slip stays within its border")


@pytest.fixture
def by_link_again(page: Page) -> Iterator[None]:
    """The shop's printer is asked by its link at the end, as the other tests expect it to be."""
    yield
    job = page.url.split("/jobs/")[1].split("/")[0]
    assert page.request.post(f"/api/jobs/{job}/prints", data={"sheet": 1}).ok


@pytest.mark.long
def test_a_sheet_of_one_s_own_printing_and_one_from_a_print_shop_are_cut(
    page: Page, by_link_again: None
) -> None:
    one_by_number(page)
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("1 on 1 sheet")
    page.keyboard.press("4")
    readings = page.get_by_label("Readings")
    readings.get_by_role("radio", name="My print dialog").click()
    with page.expect_popup() as opened:
        readings.get_by_role("button", name="Open the file of sheet 1").click()
    assert opened.value is not None
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("is it printed?")
    readings.get_by_role("button", name="It is printed").click()
    expect(readings.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
    page.keyboard.press("4")
    # The way is remembered; another is a click away.
    expect(readings.get_by_role("radio", name="My print dialog")).to_be_checked()
    readings.get_by_role("radio", name="Print shop").click()
    with page.expect_download() as taken:
        readings.get_by_role("button", name="Package of sheet 1").click()
    assert zipfile.ZipFile(taken.value.path()).testzip() is None
    readings.get_by_role("button", name="It came back").click()
    expect(readings.get_by_role("button", name="It came back")).to_be_hidden()
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)


@pytest.mark.long
def test_a_class_gets_a_sheet_each_and_the_printer_is_set_for_its_stock(
    page: Page, by_link_again: None
) -> None:
    one_by_number(page)
    page.keyboard.press("4")
    readings = page.get_by_label("Readings")
    expect(readings.get_by_text("Before a sheet is spent")).to_be_visible()
    readings.get_by_label("Media type").fill("Matt paper")
    page.keyboard.press("Tab")
    readings.get_by_label("Load it").select_option("sticker face up")
    readings.get_by_role("button", name="Confirm for today").click()
    expect(readings.get_by_text("Set on the printer today")).to_be_visible()
    readings.get_by_role("button", name=re.compile("^Head check")).click()
    readings.get_by_role("button", name="Print the pattern").click()
    expect(readings.get_by_role("button", name=re.compile("^Head check no gaps"))).to_be_visible(
        timeout=60_000
    )
    readings.get_by_role("button", name="cyan 5", exact=True).click()
    expect(readings).to_contain_text("do not fire: cyan 1")
    readings.get_by_role("button", name="cyan 5, missing").click()
    expect(readings.get_by_text("Before a sheet is spent")).to_be_hidden()
    # Ticked for today the card is out of the way, but for one's own dialog, which is set by it.
    page.reload()
    card = readings.get_by_role("button", name=re.compile("^Printer settings"))
    expect(card).to_contain_text("set today")
    expect(card).to_have_attribute("aria-expanded", "false")
    readings.get_by_role("radio", name="My print dialog").click()
    expect(card).to_have_attribute("aria-expanded", "true")
    readings.get_by_role("button", name=re.compile("^Copies and names")).click()
    names = ["Mara Quill", "Odo Sedge", "Ivo Tern", "Ada Wren", "Łucja Reed"]
    readings.get_by_label("Or one copy for each name").fill("\n".join(names))
    with page.expect_popup():
        readings.get_by_role("button", name="Hand out 5 sheets").click()
    expect(readings.get_by_text("Łucja Reed, sheet 1")).to_be_visible()
    readings.get_by_role("button", name="All 5 are printed").click()
    expect(
        readings.get_by_role("button", name=re.compile("^Copies and names 5 of 5 printed"))
    ).to_be_visible()
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)


@pytest.mark.long
def test_a_test_cut_is_answered_on_the_screen_and_its_force_taken(page: Page) -> None:
    printed_job(page, DISC, by_number=True)
    page.keyboard.press("5")
    readings = page.get_by_label("Readings")
    setting = readings.get_by_role("region", name="Setting of Kiss")
    expect(setting).to_contain_text("An example: nothing like it was tried yet")
    setting.get_by_role("button", name="Test cut").click()
    page.get_by_role("button", name="On sheet 1, where it is bare").click()
    steps = page.get_by_role("radiogroup", name=re.compile("^Force "))
    expect(steps).to_have_count(7, timeout=60_000)
    expect(page.locator("image[href*='ladder.png']")).to_be_visible()
    said = ["Not through", "Ragged", "Clean", "Clean", "Clean", "Liner marked", "Cut through"]
    for number, answer in enumerate(said):
        steps.nth(number).get_by_role("radio", name=answer).click()
    take = page.get_by_role("button", name=re.compile("^Use force"))
    force = take.inner_text().split()[-1]
    take.click()
    expect(page.get_by_text(f"In the book: force {force}")).to_be_visible()
    page.get_by_role("button", name="Back to the sheet").click()
    readings.get_by_role("button", name="Settings and test cut tested").click()
    expect(setting).to_contain_text("From a test cut of")
    page.goto("/shop")
    book = page.get_by_role("table", name="Settings")
    expect(book.get_by_role("row").filter(has_text="test cut")).to_contain_text(force)
    book.get_by_role("button", name=re.compile("^Forget kiss")).click()
    expect(page.get_by_text("No settings yet")).to_be_visible()


@pytest.mark.long
def test_a_bad_mark_is_set_by_hand_and_the_sheet_lies_still_until_it_comes_off(
    page: Page, running: Shop
) -> None:
    printed_job(page, DISC)
    # A thumb on the lower right mark while the ink was wet.
    sheet = max((running.local / "blobs/prints").glob("*/printed.png"), key=lambda file: file.stat().st_mtime)
    with Image.open(sheet) as picture:
        picture.paste((255, 255, 255), (2200, 3180, 2480, 3480))
        picture.save(sheet)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    blade = page.get_by_role("group", name="Move the blade")
    expect(blade).to_be_focused(timeout=60_000)
    expect(page.get_by_text("The lower right mark was not found.")).to_be_visible()
    before = blade.inner_text()
    page.keyboard.press("4")
    page.keyboard.press("ArrowLeft")
    expect(blade).not_to_have_text(before)
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.get_by_role("list", name="Marks")).to_contain_text("by hand")
    page.get_by_role("button", name="Cut by these marks").click()
    # It stands where the others say it is, and so checks nothing: that is asked about.
    page.get_by_role("alertdialog").get_by_role("button", name="Cut by these marks").click()
    expect(page.get_by_text("Lift a corner")).to_be_visible(timeout=60_000)
    stickers = page.get_by_role("checkbox", name=re.compile("^Sticker "))
    stickers.nth(0).click()
    stickers.nth(1).press("Space")
    expect(page.get_by_text("2 stickers chosen")).to_be_visible()
    page.get_by_role("button", name="These again").click()
    expect(page.get_by_text("Click the stickers that cling")).to_be_visible(timeout=60_000)
    unload(page)
    page.keyboard.press("6")
    expect(page.get_by_label("Readings")).to_contain_text("Every sticker's slip stays within its border")


@pytest.mark.long
def test_plates_are_named_and_a_printer_is_measured_at_the_print_station(page: Page) -> None:
    printed_job(page, DISC, by_number=True)
    readings = page.get_by_label("Readings")
    readings.get_by_role("button", name=re.compile("^Scale check")).click()
    readings.get_by_label("Top left to top right").first.fill("187.25")
    page.keyboard.press("Enter")
    readings.get_by_role("button", name="I measured this").click()
    expect(readings).to_contain_text("0.40 % short, ± 0.10 %: corrected")
    readings.get_by_role("button", name="As drawn again").click()
    expect(readings.get_by_role("button", name="As drawn again")).to_be_hidden()
    readings.get_by_role("button", name=re.compile("^Plates for")).click()
    readings.get_by_label(re.compile("^Kiss, 1 line")).fill("Kiss der Fähre")
    page.keyboard.press("Tab")
    holds = readings.get_by_role("table", name="Plates that the file holds")
    expect(holds.get_by_role("row").nth(1)).to_contain_text("Kiss der Fähre")
    with page.expect_download() as taken:
        readings.get_by_role("link", name="Plates PDF").click()
    assert taken.value.path().read_bytes().startswith(b"%PDF")
    readings.get_by_label(re.compile("^Kiss, 1 line")).fill("")
    page.keyboard.press("Tab")
    expect(holds).to_be_hidden()
    # A sheet that is spoiled is to be printed again.
    readings.get_by_role("button", name="Spoiled …").click()
    page.get_by_role("alertdialog").get_by_role("button", name="Poor print").click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("0 of 1 sheet printed")


def test_a_sheet_is_counted_on_its_picture_and_what_lacks_is_planned(page: Page) -> None:
    printed_job(page, DISC, by_number=True)
    page.keyboard.press("5")
    expect(page.get_by_role("region", name="Loading")).to_contain_text("No tape over the marks")
    page.keyboard.press("c")
    # One key spends no sheet: it asks.
    page.get_by_role("alertdialog").get_by_role("button", name="Load and cut").click()
    unload(page)
    page.keyboard.press("6")
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("not counted yet")
    sticker = page.get_by_role("checkbox", name=re.compile("^Sticker 1"))
    expect(sticker).to_be_visible(timeout=30_000)
    page.get_by_role("radio", name="clings").click()
    sticker.press("Space")
    expect(page.get_by_role("list", name="The order")).to_contain_text("0 of 1 · 1 more")
    expect(sticker).to_have_accessible_name("Sticker 1, clings")
    page.keyboard.press("g")
    expect(page.get_by_role("list", name="The order")).to_contain_text("1 of 1")
    sticker.click()
    page.get_by_role("button", name="Plan the 1 sticker that lacks").click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("1 on 1 sheet")
    expect(page.get_by_role("button", name="Disc, what is missing")).to_be_visible()
