"""Undo, and what cannot be undone: by the keyboard alone, as a person in a hurry presses it."""

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from tests.api.conftest import DISC
from tests.e2e.conftest import Shop, empty_folder, printed_job, start, stop, unload, until

pytestmark = pytest.mark.browser


def job_of(page: Page) -> str:
    return re.sub(r".*(/jobs/\d+).*", r"/api\1", page.url)


def told(page: Page) -> dict:
    found: dict = page.request.get(job_of(page)).json()
    return found


def find(page: Page, action: str) -> None:
    """Do something by Ctrl K, as from anywhere."""
    page.keyboard.press("Control+k")
    page.keyboard.type(action)
    page.keyboard.press("Enter")


def undo_button(page: Page) -> object:
    return page.get_by_role("button", name="Undo (Ctrl Z)")


@pytest.fixture
def printed(page: Page) -> Page:
    printed_job(page, DISC)
    return page


def test_spoiling_a_sheet_is_asked_and_taken_back(printed: Page) -> None:
    page = printed
    number = told(page)["prints"][0]["id"]

    def state() -> str:
        return str(page.request.get(f"/api/prints/{number}").json()["state"])

    button = page.get_by_role("button", name="Spoiled …")
    button.focus()
    # Ten keys in a wrong order spoil nothing.
    for key in (
        "ArrowDown",
        "ArrowDown",
        "ArrowUp",
        "Home",
        "End",
        "p",
        "t",
        "PageDown",
        "ArrowRight",
        "ArrowLeft",
    ):
        page.keyboard.press(key)
    assert state() == "printed"
    page.keyboard.press("Enter")
    question = page.get_by_role("alertdialog")
    expect(question).to_contain_text(f"Throw away print {number}")
    # The answer that does nothing has the focus.
    page.keyboard.press("Enter")
    expect(question).to_be_hidden()
    assert state() == "printed"
    button.focus()
    page.keyboard.press("Enter")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    until(lambda: state() == "spoiled")
    expect(undo_button(page)).to_have_attribute("title", re.compile(f"Undo: Print {number} spoiled"))
    page.keyboard.press("Control+z")
    until(lambda: state() == "printed")
    expect(page.get_by_text(f"Undone: Print {number} spoiled")).to_be_visible()


def test_undo_takes_back_what_was_done_last_and_nothing_else(printed: Page) -> None:
    page = printed
    page.keyboard.press("5")
    page.get_by_role("button", name="Load and cut").focus()
    page.keyboard.press("Enter")
    unload(page)
    before = told(page)
    page.keyboard.press("6")
    expect(page.get_by_role("button", name="All good")).to_be_visible()
    # A cut cannot be undone: that is said, and its count, its print and the picture's background stay.
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile(r"“Cut of print \d+” cannot be undone"))).to_be_visible()
    assert told(page)["step"] == before["step"]
    page.keyboard.press("g")
    until(lambda: told(page)["runs"][0]["count"] is not None)
    expect(undo_button(page)).to_have_attribute("title", re.compile("Undo: Count of cut"))
    page.keyboard.press("Control+z")
    until(lambda: told(page)["runs"][0]["count"] is None)
    now = told(page)
    assert (now["step"], now["prints"][0]["state"]) == (before["step"], "printed")
    page.keyboard.press("Control+z")
    page.wait_for_timeout(300)
    assert told(page)["step"] == before["step"]


def test_a_change_that_leaves_a_printed_sheet_behind_is_asked_once(printed: Page) -> None:
    page = printed
    before = told(page)["step"]
    other = "Copies by number" if told(page)["recipe"]["sheet"].get("fill", True) else "Fill a sheet"
    find(page, other)
    question = page.get_by_role("alertdialog")
    expect(question).to_contain_text("Sheet 1 is on paper already")
    page.keyboard.press("Escape")
    expect(question).to_be_hidden()
    assert told(page)["step"] == before
    find(page, other)
    expect(question).to_be_visible()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    until(lambda: told(page)["step"] > before)
    # Once: further changes, and undo, go through.
    find(page, "Nest")
    until(lambda: told(page)["step"] > before + 1)
    expect(undo_button(page)).to_have_attribute("title", re.compile("Undo: Nest"))
    page.keyboard.press("Control+z")
    until(lambda: told(page)["step"] == before + 1)
    expect(page.get_by_text("Undone: Nest")).to_be_visible()


def test_undo_does_not_take_back_another_window_s_change_without_a_word(page: Page, running: Shop) -> None:
    from tests.e2e.conftest import drop, new_job

    new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("3")
    find(page, "Copies by number")
    until(lambda: told(page)["recipe"]["sheet"]["fill"] is False)
    now = told(page)
    # Somebody else, at another machine.
    sheet = {**now["recipe"]["sheet"], "method": "nest"}
    body = {"revision": now["revision"], "recipe": {**now["recipe"], "sheet": sheet}, "label": "Their nest"}
    assert page.request.put(f"{job_of(page)}/recipe", data=body).ok
    expect(undo_button(page)).to_have_attribute("title", re.compile("Their nest"))
    page.keyboard.press("Control+z")
    expect(page.get_by_text("“Their nest” was done last, in another window.")).to_be_visible()
    assert told(page)["step_label"] == "Their nest"


def test_undo_says_on_a_page_of_the_shop_that_it_does_nothing_there(page: Page) -> None:
    page.goto("/shop")
    expect(page.get_by_role("navigation", name="The shop")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("Changes on this page cannot be undone.")).to_be_visible()


def test_escape_in_a_half_filled_form_asks(page: Page) -> None:
    page.goto("/orders")
    page.get_by_role("button", name="New order").focus()
    page.keyboard.press("Enter")
    form = page.get_by_role("dialog", name="New order")
    page.keyboard.type("Mill at the weir")
    page.keyboard.press("Escape")
    question = page.get_by_role("alertdialog")
    expect(question).to_contain_text("Close without saving?")
    expect(question.get_by_role("button", name="Keep editing")).to_be_focused()
    page.keyboard.press("Escape")
    expect(question).to_be_hidden()
    expect(form.get_by_label("Customer")).to_have_value("Mill at the weir")
    page.keyboard.press("Escape")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(form).to_be_hidden()
    # One in which nothing was typed closes at once.
    page.get_by_role("button", name="New order").focus()
    page.keyboard.press("Enter")
    expect(form).to_be_visible()
    page.keyboard.press("Escape")
    expect(form).to_be_hidden()
    expect(question).to_be_hidden()


def test_marks_that_check_nothing_are_asked_about_before_the_knife(printed: Page) -> None:
    page = printed
    plotter = page.request.get("/api/shop").json()["plotters"][0]
    assert page.request.put("/api/shop/plotter", data={**plotter, "has_sensor": False}).ok
    try:
        page.keyboard.press("5")
        page.get_by_role("button", name="Load and cut").focus()
        page.keyboard.press("Enter")
        pad = page.get_by_role("group", name="Move the blade")
        expect(pad).to_be_visible(timeout=30_000)
        marks = page.get_by_role("list", name="Marks").get_by_role("listitem")
        for number in range(4):
            pad.focus()
            page.keyboard.press("Enter")
            expect(marks.filter(has_text="by hand")).to_have_count(number + 1)
        expect(page.get_by_role("note").first).to_contain_text("The blade was not moved at the")
        page.get_by_role("button", name="Cut by these marks").focus()
        page.keyboard.press("Enter")
        question = page.get_by_role("alertdialog")
        expect(question).to_contain_text("Cut by marks that cannot be checked?")
        page.keyboard.press("Escape")
        expect(question).to_be_hidden()
        assert told(page)["runs"][0]["state"] == "placing"
    finally:
        page.get_by_role("button", name="Cancel this cut").click()
        until(lambda: told(page)["runs"][0]["state"] == "cancelled")
        assert page.request.put("/api/shop/plotter", data={**plotter, "has_sensor": True}).ok


def test_an_order_is_sent_in_part_by_a_question(page: Page, running: Shop) -> None:
    from tests.e2e.conftest import drop, new_job

    path = new_job(page)
    drop(page, {"disc.png": DISC})
    expect(page.get_by_role("list", name="Pieces").get_by_role("listitem")).to_have_count(1)
    with httpx.Client(base_url=running.url, timeout=60) as api:
        job = int(path.rsplit("/", 1)[1])
        design = api.get(f"/api/jobs/{job}").json()["recipe"]["designs"][0]["id"]
        item = api.post("/api/shelf", json={"job": job, "design": design}).json()["id"]
        line = {"item": item, "longest_mm": 40, "quantity": 12}
        order = api.post("/api/orders", json={"who": "Weir keeper", "lines": [line]}).json()
        (made,) = api.post("/api/orders/jobs", json={"orders": [order["id"]]}).json()["jobs"]
        sheet = api.post(f"/api/jobs/{made}/prints", json={"sheet": 1}).json()["id"]
        until(lambda: api.get(f"/api/prints/{sheet}").json()["state"] == "printed")
        run = api.post(f"/api/prints/{sheet}/cuts").json()["id"]
        until(lambda: api.get(f"/api/runs/{run}").json()["state"] == "done", 150)
        stickers = api.get(f"/api/runs/{run}").json()["stickers"]
        bad = {str(n): "slipped" for n in range(2, len(stickers))}
        assert (
            api.put(f"/api/runs/{run}/count", json={"version": 0, "count": {"bad": bad}}).status_code == 200
        )
        page.goto(f"/orders?order={order['id']}")
        page.get_by_role("button", name="Send in part …").focus()
        page.keyboard.press("Enter")
        question = page.get_by_role("alertdialog")
        expect(question).to_contain_text("10 stickers of this order are missing")
        page.keyboard.press("Escape")
        expect(question).to_be_hidden()
        assert api.get(f"/api/orders/{order['id']}").json()["state"] == "open"
        page.get_by_role("button", name="Send in part …").focus()
        page.keyboard.press("Enter")
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        until(lambda: api.get(f"/api/orders/{order['id']}").json()["state"] == "sent")
        assert "Sent 2 of 12; the rest is order" in api.get(f"/api/orders/{order['id']}").json()["note"]


@pytest.mark.long
def test_an_empty_shop_asks_what_its_person_has(page: Page) -> None:
    from perisect.up.cluster import free_port

    with empty_folder() as local:
        shop = start(local, "--port", str(free_port()), "--no-demo")
        try:
            page.goto(f"{shop.url}/")
            expect(page.get_by_role("heading", name="What do you have?")).to_be_visible()
            begin = page.get_by_role("button", name="Start with these")
            expect(begin).to_be_disabled()
            for name in ("A3 printer", "A4 vinyl, satin, 210 × 297 mm"):
                page.get_by_role("checkbox", name=name).focus()
                page.keyboard.press("Space")
            page.get_by_role("checkbox", name=re.compile("Not here yet")).nth(1).focus()
            page.keyboard.press("Space")
            begin.focus()
            page.keyboard.press("Enter")
            expect(page.get_by_role("heading", name="What do you have?")).to_be_hidden()
            page.goto(f"{shop.url}/shop")
            # What is simulated says so, and what is not here has no machine of its own.
            expect(
                page.get_by_role("button", name=re.compile(r"^Practice plotter \(simulated\)"))
            ).to_be_visible()
            expect(page.get_by_role("button", name=re.compile(r"^A3 printer"))).not_to_contain_text(
                "simulated"
            )
        finally:
            assert stop(shop) == 0
