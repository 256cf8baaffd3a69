"""Fake, plain and missing backgrounds are mended with what a newcomer sees."""

import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect

from tests.api.conftest import DISC, STAR
from tests.core import pictures
from tests.e2e.conftest import drop, new_job

pytestmark = pytest.mark.browser


def jpeg(rgb: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "JPEG", quality=92)
    return file.getvalue()


@pytest.mark.long
def test_a_checkerboard_a_white_page_with_specks_and_a_photograph(page: Page) -> None:
    rng = np.random.default_rng(4)
    art = pictures.art(rng, 900)
    white = pictures.over(art, np.full((900, 900, 3), 255, np.uint8))
    white[850:856, 60:66] = (40, 40, 60)
    files = {
        "fake.jpg": jpeg(pictures.over(art, pictures.squares(rng, 900))),
        "page.jpg": jpeg(white),
        "view.jpg": jpeg(pictures.photo(rng, 900)[:600]),
    }
    new_job(page)
    drop(page, files)
    pieces = page.get_by_role("list", name="Pieces")
    expect(pieces.get_by_role("listitem")).to_have_count(3)
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("Painted checkerboard")
    page.get_by_role("button", name="Remove the checkerboard").click()
    expect(pieces.get_by_role("listitem").nth(0)).to_contain_text("removed")
    expect(readings.get_by_text("60.0 × 60.0 mm")).to_have_count(0)

    pieces.get_by_role("button", name="Page").first.click()
    page.get_by_role("button", name="Remove the background").click()
    expect(pieces.get_by_role("listitem").nth(1)).to_contain_text("removed")
    patches = readings.get_by_role("button", name="Remove this patch")
    before = patches.count()
    assert before >= 1
    patches.first.click()
    expect(patches).to_have_count(before - 1)
    page.get_by_role("button", name="Solid form").click()
    page.get_by_role("button", name="Remove it").click()
    expect(readings).not_to_contain_text("speck")
    page.get_by_role("button", name="Solid form").click()

    pieces.get_by_role("button", name="View").first.click()
    expect(readings).to_contain_text("Full picture, no background")
    page.get_by_role("button", name="Frame with round corners").click()
    expect(pieces.get_by_role("listitem").nth(2)).to_contain_text("framed")
    page.get_by_role("radio", name="Circle").click()
    expect(readings).to_contain_text("60.0 × 60.0 mm")
    page.get_by_role("button", name="Restore the original picture").click()
    expect(readings).to_contain_text("60.0 × 40.0 mm")
    page.keyboard.press("Control+z")
    expect(readings).to_contain_text("60.0 × 60.0 mm")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("3 pieces")


def on_white(picture: bytes) -> bytes:
    """A clear picture on a white page."""
    art = Image.open(io.BytesIO(picture)).convert("RGBA")
    page = Image.new("RGBA", (art.width + 80, art.height + 80), "white")
    page.alpha_composite(art, (40, 40))
    file = io.BytesIO()
    page.convert("RGB").save(file, "PNG")
    return file.getvalue()


def test_what_nobody_looked_at_is_said_before_paper_is_spent_on_it(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": on_white(DISC)})
    remove = page.get_by_role("button", name="Remove the background")
    expect(remove).to_be_visible()
    page.keyboard.press("4")
    unseen = page.get_by_label("Readings").get_by_text("Still to look at:")
    # Its ground, and that 254 ppi are few.
    expect(unseen).to_contain_text("2 at Artwork")
    page.get_by_role("link", name="2 at Artwork").click()
    remove.click()
    expect(remove).to_be_hidden()
    page.keyboard.press("4")
    expect(unseen).to_contain_text("1 at Artwork")
    page.get_by_role("radio", name="Printer link").click()
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    expect(unseen).to_be_hidden()


@pytest.mark.long
def test_a_shadow_and_a_tolerance_are_chosen_under_background(page: Page) -> None:
    new_job(page)
    drop(page, {"buoy.png": saved(pictures.shadowed()[0])})
    readings = page.get_by_label("Readings")
    page.get_by_role("button", name="Remove the background").click()
    expect(readings).to_contain_text("The soft shadow of Buoy was removed with its background")
    shadow = page.get_by_label("Its shadow")
    expect(shadow.get_by_role("radio", name="Removed")).to_be_checked()
    # At the same size the art alone has fewer pixels than the art with its shadow.
    size = readings.get_by_text(re.compile(r"^\d+ ppi$"))
    round_art = size.inner_text()
    shadow.get_by_role("radio", name="Cut round too").click()
    expect(readings).not_to_contain_text("The soft shadow of Buoy")
    expect(size).not_to_have_text(round_art)
    shadow.get_by_role("radio", name="Soft").click()
    expect(size).to_have_text(round_art)

    expect(readings).to_contain_text(re.compile(r"\d, as measured"))
    page.get_by_role("slider", name="Tolerance").press("ArrowRight")
    measured = page.get_by_role("button", name="As measured,")
    expect(measured).to_be_visible()
    measured.click()
    expect(measured).to_be_hidden()
    expect(readings).to_contain_text(re.compile(r"\d, as measured"))


def saved(rgba: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(rgba).save(file, "PNG")
    return file.getvalue()


def clear_page() -> bytes:
    """Six discs in two rows with specks between them."""
    art = np.zeros((800, 1200, 4), np.uint8)
    y, x = np.mgrid[:800, :1200]
    for n in range(6):
        inside = np.hypot(x - (200 + 400 * (n % 3)), y - (200 + 400 * (n // 3))) < 120
        art[inside] = (30 * n, 90, 160, 255)
    for n in range(5):
        art[400:404, 100 + 200 * n : 104 + 200 * n] = (20, 20, 20, 255)
    file = io.BytesIO()
    Image.fromarray(art).save(file, "PNG")
    return file.getvalue()


@pytest.mark.long
def test_a_page_is_split_put_together_and_freed_of_specks(page: Page) -> None:
    new_job(page)
    drop(page, {"discs.png": clear_page()})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("5 specks")
    page.get_by_role("button", name="Remove all 5").click()
    expect(readings).not_to_contain_text("5 specks")
    page.get_by_role("button", name="Split into 6 pieces").click()
    expect(pieces).to_have_count(6)
    ticks = readings.get_by_role("checkbox")
    ticks.nth(0).check()
    ticks.nth(1).check()
    page.get_by_role("button", name="Combine 2").click()
    expect(pieces).to_have_count(5)
    expect(pieces.first).to_contain_text("Discs 1")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(pieces).to_have_count(1)


@pytest.mark.long
def test_brush_crop_and_a_shape_behind(page: Page) -> None:
    new_job(page)
    drop(page, {"discs.png": clear_page()})
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("Outline")
    table = page.get_by_role("region", name="Light table")
    box = table.bounding_box()
    assert box is not None
    readings.get_by_role("button", name="Specks and brush").click()
    readings.get_by_role("button", name="Eraser").click()
    expect(table).to_contain_text("Paint over what to remove")
    # With the keyboard alone: a touch of the brush in the middle of the table.
    table.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(readings).to_contain_text("1 stroke")
    page.mouse.move(box["x"] + 300, box["y"] + 300)
    page.mouse.down()
    page.mouse.move(box["x"] + 420, box["y"] + 340, steps=6)
    page.mouse.up()
    expect(readings).to_contain_text("2 strokes")
    page.keyboard.press("Escape")
    readings.get_by_role("button", name="Backing shape").click()
    readings.get_by_role("radio", name="Circle").click()
    expect(readings).to_contain_text("60.0 × 60.0 mm")
    readings.get_by_role("radio", name="None").click()
    readings.get_by_role("button", name="Crop", exact=False).first.click()
    readings.get_by_role("button", name="Crop on the table").click()
    readings.get_by_role("radio", name="Exact box").click()
    width = readings.get_by_label("Box width").first
    width.fill("50")
    width.press("Enter")
    height = readings.get_by_label("Box height").first
    height.fill("50")
    height.press("Enter")
    expect(readings.get_by_role("button", name="Stretch: 50 % taller")).to_be_visible()
    readings.get_by_role("button", name="Crop to this box").click()
    expect(readings).to_contain_text("cropped")


def test_a_remedy_and_a_setting_hold_while_the_rest_of_a_drop_comes_in(page: Page) -> None:
    def first_more(route: Route) -> None:
        """Let another picture of the drop come in just before what was asked for arrives."""
        name, data = later.pop()
        answer = page.context.request.post(
            f"/api{job}/pictures?batch=late",
            headers={"Prefer": "wait=30"},
            multipart={"file": {"name": name, "mimeType": "image/png", "buffer": data}},
        )
        assert answer.ok, answer.text()
        route.continue_()

    later = [("disc.png", DISC), ("star.png", STAR)]
    job = new_job(page).removeprefix(page.url.split("/jobs")[0])
    drop(page, {"buoy.png": saved(pictures.shadowed()[0])})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    expect(pieces).to_have_count(1)
    base = page.url.split("/jobs")[0]
    page.route(f"{base}/api{job}/remedies", first_more, times=1)
    page.get_by_role("button", name="Remove the background").click()
    expect(pieces.first).to_contain_text("removed")
    expect(pieces).to_have_count(2)
    page.route(f"{base}/api{job}/recipe", first_more, times=1)
    page.get_by_label("Its shadow").get_by_role("radio", name="Cut round too").click()
    expect(pieces).to_have_count(3)
    expect(page.get_by_label("Its shadow").get_by_role("radio", name="Cut round too")).to_be_checked()
    assert later == []
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_a_remedy_is_done_for_all_that_have_it_in_one_step(page: Page) -> None:
    new_job(page)
    white = np.full((300, 300, 3), 255, np.uint8)
    first, second = white.copy(), white.copy()
    first[60:240, 60:240] = (20, 60, 120)
    second[40:260, 90:210] = (120, 60, 20)
    files = {name: saved(rgb) for name, rgb in (("sail.png", first), ("mast.png", second))}
    drop(page, files | {"disc.png": DISC})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    expect(pieces).to_have_count(3)
    pieces.first.get_by_role("button").first.click()
    page.get_by_role("button", name="For all 2 that have it").click()
    for name in ("Sail", "Mast"):
        expect(pieces.filter(has_text=name)).to_contain_text("removed")
    page.keyboard.press("Control+z")
    expect(pieces.filter(has_text="removed")).to_have_count(0)


@pytest.mark.long
def test_a_drawing_is_cut_along_the_line_it_holds_and_the_others_are_not(page: Page) -> None:
    ticket = (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 40"><circle cx="30" cy="20" r="10" fill="teal"/>'
        '<rect id="Cut_line" x="5" y="5" width="50" height="30" fill="none" stroke="red" stroke-width=".3"/></svg>'
    )
    new_job(page)
    drop(page, {"ticket.svg": ticket.encode(), "disc.png": DISC})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    expect(pieces).to_have_count(2)
    pieces.filter(has_text="Ticket").get_by_role("button").first.click()
    expect(page.get_by_label("Readings")).to_contain_text("contains a cut line of its own, “Cut_line”")
    page.keyboard.press("2")
    expect(page.get_by_role("radio", name="All pieces")).to_be_checked()
    page.get_by_role("radio", name="Its own").click()
    expect(page.get_by_label("Readings")).to_contain_text("as drawn: no border is added")
    # The art is 20 mm of 60 wide, and 60 mm as a piece: its line is two and a half times as wide.
    expect(page.get_by_role("region", name=re.compile("^Light table"))).to_contain_text("150.0 × 90.0 mm")
    page.get_by_role("list", name="Pieces").get_by_role("button", name="Disc").click()
    expect(page.get_by_role("radio", name="Contour")).to_be_checked()
    expect(page.get_by_role("radio", name="Its own")).to_have_count(0)
