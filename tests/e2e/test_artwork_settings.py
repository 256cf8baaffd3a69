"""Size by use, tone, rights and the tools of the Artwork station, as a person finds them."""

import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC
from tests.core import pictures
from tests.core.test_tone import SRGB
from tests.e2e.conftest import drop, new_job, unfold, until

pytestmark = [pytest.mark.browser, pytest.mark.long]

SLOWLY = """() => {
    const send = window.fetch;
    window.fetch = (...asked) => new Promise((done) => setTimeout(done, 700)).then(() => send(...asked));
}"""


@pytest.fixture
def view(page: Page) -> Page:
    """A job with one picture all over, 3 : 2."""
    file = io.BytesIO()
    Image.fromarray(pictures.photo(np.random.default_rng(4), 900)[:600]).save(file, "JPEG", quality=90)
    new_job(page)
    drop(page, {"view.jpg": file.getvalue()})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    return page


@pytest.mark.long
def test_a_size_by_use_fills_its_box_by_cropping(view: Page) -> None:
    readings = view.get_by_label("Readings")
    readings.get_by_role("button", name="By use").click()
    view.get_by_role("button", name="Staff badge").click()
    expect(readings).to_contain_text("86.0 × 54.0 mm")
    expect(readings).to_contain_text("cropped")
    readings.get_by_role("button", name="By use").click()
    view.get_by_role("button", name="Edit this list").click()
    dialog = view.get_by_role("dialog", name="Sizes by use")
    dialog.get_by_role("button", name="Add").click()
    dialog.get_by_label("Use", exact=True).last.fill("Oar blade")
    dialog.get_by_role("button", name="Save this list").click()
    readings.get_by_role("button", name="By use").click()
    expect(view.get_by_role("button", name="Oar blade longest 60 mm")).to_be_visible()


@pytest.mark.long
def test_a_tone_is_found_with_the_keyboard_and_belongs_to_the_stock(view: Page) -> None:
    readings = view.get_by_label("Readings")
    readings.get_by_role("button", name="Tone on A4").click()
    thumb = readings.get_by_role("slider", name="Contrast")
    thumb.focus()
    for _ in range(6):
        view.keyboard.press("ArrowRight")
    tone = "/api/tones/desk/a4/standard"
    expect(readings.get_by_role("button", name="Tone on A4")).to_contain_text("set")
    expect(thumb).to_have_attribute("aria-valuenow", "6")
    middle = readings.get_by_role("slider", name="Middle tones")
    middle.focus()
    view.keyboard.press("ArrowDown")
    expect(middle).to_have_attribute("aria-valuenow", "126")
    readings.get_by_label("Colour profile of the stock").set_input_files(
        {"name": "face.icc", "mimeType": "application/octet-stream", "buffer": SRGB}
    )
    readings.get_by_role("radio", name="Lost colours").click()
    # The screen's own profile prints all of the screen's colours.
    expect(readings).to_contain_text("All of its colours can be printed.")
    readings.get_by_role("button", name="Without").click()
    expect(readings).to_contain_text("No profile loaded")
    kept = view.request.get(tone).json()["tone"]
    assert (kept["contrast"], kept["curve"][2]) == (6, [128, 126])
    readings.get_by_label("Best patch of the strip").select_option("5")
    expect(thumb).to_have_attribute("aria-valuenow", "14")  # the second row of the strip is 8 steeper
    readings.get_by_role("button", name="As it is", exact=True).click()
    expect(readings.get_by_role("button", name="Tone on A4")).to_contain_text("as it is")


@pytest.mark.long
def test_an_order_asks_whether_a_piece_may_be_sold(view: Page) -> None:
    view.keyboard.press("3")
    readings = view.get_by_label("Readings")
    readings.get_by_role("switch", name="Made for an order").click()
    expect(readings).to_contain_text("It is not entered whether View may be sold")
    readings.get_by_role("button", name="It may be sold").click()
    expect(readings).not_to_contain_text("It is not entered")
    view.keyboard.press("1")
    expect(readings.get_by_role("button", name="Rights")).to_contain_text("may be sold")


@pytest.mark.long
def test_everything_new_is_found_by_its_name(view: Page) -> None:
    for words, path in (("perfor", "lines"), ("tone", "artwork"), ("eraser", "artwork")):
        view.keyboard.press("Control+k")
        view.keyboard.type(words)
        view.keyboard.press("Enter")
        view.wait_for_url(f"**/{path}")


def test_quick_hands_lose_nothing_while_the_server_is_slow(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    unfold(page, "Backing shape")
    page.get_by_role("radio", name="Rounded box", exact=True).click()
    radius = page.get_by_role("textbox", name="Corner radius")
    expect(radius).to_be_visible()
    # Each change is made to what is shown, before the one before it is back.
    page.evaluate(SLOWLY)
    for name, value in (("Corner radius", "6"), ("Margin round the art", "5")):
        page.get_by_role("textbox", name=name, exact=True).fill(value)
        page.keyboard.press("Enter")
    number = re.search(r"jobs/(\d+)", page.url)[1]  # type: ignore[index]

    def backing() -> dict:
        return page.request.get(f"/api/jobs/{number}").json()["recipe"]["designs"][0]["mend"]["backing"]

    until(lambda: backing()["margin_mm"] == 5)
    assert (backing()["shape"], backing()["radius_mm"]) == ("rounded", 6)


def test_a_field_confirmed_and_left_is_kept_once(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    sent: list[str] = []
    page.on("request", lambda asked: sent.append(asked.url) if asked.method == "PUT" else None)
    page.evaluate(SLOWLY)
    side = page.get_by_role("textbox", name="Longest side")
    for size in ("48", "50"):
        side.fill(size)
        side.press("Enter")
        page.keyboard.press("Tab")
    # One after the other: when the last is back, whatever was sent twice was sent before it.
    expect(side).to_have_value("50.00")
    assert len(sent) == 2


def test_a_field_shows_what_holds_when_what_was_typed_is_not_kept(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC})
    side = page.get_by_role("textbox", name="Longest side")
    expect(side).to_have_value("60.00")
    page.route("**/recipe", lambda route: route.abort())
    side.fill("48")
    side.press("Enter")
    expect(page.get_by_role("status")).not_to_be_empty()
    expect(side).to_have_value("60.00")
    page.unroute("**/recipe")
    side.fill("48")
    side.press("Enter")
    expect(side).to_have_value("48.00")
