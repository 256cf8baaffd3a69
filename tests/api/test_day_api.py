"""The day of the shop: what to do now, a plan by machine, costs, figures, and the shop as one file."""

import io
import json
import zipfile
from datetime import UTC, datetime, timedelta

import httpx
import pytest

from tests.api.conftest import STAR
from tests.api.test_print_and_cut_api import Work, printed
from tests.core.reading import read_svg

ALWAYS = {"days": [[0, 1440]] * 7, "hands": 2, "setup_min": 0, "load_min": 1.5}


@pytest.fixture(autouse=True)
def _others_are_put_away(api: httpx.Client, job: dict) -> None:
    """Of the jobs of other tests none is to do."""
    from sqlalchemy import text

    from perisect.store.database import transaction

    with transaction() as session:
        session.execute(text("UPDATE job SET archived_at = now() WHERE id <> :mine"), {"mine": job["id"]})
        session.execute(text("DELETE FROM day_plan"))
        session.execute(text("DELETE FROM job_pin"))


def planned(api: httpx.Client) -> dict:
    asked = api.post("/api/day/plan")
    assert asked.json()["state"] == "done", asked.text
    return api.get("/api/day").json()


@pytest.mark.long
def test_what_is_due_is_planned_and_each_step_is_the_thing_to_do_in_its_turn(
    api: httpx.Client, work: Work, job: dict
) -> None:
    assert api.put("/api/day/hours", json=ALWAYS).status_code == 200
    assert api.get("/api/day").json()["now"]["title"] == "Nothing is due"
    due = datetime.now(UTC) + timedelta(hours=5)
    api.put(f"/api/jobs/{job['id']}/due", json={"due_at": due.isoformat()})
    day = api.get("/api/day").json()
    assert (day["fresh"], day["to_do"]) == (False, 1)
    assert day["now"]["title"] == "Print 1 sheet at the desk printer"
    day = planned(api)
    assert (day["fresh"], day["late"], day["problem"]) == (True, [], "")
    steps = {each["step"]: each for each in day["steps"]}
    assert [each["step"] for each in day["steps"]] == ["print", "cut", "finish"]
    assert steps["print"]["lane"] == "printer desk"
    ends, begins = (datetime.fromisoformat(t) for t in (steps["print"]["end_at"], steps["cut"]["start_at"]))
    assert begins - ends >= timedelta(minutes=15)  # the card of a printer that nobody has set says so
    (dry,) = day["dries"]
    assert datetime.fromisoformat(dry["end_at"]) - datetime.fromisoformat(dry["start_at"]) == timedelta(
        minutes=15
    )
    # Pinned to an hour from now it stays there.
    later = (datetime.now(UTC) + timedelta(hours=1)).replace(second=0, microsecond=0)
    url = f"/api/day/pins/{job['id']}/print"
    assert api.put(url, json={"start_at": later.isoformat()}).json() == ["print"]
    assert not api.get("/api/day").json()["fresh"]
    step = next(each for each in planned(api)["steps"] if each["step"] == "print")
    assert (datetime.fromisoformat(step["start_at"]), step["pinned"]) == (later, True)
    assert api.put(url, json={"start_at": "2020-01-01T00:00:00Z"}).status_code == 422
    assert api.put(f"/api/day/pins/{job['id']}/dance", json={"start_at": None}).status_code == 422
    assert api.put(url, json={"start_at": None}).json() == []
    # Due in ten minutes it is late, and no order of work helps.
    api.put(
        f"/api/jobs/{job['id']}/due", json={"due_at": (datetime.now(UTC) + timedelta(minutes=10)).isoformat()}
    )
    (late,) = planned(api)["late"]
    assert late["job"] == job["id"]
    assert "Even done first it needs" in late["remedy"]
    printed(api, work, job)
    # The ink is wet: nothing to do for a quarter of an hour but to wait.
    assert api.get("/api/day").json()["now"]["title"] == "Nothing is due"
    from sqlalchemy import text

    from perisect.store.database import transaction

    with transaction() as session:
        session.execute(text("UPDATE print SET finished_at = finished_at - interval '1 hour'"))
    assert api.get("/api/day").json()["now"]["title"].startswith("Load a printed sheet of Test")
    sheet = api.get(f"/api/jobs/{job['id']}").json()["prints"][0]
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    assert api.get("/api/day").json()["now"]["title"] == "Weed and count 1 cut sheet of Test"
    api.put(f"/api/runs/{run['id']}/count", json={"version": 0, "count": {}})
    assert api.get("/api/day").json()["to_do"] == 0


@pytest.mark.parametrize(
    "wrong",
    [
        {"days": [None] * 7},
        {"days": [[600, 500]] * 7},
        {"days": [[0, 1440]] * 6},
        {"days": [[0, 9999]] * 7},
        {"hands": 0},
    ],
)
def test_hours_that_cannot_be_are_refused(api: httpx.Client, wrong: dict) -> None:
    assert api.put("/api/day/hours", json=ALWAYS | wrong).status_code == 422


def test_a_cost_opens_to_its_parts_and_falls_with_the_quantity(api: httpx.Client, job: dict) -> None:
    rates = api.get("/api/shop/rates").json()
    assert api.put("/api/shop/rates", json=rates | {"margin": 1.0, "packing": 0.5}).json()["margin"] == 1.0
    assert api.put("/api/shop/rates", json=rates | {"blade_m": 0}).status_code == 422
    url = f"/api/jobs/{job['id']}/cost"
    told = api.get(url, params={"design": "d1", "quantity": 60}).json()
    for cost in (told["job"], *told["quantities"]):
        assert sum(part["amount"] for part in cost["parts"]) == pytest.approx(cost["total"])
        assert cost["price"] == pytest.approx(2 * cost["total"])
    each = [cost["each"] for cost in told["quantities"]]
    assert each == sorted(each, reverse=True)
    assert [cost["quantity"] for cost in told["quantities"]] == [1, 10, 25, 50, 60, 100, 250, 500, 1000]
    by_size = [each["cost"]["each"] for each in told["sizes"]]
    assert by_size[0] < by_size[3] < by_size[-1]
    sixty = next(cost for cost in told["quantities"] if cost["quantity"] == 60)
    same = next(each for each in told["stocks"] if each["stock"] == "a4")
    assert same["cost"]["total"] == pytest.approx(sixty["total"])
    film = next(each for each in told["stocks"] if each["stock"] == "a4-film")
    # As many sheets of film, each 0.43 more.
    n = sixty["sheets"]
    assert film["cost"]["total"] - sixty["total"] == pytest.approx(0.43 * n, abs=0.02)
    assert api.get(url, params={"design": "d9"}).status_code == 404
    assert api.get(url, params={"design": "d1", "quantity": 0}).status_code == 422


def test_a_job_is_one_open_zip_and_the_shop_one_file(api: httpx.Client, work: Work, job: dict) -> None:
    printed(api, work, job)
    archive = zipfile.ZipFile(io.BytesIO(api.get(f"/api/jobs/{job['id']}/job.zip").content))
    names = archive.namelist()
    assert {
        "recipe.json",
        "job.json",
        "log.json",
        "sheets/sheet-01.print.pdf",
        "sheets/sheet-01.cut.pdf",
    } <= set(names)
    assert json.loads(archive.read("recipe.json"))["designs"][0]["name"] == "Disc"
    assert len(read_svg(archive.read("sheets/sheet-01.cut.svg").decode())["kiss"]) == 2
    assert any(name.startswith("artwork/") and name.endswith(".png") for name in names)
    whole = api.get("/api/shop/backup.zip").content
    assert "manifest.json" in zipfile.ZipFile(io.BytesIO(whole)).namelist()
    refused = api.post("/api/shop/restore", files={"file": ("shop.zip", whole, "application/zip")})
    assert refused.status_code == 422
    assert "jobs or records of its own" in refused.json()["detail"]
    assert api.post("/api/shop/restore", files={"file": ("x.zip", STAR, "image/png")}).status_code == 422
    rows = api.get("/api/tables/job.csv")
    assert rows.headers["content-type"].startswith("text/csv")
    assert rows.text.startswith("id,title,")
    assert api.get("/api/tables/sign_in.csv").status_code == 422
    assert api.get("/api/shop/left-over").json()["files"] >= 0
    assert api.get("/api/jobs/999999/job.zip").status_code == 404


def test_figures_have_limits_and_point_at_what_changed(api: httpx.Client, job: dict) -> None:
    from perisect.store.database import transaction
    from perisect.store.models import Print, Run
    from perisect.store.trade_models import StockMove

    lately = datetime.now(UTC)
    with transaction() as session:
        sheet = Print(
            job_id=job["id"], step=1, sheet=0, recipe=job["recipe"], printer="desk", finished_at=lately
        )
        sheet.state, sheet.message = "spoiled", "You said: poor print."
        session.add(sheet)
        session.flush()
        for n, bad in enumerate((1, 2, 1, 2, 1, 2, 15)):
            run = Run(
                print_id=sheet.id, job_id=job["id"], plotter="figures", stock="a4", state="done", seconds=1800
            )
            run.stickers = [{"design": "d1", "box": [0, 0, 1, 1]}] * 50
            run.count = {"bad": {str(k): "ragged" for k in range(bad)}}
            run.counted_good, run.counted_bad = 50 - bad, bad
            run.slip_mean_mm, run.finished_at = 0.1 + 0.01 * (n % 2), lately - timedelta(days=20 - n)
            session.add(run)
        blade = StockMove(item="blade:figures", out_of="supplier", into="shelf", quantity=120, why="New")
        blade.at = lately - timedelta(days=14)
        session.add(blade)
    told = api.get("/api/figures", params={"plotter": "figures"}).json()
    points = told["yields"]["points"]
    assert [point["outside"] for point in points] == [False] * 6 + [True]
    assert points[-1]["changed"] == ["a new blade in figures"]
    assert told["yields"]["middle"] == pytest.approx(326 / 350)
    assert not any(point["outside"] for point in told["slips"]["points"])
    assert told["causes"] == [{"name": "ragged", "count": 24, "cumulative": 1.0}]
    assert told["hours"]["Cut"] == pytest.approx(3.5)
    assert {each["name"] for each in told["waste"]} >= {"poor print"}
    assert api.get("/api/figures", params={"plotter": "nowhere"}).json()["yields"]["points"] == []
