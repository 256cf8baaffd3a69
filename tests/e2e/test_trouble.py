"""Strangers' files and dying processes: a clear answer, and the job goes on."""

import os
import re
import signal

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC, STAR
from tests.api.test_artwork_api import HOSTILE
from tests.core import drawings
from tests.core.test_artwork import saved
from tests.e2e.conftest import Shop, drop, new_job, printed_job, start, unload, until

pytestmark = pytest.mark.browser


def test_bad_files_are_answered_and_good_ones_go_through(page: Page) -> None:
    new_job(page)
    files = {f"bad {name}.png": data for name, (data, _) in HOSTILE.items()}
    files["solid.png"] = saved(Image.new("RGB", (200, 100), "teal"))
    for number in range(20 - len(files)):
        alpha, _ = drawings.coverage(drawings.disc(60 + number))
        files[f"good {number}.png"] = drawings.png(alpha)
    assert len(files) == 20
    drop(page, files)
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(
        20 - len(HOSTILE), timeout=40_000
    )
    refused = page.get_by_role("list", name="Refused or uploading")
    expect(refused.get_by_role("listitem")).to_have_count(len(HOSTILE))
    for name, (_, says) in HOSTILE.items():
        item = refused.get_by_role("listitem").filter(has_text=f"bad {name}.png")
        expect(item).to_contain_text(says)
    expect(page.get_by_label("Readings")).to_contain_text("no clear background")
    refused.get_by_role("button", name="Dismiss bad 0 bytes.png").click()
    expect(refused.get_by_role("listitem")).to_have_count(len(HOSTILE) - 1)


@pytest.mark.long
@pytest.mark.parametrize("victim", ["worker", "stand-in-plotter"])
def test_a_process_killed_in_the_middle_of_a_cut_leaves_a_job_that_goes_on(
    victim: str, page: Page, running: Shop
) -> None:
    printed_job(page, STAR)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    status = page.get_by_role("status").filter(has_text="line")
    expect(status).to_contain_text(re.compile(r"Cutting ?line [1-9]"), timeout=30_000)
    os.kill(running.pid_of(victim), signal.SIGKILL)
    expect(status).to_contain_text("Stopped", timeout=20_000)
    expect(status).to_contain_text(re.compile(r"stopped at line \d+ of \d+"))
    page.reload()
    expect(page.get_by_role("status").filter(has_text="line")).to_contain_text("Stopped")
    until(lambda: running.pid_of(victim) > 0)
    # Of the line in the blade a person says what becomes of it; no line before it is cut again.
    page.get_by_role("button", name=re.compile(r"^Go on, line \d+ again$")).click()
    unload(page)


@pytest.mark.long
def test_a_cut_can_be_cancelled(page: Page) -> None:
    printed_job(page, DISC)
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").click()
    status = page.get_by_role("status").filter(has_text="line")
    expect(status).to_contain_text(re.compile(r"Cutting ?line [1-9]"), timeout=30_000)
    page.get_by_role("button", name="Cancel after this line").click()
    expect(status).to_contain_text("Cancelled", timeout=20_000)
    expect(status).to_contain_text("You cancelled this cut.")


@pytest.mark.long
def test_a_taken_port_is_one_clear_sentence(running: Shop) -> None:
    port = running.url.rsplit(":", 1)[1]
    with pytest.raises(AssertionError, match=f"Port {port} is taken"):
        start(running.local, "--port", port)


@pytest.mark.long
def test_a_picture_dropped_on_the_list_or_while_a_job_opens_is_in_a_job(page: Page) -> None:
    page.goto("/")
    expect(page.get_by_role("button", name="New job", exact=True)).to_be_visible()
    drop(page, {"disc.png": DISC})
    page.wait_for_url(re.compile(r"/jobs/\d+/artwork"))
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.goto("/")
    page.get_by_role("button", name="New job", exact=True).click()
    # At once, whatever is shown by now.
    drop(page, {"disc.png": DISC})
    page.wait_for_url(re.compile(r"/jobs/\d+/artwork"))
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)


def test_a_part_of_the_page_that_cannot_be_loaded_says_so(page: Page) -> None:
    page.route("**/LogStation*", lambda route: route.abort())
    new_job(page)
    loads: list[str] = []
    page.on("load", lambda _: loads.append(page.url))
    page.get_by_role("link", name=re.compile("^6 Log")).click()
    says = page.get_by_role("alert").filter(has_text="This part of Perisect could not be loaded")
    expect(says).to_be_visible()
    assert len(loads) == 1, "loaded again once, and not for ever"
    page.unroute("**/LogStation*")
    says.get_by_role("button", name="Load the page again").click()
    expect(page.get_by_label("Readings")).to_be_visible()
    expect(says).to_have_count(0)
