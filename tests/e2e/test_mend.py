"""Fake, plain and missing backgrounds are mended with what a newcomer sees."""

import io

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.core import pictures
from tests.e2e.conftest import drop, new_job

pytestmark = pytest.mark.browser


def jpeg(rgb: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "JPEG", quality=92)
    return file.getvalue()


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
    patches = readings.get_by_role("button", name="Knock it out")
    before = patches.count()
    assert before >= 1
    patches.first.click()
    expect(patches).to_have_count(before - 1)
    page.get_by_role("button", name="Silhouette").click()
    page.get_by_role("button", name="Remove it").click()
    expect(readings).not_to_contain_text("speck")
    page.get_by_role("button", name="Silhouette").click()

    pieces.get_by_role("button", name="View").first.click()
    expect(readings).to_contain_text("A picture all over")
    page.get_by_role("button", name="Frame with round corners").click()
    expect(pieces.get_by_role("listitem").nth(2)).to_contain_text("framed")
    page.get_by_role("radio", name="Circle").click()
    expect(readings).to_contain_text("60.0 × 60.0 mm")
    page.get_by_role("button", name="Back to the picture as it came").click()
    expect(readings).to_contain_text("60.0 × 40.0 mm")
    page.keyboard.press("Control+z")
    expect(readings).to_contain_text("60.0 × 60.0 mm")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("3 pieces")
