"""What can be taken back, and what cannot; orders that are sent for less than all."""

from collections.abc import Callable

import httpx

from tests.api.test_print_and_cut_api import printed

Work = Callable[[], None]


def level(api: httpx.Client) -> dict[str, float]:
    (found,) = (each for each in api.get("/api/stockroom").json() if each["item"] == "stock:a4")
    return {place: found[place] for place in ("shelf", "used", "waste") if place in found} or found


def test_a_spoiled_sheet_is_taken_back_as_long_as_nothing_followed(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    path, before = f"/api/prints/{sheet['id']}", level(api)
    for _ in range(2):
        assert api.post(f"{path}/spoiled", json={"why": "poor print"}).json()["state"] == "spoiled"
        assert api.post(f"{path}/not-spoiled").json()["state"] == "printed"
        assert level(api) == before
    assert api.post(f"{path}/spoiled", json={"why": "poor print"}).json()["state"] == "spoiled"
    printed(api, work, job)
    assert api.post(f"{path}/not-spoiled").status_code == 409
    assert api.get(path).json()["state"] == "spoiled"


def test_a_name_a_licence_or_a_price_leaves_a_printed_sheet_current(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    path = f"/api/jobs/{job['id']}"

    def change(design: dict, on_sheet: dict, **more: object) -> bool:
        now = api.get(path).json()
        recipe = {
            **now["recipe"],
            "designs": [{**now["recipe"]["designs"][0], **design}],
            "sheet": {**now["recipe"]["sheet"], **on_sheet},
            **more,
        }
        body = {"revision": now["revision"], "recipe": recipe, "label": "Change"}
        return bool(api.put(f"{path}/recipe", json=body).json()["prints"][0]["current"])

    rights = {"source": "own", "licence": "ours", "may_be_sold": "yes"}
    (paper,) = (each for each in api.get("/api/shop").json()["stocks"] if each["id"] == "a4")
    del paper["left"]
    assert change({"name": "Another name", "rights": rights, "kind": "line"}, {}, order=True)
    assert change({}, {"paper": paper})
    assert change({}, {"paper": {**paper, "price": 9.5, "name": "Dearer"}})
    # Nothing is left to print, so nothing is printed again.
    assert api.post(f"{path}/prints/rest").json() == []
    assert not change({"border_mm": 4.5}, {})
    assert api.get(f"/api/prints/{sheet['id']}").json()["current"] is False


def test_a_count_is_taken_back_as_if_nobody_had_counted(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    path = f"/api/runs/{run['id']}"
    counted = api.put(f"{path}/count", json={"version": 0, "count": {"bad": {"0": "slipped"}}}).json()
    assert (counted["counted_good"], counted["counted_bad"]) == (1, 1)
    back = api.put(f"{path}/count", json={"version": counted["count_version"], "count": None}).json()
    assert (back["count"], back["counted_good"]) == (None, None)
    stale = api.put(f"{path}/count", json={"version": counted["count_version"], "count": None})
    assert stale.status_code == 409


def test_undo_and_redo_say_what_they_walk(api: httpx.Client, job: dict) -> None:
    path = f"/api/jobs/{job['id']}"
    recipe = {**job["recipe"], "designs": [{**job["recipe"]["designs"][0], "border_mm": 3.0}]}
    body = {"revision": job["revision"], "recipe": recipe, "label": "Border 3 mm"}
    changed = api.put(f"{path}/recipe", json=body).json()
    assert (changed["step_label"], changed["redo_label"]) == ("Border 3 mm", None)
    undone = api.post(f"{path}/undo", json={"revision": changed["revision"]}).json()
    assert undone["redo_label"] == "Border 3 mm"


def order_of_twelve(api: httpx.Client, work: Work, job: dict) -> tuple[dict, dict]:
    """An order of twelve whose job made two good ones."""
    design = job["recipe"]["designs"][0]["id"]
    item = api.post("/api/shelf", json={"job": job["id"], "design": design}).json()
    line = {"item": item["id"], "longest_mm": 40, "quantity": 12}
    order = api.post("/api/orders", json={"who": "Mill", "lines": [line]}).json()
    (made,) = api.post("/api/orders/jobs", json={"orders": [order["id"]]}).json()["jobs"]
    sheet = printed(api, work, api.get(f"/api/jobs/{made}").json())
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    stickers = api.get(f"/api/runs/{run['id']}").json()["stickers"]
    bad = {str(n): "slipped" for n in range(2, len(stickers))}
    api.put(f"/api/runs/{run['id']}/count", json={"version": 0, "count": {"bad": bad}})
    return api.get(f"/api/orders/{order['id']}").json(), api.get(f"/api/jobs/{made}").json()


def test_a_cancelled_order_shows_what_was_made_for_it(api: httpx.Client, work: Work, job: dict) -> None:
    order, _ = order_of_twelve(api, work, job)
    assert [(line["good"], line["quantity"]) for line in order["lines"]] == [(2, 12)]
    path = f"/api/orders/{order['id']}/state"
    gone = api.put(path, json={"version": order["version"], "state": "cancelled"}).json()
    assert [(line["good"], line["quantity"]) for line in gone["lines"]] == [(2, 12)]
    assert gone["complete"] is False


def test_an_order_is_sent_for_less_than_all_when_somebody_says_what_becomes_of_the_rest(
    api: httpx.Client, work: Work, job: dict
) -> None:
    order, made = order_of_twelve(api, work, job)
    path = f"/api/orders/{order['id']}/state"
    asked = api.put(path, json={"version": order["version"], "state": "sent"})
    assert asked.status_code == 409
    assert "10 of this order are missing" in asked.json()["title"]
    assert api.get(f"/api/orders/{order['id']}").json()["state"] == "open"
    sent = api.put(path, json={"version": order["version"], "state": "sent", "rest": "open"}).json()
    assert (sent["state"], sent["complete"]) == ("sent", True)
    assert [line["quantity"] for line in sent["lines"]] == [2]
    assert "Sent 2 of 12; the rest is order" in sent["note"]
    rest = next(
        each for each in api.get("/api/orders?state=open").json() if each["note"].endswith(str(order["id"]))
    )
    # It is made in the same job, which still lacks just as many.
    assert [(line["good"], line["quantity"], line["job"]) for line in rest["lines"]] == [(0, 10, made["id"])]


def test_the_rest_of_an_order_may_be_cancelled(api: httpx.Client, work: Work, job: dict) -> None:
    order, _ = order_of_twelve(api, work, job)
    closing = {"version": order["version"], "state": "sent", "rest": "cancel"}
    sent = api.put(f"/api/orders/{order['id']}/state", json=closing).json()
    assert [(line["good"], line["quantity"]) for line in sent["lines"]] == [(2, 2)]
    assert "the rest is cancelled" in sent["note"]
