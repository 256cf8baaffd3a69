"""Line sets through the API: perforation prints, cuts and is measured; odd wishes are refused with a reason."""

from collections.abc import Callable

import httpx
import numpy as np
import pytest

from tests.core import drawings
from tests.core.reading import read_svg

Drop = Callable[[bytes], httpx.Response]
RING = drawings.png(drawings.coverage(drawings.ring(300, 120))[0])


def with_lines(api: httpx.Client, drop: Drop, data: bytes = RING, **design: object) -> dict:
    made = api.post("/api/jobs", json={"title": "Lines"}).json()
    one = {
        "id": "d1",
        "name": "Ring",
        "artwork": drop(data).json()["sha256"],
        "longest_mm": 40,
        "copies": 2,
    } | design
    recipe = {"designs": [one], "sheet": {"fill": False}}
    body = {"revision": made["revision"], "recipe": recipe, "label": "Add"}
    answer = api.put(f"/api/jobs/{made['id']}/recipe", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_pop_out_is_printed_cut_and_measured(
    api: httpx.Client, drop: Drop, work: Callable[[], None]
) -> None:
    job = with_lines(
        api, drop, peel_mm=3, lines={"outer": "perforate", "border_colour": "#0f5c57", "bleed_mm": 1}
    )
    asked = api.post("/api/lines", json=_question(job)).json()
    ties = asked["perforation"]["ties"]
    assert asked["perforation"]["verdict"] == "holds"
    cut = read_svg(api.get(f"/api/jobs/{job['id']}/sheets/1/cut.svg").text)
    assert len(cut["perforate"]) == 2 * ties
    assert len(cut["kiss"]) == 4  # outside and hole of each
    lines = api.get(f"/api/jobs/{job['id']}/sheets/1/lines").json()
    totals = {total["process"]: total for total in lines}
    assert totals["perforate"]["count"] == 2 * ties
    outline = 2 * np.pi * (20 + 2 + 3) * 2
    held = 2 * ties * asked["perforation"]["tie_mm"]
    assert totals["perforate"]["length_mm"] == pytest.approx(outline - held, rel=0.01)
    for kind in ("dxf", "hpgl"):
        assert api.get(f"/api/jobs/{job['id']}/sheets/1/cut.{kind}").status_code == 200
    printed = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    work()
    assert api.get(f"/api/prints/{printed['id']}").json()["state"] == "printed"
    run = api.post(f"/api/prints/{printed['id']}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["good"], done["bad"]) == ("done", 2, 0), done["message"]
    assert done["lines_done"] == done["lines_total"] == 4 + 2 * ties


def test_stickers_cut_through_alone_are_measured_too(
    api: httpx.Client, drop: Drop, work: Callable[[], None]
) -> None:
    job = with_lines(api, drop, lines={"own": "through", "radius_mm": 0.5})
    printed = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    work()
    run = api.post(f"/api/prints/{printed['id']}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["good"]) == ("done", 2), done["message"]


def _question(job: dict, **changes: object) -> dict:
    design = job["recipe"]["designs"][0]
    keys = ("artwork", "mend", "longest_mm", "border_mm", "peel_mm", "lines")
    return {key: design[key] for key in keys} | changes


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"border_mm": -15}, "leaves nothing"),
        ({"border_mm": 10_000}, "border_mm"),
        ({"border_mm": -1e9}, "border_mm"),
        ({"lines": {"radius_mm": 20}}, "as wide as bends"),
        ({"lines": {"tie_mm": 0}}, "tie_mm"),
        ({"lines": {"corner": "wavy"}}, "corner"),
        ({"lines": {"border_colour": "teal"}}, "border_colour"),
        ({"lines": {"tab": {"width_mm": 1e12}}}, "width_mm"),
    ],
)
def test_lines_that_cannot_be_are_refused(api: httpx.Client, drop: Drop, changes: dict, says: str) -> None:
    job = with_lines(api, drop)
    refused = api.post("/api/lines", json=_question(job, **changes))
    assert refused.status_code == 422
    assert says in refused.json()["title"] + refused.json()["detail"]
    body = {"revision": job["revision"], "recipe": job["recipe"], "label": "x"}
    body["recipe"]["designs"][0] |= changes
    assert api.put(f"/api/jobs/{job['id']}/recipe", json=body).status_code == 422
    # What cannot be was not kept: the job opens as it was.
    assert api.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]


def test_a_hole_is_filled_and_a_remedy_of_the_lines_is_a_step(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop, border_mm=0)
    asked = api.post("/api/lines", json=_question(job)).json()
    (hole,) = asked["holes_found"]
    assert hole["across_mm"] == pytest.approx(40 * 240 / 600, abs=0.1)
    filled = api.post("/api/lines", json=_question(job, lines={"holes_filled": [hole["place"]]})).json()
    assert (filled["holes"], filled["holes_found"][0]["filled"]) == (0, True)
    bleed = next(f for f in job["findings"] if f["code"] == "bleed")
    body = {"revision": job["revision"], "remedy": bleed["remedy"], "design": "d1"}
    after = api.post(f"/api/jobs/{job['id']}/remedies", json=body).json()
    assert after["recipe"]["designs"][0]["lines"]["bleed_mm"] == 1.5
    assert after["step"] == job["step"] + 1
