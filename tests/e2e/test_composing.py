"""One sticker of several things, and a subject out of a photo, made on the screen and cut."""

import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC
from tests.core.photos import photo
from tests.e2e.conftest import drop, new_job, unload

pytestmark = pytest.mark.browser
NAMES = ["Ada", "Bo", "Cleo", "Dov", "Edda", "Finn", "Gil", "Hana", "Ivo", "June", "Kim", "Lou"]


@pytest.mark.long
def test_a_badge_with_twelve_names_is_made_at_three_sizes_and_cut(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    pieces = page.get_by_role("list", name="Pieces").get_by_role("listitem")
    expect(pieces).to_have_count(1)
    page.get_by_role("button", name="Words and parts").click()
    page.get_by_role("textbox", name=re.compile("^Text, in several lines")).fill("{name}")
    page.get_by_label("Position").select_option("round")
    page.get_by_role("button", name="Add words").click()
    page.get_by_role("textbox", name=re.compile("^Text, in several lines")).fill("Reedwater kiosk")
    page.get_by_label("Position").select_option("on")
    size = page.get_by_role("textbox", name="Height of capitals")
    size.fill("2")
    size.press("Enter")
    page.get_by_role("radio", name="Printed only").click()
    page.get_by_role("button", name="Add a backing").click()
    expect(page.get_by_role("button", name="Make it")).to_be_disabled()
    page.get_by_role("textbox", name="Names, a line each").fill("\n".join(NAMES))
    expect(page.get_by_label("Readings")).to_contain_text("one piece")
    page.get_by_role("button", name="Make 12 pieces").click()
    expect(pieces).to_have_count(12, timeout=240_000)
    expect(page.get_by_role("list", name="Pieces")).to_contain_text("Lou")
    # The same at two smaller sizes, each with lines of its own.
    page.get_by_role("textbox", name="Also at, mm").fill("45 30")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(pieces).to_have_count(14)
    page.keyboard.press("2")
    expect(page.get_by_label("Readings")).to_contain_text("1 piece")
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    # Fourteen pictures are made ready for print on the way.
    expect(page.get_by_text("printed", exact=True)).to_be_visible(timeout=120_000)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    unload(page)


@pytest.mark.long
def test_a_subject_is_cut_out_of_a_photo_with_a_stroke_and_printed(page: Page) -> None:
    picture, truth = photo(3)
    file = io.BytesIO()
    Image.fromarray(picture).save(file, "JPEG", quality=92)
    new_job(page)
    drop(page, {"on the quay.jpg": file.getvalue()})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.get_by_role("button", name="Cut out a subject").click()
    table = page.get_by_role("region", name="Light table")
    image = table.locator("image").first
    expect(image).to_be_visible()
    box = image.bounding_box()
    assert box is not None
    side = picture.shape[0]

    def at(x: float, y: float) -> tuple[float, float]:
        return box["x"] + x / side * box["width"], box["y"] + y / side * box["height"]

    ys, xs = np.nonzero(truth > 0.5)
    page.mouse.move(*at(xs.min() - 12, ys.min() - 12))
    page.mouse.down()
    page.mouse.move(*at(xs.mean(), ys.mean()))
    page.mouse.move(*at(xs.max() + 12, ys.max() + 12))
    page.mouse.up()
    expect(page.get_by_role("radio", name="Keep")).to_be_checked()
    expect(table.locator("image")).to_have_count(2)  # the veil
    page.mouse.move(*at(np.median(xs), np.median(ys)))
    page.mouse.down()
    page.mouse.move(*at(np.median(xs) + 15, np.median(ys)))
    page.mouse.up()
    expect(page.get_by_role("button", name="Clear strokes")).to_be_visible()
    page.get_by_role("button", name="Cut it out").click()
    expect(page.get_by_role("button", name="Edit the cut-out")).to_be_visible(timeout=60_000)
    readings = page.get_by_label("Readings")
    expect(readings).to_contain_text("Cut out")
    expect(readings).not_to_contain_text("no removable background")
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
