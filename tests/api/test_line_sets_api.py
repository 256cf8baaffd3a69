"""Line sets through the API: perforation prints, cuts and is measured; odd wishes are refused with a reason."""

from collections.abc import Callable

import httpx
import numpy as np
import pytest

from tests.api.conftest import DISC
from tests.core import drawings
from tests.core.reading import points_of, read_svg

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


@pytest.mark.long
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


def test_lines_that_move_are_those_that_are_kept_but_for_their_curves(api: httpx.Client, drop: Drop) -> None:
    artwork = drop(DISC).json()["sha256"]
    question = {"artwork": artwork, "longest_mm": 40, "border_mm": 2.35, "peel_mm": 3}
    kept = api.post("/api/lines", json=question).json()
    moving = api.post("/api/lines/moving", json=question).json()
    assert moving["outer_box_mm"] == pytest.approx(kept["outer_box_mm"], abs=0.05)
    assert set(moving["paths"]) == set(kept["paths"]) == {"kiss", "through"}
    for process, radius in (("kiss", 22.35), ("through", 25.35)):
        ring = points_of(moving["paths"][process]) - 20
        assert np.abs(np.hypot(*ring.T) - radius).max() < 0.05
    assert "findings" not in moving


def test_pieces_of_a_card_grow_alike_until_it_is_full(api: httpx.Client, drop: Drop) -> None:
    artwork = drop(DISC).json()["sha256"]
    designs = [
        {"id": f"d{n}", "name": f"Disc {n}", "artwork": artwork, "longest_mm": mm, "border_mm": 1.0}
        for n, mm in ((1, 20.0), (2, 10.0))
    ]
    card = {"width_mm": 100, "height_mm": 60, "margin_mm": 5}
    recipe = {"designs": designs, "sheet": {"card": card, "gap_mm": 2}}
    grown = api.post("/api/sheets/grown", json=recipe).json()
    assert grown["d1"] == pytest.approx(2 * grown["d2"], abs=0.3)
    # A card has 90 x 50 mm for them: 48 for the larger one with its doubled border, or 90 for both in a row.
    assert 40 < grown["d1"] <= 48
    larger = [design | {"longest_mm": grown[design["id"]]} for design in designs]
    sheets = api.post("/api/sheets", json=recipe | {"designs": larger}).json()
    assert not [each for each in sheets["findings"] if each["code"] == "card_full"]
    assert api.post("/api/sheets/grown", json={"designs": designs}).status_code == 422
