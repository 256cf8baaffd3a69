"""The shop that a newcomer sees first."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, expect

from perisect.up.cluster import free_port
from tests.e2e.conftest import Shop, empty_folder, start, stop

pytestmark = pytest.mark.browser


@pytest.fixture
def demo() -> Iterator[Shop]:
    with empty_folder() as local:
        shop = start(local, "--port", str(free_port()), "--time-factor", "25")
        yield shop
        assert stop(shop) == 0


@pytest.mark.long
def test_the_demo_job_shows_something_real_at_every_station(browser: Browser, demo: Shop) -> None:
    page = browser.new_page(base_url=demo.url)
    page.goto("/")
    page.get_by_role("link", name="Spring stickers, set of five").click()
    stub = page.get_by_role("navigation", name="Stations")
    for text in (
        "5 pieces",
        "kiss 2.0 · through +3.0",
        "30 on 3 sheets",
        "1 of 3 sheets printed",
        "12 of 12 within",
    ):
        expect(stub).to_contain_text(text)
    page.goto("/")
    page.get_by_role("link", name="Luggage tags for the summer deck").click()
    expect(page.get_by_text("Drop your pictures here")).to_be_visible()
    page.close()
