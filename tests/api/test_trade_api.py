"""The shop's trade: the shelf, orders that share sheets, and what the shop uses up."""

import time
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import httpx
import numpy as np
import pypdfium2
import pytest

from tests.api.conftest import STAR
from tests.api.test_print_and_cut_api import Work, printed


@pytest.fixture
def shelf(api: httpx.Client, job: dict, drop) -> dict[str, dict]:
    """A disc and a star on the shelf."""
    star = {"id": "d2", "name": "Star", "artwork": drop(STAR).json()["sha256"], "longest_mm": 30, "copies": 1}
    recipe = job["recipe"] | {"designs": [*job["recipe"]["designs"], star]}
    url = f"/api/jobs/{job['id']}/recipe"
    assert api.put(url, json={"revision": job["revision"], "recipe": recipe}).status_code == 200
    kept = {}
    for design, tag in (("d1", "Round"), ("d2", "pointed")):
        asked = api.post("/api/shelf", json={"job": job["id"], "design": design, "tags": [tag, tag]})
        assert asked.status_code == 201, asked.text
        kept[asked.json()["name"]] = asked.json()
    return kept


def test_a_design_of_the_shelf_goes_into_jobs_at_any_size_and_its_change_is_offered(
    api: httpx.Client, job: dict, shelf: dict
) -> None:
    disc = shelf["Disc"]
    assert (disc["tags"], disc["version"], disc["longest_mm"]) == (["round"], 1, 40)
    assert [each["id"] for each in api.get("/api/shelf", params={"named": "round dis"}).json()].count(
        disc["id"]
    )
    sizes = [{"item": disc["id"]}, {"item": disc["id"], "longest_mm": 25, "copies": 3}]
    new = api.post("/api/shelf/take", json={"take": sizes, "title": "Two sizes"}).json()["job"]
    made = api.get(f"/api/jobs/{new}").json()
    assert [(d["longest_mm"], d["border_mm"], d["copies"]) for d in made["recipe"]["designs"]] == [
        (40, 2, 1),
        (25, 2, 3),
    ]
    # The job that it came from changes it and puts it back: a second version, offered and not forced.
    there = api.get(f"/api/jobs/{job['id']}").json()
    recipe = there["recipe"]
    recipe["designs"][0]["border_mm"] = 3
    api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": there["revision"], "recipe": recipe})
    again = api.post("/api/shelf", json={"job": job["id"], "design": "d1"}).json()
    assert (again["id"], again["version"], again["border_mm"]) == (disc["id"], 2, 3)
    offers = api.get(f"/api/jobs/{new}/shelf").json()
    assert [(each["design"], each["newest"]) for each in offers] == [("d1", 2), ("d2", 2)]
    assert api.get(f"/api/jobs/{new}").json()["recipe"]["designs"][0]["border_mm"] == 2
    assert api.post(f"/api/jobs/{new}/shelf/d2").status_code == 200
    small = api.get(f"/api/jobs/{new}").json()["recipe"]["designs"][1]
    assert (small["border_mm"], small["longest_mm"], small["copies"]) == (3, 25, 3)
    assert [each["design"] for each in api.get(f"/api/jobs/{new}/shelf").json()] == ["d1"]
    into = api.post("/api/shelf/take", json={"take": [{"item": shelf["Star"]["id"]}], "job": new}).json()[
        "job"
    ]
    assert into == new
    assert api.get(f"/api/jobs/{new}").json()["recipe"]["designs"][2]["id"] == "d3"
    renamed = {"version": 2, "name": "Round thing", "tags": []}
    url = f"/api/shelf/{disc['id']}"
    assert [api.put(url, json=renamed).status_code for _ in range(2)] == [200, 409]
    assert api.post("/api/shelf", json={"job": job["id"], "design": "d9"}).status_code == 404
    assert api.post("/api/shelf/take", json={"take": [{"item": 999999}]}).status_code == 404


def wanted(who: str, *lines: tuple[dict, int], due: str | None = None) -> dict:
    return {
        "who": who,
        "address": "Landing stage 3\nReedwater",
        "due_at": due,
        "price": 12.5,
        "lines": [{"item": item["id"], "quantity": many} for item, many in lines],
    }


@pytest.mark.long
def test_two_orders_share_a_sheet_are_told_apart_and_a_bad_sticker_is_made_again(
    api: httpx.Client, work: Work, shelf: dict
) -> None:
    late = api.post(
        "/api/orders", json=wanted("Mill tearoom", (shelf["Disc"], 3), due="2027-03-09T12:00:00Z")
    )
    soon = api.post(
        "/api/orders",
        json=wanted("Ferry office", (shelf["Disc"], 2), (shelf["Star"], 1), due="2027-03-05T12:00:00Z"),
    )
    ids = [late.json()["id"], soon.json()["id"]]
    with ThreadPoolExecutor(8) as crowd:
        asked = list(crowd.map(lambda _: api.post("/api/orders/jobs", json={"orders": ids}), range(8)))
    assert sorted(each.status_code for each in asked) == [201] + [409] * 7
    (number,) = next(each.json()["jobs"] for each in asked if each.status_code == 201)
    job = api.get(f"/api/jobs/{number}").json()
    copies = {d["name"]: d["copies"] for d in job["recipe"]["designs"]}
    # Five discs and a star are wanted, and spares by the usual rejects.
    assert copies["Disc"] >= 5
    assert copies["Star"] >= 1
    assert job["recipe"]["order"]
    assert sorted(line["wanted"] for line in job["order"]) == [1, 5]
    (row,) = api.get("/api/jobs", params={"named": str(number)}).json()
    assert row["due_at"].startswith("2027-03-05")
    assert set(row["orders"]) == {"Mill tearoom", "Ferry office"}
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    disc = next(d["id"] for d in job["recipe"]["designs"] if d["name"] == "Disc")
    discs = [n for n, each in enumerate(done["stickers"]) if each["design"] == disc]
    # All but four discs are bad: the order that is due first gets its two, the other one two of three.
    bad = {str(n): "slipped" for n in discs[4:]} | ({str(discs[0]): "lost"} if len(discs) > 5 else {})
    counted = api.put(f"/api/runs/{run['id']}/count", json={"version": 0, "count": {"bad": bad}})
    assert counted.status_code == 200, counted.text
    good = len(discs) - len(bad)
    whose = api.get(f"/api/jobs/{number}/whose").json()
    given = whose["sheets"][0]["orders"]
    assert given.count(ids[1]) == 2 + 1
    assert given.count(ids[0]) == good - 2
    first, second = (api.get(f"/api/orders/{each}").json() for each in ids)
    assert (second["complete"], first["complete"]) == (True, False)
    assert first["lines"][0]["good"] == good - 2
    # What lacks is planned once, however often it is asked for.
    with ThreadPoolExecutor(6) as crowd:
        asked = list(crowd.map(lambda _: api.post(f"/api/jobs/{number}/more"), range(6)))
    assert sorted(each.status_code for each in asked) == [201] + [409] * 5
    more = next(each.json() for each in asked if each.status_code == 201)
    assert [d["copies"] for d in more["recipe"]["designs"]] == [5 - good]
    sheet = printed(api, work, more)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    assert api.put(f"/api/runs/{run['id']}/count", json={"version": 0, "count": {}}).status_code == 200
    first = api.get(f"/api/orders/{ids[0]}").json()
    assert first["complete"]
    assert inked_rows(api.get(f"/api/orders/{ids[0]}/packing.pdf").content, 105, 112) > 5
    labels = api.get("/api/orders-addresses.pdf", params={"order": ids}).content
    # Three lines each in the first of eight rows, nothing in the second.
    assert inked_rows(labels, 2, 30) > 20
    assert inked_rows(labels, 40, 70) == 0
    closed = api.put(f"/api/orders/{ids[0]}/state", json={"version": first["version"], "state": "sent"})
    assert closed.json()["state"] == "sent"
    assert api.put(f"/api/orders/{ids[0]}/state", json={"version": 1, "state": "open"}).status_code == 409
    assert api.delete(f"/api/shelf/{shelf['Disc']['id']}").status_code == 409  # orders name it


def inked_rows(pdf: bytes, top_mm: float, bottom_mm: float) -> int:
    """How many rows of pixels between two heights of the page hold letters."""
    page = np.asarray(pypdfium2.PdfDocument(pdf)[0].render(scale=2, grayscale=True).to_numpy())
    per_mm = page.shape[0] / 297
    part = page[int(top_mm * per_mm) : int(bottom_mm * per_mm), : int(60 * per_mm)]
    return int((part.min(axis=1) < 100).sum())


def test_orders_that_cannot_be_are_refused_and_a_long_one_becomes_several_jobs(
    api: httpx.Client, shelf: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    # What other tests have had rejected is not this one's.
    monkeypatch.setattr("perisect.services.orders.reject_share", lambda session: 0.03)
    disc = shelf["Disc"]
    for wrong in (
        wanted("", (disc, 1)),
        wanted("Mill", (disc, 0)),
        wanted("Mill", (disc, 1_000_000)),
        wanted("Mill", (disc, 15_000), (disc, 15_000)),
        wanted("Mill") | {"lines": []},
        wanted("Mill", (disc, 1)) | {"price": -1},
    ):
        assert api.post("/api/orders", json=wrong).status_code == 422, wrong
    assert api.post("/api/orders", json=wanted("Mill", ({"id": 999999}, 1))).status_code == 404
    assert api.get("/api/orders/999999").status_code == 404
    long = api.post("/api/orders", json=wanted("Mill", (disc, 4000))).json()
    made = api.post("/api/orders/jobs", json={"orders": [long["id"]]}).json()["jobs"]
    copies = [
        design["copies"]
        for number in made
        for design in api.get(f"/api/jobs/{number}").json()["recipe"]["designs"]
    ]
    # A job takes 2,000 of a piece; spares for 3 % rejects make three of four thousand.
    assert len(made) == 3
    assert max(copies) <= 2000
    assert 4000 / 0.97 <= sum(copies) < 4000 * 1.1
    now = api.get(f"/api/orders/{long['id']}").json()
    assert [line["quantity"] for line in now["lines"]] == [4000]
    changed = wanted("Mill", (disc, 4100)) | {"version": long["version"]}
    assert api.put(f"/api/orders/{long['id']}", json=changed).json()["lines"][0]["quantity"] == 4100


def item(api: httpx.Client, name: str) -> dict:
    return next(each for each in api.get("/api/stockroom").json() if each["item"] == name)


def moved(what: str, quantity: float, name: str = "stock:a4", key: str | None = None) -> dict:
    return {"item": name, "what": what, "quantity": quantity, "key": key or str(uuid4())}


@pytest.mark.long
def test_stock_ink_and_blade_count_down_by_themselves(api: httpx.Client, work: Work, job: dict) -> None:
    assert api.post("/api/stockroom/moves", json=moved("count", 80)).status_code == 201
    fitted = api.post("/api/stockroom/moves", json=moved("fitted", 120, "blade:desk"))
    assert fitted.status_code == 201
    ink, waste = item(api, "ink:desk")["used"], item(api, "stock:a4")["waste"]
    sheet = printed(api, work, job)
    assert item(api, "stock:a4")["level"] == 79
    # Two discs of 40 mm in one colour: some hundredths of a ml, and never more than full ink on their squares.
    assert 0 < item(api, "ink:desk")["used"] - ink < 2 * 0.04**2 * 14
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["state"] == "done"
    # Two circles of 44 mm across: 0.276 m, a little more with overcut.
    assert item(api, "blade:desk")["level"] == pytest.approx(120 - 0.276, abs=0.01)
    assert item(api, "blade:desk")["cut_in"]["a4"] == pytest.approx(0.276, abs=0.01)
    assert api.post(f"/api/prints/{sheet['id']}/spoiled", json={"why": "poor print"}).status_code == 200
    stock = item(api, "stock:a4")
    assert (stock["level"], stock["waste"]) == (79, waste + 1)
    told = [
        each["why"] for each in api.get("/api/stockroom/moves", params={"item": "stock:a4", "most": 2}).json()
    ]
    assert told == [f"Print {sheet['id']}: You said: poor print.", f"Print {sheet['id']}, sheet 1"]
    shop = api.get("/api/shop").json()
    assert next(each["left"] for each in shop["stocks"] if each["id"] == "a4") == 79


def test_film_over_a_print_is_counted_once_whoever_says_it(api: httpx.Client, work: Work, job: dict) -> None:
    assert api.post("/api/stockroom/moves", json=moved("count", 20, "film:film")).status_code == 201
    waiting = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    early = api.put(f"/api/prints/{waiting['id']}/film", json={"laminated": True})
    assert early.status_code == 409
    work()
    url = f"/api/prints/{waiting['id']}/film"
    view = api.get(url).json()
    assert (view["laminated"], view["dry_at"] > waiting["created_at"]) == (False, True)
    length_m = view["film_mm"][1] / 1000
    assert 0.2 < length_m < 0.297
    with ThreadPoolExecutor(8) as crowd:
        answers = list(crowd.map(lambda _: api.put(url, json={"laminated": True}), range(8)))
    assert [each.status_code for each in answers] == [200] * 8
    assert item(api, "film:film")["level"] == pytest.approx(20 - length_m, abs=0.001)
    for laminated, left in ((False, 20), (False, 20), (True, 20 - length_m)):
        assert api.put(url, json={"laminated": laminated}).json()["laminated"] is laminated
        assert item(api, "film:film")["level"] == pytest.approx(left, abs=0.001)
    assert api.get("/api/prints/999999/film").status_code == 404


def test_what_is_sent_twice_is_entered_once_and_a_crowd_is_counted_right(api: httpx.Client) -> None:
    api.post("/api/stockroom/moves", json=moved("count", 100, "stock:a4-kraft"))
    key = str(uuid4())
    with ThreadPoolExecutor(8) as crowd:
        same = [moved("delivery", 50, "stock:a4-kraft", key)] * 8
        others = [moved("delivery", 1, "stock:a4-kraft") for _ in range(8)]
        asked = list(crowd.map(lambda each: api.post("/api/stockroom/moves", json=each), same + others))
    assert {each.status_code for each in asked} == {201}
    assert item(api, "stock:a4-kraft")["level"] == 158
    with ThreadPoolExecutor(8) as crowd:
        list(
            crowd.map(
                lambda n: api.post("/api/stockroom/moves", json=moved("count", n, "stock:a4-kraft")), range(8)
            )
        )
    assert item(api, "stock:a4-kraft")["level"] in range(8)
    for wrong in (
        moved("delivery", -5),
        moved("delivery", 0),
        moved("delivery", 1e9),
        moved("fitted", 5),
        moved("gift", 5),
        moved("delivery", 5, "stock:../x"),
    ):
        assert api.post("/api/stockroom/moves", json=wrong).status_code == 422, wrong
    assert api.post("/api/stockroom/moves", json=moved("delivery", 5, "stock:nowhere")).status_code == 404
    settings = {"delivery_days": 3, "pack": 100, "chance": 0.02}
    assert api.put("/api/stockroom/items/stock:a4-kraft", json=settings).status_code == 200
    assert item(api, "stock:a4-kraft")["settings"] == settings


def test_the_list_is_searched_sorted_and_put_away_and_a_job_deleted_for_good(
    api: httpx.Client, work: Work, job: dict
) -> None:
    number, word = job["id"], f"Lantern{time.time_ns()}"
    made = [api.post("/api/jobs", json={"title": f"{word} {n}"}).json()["id"] for n in "cab"]
    found = api.get("/api/jobs", params={"named": word, "sort": "title"}).json()
    assert [each["id"] for each in found] == [made[1], made[2], made[0]]
    assert api.get("/api/jobs/count", params={"named": word}).json() == 3
    assert {each["stage"] for each in found} == {"empty"}
    api.put(f"/api/jobs/{made[2]}/due", json={"due_at": "2027-01-01T09:00:00+01:00"})
    due = api.get("/api/jobs", params={"named": word, "sort": "due"}).json()
    assert due[0]["id"] == made[2]
    assert (
        api.get("/api/jobs", params={"named": word, "sort": "number", "skip": 1}).json()[0]["id"] == made[1]
    )
    assert api.put(f"/api/jobs/{made[0]}/archived", json={"archived": True}).json()["archived_at"]
    assert api.get("/api/jobs/count", params={"named": word}).json() == 2
    assert api.get("/api/jobs/count", params={"named": word, "which": "archived"}).json() == 1
    assert api.put(f"/api/jobs/{made[0]}/archived", json={"archived": False}).json()["archived_at"] is None
    (mine,) = api.get("/api/jobs", params={"named": str(number)}).json()
    assert (mine["stage"], len(mine["pictures"])) == ("to print", 1)
    sheet = printed(api, work, job)
    assert api.get("/api/jobs", params={"named": str(number), "stage": "to cut"}).json()[0]["id"] == number
    copy = api.post(f"/api/jobs/{number}/copy").json()
    assert (copy["title"], copy["printed"], copy["designs"]) == ("Test, a copy", 0, 1)
    api.post(f"/api/prints/{sheet['id']}/cuts")
    assert api.delete(f"/api/jobs/{number}").status_code == 409  # it waits for the plotter
    work()
    goes = api.get(f"/api/jobs/{number}/goes").json()
    assert (goes["steps"], goes["prints"], goes["runs"], goes["busy"]) == (2, 1, 1, False)
    assert api.delete(f"/api/jobs/{number}").status_code == 204
    assert [api.get(f"/api/{url}").status_code for url in (f"jobs/{number}", f"prints/{sheet['id']}")] == [
        404,
        404,
    ]
    assert api.delete(f"/api/jobs/{number}").status_code == 404
    assert api.put("/api/jobs/999999/archived", json={"archived": True}).status_code == 404
