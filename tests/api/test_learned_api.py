"""What the log says of a plotter and of a border, and what becomes of the next cut."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import httpx
import numpy as np
import pytest
from sqlalchemy import text

from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS
from perisect.stand_ins.plotter_truth import Truth
from perisect.stand_ins.serve import PlotterServer
from perisect.stand_ins.shop import plate_of
from perisect.store.database import transaction
from perisect.store.models import Run
from tests.api.test_print_and_cut_api import Work, at_address, printed

PLOTTER = "/api/shop/plotters/desk"


@pytest.fixture
def off_by(api: httpx.Client) -> Iterator[Truth]:
    """The desk plotter's sensor sits beside its blade, and no sheet was measured yet."""
    import threading

    truth = Truth(sensor_mm=(0.18, -0.11), belts=(0.0008, -0.0005), squareness=0.0004, repeat_mm=0.01)
    server = PlotterServer(5, float("inf"), plate_of(EXAMPLE_PLOTTERS[0]), truth=truth)
    for each in (server.lines, server.tray):
        threading.Thread(target=each.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True).start()
    with transaction() as session:
        session.execute(text("UPDATE run SET slips = NULL, aimed = NULL"))
        session.execute(text("DELETE FROM plotter_trueing"))
    with at_address("plotter", "desk", server.address):
        yield truth
    for each in (server.lines, server.tray):
        each.shutdown()
        each.server_close()
    with transaction() as session:
        session.execute(text("DELETE FROM plotter_trueing"))


def cut(api: httpx.Client, work: Work, sheet: dict) -> dict:
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    return api.get(f"/api/runs/{run['id']}").json()


def test_an_offset_is_named_from_the_log_and_taken_out_of_the_next_cut(
    api: httpx.Client, work: Work, job: dict, off_by: Truth
) -> None:
    designs = [job["recipe"]["designs"][0] | {"longest_mm": 36, "copies": 20}]
    job = api.put(
        f"/api/jobs/{job['id']}/recipe",
        json={"revision": job["revision"], "recipe": job["recipe"] | {"designs": designs}},
    ).json()
    assert job["sheets"]["error_sheets"] == 0
    assert job["sheets"]["worst_lost"] < 1e-6
    for number in range(5):
        before = api.get(f"{PLOTTER}/calibration").json()
        assert (before["sheets"], before["components"] == []) == (number, number < before["least_sheets"])
        if number < before["least_sheets"]:
            assert api.post(f"{PLOTTER}/trueing").status_code == 409
        first = cut(api, work, printed(api, work, job))
    assert first["slip_mean_mm"] == pytest.approx(np.hypot(0.18, 0.11), abs=0.05)
    found = api.get(f"{PLOTTER}/calibration").json()
    real = {each["name"]: each["value"] for each in found["components"] if each["is_real"]}
    assert all(each["largest_mm"] < 0.03 for each in found["components"] if "shift" not in each["name"])
    # Through a sensor that looks right of the blade, a mark is met when the blade is left of it; down the sheet is
    # towards the plotter's origin.
    assert (real["shift_x"], real["shift_y"]) == (
        pytest.approx(-0.18, abs=0.02),
        pytest.approx(-0.11, abs=0.02),
    )
    assert not found["is_scattered"]
    assert not found["is_uneven"]
    now = api.get(f"/api/jobs/{job['id']}").json()["sheets"]
    assert now["error_sheets"] == 5
    assert now["worst_error_mm"] == pytest.approx(np.hypot(0.18, 0.11), abs=0.06)
    # Eight take it at once: it is taken out once.
    with ThreadPoolExecutor(8) as crowd:
        taken = list(crowd.map(lambda _: api.post(f"{PLOTTER}/trueing"), range(8)))
    assert {each.status_code for each in taken} == {200}
    assert taken[0].json()["trueing"]["shift_x"] == pytest.approx(real["shift_x"])
    after = [cut(api, work, printed(api, work, job)) for _ in range(2)]
    assert np.mean([each["slip_mean_mm"] for each in after]) < 0.06
    again = api.post(f"{PLOTTER}/trueing").json()
    assert again["trueing"]["shift_x"] == pytest.approx(-0.18, abs=0.02)  # not twice as much
    assert api.delete(f"{PLOTTER}/trueing").json()["trueing"]["shift_x"] == 0
    assert api.get("/api/shop/plotters/nobody/calibration").status_code in (404, 409)


def test_a_safe_border_comes_from_the_narrowest_group_that_has_sheets_enough(
    api: httpx.Client, work: Work, job: dict, off_by: Truth
) -> None:
    url = f"/api/jobs/{job['id']}/safe-border"
    assert api.get(url).json() is None
    sheet = printed(api, work, job)
    run = cut(api, work, sheet)
    rng = np.random.default_rng(4)

    def logged(plotter: str, stock: str, deviation: float, sheets: int) -> None:
        """Sheets of 20 stickers whose slips are a half-normal of this deviation."""
        for _ in range(sheets):
            slips = [dict(run["slips"][0], slip_mm=abs(float(each))) for each in rng.normal(0, deviation, 20)]
            with transaction() as session:
                session.add(
                    Run(
                        print_id=sheet["id"],
                        job_id=job["id"],
                        plotter=plotter,
                        stock=stock,
                        state="done",
                        slips=slips,
                    )
                )

    logged("counter", "a4-vinyl", 0.5, 8)
    found = api.get(url).json()
    assert found["group"] == "shop"
    # 95 % of a half-normal lie below 1.96 deviations.
    assert 0.9 < found["border_mm"] < 1.4
    logged("desk", "a4-vinyl", 0.3, 8)
    assert api.get(url).json()["group"] == "plotter"
    logged("desk", "a4", 0.1, 30)
    found = api.get(url).json()
    assert found["group"] == "here"
    assert 0.18 < found["border_mm"] < 0.25
    assert found["sheets"] == 31
    assert found["lost"]["d1"] < 0.001  # at 2 mm
