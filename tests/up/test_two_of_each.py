"""Two API processes and two workers on one database: what is begun at one is followed and ended at the other."""

import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from tests.api.conftest import DISC, STAR
from tests.up.conftest import Doors, new_job, processes, send, soon


@pytest.fixture(scope="module")
def doors(shop: Path) -> Iterator[Doors]:
    with processes(shop, apis=2, workers=2) as (doors, _):
        yield doors


@pytest.mark.long
def test_a_picture_that_was_sent_is_in_the_job_though_nobody_waits(doors) -> None:
    one, two = doors
    job = new_job(one)
    with httpx.Client(base_url=one.base_url) as page:
        assert send(page, job, "disc.png", DISC, "b1").status_code == 202
    # The page is closed; the other door tells of the piece.
    soon(lambda: len(two.get(f"/api/jobs/{job}").json()["designs"]) == 1)
    assert two.get(f"/api/jobs/{job}").json()["recipe"]["designs"][0]["name"] == "Disc"


@pytest.mark.long
def test_one_bad_file_never_drops_its_batch(doors) -> None:
    one, two = doors
    job = new_job(one)
    files = [("disc.png", DISC), ("bad.png", DISC[:40]), ("star.png", STAR)]
    asked = [send(one, job, name, data, "b2", n).json() for n, (name, data) in enumerate(files)]
    soon(lambda: len(two.get(f"/api/jobs/{job}").json()["designs"]) == 2)
    soon(lambda: two.get(f"/api/operations/{asked[1]['id']}").json()["state"] == "failed")
    now = two.get(f"/api/jobs/{job}").json()
    assert [design["name"] for design in now["recipe"]["designs"]] == ["Disc", "Star"]
    assert now["step"] == 2  # One step for the batch.


@pytest.mark.long
def test_a_nest_begun_at_one_door_is_followed_and_cancelled_at_the_other(doors) -> None:
    one, two = doors
    job = new_job(one)
    send(one, job, "star.png", STAR, "b3")
    soon(lambda: len(one.get(f"/api/jobs/{job}").json()["designs"]) == 1)
    recipe = one.get(f"/api/jobs/{job}").json()["recipe"]
    recipe["sheet"] |= {"method": "nest", "nest_s": 30, "fill": True}
    asked = one.post("/api/sheets/nest", params={"job": job}, json=recipe)
    assert asked.status_code == 202, asked.text
    number = asked.json()["id"]
    # The same question at the other door is the same work.
    assert two.post("/api/sheets/nest", params={"job": job}, json=recipe).json()["id"] == number
    soon(lambda: "left" in (two.get(f"/api/operations/{number}").json()["doing"] or ""))
    began = time.monotonic()
    two.post(f"/api/operations/{number}/stop", params={"how": "drop"})
    soon(lambda: one.get(f"/api/operations/{number}").json()["state"] == "cancelled", 10)
    assert time.monotonic() - began < 10


@pytest.mark.long
def test_eight_starts_at_two_doors_are_one_cut(doors) -> None:
    from concurrent.futures import ThreadPoolExecutor

    one, two = doors
    job = new_job(one)
    send(one, job, "disc.png", DISC, "b4")
    soon(lambda: len(one.get(f"/api/jobs/{job}").json()["designs"]) == 1)
    printed = one.post(f"/api/jobs/{job}/prints", json={"sheet": 1}).json()
    soon(lambda: one.get(f"/api/jobs/{job}").json()["prints"][0]["state"] == "printed")
    with ThreadPoolExecutor(8) as crowd:
        answers = list(
            crowd.map(
                lambda n: (one, two)[n % 2].post(f"/api/prints/{printed['id']}/cuts"),
                range(8),
            )
        )
    codes = sorted(answer.status_code for answer in answers)
    assert codes[0] < 300
    assert codes[1:] == [409] * 7
    soon(lambda: one.get(f"/api/jobs/{job}").json()["runs"][0]["state"] == "done", 90)
    (run,) = two.get(f"/api/jobs/{job}").json()["runs"]
    assert run["lines_done"] == run["lines_total"] > 0
