"""Print, cut and log, through the queue and the simulated machines; and what happens when one of them fails."""

import io
import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

import httpx
import numpy as np
import pytest
from PIL import Image

Work = Callable[[], None]


def printed(api: httpx.Client, work: Work, job: dict) -> dict:
    sheet = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1})
    assert sheet.status_code == 202
    work()
    return api.get(f"/api/prints/{sheet.json()['id']}").json()


def test_a_sheet_is_printed_cut_and_measured(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, job)
    assert sheet["state"] == "printed"
    picture = Image.open(io.BytesIO(api.get(f"/api/prints/{sheet['id']}/printed.png").content))
    assert picture.size == (2480, 3508)  # A4 at 300 ppi
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    assert api.post(f"/api/prints/{sheet['id']}/cuts").status_code == 409  # one plotter
    work()
    with api.stream("GET", f"/api/runs/{run['id']}/events") as events:
        told = [json.loads(line[6:]) for line in events.iter_lines() if line.startswith("data: ")]
    done = told[-1]
    assert (done["state"], done["lines_done"], done["lines_total"]) == ("done", 2, 2)
    assert (done["good"], done["bad"], len(done["slips"])) == (2, 0, 2)
    assert 0 < done["slip_mean_mm"] <= done["slip_largest_mm"] <= 0.2
    assert 0 < done["registration"]["residual_mm"] < 0.15
    cut = np.asarray(Image.open(io.BytesIO(api.get(f"/api/runs/{run['id']}/cut.png").content)))
    assert cut.shape == (3508, 2480, 3)
    assert (cut != np.asarray(picture)).any()
    assert api.get(f"/api/jobs/{job['id']}").json()["runs"][0]["state"] == "done"


def test_the_cut_follows_the_print_even_when_the_recipe_has_moved_on(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    recipe = job["recipe"] | {"designs": [job["recipe"]["designs"][0] | {"longest_mm": 20, "copies": 9}]}
    api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": job["revision"], "recipe": recipe})
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["lines_total"] == 2
    assert api.get(f"/api/jobs/{job['id']}").json()["prints"][0]["current"] is False


def test_a_cancelled_run_keeps_what_was_cut(api: httpx.Client, work: Work, job: dict, monkeypatch) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    from perisect.devices.links import PlotterLink

    send = PlotterLink.send

    def cancel_after_first(self: PlotterLink, hpgl: str) -> None:
        send(self, hpgl)
        if "VS" in hpgl:
            api.post(f"/api/runs/{run['id']}/cancel")

    monkeypatch.setattr(PlotterLink, "send", cancel_after_first)
    work()
    over = api.get(f"/api/runs/{run['id']}").json()
    assert (over["state"], over["lines_done"], over["good"]) == ("cancelled", 1, 1)
    assert "line 1 of 2" in over["message"]
    assert over["has_picture"]


def test_a_run_cancelled_before_it_began_never_begins(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    assert api.post(f"/api/runs/{run['id']}/cancel").json()["state"] == "cancelled"
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["lines_done"] == 0


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda sheet: sheet[::-1, ::-1], "turned"),
        (
            lambda sheet: np.where(np.arange(sheet.shape[0])[:, None, None] > 3100, 255, sheet),
            "was not found",
        ),
        (lambda sheet: _moved_mark(sheet), "do not fit"),
    ],
)
def test_a_spoilt_sheet_stops_before_the_first_line_and_says_why(
    spoil: Callable, says: str, api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    from perisect.store import blobs

    name = f"prints/{sheet['id']}/printed.png"
    pixels = np.asarray(Image.open(io.BytesIO(blobs.get(name) or b"")))
    file = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(spoil(pixels)).astype(np.uint8)).save(file, "PNG")
    blobs.put(name, file.getvalue())
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    over = api.get(f"/api/runs/{run['id']}").json()
    assert (over["state"], over["lines_done"]) == ("stopped", 0)
    assert says in over["message"]


def _moved_mark(sheet: np.ndarray) -> np.ndarray:
    """The lower right mark a millimetre further right."""
    moved = sheet.copy()
    moved[3200:3450, 2212:2462] = sheet[3200:3450, 2200:2450]
    moved[3200:3450, 2200:2212] = 255
    return moved


def test_a_printer_that_is_off_is_said(api: httpx.Client, work: Work, job: dict, monkeypatch) -> None:
    from perisect.devices import links as devices
    from perisect.store.settings import settings

    monkeypatch.setattr(settings(), "printer", "127.0.0.1:9")
    monkeypatch.setattr(devices, "PATIENCE_S", 0.3)
    sheet = printed(api, work, job)
    assert sheet["state"] == "failed"
    assert "Switch it on" in sheet["message"]
    refused = api.post(f"/api/prints/{sheet['id']}/cuts")
    assert refused.status_code == 409
    assert "not printed" in refused.json()["title"]


def test_a_run_whose_worker_went_quiet_says_where_it_stopped(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    from perisect.store.database import transaction
    from perisect.store.models import Run

    with transaction() as session:
        kept = session.get_one(Run, run["id"])
        kept.state, kept.lines_done, kept.lines_total = "cutting", 1, 2
        kept.heartbeat_at = datetime.now(UTC) - timedelta(seconds=30)
    over = api.get(f"/api/runs/{run['id']}").json()
    assert over["state"] == "stopped"
    assert "stopped at line 1 of 2" in over["message"]
    assert api.post(f"/api/prints/{sheet['id']}/cuts").status_code == 202
    work()


def test_a_print_that_no_worker_finished_can_be_sent_again(api: httpx.Client, work: Work, job: dict) -> None:
    lost = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    from perisect.store.database import transaction
    from perisect.store.models import Print

    assert api.get(f"/api/jobs/{job['id']}").json()["prints"][0]["state"] == "queued"
    with transaction() as session:
        session.get_one(Print, lost["id"]).created_at = datetime.now(UTC) - timedelta(minutes=5)
    found = api.get(f"/api/jobs/{job['id']}").json()["prints"][0]
    assert found["state"] == "failed"
    assert "Print the sheet again" in found["message"]
    assert printed(api, work, job)["state"] == "printed"


def test_what_is_not_there_is_404(api: httpx.Client) -> None:
    for path in ("/api/prints/999999", "/api/runs/999999", "/api/runs/999999/cut.png"):
        assert api.get(path).status_code == 404
    assert api.post("/api/prints/999999/cuts").status_code == 404
