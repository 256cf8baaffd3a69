"""What the log says of a plotter and of a border, and what becomes of the next cut."""

import io
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import httpx
import numpy as np
import pytest
from PIL import Image
from sqlalchemy import text

from perisect.core.ledger.cut_picture import sheet_png
from perisect.core.ledger.scan import read_printed
from perisect.core.prepress.vernier import PITCH_MM, combs
from perisect.core.sheet import MarkSettings, Stock, marks_for
from perisect.core.sheet.shop_records import EXAMPLE_PLOTTERS
from perisect.devices.protocols import Unloaded
from perisect.devices.wire_plotter import WirePlotter
from perisect.stand_ins import cut_photo
from perisect.stand_ins.plotter_server import PlotterServer
from perisect.stand_ins.plotter_truth import Truth
from perisect.stand_ins.shop import plate_of
from perisect.store import blobs
from perisect.store.database import transaction
from perisect.store.models import Run
from tests.api.test_print_and_cut_api import Work, at_address, printed

A4 = Stock("a4", "A4 paper, matt", 210.0, 297.0)
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


@pytest.mark.long
def test_an_offset_is_named_from_the_log_and_taken_out_of_the_next_cut(
    api: httpx.Client, work: Work, job: dict, off_by: Truth
) -> None:
    designs = [job["recipe"]["designs"][0] | {"longest_mm": 36, "copies": 12}]
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
    with transaction() as session:
        aimed = session.get_one(Run, first["id"]).aimed
    assert aimed is not None
    assert sorted(aimed["turns"]) == list(range(1, 13))  # twelve kiss lines, one after the other
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
    border = api.get(f"/api/jobs/{job['id']}/safe-border").json()
    assert border["border_mm"] > np.hypot(0.18, 0.11)
    now = api.get(f"/api/jobs/{job['id']}").json()["sheets"]
    assert now["error_sheets"] == 5
    assert now["worst_error_mm"] == pytest.approx(np.hypot(0.18, 0.11), abs=0.06)
    # Eight take it at once: it is taken out once.
    with ThreadPoolExecutor(8) as crowd:
        taken = list(crowd.map(lambda _: api.post(f"{PLOTTER}/trueing"), range(8)))
    assert {each.status_code for each in taken} == {200}
    assert taken[0].json()["trueing"]["shift_x"] == pytest.approx(real["shift_x"])
    # What is taken out of the next cut is taken out of the border too, before any sheet is cut so.
    trued = api.get(f"/api/jobs/{job['id']}/safe-border").json()
    assert (trued["sheets"], trued["border_mm"] < 0.1) == (5, True)
    after = [cut(api, work, printed(api, work, job)) for _ in range(2)]
    assert np.mean([each["slip_mean_mm"] for each in after]) < 0.06
    again = api.post(f"{PLOTTER}/trueing").json()
    assert again["trueing"]["shift_x"] == pytest.approx(-0.18, abs=0.02)  # not twice as much
    assert api.delete(f"{PLOTTER}/trueing").json()["trueing"]["shift_x"] == 0
    assert api.get("/api/shop/plotters/nobody/calibration").status_code in (404, 409)


@pytest.mark.long
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
            slips = [
                dict(run["slips"][0], slip_mm=abs(each), dx_mm=each, dy_mm=0.0)
                for each in rng.normal(0, deviation, 20).tolist()
            ]
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
    # 0.196 by full knowledge; what 31 sheets leave open of how slips are spread is a third of that at most.
    assert 0.18 < found["border_mm"] < 0.196 * 4 / 3
    assert found["sheets"] == 31
    assert found["lost"]["d1"] < 0.001  # at 2 mm


@pytest.mark.long
def test_a_plotter_is_calibrated_by_one_page(
    api: httpx.Client, work: Work, job: dict, off_by: Truth, monkeypatch: pytest.MonkeyPatch
) -> None:
    url = f"/api/jobs/{job['id']}/calibration-page"
    assert api.get(url).json()["state"] == "none"
    assert api.post(f"{url}/cut").status_code == 404
    assert api.get(f"{url}/page.pdf").content.startswith(b"%PDF")
    with ThreadPoolExecutor(8) as crowd:
        asked = list(crowd.map(lambda _: api.post(url).status_code, range(8)))
    assert sorted(asked) == [202] + [409] * 7
    assert (
        api.put(f"{url}/reading", json=dict.fromkeys(("head", "foot", "left", "right"), 0)).status_code == 409
    )
    work()
    assert api.get(url).json()["state"] == "printed"
    seen, unload = [], WirePlotter.unload

    def watched(self: WirePlotter) -> Unloaded:
        seen.append(unload(self))
        return seen[-1]

    monkeypatch.setattr(WirePlotter, "unload", watched)
    with ThreadPoolExecutor(8) as crowd:
        asked = list(crowd.map(lambda _: api.post(f"{url}/cut").status_code, range(8)))
    assert sorted(asked) == [202] + [409] * 7
    work()
    cut = api.get(url).json()
    assert (cut["state"], cut["message"], cut["has_picture"]) == ("cut", None, True)
    assert Image.open(io.BytesIO(api.get(f"{url}/cut.png").content)).size[0] > 1500
    # A person finds, on the sheet that the stand-in cut, the tooth that lies nearest to its printed one. The print is
    # a little off itself, all of it alike, so the middle of the sheet is where its marks say.
    marks = read_printed(
        np.asarray(Image.open(io.BytesIO(blobs.get(f"verniers/{cut['id']}.png") or b"")).convert("L")),
        300 / 25.4,
        marks_for(A4, MarkSettings()),
        MarkSettings(),
    )
    teeth = np.array([stroke[-1] for stroke in seen[0].strokes or []]).reshape(4, 25, 2)
    reading = {}
    for comb, ends in zip(combs(A4), teeth, strict=True):
        printed = np.array([comb.tooth(n * PITCH_MM, 0, 7.0)[1] for n in range(-12, 13)])
        printed = printed @ marks.drawn_to_printed[:, :2].T + marks.drawn_to_printed[:, 2]
        off = np.abs((ends - printed)[:, 0 if comb.across else 1])
        reading[comb.name] = (int(off.argmin()) - 12) * 0.1
    # The sensor's offset, as the slips of the other test show it.
    assert reading["head"] == pytest.approx(-0.18, abs=0.08)
    assert reading["left"] == pytest.approx(-0.11, abs=0.08)
    assert api.put(f"{url}/reading", json=reading | {"head": 2.0}).status_code == 422
    # A scan of that sheet says the same, finer; what is no scan of it is refused.
    sheet = np.asarray(Image.open(io.BytesIO(blobs.get(f"verniers/{cut['id']}.png") or b"")).convert("RGB"))
    large = cut_photo.cut_sheet(sheet, 300 / 25.4, seen[0].strokes or [], 1)
    scans = [
        ("scan.png", cut_photo.scan(large, 300 / 25.4, 1)),
        ("grey.png", np.full((900, 700, 3), 200, np.uint8)),
    ]
    sent = [
        api.post(f"{url}/scan", files={"file": (name, sheet_png(picture), "image/png")}, timeout=60)
        for name, picture in scans
    ]
    assert [answer.status_code for answer in sent] == [200, 422]
    assert sent[0].json()["readings"] == pytest.approx(reading, abs=0.06)
    for _ in range(2):  # read again it is not added again
        assert api.put(f"{url}/reading", json=reading).json()["state"] == "read"
    trueing = api.get(f"{PLOTTER}/calibration").json()["trueing"]
    assert trueing["shift_x"] == pytest.approx((reading["head"] + reading["foot"]) / 2)
    after = cut_mean(api, work, job)
    assert after < 0.1


def cut_mean(api: httpx.Client, work: Work, job: dict) -> float:
    return float(cut(api, work, printed(api, work, job))["slip_mean_mm"])


def test_an_older_page_is_not_cut_while_a_new_one_is_printed(
    api: httpx.Client, work: Work, job: dict
) -> None:
    """Somebody asks for a new page between a look at the old one and its cut."""
    from perisect.services.vernier import NotCut, ask_for_cut

    url = f"/api/jobs/{job['id']}/calibration-page"
    old = api.post(url).json()["id"]
    work()
    assert api.post(url).json()["id"] != old
    with pytest.raises(NotCut):
        ask_for_cut(old)
    work()
    assert api.get(url).json()["state"] == "printed"
