"""The light table and the ways round the bench."""

import re

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.api.conftest import DISC, STAR
from tests.core import drawings
from tests.e2e.conftest import drop, new_job, unfold

pytestmark = [pytest.mark.browser, pytest.mark.long]


def table_of(page: Page) -> Locator:
    return page.get_by_role("region", name="Light table")


@pytest.fixture
def job(page: Page) -> str:
    """A job with a disc of 60 mm, on the light table."""
    path = new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    expect(page.locator("g > image").first).to_be_visible()
    return path


def scale(page: Page) -> float:
    """Pixels a millimetre on the light table."""
    transform = table_of(page).locator("svg > g[transform*=scale]").first.get_attribute("transform") or ""
    return float(re.search(r"scale\(([\d.]+)\)", transform)[1])  # type: ignore[index]


def test_zoom_fit_and_true_scale_from_the_keyboard(page: Page, job: str) -> None:
    table = table_of(page)
    table.focus()
    fitted = scale(page)
    table.press("+")
    assert scale(page) == pytest.approx(1.25 * fitted)
    table.press("-")
    table.press("-")
    assert scale(page) == pytest.approx(0.8 * fitted)
    table.press("0")
    assert scale(page) == pytest.approx(fitted)
    page.get_by_title("True scale").click()
    assert scale(page) == pytest.approx(96 / 25.4)
    expect(page.get_by_title("True scale")).to_have_text("100 %")


def test_the_measure_reads_the_size_of_the_art(page: Page, job: str) -> None:
    page.get_by_role("button", name="Measure (M)").click()
    art = table_of(page).locator("rect.line").bounding_box()
    assert art is not None
    middle = art["y"] + art["height"] / 2
    page.mouse.click(art["x"], middle)
    page.mouse.click(art["x"] + art["width"], middle)
    text = table_of(page).locator("text", has_text="×").last.text_content() or ""
    assert float(text.split()[0]) == pytest.approx(60, abs=0.6)
    page.keyboard.press("Escape")


def test_the_loupe_shows_what_is_under_the_pointer(page: Page, job: str) -> None:
    page.get_by_role("button", name="Loupe (L)").click()
    box = table_of(page).bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(table_of(page).locator("use")).to_have_count(1)
    expect(table_of(page).locator("circle[r='84']").last).to_be_visible()
    page.get_by_role("button", name="Loupe (L)").click()
    expect(table_of(page).locator("use")).to_have_count(0)


def test_the_key_hides_and_shows_and_remembers(page: Page, job: str) -> None:
    page.keyboard.press("2")
    key = page.get_by_role("group", name="Show and hide")
    kiss = page.locator("path.line-kiss")
    expect(kiss).to_have_count(1)
    key.get_by_role("button", name="Kiss").click()
    expect(kiss).to_have_count(0)
    page.reload()
    expect(key.get_by_role("button", name="Kiss")).to_have_attribute("aria-pressed", "false")
    expect(kiss).to_have_count(0)
    key.get_by_role("button", name="Kiss").click()
    expect(kiss).to_have_count(1)


def test_lengths_are_understood_in_either_unit_and_nonsense_is_not(page: Page, job: str) -> None:
    field = page.get_by_role("textbox", name="Longest side")
    for typed, shown in (("3in", "76.20"), ("50,5", "50.50"), ("40 mm", "40.00")):
        field.fill(typed)
        field.press("Enter")
        expect(field).to_have_value(shown)
    for typed in ("a few", "4000", "-3", ""):
        field.fill(typed)
        field.press("Enter")
        expect(page.get_by_role("alert")).to_be_visible()
        field.press("Escape")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("1 piece")
    page.get_by_role("button", name="in", exact=True).click()
    expect(field).to_have_value("1.575")


def test_copies_by_number_turn_into_sheets_that_can_be_leafed_through(page: Page, job: str) -> None:
    page.keyboard.press("3")
    page.get_by_role("radio", name="By number").click()
    copies = page.get_by_role("textbox", name="Disc")
    copies.fill("33")
    copies.press("Enter")
    stub = page.get_by_role("navigation", name="Stations")
    # 64 mm with its border: three across 198 mm, three rows down to the lower marks, and above them the one
    # that stands between the upper marks.
    expect(stub).to_contain_text("33 on 4 sheets")
    stickers = table_of(page).locator("use")
    expect(stickers).to_have_count(10)
    for _ in range(3):
        page.get_by_role("button", name="Next sheet").click()
    expect(page.get_by_label("Readings")).to_contain_text("sheet 4 of 4")
    expect(stickers).to_have_count(3)
    page.get_by_role("button", name="One more: Disc").click()
    expect(stub).to_contain_text("34 on")


def test_the_gap_fills_the_sheet_anew_while_it_moves_and_is_one_step(page: Page, job: str) -> None:
    page.keyboard.press("3")
    stickers = table_of(page).locator("use")
    expect(stickers).to_have_count(10)
    step = re.compile(r"step 2\D")
    expect(page.locator("header")).to_contain_text(step)
    thumb = page.get_by_role("slider", name="Gap between stickers")
    thumb.scroll_into_view_if_needed()
    box = thumb.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 140, box["y"] + 8, steps=8)
    # 64 mm stickers no longer stand three across 198 mm once the gap passes 3 mm.
    expect(stickers).not_to_have_count(10)
    expect(page.locator("header")).to_contain_text(step)
    page.mouse.up()
    expect(page.locator("header")).to_contain_text(re.compile(r"step 3\D"))
    expect(stickers).not_to_have_count(10)


def test_a_piece_that_is_too_large_is_stopped_and_mended_by_its_remedy(page: Page, job: str) -> None:
    field = page.get_by_role("textbox", name="Longest side")
    field.fill("390")
    field.press("Enter")
    stub = page.get_by_role("navigation", name="Stations")
    expect(stub).to_contain_text("stopped")
    page.keyboard.press("Escape")
    table_of(page).focus()
    page.keyboard.press("3")
    expect(page.get_by_label("Readings")).to_contain_text("does not fit on A4")
    page.get_by_role("button", name=re.compile("Make it")).click()
    expect(stub).to_contain_text("1 on 1 sheet")
    expect(stub).not_to_contain_text("stopped")


def test_loose_pieces_get_a_pin_and_a_border_that_joins_them(page: Page) -> None:
    import shapely

    new_job(page)
    apart = shapely.union(drawings.disc(100), shapely.transform(drawings.disc(80), lambda xy: xy + (230, 0)))
    drop(page, {"buoys.png": drawings.png(drawings.coverage(apart)[0])})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("2")
    field = page.get_by_role("textbox", name="White border")
    field.fill("1")
    field.press("Enter")
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("comes apart into 2 stickers")
    expect(table_of(page).locator("text", has_text=re.compile("^1$"))).to_have_count(1)
    page.get_by_role("button", name=re.compile(r"Border [\d.]+ mm")).click()
    expect(readings).to_contain_text("Nothing to look at")


def test_pieces_are_chosen_removed_and_brought_back(page: Page, job: str) -> None:
    drop(page, {"star.png": STAR})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    expect(pieces).to_have_count(2)
    expect(page.get_by_role("heading", name="Star")).to_be_visible()  # what was added is on the table
    page.get_by_role("button", name="Remove Disc").click()
    expect(pieces).to_have_count(1)
    page.keyboard.press("Control+z")
    expect(pieces).to_have_count(2)


def test_files_of_a_sheet_are_a_fold_away(page: Page, job: str) -> None:
    page.keyboard.press("4")
    page.get_by_role("button", name=re.compile("^Files of this sheet")).click()
    for name, suffix in (("Print PDF", "print.pdf"), ("Cut SVG", "cut.svg"), ("Cut HPGL", "cut.hpgl")):
        with page.expect_download() as given:
            page.get_by_role("link", name=name).click()
        assert given.value.suggested_filename.endswith(f"sheet-01.{suffix}")


def test_what_a_person_opens_stays_open_when_more_of_the_page_arrives(page: Page, job: str) -> None:
    held: list[Route] = []
    page.route(re.compile(r"/api/jobs/\d+/card$"), lambda route: held.append(route))
    page.keyboard.press("4")
    page.get_by_role("button", name=re.compile("^Files of this sheet")).click()
    expect(page.get_by_role("link", name="Print PDF")).to_be_visible()
    for each in held:
        each.continue_()
    page.unroute_all()
    # The card of a printer that nobody set asks to be looked at.
    expect(page.get_by_role("button", name=re.compile("^Printer settings"))).to_be_visible()
    expect(page.get_by_role("link", name="Print PDF")).to_be_visible()


def test_what_is_printed_is_what_is_shown_however_quick_somebody_is(page: Page, job: str) -> None:
    held: list[Route] = []
    page.route(re.compile(r"/api/jobs/\d+/recipe$"), lambda route: held.append(route))
    page.keyboard.press("3")
    page.get_by_role("radio", name="By number").click()
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    assert held
    for each in held:
        each.continue_()
    page.unroute_all()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()


def test_jobs_are_named_listed_and_found(page: Page, job: str) -> None:
    page.get_by_title("Change the title").click()
    title = page.get_by_role("textbox", name="Title of the job")
    title.fill("Deck tags, round")
    title.press("Enter")
    expect(page.get_by_role("heading", name="Deck tags, round")).to_be_visible()
    page.get_by_role("link", name="Perisect").click()
    expect(page.get_by_role("link", name=re.compile("Deck tags, round.*1 piece"))).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("deck round")
    page.keyboard.press("Enter")
    page.wait_for_url(f"{job}/artwork")
    page.goto("/jobs/999999/artwork")
    expect(page.get_by_text("There is no job 999999")).to_be_visible(timeout=20_000)


def test_at_1024_and_at_1600_nothing_runs_out_of_its_place(page: Page, job: str) -> None:
    for width, height in ((1024, 700), (1600, 900)):
        page.set_viewport_size({"width": width, "height": height})
        for key in "123456":
            page.keyboard.press(key)
            page.wait_for_timeout(150)
            overflow = page.evaluate(
                """() => [...document.querySelectorAll('aside, nav, header')]
                    .filter((element) => element.scrollWidth > element.clientWidth + 12)
                    .map((element) => element.tagName)"""
            )
            assert overflow == [], f"station {key} at {width}"
            assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_keys_on_a_slider_are_one_step_when_they_rest(page: Page, job: str) -> None:
    page.keyboard.press("2")
    slider = page.get_by_role("slider", name="White border")
    expect(page.locator("path.line-kiss")).to_have_count(1)
    kept = page.get_by_text(re.compile(r"step \d+"))
    field = page.get_by_role("textbox", name="White border")
    slider.focus()
    before = int(kept.inner_text().rsplit(" ", 1)[1])
    # By the page's own clock: on a machine with much else to do keys from outside come in late.
    slider.evaluate(
        """async (thumb) => {
            const key = { key: 'ArrowRight', code: 'ArrowRight', bubbles: true, cancelable: true };
            for (let n = 0; n < 7; n++) {
                thumb.dispatchEvent(new KeyboardEvent('keydown', key));
                await new Promise((then) => setTimeout(then, 40));
            }
        }"""
    )
    expect(field).to_have_value("2.70")
    expect(kept).to_have_text(re.compile(rf"step {before + 1}$"))
    page.wait_for_timeout(1500)
    expect(kept).to_have_text(re.compile(rf"step {before + 1}$"))
    # Another key does not wait for them to rest.
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Control+z")
    expect(field).to_have_value("2.70")
    page.keyboard.press("Control+z")
    expect(field).to_have_value("2.00")


@pytest.mark.long
def test_many_pieces_have_a_table_of_their_own(page: Page) -> None:
    new_job(page)
    names = ("Buoy", "Rope", "Oar", "Rope end", "Flag", "Anchor", "Mast")
    drop(
        page,
        {
            f"{name}.png": drawings.png(drawings.coverage(drawings.disc(80 + 9 * n))[0])
            for n, name in enumerate(names)
        },
    )
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(7)
    page.get_by_role("button", name="All 7 in a table").click()
    table = page.get_by_role("table", name="Pieces")
    page.get_by_label("Find a piece").fill("rope")
    expect(table.get_by_role("row")).to_have_count(3)
    table.get_by_label("All that are shown").check()
    copies = page.get_by_role("textbox", name="Copies of 2 chosen")
    copies.fill("4")
    copies.press("Enter")
    page.get_by_role("button", name="Set", exact=True).click()
    for name in ("Rope", "Rope end"):
        expect(table.get_by_role("textbox", name=f"Copies of {name}", exact=True)).to_have_value("4")
    long = "Rope end with a whipping of tarred twine, seen from the landing stage"
    renamed = table.get_by_label("Name of Rope end")
    renamed.fill(long)
    renamed.press("Enter")
    expect(table.get_by_label(f"Name of {long}")).to_have_value(long)
    page.get_by_role("button", name="Done").click()
    stub = page.get_by_role("navigation", name="Stations")
    expect(stub).to_contain_text("13 on")  # five once and two four times
    page.keyboard.press("3")
    unfold(page, "Stock and filling")
    expect(page.get_by_role("button", name="How many of each")).to_be_visible()
