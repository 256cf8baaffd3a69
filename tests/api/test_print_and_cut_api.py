"""Print, cut and log, through the queue and the simulated machines; and what happens when one of them fails."""

import io
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image

from perisect.store import blobs
from perisect.store.blobs import DiskFull

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
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["lines_done"], done["lines_total"]) == ("done", 2, 2)
    assert (done["good"], done["bad"], len(done["slips"])) == (2, 0, 2)
    assert 0 < done["slip_mean_mm"] <= done["slip_largest_mm"] <= 0.2
    assert 0 < done["registration"]["residual_mm"] < 0.15
    plan = api.get(f"/api/jobs/{job['id']}/sheets/1/cut-plan").json()
    assert [(each["process"], each["pen"], each["count"]) for each in plan["processes"]] == [("kiss", 1, 2)]
    assert done["seconds"] == pytest.approx(plan["seconds"], rel=0.03)
    assert (done["share"], done["notice"]) == (1, None)
    assert [(mark["name"], mark["verdict"]) for mark in done["marks"]] == [
        (name, "clear") for name in ("top left", "top right", "lower left", "lower right")
    ]
    assert all(mark["off_mm"] < 0.15 and mark["likeness"] > 0.96 for mark in done["marks"])
    seen = Image.open(io.BytesIO(api.get(f"/api/runs/{run['id']}/marks/3.png").content))
    assert seen.size == (161, 161)
    assert api.get(f"/api/runs/{run['id']}/marks/4.png").status_code == 404
    cut = np.asarray(Image.open(io.BytesIO(api.get(f"/api/runs/{run['id']}/cut.png").content)))
    assert cut.shape == (3508, 2480, 3)
    assert (cut != np.asarray(picture)).any()
    assert api.get(f"/api/jobs/{job['id']}").json()["runs"][0]["state"] == "done"


@pytest.mark.long
def test_what_a_small_job_keeps_of_its_sheet_is_printed_and_cut_by_a_later_one(
    api: httpx.Client, work: Work, job: dict
) -> None:
    url = f"/api/jobs/{job['id']}"
    assert api.post(f"{url}/remainder").status_code == 409
    (found,) = (each for each in job["sheets"]["findings"] if each["code"] == "remainder")
    small = api.post(
        f"{url}/remedies", json={"revision": job["revision"], "remedy": found["remedy"], "label": "Keep"}
    ).json()
    until = small["recipe"]["sheet"]["until_mm"]
    later = api.post(f"{url}/remainder").json()
    assert later["recipe"]["sheet"]["from_mm"] == until
    recipe = later["recipe"] | {"designs": job["recipe"]["designs"]}
    recipe["sheet"]["fill"] = False
    change = {"revision": later["revision"], "recipe": recipe}
    later = api.put(f"/api/jobs/{later['id']}/recipe", json=change).json()
    for each, beyond in ((small, False), (later, True)):
        sheet = printed(api, work, each)
        assert sheet["state"] == "printed"
        picture = np.asarray(
            Image.open(io.BytesIO(api.get(f"/api/prints/{sheet['id']}/printed.png").content))
        )
        rows = np.flatnonzero((picture.min(axis=2) < 128).sum(axis=1) > 20) / 300 * 25.4
        # Beside the line of words at the foot of the sheet.
        assert (rows[rows < 285].min() > until) if beyond else (rows[rows < 285].max() < until)
        run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
        work()
        done = api.get(f"/api/runs/{run['id']}").json()
        assert (done["state"], done["good"], done["bad"]) == ("done", 2, 0)
        assert done["slip_largest_mm"] <= 0.2


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
    from perisect.devices.wire_plotter import WirePlotter

    send = WirePlotter.send
    sent: list[str] = []

    def cancel_after_first(self: WirePlotter, text: str) -> list[str]:
        answers = send(self, text)
        sent.append(text)
        if len(sent) == 2:  # the opening, the first line
            api.post(f"/api/runs/{run['id']}/cancel")
            time.sleep(1.0)  # the worker hears of it within a quarter of a second
        return answers

    monkeypatch.setattr(WirePlotter, "send", cancel_after_first)
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


@pytest.mark.long
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
    assert len(over["marks"]) == 4


def _moved_mark(sheet: np.ndarray) -> np.ndarray:
    """The lower right mark a millimetre further right."""
    moved = sheet.copy()
    moved[3200:3450, 2212:2462] = sheet[3200:3450, 2200:2450]
    moved[3200:3450, 2200:2212] = 255
    return moved


def test_a_printer_that_is_off_is_said(api: httpx.Client, work: Work, job: dict, monkeypatch) -> None:
    from perisect.devices import address

    monkeypatch.setattr(address, "PATIENCE_S", 0.3)
    with at_address("printer", "desk", "wire://127.0.0.1:9"):
        sheet = printed(api, work, job)
    assert sheet["state"] == "failed"
    assert "Switch it on" in sheet["message"]
    refused = api.post(f"/api/prints/{sheet['id']}/cuts")
    assert refused.status_code == 409
    assert "not printed" in refused.json()["title"]


@contextmanager
def at_address(kind: Any, machine: str, address: str) -> Iterator[None]:
    """The simulated machine of a record at another address for a while."""
    from perisect.store import equipment
    from perisect.store.database import transaction

    with transaction() as session:
        before = equipment.simulated_address(session, kind, machine)
        equipment.set_simulated_address(session, kind, machine, address)
    yield
    with transaction() as session:
        equipment.set_simulated_address(session, kind, machine, before)


def test_a_run_whose_worker_went_quiet_says_where_it_stopped(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    from perisect.services.sweeps import sweep_quiet
    from perisect.store import prints
    from perisect.store.database import transaction
    from perisect.store.models import Run

    with transaction() as session:
        row = session.get_one(Run, run["id"])
        row.state, row.lines_done, row.lines_total, row.claim = "cutting", 1, 2, "somebody"
        row.heartbeat_at = datetime.now(UTC) - prints.QUIET_AFTER / 2
    sweep_quiet()
    assert api.get(f"/api/runs/{run['id']}").json()["state"] == "cutting"  # a pause is no death
    with transaction() as session:
        session.get_one(Run, run["id"]).heartbeat_at = datetime.now(UTC) - timedelta(seconds=30)
    before = api.get(f"/api/runs/{run['id']}").json()
    assert before["state"] == "cutting"  # reading changes nothing
    sweep_quiet()
    over = api.get(f"/api/runs/{run['id']}").json()
    # The server itself has to be up for so long before anybody is called quiet.
    if over["state"] == "cutting":
        pytest.skip("the database is younger than a quiet worker")
    assert over["state"] == "stopped"
    assert "stopped at line 1 of 2" in over["message"]
    assert api.post(f"/api/prints/{sheet['id']}/cuts").status_code == 202
    work()


def test_a_print_waits_its_turn_however_long_that_takes(api: httpx.Client, work: Work, job: dict) -> None:
    first, second = (api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json() for _ in range(2))
    from perisect.services.sweeps import sweep_quiet
    from perisect.store.database import transaction
    from perisect.store.models import Print

    with transaction() as session:
        for sheet in (first, second):
            session.get_one(Print, sheet["id"]).created_at = datetime.now(UTC) - timedelta(hours=5)
    sweep_quiet()
    waiting = api.get(f"/api/prints/{second['id']}").json()
    assert (waiting["state"], waiting["waiting"]) == ("queued", "Waiting behind 1 print.")
    work()
    assert {api.get(f"/api/prints/{s['id']}").json()["state"] for s in (first, second)} == {"printed"}


def test_a_print_that_waits_can_be_taken_out_and_is_not_printed(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    assert api.post(f"/api/prints/{sheet['id']}/cancel").json()["state"] == "cancelled"
    work()
    assert api.get(f"/api/prints/{sheet['id']}").json()["state"] == "cancelled"
    assert api.get(f"/api/prints/{sheet['id']}/printed.png").status_code == 404
    done = printed(api, work, job)
    assert api.post(f"/api/prints/{done['id']}/cancel").status_code == 409


def test_eight_who_cut_at_once_get_one_cut(api: httpx.Client, work: Work, job: dict) -> None:
    sheets = [printed(api, work, job) for _ in range(2)]
    with ThreadPoolExecutor(8) as crowd:
        answers = list(crowd.map(lambda n: api.post(f"/api/prints/{sheets[n % 2]['id']}/cuts"), range(8)))
    assert sorted(answer.status_code for answer in answers) == [202, *[409] * 7]
    assert all("busy" in answer.json()["title"] for answer in answers if answer.status_code == 409)
    work()
    (run,) = (answer.json() for answer in answers if answer.status_code == 202)
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["bad"]) == ("done", 0)
    assert done["slip_largest_mm"] < 0.2


def test_workers_that_print_the_same_sheet_print_it_once(
    api: httpx.Client, job: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    from perisect.services import printing

    sheet = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    pages: list[int] = []
    real = printing.print_at

    def counted(*given: Any) -> Any:
        pages.append(1)
        return real(*given)

    monkeypatch.setattr(printing, "print_at", counted)
    with ThreadPoolExecutor(4) as workers:
        list(workers.map(printing.do_print, [sheet["id"]] * 4))
    assert len(pages) == 1
    assert api.get(f"/api/prints/{sheet['id']}").json()["state"] == "printed"


def test_what_is_not_there_is_404(api: httpx.Client) -> None:
    for path in ("/api/prints/999999", "/api/runs/999999", "/api/runs/999999/cut.png"):
        assert api.get(path).status_code == 404
    assert api.post("/api/prints/999999/cuts").status_code == 404


@pytest.mark.long
@pytest.mark.parametrize(
    ("fault", "says"), [(DiskFull(), "The disk is full"), (RuntimeError("bug"), "could not be measured")]
)
def test_a_sheet_that_is_cut_and_cannot_be_measured_is_told_as_cut(
    fault: Exception, says: str, api: httpx.Client, work: Work, job: dict, monkeypatch
) -> None:
    sheet = printed(api, work, job)
    put = blobs.put

    def full(name: str, data: bytes) -> str:
        if name.startswith("runs/"):
            raise fault
        return put(name, data)

    monkeypatch.setattr(blobs, "put", full)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    run = api.get(f"/api/runs/{run['id']}").json()
    assert (run["state"], run["lines_done"]) == ("done", run["lines_total"])
    assert says in run["message"]
    assert "new print" not in run["message"]
    assert run["good"] is None


def test_a_panel_longer_than_its_printer_takes_is_stopped(api: httpx.Client, job: dict) -> None:
    # A roll with panels of 1200 mm, at the desk printer that takes 490.
    path = f"/api/jobs/{job['id']}"
    chosen = {"revision": job["revision"], "stock": "roll-vinyl"}
    job = api.post(f"{path}/equipment", json=chosen).json()
    job["recipe"]["sheet"] |= {"fill": True}
    filled = {"revision": job["revision"], "recipe": job["recipe"], "label": "Fill"}
    found = api.put(f"{path}/recipe", json=filled).json()["findings"]
    texts = [each["text"] for each in found if each["code"] == "machine_small"]
    assert any("1200 mm long here and Desk printer takes 490 mm" in text for text in texts), texts


@pytest.mark.long
@pytest.mark.parametrize("parts", ["stickers", "sections"])
def test_a_sheet_is_cut_part_after_part_and_nothing_twice(
    parts: str, api: httpx.Client, work: Work, job: dict
) -> None:
    recipe = job["recipe"]
    recipe["designs"][0] |= {"peel_mm": 3}
    recipe["sheet"] |= {"parts": parts, "fill": True}
    body = {"revision": job["revision"], "recipe": recipe, "label": "In parts"}
    assert api.put(f"/api/jobs/{job['id']}/recipe", json=body).status_code == 200
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    # Ten or more stickers, a kiss and a through line each, measured where the knife went.
    assert (done["state"], done["lines_done"]) == ("done", done["lines_total"])
    assert len(done["slips"]) * 2 == done["lines_total"] >= 20
    assert (done["bad"], done["notice"]) == (0, None)
    assert done["slip_largest_mm"] < 0.3
    plan = api.get(f"/api/jobs/{job['id']}/sheets/1/cut-plan").json()
    assert done["seconds"] == pytest.approx(plan["seconds"], rel=0.05)


@pytest.mark.long
def test_a_job_brings_what_was_measured_of_its_newest_runs_and_the_others_are_asked_for(
    api: httpx.Client, work: Work, job: dict
) -> None:
    for _ in range(3):
        sheet = printed(api, work, job)
        api.post(f"/api/prints/{sheet['id']}/cuts")
        work()
    runs = api.get(f"/api/jobs/{job['id']}").json()["runs"]
    assert [run["is_whole"] for run in runs] == [True, True, False]
    oldest = runs[-1]
    assert [oldest[name] for name in ("slips", "stickers", "marks", "count")] == [None] * 4
    assert oldest["slip_mean_mm"] is not None
    whole = api.get(f"/api/runs/{oldest['id']}").json()
    assert (whole["is_whole"], len(whole["slips"]), len(whole["stickers"])) == (True, 2, 2)
