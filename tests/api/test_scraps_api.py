"""What is left of a sheet after its cut: kept, taken by one job, printed on once, cut."""

from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import httpx
import pytest

from tests.api.test_print_and_cut_api import printed

Work = Callable[[], None]


@pytest.fixture
def cut(api: httpx.Client, work: Work, job: dict) -> dict:
    """A print whose sheet was cut."""
    sheet = printed(api, work, job)
    assert api.post(f"/api/prints/{sheet['id']}/scrap").status_code == 409
    api.post(f"/api/prints/{sheet['id']}/cuts")
    work()
    return sheet


def another(api: httpx.Client, job: dict, **sheet: object) -> dict:
    made = api.post("/api/jobs", json={"title": "Small"}).json()
    recipe = {"designs": job["recipe"]["designs"], "sheet": {"fill": False} | sheet}
    change = {"revision": made["revision"], "recipe": recipe}
    return api.put(f"/api/jobs/{made['id']}/recipe", json=change).json()


def at_once(count: int, ask: Callable[[int], httpx.Response]) -> Counter[int]:
    with ThreadPoolExecutor(count) as pool:
        return Counter(answer.status_code for answer in pool.map(ask, range(count)))


@pytest.mark.long
def test_a_small_job_is_printed_and_cut_on_what_is_left_of_a_sheet(
    api: httpx.Client, work: Work, job: dict, cut: dict
) -> None:
    left = api.get(f"/api/prints/{cut['id']}/left").json()["free_cm2"]
    # Of 198 x 282 mm two discs of 40 mm with their border, four marks and their corners are gone.
    assert 440 < left < 19.8 * 28.2 - 2 * 12.6
    assert at_once(8, lambda _: api.post(f"/api/prints/{cut['id']}/scrap")) == {201: 8}
    (kept,) = (each for each in api.get("/api/scraps").json() if each["of_print"] == cut["id"])
    assert (kept["free_cm2"], kept["stock"], kept["taken_by"]) == (
        pytest.approx(left, rel=0.01),
        "A4 paper, matt",
        None,
    )
    small = another(api, job)
    assert cut["id"] in [each["of_print"] for each in api.get(f"/api/jobs/{small['id']}/scraps").json()]
    taken = api.post(f"/api/jobs/{small['id']}/scraps/{cut['id']}")
    assert taken.json()["taken_by"] == small["id"]
    now = api.get(f"/api/jobs/{small['id']}").json()
    assert now["recipe"]["sheet"]["scrap"]["of_print"] == cut["id"]
    assert not [each for each in now["sheets"]["findings"] if each["severity"] == "stop"]
    orders = at_once(8, lambda _: api.post(f"/api/jobs/{small['id']}/prints", json={"sheet": 1}))
    assert orders == {202: 1, 409: 7}
    work()
    sheet = api.get(f"/api/jobs/{small['id']}").json()["prints"][0]
    assert sheet["state"] == "printed"
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["good"], done["bad"]) == ("done", 2, 0)
    assert done["slip_largest_mm"] <= 0.2
    # That scrap is used; what is left of it now is a smaller one.
    assert cut["id"] not in [each["of_print"] for each in api.get("/api/scraps").json()]
    assert api.post(f"/api/jobs/{small['id']}/prints", json={"sheet": 1}).status_code == 409
    assert api.post(f"/api/prints/{cut['id']}/scrap").status_code == 409
    assert api.get(f"/api/prints/{sheet['id']}/left").json()["free_cm2"] < left - 2 * 12.6


def test_one_of_eight_jobs_gets_a_scrap_and_gives_it_back_by_undo(
    api: httpx.Client, work: Work, job: dict, cut: dict
) -> None:
    api.post(f"/api/prints/{cut['id']}/scrap")
    jobs = [another(api, job) for _ in range(8)]

    def take(n: int) -> httpx.Response:
        return api.post(
            f"/api/jobs/{jobs[n]['id']}/scraps/{cut['id']}", json={"revision": jobs[n]["revision"]}
        )

    assert at_once(8, take) == {200: 1, 409: 7}
    having = {each["of_print"]: each["taken_by"] for each in api.get("/api/scraps").json()}[cut["id"]]
    other = next(each for each in jobs if each["id"] != having)
    assert not api.get(f"/api/jobs/{other['id']}/scraps").json()
    now = api.get(f"/api/jobs/{having}").json()
    api.post(f"/api/jobs/{having}/undo", json={"revision": now["revision"]})
    assert [each["of_print"] for each in api.get(f"/api/jobs/{other['id']}/scraps").json()] == [cut["id"]]
    assert take(jobs.index(other)).status_code == 200
    # Who had it and does it again stands on it once more, and cannot print.
    back = api.get(f"/api/jobs/{having}").json()
    api.post(f"/api/jobs/{having}/redo", json={"revision": back["revision"]})
    refused = api.post(f"/api/jobs/{having}/prints", json={"sheet": 1})
    assert (refused.status_code, refused.json()["title"]) == (409, "This scrap cannot be used.")


@pytest.mark.long
def test_what_does_not_fit_is_refused_and_what_is_thrown_away_is_gone(
    api: httpx.Client, work: Work, job: dict, cut: dict
) -> None:
    api.post(f"/api/prints/{cut['id']}/scrap")
    for sheet in ({"stock": "letter"}, {"fill": True}, {"until_mm": 150}):
        other = another(api, job, **sheet)
        assert not api.get(f"/api/jobs/{other['id']}/scraps").json()
        refused = api.post(f"/api/jobs/{other['id']}/scraps/{cut['id']}")
        assert refused.status_code == 409
    assert api.delete(f"/api/scraps/{cut['id']}").status_code == 200
    assert api.delete(f"/api/scraps/{cut['id']}").status_code == 409
    assert api.delete("/api/scraps/99999999").status_code == 404
    small = another(api, job)
    refused = api.post(f"/api/jobs/{small['id']}/scraps/{cut['id']}")
    assert refused.status_code == 409


@pytest.mark.parametrize(
    ("used", "status"),
    [
        ([], 422),
        ([[[0, 0], [10, 0]]], 422),
        ([[[0, 0], [10, 0], [1e9, 5]]], 422),
        ([[[0, 0], [10, 0], [None, 5]]], 422),
        ([[[n, n % 7] for n in range(401)]], 422),
        ([[[0, 0], [9, 0], [9, 9]]] * 201, 422),
        ([[[20, 20], [90, 90], [90, 20], [20, 90]]], 200),  # it crosses itself
        ([[[-50, -50], [400, -50], [400, 400], [-50, 400]]], 200),  # all of the sheet
        ([[[5, 5], [5, 5], [5, 5]]], 200),  # nothing
    ],
)
def test_a_scrap_that_somebody_made_up_is_planned_or_refused_and_never_printed_on(
    api: httpx.Client, job: dict, used: list, status: int
) -> None:
    scrap = {"of_print": 99_999, "used": used}
    recipe = job["recipe"] | {"sheet": job["recipe"]["sheet"] | {"scrap": scrap}}
    changed = api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": job["revision"], "recipe": recipe})
    assert changed.status_code == status, changed.text
    if status == 200:
        ordered = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1})
        assert ordered.status_code in (404, 409), ordered.text
        assert not api.get(f"/api/jobs/{job['id']}").json()["prints"]


def test_a_scrap_outlives_the_pieces_and_not_the_job_it_came_from(
    api: httpx.Client, work: Work, job: dict, cut: dict
) -> None:
    api.post(f"/api/prints/{cut['id']}/scrap")
    small = another(api, job)
    api.post(f"/api/jobs/{small['id']}/scraps/{cut['id']}")
    now = api.get(f"/api/jobs/{job['id']}").json()
    emptied = now["recipe"] | {"designs": []}
    api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": now["revision"], "recipe": emptied})
    assert cut["id"] in [each["of_print"] for each in api.get("/api/scraps").json()]
    api.post(f"/api/jobs/{job['id']}/archive")
    assert api.delete(f"/api/jobs/{job['id']}").status_code in (200, 204)
    assert cut["id"] not in [each["of_print"] for each in api.get("/api/scraps").json()]
    refused = api.post(f"/api/jobs/{small['id']}/prints", json={"sheet": 1})
    assert refused.status_code == 409
    assert "no longer in the shop's list" in refused.json()["detail"]
