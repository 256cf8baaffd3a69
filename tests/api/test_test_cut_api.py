"""Test cuts through the simulated plotter, and the settings book they go into."""

import io
from concurrent.futures import ThreadPoolExecutor
from unittest.mock import patch

import httpx
import numpy as np
import pytest
import shapely
from PIL import Image
from sqlalchemy import delete, update

from perisect.core.cutting.book import BookEntry, BookKey
from perisect.core.cutting.setting import CutSetting
from perisect.services import cutting
from perisect.services.devices import plotter_at
from perisect.store import book
from perisect.store.database import transaction
from perisect.store.upkeep_models import BookRow, LadderRow
from tests.api.test_print_and_cut_api import Work, printed


def kiss_of(api: httpx.Client, job: dict) -> dict:
    view = api.get(f"/api/jobs/{job['id']}/settings").json()
    return next(each for each in view["settings"] if each["process"] == "kiss")


@pytest.mark.long
def test_a_test_cut_is_cut_answered_and_taken_and_the_sheet_is_cut_with_it(
    api: httpx.Client, work: Work, job: dict
) -> None:
    before = kiss_of(api, job)
    assert (before["source"], before["is_own"]) == ("example", False)
    url = f"/api/jobs/{job['id']}/test-cuts"
    with ThreadPoolExecutor(8) as crowd:
        asked = list(crowd.map(lambda _: api.post(url, json={"process": "kiss"}), range(8)))
    assert sorted(each.status_code for each in asked) == [202] + [409] * 7
    test = next(each.json() for each in asked if each.status_code == 202)
    here = f"/api/test-cuts/{test['id']}"
    assert api.put(f"{here}/answers", json={"answers": ["clean"] * 7}).status_code == 409  # not cut yet
    work()
    cut = api.get(here).json()
    assert (cut["state"], cut["unit"], len(cut["ladders"])) == ("cut", "steps", 1)
    assert Image.open(io.BytesIO(api.get(f"{here}/ladder.png").content)).size == (1200, 600)
    forces = cut["ladders"][0]["forces"]
    assert all(1 <= force <= 33 and force == round(force) for force in forces)
    assert api.post(f"{here}/take").status_code == 409  # nobody has said anything
    answers = ["not_through", "ragged", "clean", "clean", "clean", "liner_marked", "cut_through"]
    assert api.put(f"{here}/answers", json={"answers": answers[:3]}).status_code == 422
    told = api.put(f"{here}/answers", json={"answers": answers}).json()
    proposal = told["proposal"]
    assert forces[2] <= proposal["force"] <= forces[4]
    assert len(proposal["forces"]) == len(proposal["clean"]) == len(proposal["too_much"])
    if not proposal["is_sure"]:
        further = api.post(f"{here}/ladders").json()
        assert (further["state"], len(further["ladders"])) == ("queued", 2)
        work()
        again = [
            "ragged" if force < proposal["force"] * 0.8 else "clean"
            for force in further["ladders"][1]["forces"]
        ]
        assert api.put(f"{here}/answers", json={"answers": again}).status_code == 200
    assert api.post(f"{here}/take").status_code == 200
    taken = kiss_of(api, job)
    assert (taken["source"], taken["is_own"], taken["test"]) == ("test", True, test["id"])
    assert taken["sure"] > 0.5
    assert "from a test cut of" in taken["why"]
    # Another stock of the same plotter gets it brought over, with a word of why.
    revision = api.get(f"/api/jobs/{job['id']}").json()["revision"]
    api.post(f"/api/jobs/{job['id']}/equipment", json={"revision": revision, "stock": "a4-vinyl"})
    near = kiss_of(api, job)
    assert (near["source"], near["is_own"]) == ("test", False)
    assert near["why"] == "known for A4 paper, matt: test it first"
    api.post(f"/api/jobs/{job['id']}/undo")
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["state"] == "done"


def test_a_blade_that_its_tests_show_to_wear_gets_more_force(api: httpx.Client, job: dict) -> None:
    """Five tests of one stock over 200 m, each 50 m needing a fifth more; then 50 m are cut."""
    with transaction() as session:
        desk = plotter_at("desk").record
        cut = book.blade_metres(session, "desk")
        for number in range(5):
            session.add(
                LadderRow(
                    plotter="desk", stock_id="a4", process="kiss", blade=desk.blade, stock={}, start={}, prior=10.0,
                    state="answered", taken_force=8 * 1.2**number, taken_m=cut - 250 + 50 * number,
                )
            )  # fmt: skip
        key = BookKey(stock="a4", process="kiss", plotter="desk", blade=desk.blade)
        entry = BookEntry(key=key, setting=CutSetting(speed_cm_s=20, force=15), source="test", sure=0.96)
        book.save(session, entry)
        session.execute(update(BookRow).where(BookRow.plotter == "desk").values(blade_m=cut - 50))
    try:
        now = kiss_of(api, job)
        assert (now["setting"]["force"], now["sure"], now["is_own"]) == (18, None, True)
        assert now["why"].endswith(", 20 % more force for 50 m of blade")
    finally:
        with transaction() as session:
            session.execute(delete(LadderRow).where(LadderRow.taken_m.is_not(None)))
            book.forget(session, key)


@pytest.mark.long
def test_under_film_a_sheet_is_tested_on_its_own_spare_area_and_cut_with_what_that_told(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    film = api.put(f"/api/prints/{sheet['id']}/film", json={"laminated": True}).json()
    here = {"print": sheet["id"]}
    bare, under = (
        next(
            each
            for each in api.get(f"/api/jobs/{job['id']}/settings", params=which).json()["settings"]
            if each["process"] == "kiss"
        )
        for which in ({}, here)
    )
    # The force of a whole step that is next to the root of 120 um over 90.
    assert under["setting"]["force"] == round(bare["setting"]["force"] * (120 / 90) ** 0.5)
    url, order = (
        f"/api/jobs/{job['id']}/test-cuts",
        {"process": "kiss", "print_id": sheet["id"], "on_sheet": True},
    )
    boxes = []
    test = api.post(url, json=order).json()
    for ladder in range(2):
        work()
        test = api.get(f"/api/test-cuts/{test['id']}").json()
        assert (test["state"], test["on_sheet"], test["laminated"]) == ("cut", True, True)
        (width, height), forces = test["ladders"][ladder]["picture_mm"], test["ladders"][ladder]["forces"]
        picture = Image.open(io.BytesIO(api.get(f"/api/test-cuts/{test['id']}/ladder.png").content))
        assert picture.width / width == pytest.approx(picture.height / height, rel=0.02)
        assert all(0 < x < width and 0 < y < height for x, y in test["ladders"][ladder]["labels"])
        # Lines are on it, and the sheet round them is bare.
        grey = np.asarray(picture.convert("L"))
        assert 0.002 < (grey < 200).mean() < 0.2
        with transaction() as session:
            kept = session.get_one(LadderRow, test["id"]).ladders[-1]
        boxes.append(kept["box"])
        # As large as its box, and there but for what the print is off on its paper; strokes are as thick as they look.
        px_per_mm = picture.width / width
        rows, columns = np.nonzero(grey[: round((height - 5) * px_per_mm)] < 215)
        left, top, right, bottom = (
            each / px_per_mm - 5 for each in (columns.min(), rows.min(), columns.max(), rows.max())
        )
        wide, high = kept["box"][2] - kept["box"][0], kept["box"][3] - kept["box"][1]
        assert (right - left, bottom - top) == pytest.approx((wide, high), abs=2.5)
        assert (left, top) == pytest.approx((0, 0), abs=3.5)
        answers = ["ragged" if force < under["setting"]["force"] else "clean" for force in forces]
        assert api.put(f"/api/test-cuts/{test['id']}/answers", json={"answers": answers}).status_code == 200
        if not ladder:
            assert api.post(f"/api/test-cuts/{test['id']}/ladders").status_code == 202
    first, second = (shapely.box(*box) for box in boxes)
    assert first.distance(second) >= 3
    left = (210 - film["film_mm"][0]) / 2
    assert all(box.within(shapely.box(left, 0, 210 - left, 297)) for box in (first, second))
    assert api.post(f"/api/test-cuts/{test['id']}/take").status_code == 200
    entry = next(each for each in api.get("/api/shop/book").json() if each["key"]["process"] == "kiss")
    assert entry["key"]["laminated"] is True
    force = entry["setting"]["force"]
    plans = [
        api.get(f"/api/jobs/{job['id']}/sheets/1/cut-plan", params=which).json()["processes"][0]["setting"]
        for which in (here, {})
    ]
    assert plans[0]["force"] == force
    # Brought over to the bare sheet, which is thinner.
    assert plans[1]["force"] == round(force * (90 / 120) ** 0.5)
    with patch.object(cutting, "CutJob", wraps=cutting.CutJob) as made:
        api.post(f"/api/prints/{sheet['id']}/cuts")
        work()
    assert made.call_args.args[6]["kiss"].force == force


def test_a_full_sheet_has_no_room_for_a_ladder_and_a_scrap_has(
    api: httpx.Client, work: Work, job: dict
) -> None:
    waiting = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    order = {"process": "kiss", "print_id": waiting["id"], "on_sheet": True}
    url = f"/api/jobs/{job['id']}/test-cuts"
    assert api.post(url, json=order).status_code == 409  # nothing is printed yet
    work()
    assert api.post(url, json=order | {"print_id": 999_999}).status_code == 404
    with patch("perisect.services.ladder_place.spare_place", return_value=None):
        refused = api.post(url, json=order)
    assert refused.status_code == 409
    assert "scrap" in refused.json()["detail"]
    scrap = api.post(url, json=order | {"on_sheet": False}).json()
    assert (scrap["on_sheet"], scrap["ladders"][0]["picture_mm"]) == (False, [120, 60])


def test_what_cannot_be_tested_is_said(api: httpx.Client, job: dict) -> None:
    url = f"/api/jobs/{job['id']}/test-cuts"
    assert api.post(url, json={"process": "laser"}).status_code == 404
    assert api.post("/api/jobs/999999/test-cuts", json={"process": "kiss"}).status_code == 404
    assert api.get("/api/test-cuts/999999").status_code == 404
    revision = api.get(f"/api/jobs/{job['id']}").json()["revision"]
    api.post(f"/api/jobs/{job['id']}/equipment", json={"revision": revision, "stock": "a4-card"})
    refused = api.post(url, json={"process": "kiss"})
    assert (refused.status_code, refused.json()["detail"]) == (422, "Test the through cut instead.")


def test_the_book_is_set_by_hand_and_passed_on_and_what_comes_in_is_never_trusted(api: httpx.Client) -> None:
    key = {"stock": "a4-film", "process": "through", "plotter": "desk", "blade": "45", "laminated": False}
    entry = {
        "key": key,
        "setting": {"speed_cm_s": 10, "force": 14, "passes": 2},
        "source": "test",
        "sure": 0.99,
    }
    kept = next(each for each in api.put("/api/shop/book", json=entry).json() if each["key"] == key)
    assert (kept["source"], kept["sure"], kept["setting"]["passes"]) == ("hand", None, 2)
    passed = api.get("/api/shop/book/book.json").json()
    assert passed["format"] == "perisect cut settings 1"
    theirs = {**entry, "key": key | {"blade": "60, theirs"}}
    mine = {**entry, "setting": entry["setting"] | {"force": 30}}
    taken = api.post("/api/shop/book/book.json", json={"entries": [theirs, mine]}).json()
    by_blade = {each["key"]["blade"]: each for each in taken if each["key"]["stock"] == "a4-film"}
    assert (by_blade["60, theirs"]["source"], by_blade["60, theirs"]["sure"]) == ("shop", None)
    assert by_blade["45"]["setting"]["force"] == 14  # what is here stays
    for wrong in (
        {"entries": [{**entry, "key": key | {"process": "laser"}}]},
        {"entries": [{**entry, "setting": {"speed_cm_s": 10, "force": -1}}]},
        {"format": "other", "entries": []},
        {"entries": [entry], "note": 1},
    ):
        assert api.post("/api/shop/book/book.json", json=wrong).status_code == 422
    left = api.post("/api/shop/book/forget", json=key).json()
    assert key not in [each["key"] for each in left]
