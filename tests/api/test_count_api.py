"""Counting a cut sheet, by one person and by several, and the job for what lacks."""

from concurrent.futures import ThreadPoolExecutor

import httpx
import pytest

from tests.api.test_print_and_cut_api import Work, printed


def test_a_sheet_is_counted_once_and_what_lacks_becomes_a_job(
    api: httpx.Client, work: Work, job: dict
) -> None:
    (line,) = job["order"]
    assert (line["wanted"], line["to_cut"], line["more"]) == (2, 2, 0)
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    url = f"/api/runs/{run['id']}/count"
    assert api.put(url, json={"version": 0, "count": {}}).status_code == 409  # not cut yet
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert [each["design"] for each in done["stickers"]] == ["d1", "d1"]
    left, top, right, bottom = done["stickers"][0]["box"]
    assert (right - left, bottom - top) == pytest.approx(
        (44.0, 44.0), abs=0.05
    )  # a disc of 40 with a border of 2
    (line,) = api.get(f"/api/jobs/{job['id']}").json()["order"]
    assert (line["uncounted"], line["to_cut"], line["more"]) == (2, 0, 0)
    assert api.post(f"/api/jobs/{job['id']}/more").status_code == 409
    with ThreadPoolExecutor(8) as crowd:
        asked = list(
            crowd.map(
                lambda n: api.put(url, json={"version": 0, "count": {"bad": {n % 2: "slipped"}}}), range(8)
            )
        )
    assert sorted(each.status_code for each in asked) == [200] + [409] * 7
    kept = next(each.json() for each in asked if each.status_code == 200)
    assert (kept["counted_good"], kept["counted_bad"], kept["count_version"]) == (1, 1, 1)
    for wrong in (
        {"bad": {"7": "lost"}},
        {"bad": {"0": "bored"}},
        {"numbers": {"d1": {"good": 3}}},
        {"bad": {"-1": "lost"}},
    ):
        assert api.put(url, json={"version": 1, "count": wrong}).status_code == 422, wrong
    (line,) = api.get(f"/api/jobs/{job['id']}").json()["order"]
    assert (line["good"], line["bad"], line["more"]) == (1, 1, 1)
    more = api.post(f"/api/jobs/{job['id']}/more").json()
    assert more["title"] == "Test, what lacks"
    assert [each["copies"] for each in more["recipe"]["designs"]] == [1]
    assert more["sheets"]["count"] == 1
    # All good after all: nothing lacks.
    good = api.put(url, json={"version": 1, "count": {}}).json()
    assert (good["counted_good"], good["count"]["bad"]) == (2, {})
    assert api.get(f"/api/jobs/{job['id']}").json()["order"][0]["more"] == 0
    assert api.put("/api/runs/999999/count", json={"version": 0, "count": {}}).status_code == 404
