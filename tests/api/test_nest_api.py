"""Nests through the API: searched once, kept, cancelled with the best so far, printed where they stood."""

import time
from collections.abc import Callable

import httpx
import pytest

from tests.api.test_line_sets_api import with_lines

Drop = Callable[[bytes], httpx.Response]


def nested(job: dict, seconds: int, **sheet: object) -> dict:
    recipe = job["recipe"]
    return recipe | {"sheet": recipe["sheet"] | {"method": "nest", "nest_s": seconds, "fill": True} | sheet}


def test_a_nest_waits_until_it_is_searched_and_is_kept(api: httpx.Client, drop: Drop) -> None:
    recipe = nested(with_lines(api, drop), 2)
    assert api.post("/api/sheets", json=recipe).json()["nest_waiting"]
    assert api.post("/api/sheets/nest", json=recipe).json()["state"] == "done"
    found = api.post("/api/sheets", json=recipe).json()
    assert not found["nest_waiting"]
    assert api.post("/api/sheets", json=recipe).json()["sheets"] == found["sheets"]
    other = api.post("/api/sheets", json=nested(with_lines(api, drop), 2, seed=5)).json()
    assert other["nest_waiting"]


def stopped(api: httpx.Client, recipe: dict, how: str) -> dict:
    """A nest that is asked for, seen at work and stopped; the operation once it is over."""
    asked = api.post("/api/sheets/nest", json=recipe, headers={"Prefer": "wait=0"}).json()
    same = api.post("/api/sheets/nest", json=recipe, headers={"Prefer": "wait=0"}).json()
    assert same["id"] == asked["id"]  # of one question there is one search
    deadline = time.monotonic() + 20
    while (
        not api.get(f"/api/operations/{asked['id']}", headers={"Prefer": "wait=0"})
        .json()["doing"]
        .startswith("Nesting, ")
    ):
        assert time.monotonic() < deadline
        time.sleep(0.1)
    time.sleep(1.5)
    begun = time.monotonic()
    api.post(f"/api/operations/{asked['id']}/stop", params={"how": how})
    over = api.get(f"/api/operations/{asked['id']}").json()
    assert time.monotonic() - begun < 10
    return over


def test_who_cancels_a_nest_gets_the_best_so_far(api: httpx.Client, drop: Drop) -> None:
    recipe = nested(with_lines(api, drop), 25, seed=3)
    assert stopped(api, recipe, "best")["state"] == "done"
    found = api.post("/api/sheets", json=recipe).json()
    assert not found["nest_waiting"]
    assert found["count"] > 0


def test_a_nest_cut_short_is_searched_in_full_when_somebody_asks_for_that(
    api: httpx.Client, drop: Drop
) -> None:
    recipe = nested(with_lines(api, drop), 4, seed=11)
    assert stopped(api, recipe, "best")["state"] == "done"

    def now() -> tuple[bool, list, int]:
        found = api.post("/api/sheets", json=recipe).json()
        told = [each["code"] for each in found["findings"] if each["code"] == "nest_cut_short"]
        return found["nest_cut_short"], told, found["count"]

    is_cut_short, told, before = now()
    assert (is_cut_short, told) == (True, ["nest_cut_short"])
    # Whoever only wants a nest, as a window that has not heard of it yet, gets that one.
    begun = time.monotonic()
    assert api.post("/api/sheets/nest", json=recipe).json()["state"] == "done"
    assert time.monotonic() - begun < 3
    assert now() == (True, ["nest_cut_short"], before)
    assert api.post("/api/sheets/nest", json=recipe, params={"in_full": True}).json()["state"] == "done"
    is_cut_short, told, count = now()
    assert (is_cut_short, told) == (False, [])
    assert count >= before


def test_a_printed_nest_stands_where_it_was_printed(api: httpx.Client, drop: Drop, work) -> None:
    job = with_lines(api, drop)
    recipe = nested(job, 2, seed=9)
    url = f"/api/jobs/{job['id']}"
    job = api.put(f"{url}/recipe", json={"revision": job["revision"], "recipe": recipe}).json()
    order = api.post(f"{url}/prints", json={"sheet": 1})
    assert order.status_code == 202
    job = api.get(url).json()
    assert not job["sheets"]["nest_waiting"]
    assert job["prints"][0]["current"]


def test_a_layout_by_hand_names_what_meets(api: httpx.Client, drop: Drop) -> None:
    recipe = with_lines(api, drop)["recipe"]
    stands = [{"design": "d1", "x_mm": 80, "y_mm": 90}, {"design": "d1", "x_mm": 90, "y_mm": 90}]
    recipe["sheet"] |= {"method": "hand", "placements": stands}
    found = api.post("/api/sheets", json=recipe).json()["findings"]
    assert "overlap" in [finding["code"] for finding in found]
    for absurd in ({"x_mm": 1e9}, {"sheet": 60}, {"rotation_deg": 1000}, {"design": ""}):
        recipe["sheet"]["placements"] = [stands[0] | absurd]
        assert api.post("/api/sheets", json=recipe).status_code == 422


@pytest.mark.long
def test_nested_pieces_can_be_larger_than_those_in_rows(api: httpx.Client, drop: Drop) -> None:
    recipe = with_lines(api, drop)["recipe"]
    recipe["designs"] = recipe["designs"][:1]
    question = {"recipe": recipe, "design": recipe["designs"][0]["id"], "up": 6}
    rows = api.post("/api/sheets/questions", json=question).json()["largest_mm"]
    asked = api.post("/api/sheets/nested-size", json=question).json()
    nested_size = api.get(f"/api/sheets/nested-size/{asked['id']}").json()
    assert nested_size["largest_mm"] >= rows
    # What is offered is what is on the sheet: its nest is kept.
    recipe["designs"][0] |= {"longest_mm": nested_size["largest_mm"], "copies": 6}
    recipe["sheet"] = nested_size["sheet"]
    sheets = api.post("/api/sheets", json=recipe).json()
    assert not sheets["nest_waiting"]
    assert (sheets["count"] >= 6, len(sheets["sheets"])) == (True, 1)
    assert api.post("/api/sheets/nested-size", json=question | {"design": "nobody"}).status_code == 404


def test_half_a_search_that_nobody_wants_is_not_kept(api: httpx.Client, drop: Drop) -> None:
    recipe = nested(with_lines(api, drop), 20, seed=11)
    assert stopped(api, recipe, "drop")["state"] == "cancelled"
    assert api.post("/api/sheets", json=recipe).json()["nest_waiting"]
