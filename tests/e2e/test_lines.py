"""The Cut lines station in the browser: a loose word becomes one piece with a peel edge and a tab."""

import io
import re

import cv2
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC, STAR
from tests.core.reading import read_svg
from tests.core.test_die import dxf, ticket
from tests.e2e.conftest import drop, new_job, unfold, unload

pytestmark = pytest.mark.browser


def word() -> bytes:
    """Four thick rings and a bar in a row, some way apart: a word with four counters."""
    alpha = np.zeros((360, 1500), np.uint8)
    for n in range(4):
        cv2.ellipse(alpha, (160 + 300 * n, 180), (100, 130), 0, 0, 360, 255, 50, cv2.LINE_AA)
    cv2.rectangle(alpha, (1280, 60), (1340, 300), 255, -1)
    file = io.BytesIO()
    Image.fromarray(np.dstack([np.full(alpha.shape, c, np.uint8) for c in (15, 92, 87)] + [alpha])).save(
        file, "PNG"
    )
    return file.getvalue()


@pytest.mark.long
def test_a_loose_word_is_joined_filled_rounded_and_cut_as_it_was_shown(page: Page) -> None:
    path = new_job(page)
    drop(page, {"word.png": word()})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.get_by_label("Readings").get_by_label("Longest side").first.fill("120")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Draw the cut lines").click()
    readings = page.get_by_label("Readings")
    # Round the rings the line leaves gaps of half a millimetre, which no knife follows.
    expect(readings).to_contain_text("2loose pieces")
    readings.get_by_role("button", name="Bridge them").click()
    expect(readings).to_contain_text("1piece")

    readings.get_by_role("button", name="Holes").click()
    holes = readings.get_by_role("list", name="Holes").get_by_role("listitem")
    expect(holes).to_have_count(4)
    expect(readings).to_contain_text("4 of 4 filled")
    readings.get_by_label("Holes of the line").get_by_role("radio", name="All cut").click()
    expect(readings).to_contain_text("4 holes")
    for n in range(2):
        holes.nth(n).get_by_role("radio", name="Filled").click()
        expect(readings).to_contain_text(f"{n + 1} of 4 filled")

    readings.get_by_role("radio", name=re.compile("^Peel edge")).click()
    # Its field moves what stands below.
    expect(readings.get_by_label("Peel margin").first).to_be_visible()
    unfold(page, "Pull tab")
    readings.get_by_role("switch", name="Add a pull tab").click()
    expect(readings).to_contain_text("12 mm wide")
    radius = readings.get_by_label("Minimum bend radius").first
    radius.fill("1")
    radius.press("Enter")
    expect(page.get_by_text("step 10")).to_be_visible()
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 5, "y": 400})
    page.keyboard.press("Control+z")
    expect(page.get_by_text("step 9")).to_be_visible()
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_text("step 10")).to_be_visible()

    # A box is added to the line with the keyboard alone, and taken back.
    readings.get_by_role("button", name="Edit by hand").click()
    readings.get_by_role("button", name="Add box").click()
    table = page.get_by_role("region", name="Light table")
    table.focus()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Enter")
    expect(table).to_contain_text("Click the opposite corner")
    for key in ("ArrowRight", "ArrowDown") * 4:
        page.keyboard.press(key)
    page.keyboard.press("Enter")
    expect(readings).to_contain_text("1 edit")
    page.keyboard.press("Escape")
    readings.get_by_role("button", name="Back to the computed line").click()
    expect(readings).to_contain_text("as computed")

    # A node is chosen and moved with the keyboard, and the move is taken back.
    before = page.locator("path.line-kiss").get_attribute("d")
    readings.get_by_role("button", name="Edit nodes").click()
    table.focus()
    page.keyboard.press("]")
    expect(readings.get_by_role("group", name="Nodes")).to_contain_text("1 of ")
    for _ in range(3):
        page.keyboard.press("Shift+ArrowUp")
    expect(readings).to_contain_text("1 edit")
    expect(page.locator("path.line-kiss")).not_to_have_attribute("d", before or "")
    page.keyboard.press("Control+z")
    expect(readings).to_contain_text("as computed")
    expect(page.locator("path.line-kiss")).to_have_attribute("d", before or "")
    page.keyboard.press("Escape")

    # What is exported is what was shown.
    job = page.url.split("/jobs/")[1].split("/")[0]
    rings = "document.querySelector('path.line-{}').getAttribute('d').split('M').length - 1"
    kiss, through = (page.evaluate(rings.format(process)) for process in ("kiss", "through"))
    exported = read_svg(page.request.get(f"/api/jobs/{job}/sheets/1/cut.svg").text())
    placed = page.request.get(f"/api/jobs/{job}").json()["sheets"]["count"]
    assert kiss == 3  # round the word, and the two holes that were not filled
    assert (len(exported["kiss"]), len(exported["through"])) == (kiss * placed, through * placed)
    assert path.endswith(f"/jobs/{job}")


@pytest.mark.long
def test_a_pop_out_shows_its_ties_and_says_how_it_holds(page: Page) -> None:
    new_job(page)
    drop(page, {"word.png": word()})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("2")
    readings = page.get_by_label("Readings")
    readings.get_by_role("radio", name="Box", exact=True).click()
    readings.get_by_role("radio", name="Tear-out").click()
    expect(readings).to_contain_text("holds")
    ties = int(readings.locator("text=/^Ties$/").locator("xpath=following-sibling::*").first.inner_text())
    cuts = page.evaluate(
        "document.querySelector('path.line-perforate').getAttribute('d').split('M').length - 1"
    )
    assert cuts == ties >= 3
    tie = readings.get_by_label("Each tie").first
    tie.fill("3")
    tie.press("Enter")
    expect(readings).to_contain_text("hard to pop")
    readings.get_by_role("button", name="Ties of 0.7 mm").click()
    expect(readings).not_to_contain_text("hard to pop")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("perforated +3.0")


@pytest.mark.long
def test_how_stickers_come_off_is_asked_once(page: Page) -> None:
    new_job(page)
    drop(page, {"disc.png": DISC, "star.png": STAR})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(2)
    page.keyboard.press("2")
    stub, asked = (
        page.get_by_role("navigation", name="Stations"),
        page.get_by_text("How should your stickers be cut?"),
    )
    expect(stub).to_contain_text("no through")
    page.get_by_role("button", name=re.compile("^Peel edge")).click()
    expect(asked).to_have_count(0)
    expect(stub).to_contain_text("through +3.0")
    expect(page.get_by_role("radio", name="Peel edge")).to_be_checked()
    new_job(page)
    drop(page, {"star.png": STAR})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("2")
    expect(stub).to_contain_text("through +3.0")
    expect(asked).to_have_count(0)
    # One piece otherwise does not change the habit until somebody says so.
    page.get_by_role("radio", name="Kiss").click()
    page.get_by_role("button", name="Use this for new jobs too").click()
    expect(page.get_by_role("button", name="Use this for new jobs too")).to_have_count(0)


@pytest.mark.long
def test_a_caption_is_printed_and_not_cut(page: Page) -> None:
    new_job(page)
    drop(page, {"caption.png": DISC, "disc.png": STAR})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(2)
    page.keyboard.press("2")
    readings = page.get_by_label("Readings")
    # The station before this one has a "This piece" too.
    expect(readings.get_by_role("radio", name="Print only")).to_be_visible()
    readings.get_by_role("radio", name="This piece").click()
    readings.get_by_role("radio", name="Print only").click()
    expect(readings).to_contain_text("Printed in its place on the sheet, and not cut")
    expect(page.locator("path.line-kiss")).to_have_count(0)
    page.keyboard.press("3")
    page.get_by_role("radio", name="By number").click()
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    # What is cut and what is not is seen before the blade moves.
    expect(readings).to_contain_text("Kiss1 ·")
    expect(readings).to_contain_text("Printed, not cut1 × Caption")


@pytest.mark.long
def test_a_die_as_dxf_is_cut_as_it_is_drawn_sticker_after_sticker(page: Page) -> None:
    new_job(page)
    drop(page, {"ticket.dxf": dxf(ticket)})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    expect(page.get_by_label("Readings")).to_contain_text("Ticket is a die: its lines are cut as drawn")
    page.keyboard.press("2")
    expect(page.get_by_role("radio", name="Its own")).to_be_checked()
    expect(page.get_by_text("Ticket · 80.0 × 40.0 mm with lines")).to_be_visible()
    page.keyboard.press("3")
    page.get_by_role("radio", name="By number").click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("1 on 1 sheet")
    unfold(page, "Order of the cut")
    page.get_by_role("radio", name="By sticker").click()
    expect(page.get_by_text("Use a mat: through-cut stickers come loose")).to_be_visible()
    page.keyboard.press("4")
    page.get_by_role("button", name="Print sheet 1").click()
    expect(page.get_by_text("printed", exact=True)).to_be_visible()
    page.keyboard.press("5")
    cut = page.get_by_label("Readings")
    for line in ("1. Crease", "2. Kiss", "3. Perforation"):
        expect(cut).to_contain_text(line)
    page.get_by_role("button", name="Load and cut").click()
    unload(page)
