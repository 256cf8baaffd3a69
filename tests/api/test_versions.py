"""Of eight who change a record at once one wins, and the others are shown both versions."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import pytest

Change = tuple[str, str, Callable[[int], Any]]


def hours(client: httpx.Client) -> Change:
    now = client.get("/api/day/hours")
    return "/api/day/hours", now.headers["etag"], lambda n: {**now.json(), "hands": 1 + n}


def rates(client: httpx.Client) -> Change:
    now = client.get("/api/shop/rates")
    field = next(name for name, value in now.json().items() if isinstance(value, int | float))
    return "/api/shop/rates", now.headers["etag"], lambda n: {**now.json(), field: 2 + n}


def shop_name(client: httpx.Client) -> Change:
    return (
        "/api/shop/name",
        client.get("/api/shop").json()["versions"]["name"],
        lambda n: {"name": f"Kiosk {n}"},
    )


def equipment(kind: str) -> Callable[[httpx.Client], Change]:
    def change(client: httpx.Client) -> Change:
        shop = client.get("/api/shop").json()
        first = shop[f"{kind}s"][0]
        return (
            f"/api/shop/{kind}",
            shop["versions"][f"{kind}:{first['id']}"],
            lambda n: {**first, "name": f"{kind} of writer {n}"},
        )

    return change


def card(client: httpx.Client) -> Change:
    job = client.post("/api/jobs", json={"title": "Card"}).json()["id"]
    now = client.get(f"/api/jobs/{job}/card").json()
    return f"/api/jobs/{job}/card", now["version"], lambda n: {**now["card"], "dry_min": 20 + n}


def entry(client: httpx.Client) -> Change:
    key = {"stock": "a4", "process": "kiss", "plotter": "versions", "blade": ""}
    setting = {"force": 10, "speed_cm_s": 10, "passes": 1}
    kept = client.put("/api/shop/book", json={"key": key, "setting": setting}).json()
    (version,) = (each["version"] for each in kept if each["key"]["plotter"] == "versions")
    return "/api/shop/book", version, lambda n: {"key": key, "setting": {**setting, "force": 20 + n}}


RECORDS = {
    "hours": hours,
    "rates": rates,
    "name": shop_name,
    "stock": equipment("stock"),
    "printer": equipment("printer"),
    "plotter": equipment("plotter"),
    "card": card,
    "book": entry,
}


@pytest.mark.parametrize("record", RECORDS)
def test_of_eight_writers_one_wins(record: str, api: httpx.Client) -> None:
    path, version, body = RECORDS[record](api)

    def write(n: int) -> httpx.Response:
        return api.put(path, json=body(n), headers={"If-Match": f'"{version.strip(chr(34))}"'})

    with ThreadPoolExecutor(8) as crowd:
        answers = list(crowd.map(write, range(8)))
    assert sorted(each.status_code for each in answers) == [200] + [409] * 7
    won = next(n for n, each in enumerate(answers) if each.status_code == 200)
    for each in answers:
        if each.status_code == 409:
            told = each.json()
            assert "both versions" in told["detail"]
            # What holds now is what the winner wrote, and from its version one goes on.
            marks = {"hours": 1 + won, "rates": 2 + won, "book": 20 + won, "card": 20 + won}
            assert str(marks.get(record, won)) in str(told["changed"]["value"])
            assert told["changed"]["version"] != version
    again = api.put(path, json=body(9), headers={"If-Match": f'"{told["changed"]["version"]}"'})
    assert again.status_code == 200
    # Who names no version replaces whatever is there, as programs of before did.
    assert api.put(path, json=body(3)).status_code == 200
