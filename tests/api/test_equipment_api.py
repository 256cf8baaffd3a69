"""The shop's stocks, printers and plotters, and what a job makes of them."""

import json
import socket
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import httpx
import pytest
from sqlalchemy import delete

from perisect.store import sign_ins
from perisect.store.database import transaction
from tests.api.conftest import DISC
from tests.api.test_line_sets_api import with_lines

Drop = Callable[[bytes], httpx.Response]

STOCK = {
    "id": "label-card",
    "name": "Label card",
    "width_mm": 120,
    "height_mm": 180,
    "face": "card",
    "price": 0.2,
}


def test_a_shop_begins_with_examples_and_makes_them_its_own(api: httpx.Client) -> None:
    shop = api.get("/api/shop").json()
    assert {"a4", "letter", "roll-vinyl"} <= {stock["id"] for stock in shop["stocks"]}
    kept = api.put("/api/shop/stock", json=STOCK).json()
    assert "label-card" in {stock["id"] for stock in kept["stocks"]}
    assert len(kept["stocks"]) == len(shop["stocks"]) + 1
    dearer = api.put("/api/shop/stock", json=STOCK | {"price": 0.3}).json()
    assert [s["price"] for s in dearer["stocks"] if s["id"] == "label-card"] == [0.3]
    left = api.delete("/api/shop/stock/label-card").json()
    assert left["stocks"] == shop["stocks"] or len(left["stocks"]) == len(shop["stocks"])
    assert api.delete("/api/shop/stock/label-card").status_code == 404


def test_the_last_of_a_kind_stays(api: httpx.Client) -> None:
    printers = api.get("/api/shop").json()["printers"]
    for printer in printers[1:]:
        assert api.delete(f"/api/shop/printer/{printer['id']}").status_code == 200
    last = api.delete(f"/api/shop/printer/{printers[0]['id']}")
    assert last.status_code == 409
    for printer in printers:
        api.put("/api/shop/printer", json=printer)


@pytest.mark.parametrize(
    "wrong",
    [
        {"width_mm": 1e9},
        {"width_mm": 0},
        {"height_mm": -5},
        {"face": "gold"},
        {"id": "../etc"},
        {"name": "  "},
        {"price": -1},
        {"colour": "red"},
    ],
)
def test_absurd_stocks_are_refused(api: httpx.Client, wrong: dict) -> None:
    answer = api.put("/api/shop/stock", json=STOCK | wrong)
    assert answer.status_code == 422
    assert answer.json()["detail"]


def test_a_job_keeps_the_numbers_it_was_made_with(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop)
    recipe = job["recipe"]
    recipe["sheet"] |= {"paper": STOCK}
    sheets = api.post("/api/sheets", json=recipe).json()
    assert (sheets["width_mm"], sheets["height_mm"], sheets["stock"]) == (120, 180, "Label card")
    api.put("/api/shop/stock", json=STOCK | {"width_mm": 100})
    assert api.post("/api/sheets", json=recipe).json()["width_mm"] == 120
    api.delete("/api/shop/stock/label-card")


def test_margins_that_leave_nothing_are_a_finding(api: httpx.Client, drop: Drop) -> None:
    recipe = with_lines(api, drop)["recipe"]
    recipe["sheet"] |= {"printer": {"id": "p", "name": "P", "margin_side_mm": 100, "margin_top_mm": 100}}
    answer = api.post("/api/sheets", json=recipe)
    assert answer.status_code == 200
    found = {finding["code"]: finding["severity"] for finding in answer.json()["findings"]}
    assert found["too_large"] == "stop"
    tiny = recipe | {"sheet": {"paper": STOCK | {"width_mm": 25, "height_mm": 25}}}
    sheets = api.post("/api/sheets", json=tiny)
    assert sheets.status_code == 200
    assert sheets.json()["count"] == 0


def test_every_pattern_of_marks_makes_files(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop)
    for pattern in ("four", "three", "frame", "pairs"):
        recipe = job["recipe"]
        recipe["sheet"] |= {
            "plotter": {"id": "p", "name": "P", "marks": {"pattern": pattern, "shape": "cross"}}
        }
        body = {"revision": job["revision"], "recipe": recipe}
        job = api.put(f"/api/jobs/{job['id']}/recipe", json=body).json()
        assert len(job["sheets"]["marks"]) == (3 if pattern == "three" else 4)
        assert api.get(f"/api/jobs/{job['id']}/sheets/1/print.pdf").content.startswith(b"%PDF")
        assert "path" in api.get(f"/api/jobs/{job['id']}/sheets/1/cut.svg").text


def test_costs_and_offers_of_a_plan(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop)
    recipe = job["recipe"]
    recipe["sheet"] |= {"fill": False}
    recipe["designs"][0]["copies"] = 2
    question = {"recipe": recipe, "design": "d1", "orders": {"d1": 100}, "reject_share": 0}
    answer = api.post("/api/sheets/questions", json=question).json()
    plan, order = answer["plan_cost"], answer["order_cost"]
    # The example's A4 costs 0.42 a sheet; ink for fifty times as many costs fifty times as much.
    assert plan["stock"] == pytest.approx(0.42)
    assert order["stock"] == pytest.approx(0.42 * answer["sheets"])
    assert order["ink"] == pytest.approx(50 * plan["ink"])
    assert plan["ink"] > 0
    offers = api.post("/api/sheets/rest", json=recipe).json()
    own = next(offer for offer in offers if offer["design"] == "d1")
    assert own["more"] == len(own["placements"]) > 5
    assert own["recipe"] is None


def test_how_pieces_come_off_is_asked_until_somebody_says(api: httpx.Client, drop: Drop) -> None:
    assert api.get("/api/shop").json()["habit"] is None
    assert api.put("/api/shop/habit", json={"comes_off": "glued"}).status_code == 422
    try:
        assert api.put("/api/shop/habit", json={"comes_off": "edge"}).json()["habit"] == "edge"
        job = api.post("/api/jobs", json={"title": "Habit"}).json()
        sent = api.post(
            f"/api/jobs/{job['id']}/pictures",
            params={"batch": "one"},
            files={"file": ("disc.png", DISC, "image/png")},
        )
        assert sent.json()["state"] == "done"
        (piece,) = api.get(f"/api/jobs/{job['id']}").json()["recipe"]["designs"]
        assert (piece["peel_mm"], piece["lines"]["own"], piece["lines"]["radius_mm"]) == (3.0, "kiss", 0.5)
    finally:
        from perisect.store.models import ShopSetting

        with transaction() as session:
            session.execute(delete(ShopSetting).where(ShopSetting.key == "comes_off"))


def test_money_has_a_sign_and_no_digits(api: httpx.Client) -> None:
    assert api.put("/api/shop/currency", json={"currency": "€"}).json()["currency"] == "€"
    for wrong in ("1", "a b", "dollars", "\x07"):
        assert api.put("/api/shop/currency", json={"currency": wrong}).status_code == 422
    assert api.put("/api/shop/currency", json={"currency": ""}).json()["currency"] == ""


def test_a_plate_of_a_name_that_is_not_taken_any_more_stops_nothing(api: httpx.Client) -> None:
    for what in ("kiss", "white"):
        told = {"name": "Cut\u00a0Line", "cmyk": [0, 1, 0, 0], "width_mm": 0.1, "spread_mm": 0.0}
        with transaction() as session:
            sign_ins.set_setting(session, f"plate.{what}", json.dumps(told))
    try:
        assert api.get("/api/shop").json()["plates"] == {}
        assert put_plate(api, "through", "Cut").json()["plates"].keys() == {"through"}
    finally:
        for what in ("kiss", "white", "through"):
            put_plate(api, what, "")


def test_plates_are_named_once_for_all_jobs_and_read_back_from_the_file(api: httpx.Client, job: dict) -> None:
    url = f"/api/jobs/{job['id']}/sheets/1"
    assert api.get(f"{url}/plates.pdf").status_code == 409
    odd = "Schnitt/A (1) #2 <x> 切"
    try:
        # Two kinds of line that get one name at once: one of them has it.
        with ThreadPoolExecutor(2) as crowd:
            both = list(crowd.map(lambda process: put_plate(api, process, odd), ("kiss", "through")))
        assert sorted(answer.status_code for answer in both) == [200, 422]
        assert put_plate(api, "through", "").status_code == 200
        assert put_plate(api, "kiss", odd).json()["plates"]["kiss"]["name"] == odd
        for name in ("Black", "two\nlines", "\u0000", "x" * 61):
            assert put_plate(api, "through", name).status_code == 422
        assert put_plate(api, "fold", "A").status_code == 404
        assert api.get(f"{url}/plates.pdf").content.startswith(b"%PDF-1.7")
        (found,) = api.get(f"{url}/plates").json()
        (lines,) = (each for each in api.get(f"{url}/lines").json() if each["process"] == "kiss")
        assert (found["name"], found["objects"]) == (odd, lines["count"])
        assert found["length_mm"] == pytest.approx(lines["length_mm"], rel=1e-3)
        assert api.get(f"/api/jobs/{job['id']}/sheets/9/plates").status_code == 404
    finally:
        for process in ("kiss", "through"):
            put_plate(api, process, "")
    white = {"name": "White", "cmyk": [0.2, 0, 0, 0], "spread_mm": -0.2}
    assert api.put("/api/shop/plates/white", json=white).json()["plates"]["white"]["spread_mm"] == -0.2
    (found,) = api.get(f"{url}/plates").json()
    assert (found["name"], found["length_mm"]) == ("White", 0)
    api.put("/api/shop/plates/white", json=white | {"spread_mm": 0})
    assert api.get(f"{url}/plates").json()[0]["area_mm2"] > found["area_mm2"] > 0
    assert api.put("/api/shop/plates/varnish", json=white).status_code == 422  # one name, two plates
    assert api.put("/api/shop/plates/white", json=white | {"spread_mm": 9}).status_code == 422
    assert api.put("/api/shop/plates/glitter", json=white).status_code == 404
    put_plate(api, "white", "")
    assert api.get("/api/shop").json()["plates"] == {}


def put_plate(api: httpx.Client, process: str, name: str) -> httpx.Response:
    return api.put(f"/api/shop/plates/{process}", json={"name": name})


def _plotter(api: httpx.Client, address: str) -> httpx.Response:
    first = api.get("/api/shop").json()["plotters"][0]
    return api.put("/api/shop/plotter", json={**first, "address": address})


def test_an_address_is_checked_when_it_is_saved(api: httpx.Client, monkeypatch: pytest.MonkeyPatch) -> None:
    from perisect.store.settings import settings

    (database,) = settings().own_ports - {settings().port}
    monkeypatch.setattr(settings(), "device_networks", "127.0.0.0/8,::1/128,lp:desk")
    bad = {
        "socket://192.0.2.7:9100": "PERISECT_DEVICE_NETWORKS",
        f"socket://127.0.0.1:{database}": "Perisect's own",
        f"socket://127.9.9.9:{settings().port}": "Perisect's own",
        f"wire://127.0.0.1:4000?tray={database}": "Perisect's own",
        "socket://no.such.host.invalid:9100": "not known",
        "serial:///dev/ttyUSB7": "PERISECT_DEVICE_NETWORKS",
        "http://127.0.0.1": "no address",
    }
    for address, says in bad.items():
        answer = _plotter(api, address)
        assert answer.status_code == 422, address
        assert says in answer.json()["detail"]
        tried = api.post("/api/shop/try-address", json={"kind": "plotter", "address": address})
        assert tried.status_code == 422
    for address in ("lp:other", "ipp://192.0.2.7/x", f"ipp://localhost:{database}/x"):
        assert (
            api.post("/api/shop/try-address", json={"kind": "printer", "address": address}).status_code == 422
        )


def test_an_address_can_be_tried_before_it_is_saved(api: httpx.Client) -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        address = f"socket://127.0.0.1:{server.getsockname()[1]}"
        tried = {"kind": "printer", "address": address}
        assert api.post("/api/shop/try-address", json=tried).json() == {"answers": True, "problem": None}
    gone = api.post("/api/shop/try-address", json=tried).json()
    assert gone["answers"] is False
    assert "Switch the printer on" in gone["problem"]
