"""The set-up card of a printer and a stock, and checks of its head."""

import io
from concurrent.futures import ThreadPoolExecutor

import httpx
import numpy as np
import pypdfium2
from PIL import Image

from perisect.stand_ins.printer import Printer
from tests.api.test_print_and_cut_api import Work


def drawn(pdf: bytes) -> np.ndarray:
    """The first page, small."""
    return np.asarray(pypdfium2.PdfDocument(pdf)[0].render(scale=1).to_numpy())


def codes(view: dict) -> set[str]:
    return {finding["code"] for finding in view["findings"]}


def test_a_card_belongs_to_printer_and_stock_and_is_ticked_for_a_day(api: httpx.Client, job: dict) -> None:
    url = f"/api/jobs/{job['id']}/card"
    assert codes(api.get(url).json()) == {"card_side"}
    card = api.get(url).json()["card"] | {
        "media": "Photo glossy",
        "surface": "gloss",
        "tray": "front",
        "side": "up",
    }
    now = api.put(url, json=card).json()
    assert codes(now) == {"card_surface"}  # A4 paper is matt
    with ThreadPoolExecutor(8) as crowd:
        ticked = list(crowd.map(lambda _: api.post(f"{url}/tick"), range(8)))
    assert {each.status_code for each in ticked} == {200}
    assert api.get(url).json()["ticked"]
    # Another stock has a card of its own; thick card does not go round the bend.
    revision = api.get(f"/api/jobs/{job['id']}").json()["revision"]
    api.post(f"/api/jobs/{job['id']}/equipment", json={"revision": revision, "stock": "a4-card"})
    assert not api.get(url).json()["ticked"]
    other = api.put(url, json=card | {"surface": "matt", "fit_to_page": True}).json()
    assert codes(other) == {"card_tray", "card_fit"}
    assert {f["severity"] for f in other["findings"] if f["code"] == "card_fit"} == {"stop"}
    told = [drawn(api.get(f"{url}/card.pdf").content)]
    api.put(url, json=other["card"] | {"media": "Plain card, heavy"})
    told.append(drawn(api.get(f"{url}/card.pdf").content))
    assert told[0].shape == told[1].shape
    assert (
        20 < (told[0] != told[1]).any(axis=2).sum() < told[0].shape[0] * told[0].shape[1] / 20
    )  # one line of it
    api.put(url, json=other["card"])
    side = pypdfium2.PdfDocument(api.get(f"{url}/side.pdf").content)[0]
    assert abs(side.get_size()[0] - 210 / 25.4 * 72) < 0.01
    assert api.get(url).json()["card"]["media"] == "Photo glossy"
    for wrong in ({"tray": "attic"}, {"media": "x" * 61}, {"dry_min": -1}, {"media": "a\u0000"}, {"inks": 3}):
        assert api.put(url, json=card | wrong).status_code == 422, wrong
    assert api.get("/api/jobs/999999/card").status_code == 404


def test_a_head_is_checked_through_the_link_and_from_a_picture(
    api: httpx.Client, work: Work, job: dict
) -> None:
    url = f"/api/jobs/{job['id']}/head"
    assert codes(api.get(url).json()) == {"head_unseen"}
    with ThreadPoolExecutor(8) as crowd:
        asked = list(crowd.map(lambda _: api.post(f"{url}/pattern").status_code, range(8)))
    assert sorted(asked) == [202] + [409] * 7
    work()
    printed = api.get(url).json()
    assert (printed["pattern"]["state"], printed["read_at"]) == ("printed", None)
    read = api.post(f"{url}/read").json()
    assert (read["gaps"], codes(read)) == ([], set())  # the stand-in is well
    seen = api.put(
        url, json={"gaps": [{"ink": "cyan", "group": 3}], "pattern": printed["pattern"]["id"]}
    ).json()
    assert (seen["gaps"], codes(seen)) == ([{"ink": "cyan", "group": 3}], {"head_gaps"})
    page, _, _ = Printer(2, gaps={("magenta", 7), ("black", 40)}).print_page(
        api.get(f"{url}/pattern.pdf").content
    )
    file = io.BytesIO()
    Image.fromarray(page).save(file, "JPEG", quality=90)
    found = api.post(f"{url}/picture", files={"file": ("scan.jpg", file.getvalue())}).json()
    assert found["gaps"] == [{"ink": "magenta", "group": 7}, {"ink": "black", "group": 40}]


def test_pictures_that_show_no_pattern_change_nothing(api: httpx.Client, job: dict) -> None:
    url = f"/api/jobs/{job['id']}/head"
    before = api.get(url).json()
    blank = io.BytesIO()
    Image.new("RGB", (300, 400), "white").save(blank, "PNG")
    refused = api.post(f"{url}/picture", files={"file": ("scan.png", blank.getvalue())})
    assert (refused.status_code, refused.json()["title"]) == (
        422,
        "The pattern was not found in this picture.",
    )
    assert api.post(f"{url}/picture", files={"file": ("scan.png", b"hello")}).status_code == 422
    for wrong in ({"ink": "gold", "group": 1}, {"ink": "cyan", "group": 48}, {"ink": "cyan", "group": -1}):
        assert api.put(url, json={"gaps": [wrong]}).status_code == 422
    assert api.put(url, json={"gaps": [], "pattern": 999999}).status_code == 404
    assert api.get(url).json() == before
