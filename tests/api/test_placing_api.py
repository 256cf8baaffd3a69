"""Marks that a person sets: a bad one beside those that were sensed, and all of them where there is no sensor."""

import io
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager

import httpx
import numpy as np
import pytest
from PIL import Image

from perisect.store import blobs
from tests.api.test_going_on import until
from tests.api.test_print_and_cut_api import Work, printed
from tests.core.test_plain_plotter import at_socket


@contextmanager
def at_work(work: Work) -> Iterator[None]:
    worker = threading.Thread(target=work)
    worker.start()
    try:
        yield
    finally:
        worker.join(60)
        assert not worker.is_alive()


def spoil(sheet: dict, box: tuple[int, int, int, int]) -> None:
    """A printed sheet with a white patch, px."""
    name = f"prints/{sheet['id']}/printed.png"
    pixels = np.asarray(Image.open(io.BytesIO(blobs.get(name) or b""))).copy()
    left, top, right, bottom = box
    pixels[top:bottom, left:right] = 255
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "PNG")
    blobs.put(name, file.getvalue())


def ask(api: httpx.Client, run: dict, **order: object) -> dict:
    """Ask something, and wait until it is done."""
    url = f"/api/runs/{run['id']}"
    before = (api.get(url).json()["marking"] or {}).get("pictures")
    answer = api.post(f"{url}/placing", json=order)
    assert answer.status_code == 202, answer.text
    for _ in range(500):
        now = api.get(url).json()
        if now["marking"] is None or now["marking"]["pictures"] != before:
            return now
    raise AssertionError(now)


def said(api: httpx.Client, url: str) -> str:
    """What is said of the marks, once something is."""
    for _ in range(500):
        told = api.get(url).json()["marking"]
        if told is not None and told["said"]:
            return str(told["said"])
        time.sleep(0.02)
    raise AssertionError(told)


LOWER_RIGHT = (2200, 3180, 2480, 3480)


@pytest.mark.long
def test_a_mark_that_is_gone_is_set_by_hand_and_the_sheet_is_cut(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    spoil(sheet, LOWER_RIGHT)
    run = api.post(f"/api/prints/{sheet['id']}/cuts", params={"ask": True}).json()
    url = f"/api/runs/{run['id']}"
    assert api.post(f"{url}/placing", json={"do": "cut"}).status_code == 409  # not yet
    with at_work(work):
        until(api, url, "placing")
        marking = api.get(url).json()["marking"]
        assert "lower right mark was not found" in marking["said"]
        assert [mark["by"] for mark in marking["marks"]] == ["sensor"] * 3 + [None]
        assert marking["mark"] == 3
        assert marking["trouble"] is None  # three are enough
        assert Image.open(io.BytesIO(api.get(f"{url}/close-up.png").content)).size == (161, 161)
        at = marking["at_mm"]
        moved = ask(api, run, do="jog", dx_mm=0.1, dy_mm=-0.025)["marking"]["at_mm"]
        assert np.subtract(moved, at) == pytest.approx((0.1, -0.025), abs=1e-6)
        beyond = ask(api, run, do="jog", dx_mm=2500, dy_mm=0)["marking"]
        assert "does not go there" in beyond["said"]
        assert beyond["at_mm"] == moved
        assert "not found by the sensor" in ask(api, run, do="sense", mark=3)["marking"]["said"]
        assert "no mark 10" in ask(api, run, do="take", mark=9)["marking"]["said"]
        for wrong in (
            {"do": "jog", "dx_mm": 1e9, "dy_mm": 0},
            {"do": "dance"},
            {"do": "take"},
            {"do": "go", "mark": -1},
        ):
            assert api.post(f"{url}/placing", json=wrong).status_code == 422
        # Eight take it at once, from where the others say it is: it is the same place.
        ask(api, run, do="go", mark=3)
        with ThreadPoolExecutor(8) as crowd:
            asked = [
                crowd.submit(api.post, f"{url}/placing", json={"do": "take", "mark": 3}) for _ in range(8)
            ]
        assert {each.result().status_code for each in asked} == {202}
        taken = ask(api, run, do="use", mark=3)["marking"]
        assert [mark["by"] for mark in taken["marks"]] == ["sensor"] * 3 + ["hand"]
        assert all(mark["off_mm"] < 0.05 for mark in taken["marks"])
        # Accepted where the others say it is, it checks nothing, small as what is left over looks.
        assert api.post(f"{url}/placing", json={"do": "cut"}).status_code == 202
        assert "was not moved at the lower right mark" in said(api, url)
        ask(api, run, do="cut", sure=True)
    done = api.get(url).json()
    assert (done["state"], done["lines_done"], done["marking"]) == ("done", 2, None)
    assert (done["good"], done["bad"]) == (2, 0)  # measured by the three marks that are left
    assert done["slip_largest_mm"] < 0.2
    assert api.post(f"{url}/placing", json={"do": "cut"}).status_code == 409  # it is over
    assert api.post("/api/runs/999999/placing", json={"do": "cut"}).status_code == 404


@pytest.mark.long
def test_marks_that_do_not_fit_are_said_and_somebody_may_cancel(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    spoil(sheet, LOWER_RIGHT)
    run = api.post(f"/api/prints/{sheet['id']}/cuts", params={"ask": True}).json()
    url = f"/api/runs/{run['id']}"
    with at_work(work):
        until(api, url, "placing")
        ask(api, run, do="jog", dx_mm=8, dy_mm=0)
        wrong = ask(api, run, do="take", mark=3)["marking"]
        assert "do not fit together: 2.00 mm" in wrong["trouble"]
        assert ask(api, run, do="cut")["marking"]["said"] == wrong["trouble"]
        assert ask(api, run, do="leave", mark=3)["marking"]["trouble"] is None
        assert api.post(f"{url}/cancel").status_code == 200
    over = api.get(url).json()
    assert (over["state"], over["lines_done"]) == ("cancelled", 0)
    assert "No line of the sheet is cut" in over["message"]


@pytest.mark.long
def test_a_plotter_without_a_sensor_is_led_over_each_mark(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, job)
    plotter = next(each for each in api.get("/api/shop").json()["plotters"] if each["id"] == "desk")
    api.put("/api/shop/plotter", json=plotter | {"has_sensor": False})
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    url = f"/api/runs/{run['id']}"
    try:
        with at_work(work):
            until(api, url, "placing")
            now = api.get(url).json()
            assert [mark["by"] for mark in now["marking"]["marks"]] == [None] * 4
            assert "Two marks at least" in now["marking"]["trouble"]
            for number in range(4):
                assert now["marking"]["mark"] == number
                # Twice: of a mark far off a part is out of sight at first.
                for _ in range(2):
                    shot = Image.open(io.BytesIO(api.get(f"{url}/close-up.png").content))
                    # The plate is at 70. A mark is alike on both sides of its middle.
                    rows, columns = np.nonzero(np.asarray(shot.convert("L")) < 55)
                    dx, dy = (columns.mean() - 80) / 10, (80 - rows.mean()) / 10
                    ask(api, run, do="jog", dx_mm=round(dx / 0.025) * 0.025, dy_mm=round(dy / 0.025) * 0.025)
                now = ask(api, run, do="take", mark=number)
            assert now["marking"]["trouble"] is None
            assert all(mark["off_mm"] < 0.2 for mark in now["marking"]["marks"])
            ask(api, run, do="cut")
    finally:
        api.put("/api/shop/plotter", json=plotter)
    done = api.get(url).json()
    assert (done["state"], done["lines_done"]) == ("done", 2)
    assert done["slip_largest_mm"] < 0.3


@pytest.mark.long
def test_a_plotter_that_only_takes_its_language_cuts_a_sheet(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    plotter = next(each for each in api.get("/api/shop").json()["plotters"] if each["id"] == "desk")
    with at_socket(True) as (address, peer):
        assert api.put("/api/shop/plotter", json=plotter | {"address": address}).status_code == 200
        try:
            run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
            url = f"/api/runs/{run['id']}"
            with at_work(work):
                until(api, url, "placing")
                marking = api.get(url).json()["marking"]
                assert (marking["has_sensor"], marking["pictures"]) == (False, 0)
                # Two marks give shift, turn and one scale; the plotter says where it was jogged to at its own keys.
                for number in (0, 3):
                    send(api, run, do="go", mark=number)
                    if number == 0:
                        x, y = peer.at
                        peer.at = x + 40, y - 20
                    send(api, run, do="take", mark=number)
                assert [m["by"] for m in api.get(url).json()["marking"]["marks"]] == [
                    "hand",
                    None,
                    None,
                    "hand",
                ]
                # Neither two marks nor one that was accepted unmoved check anything: that is said before the knife.
                assert api.post(f"{url}/placing", json={"do": "cut"}).status_code == 202
                assert "was not moved at the" in said(api, url)
                doubts = api.get(url).json()["marking"]["doubts"]
                assert [doubt[:12] for doubt in doubts] == ["The blade wa", "2 marks fit "]
                assert api.post(f"{url}/placing", json={"do": "cut", "sure": True}).status_code == 202
        finally:
            api.put("/api/shop/plotter", json=plotter)
        done = api.get(url).json()
        assert (done["state"], done["lines_done"], done["slips"]) == ("done", 2, None)
        assert peer.got.count("PD") == 3  # the blade is turned beside the sheet first
        first = peer.got.index("PD", peer.got.index("PD") + 1)
        start = peer.got[peer.got.rindex("PU", 0, first) + 2 : first].strip(";").split(",")
        # The disc's line as drawn, a millimetre right and half a one down: 40 steps each.
        assert all(number.lstrip("-").isdecimal() for number in start)
        assert done["registration"]["scale_x_pct"] == pytest.approx(0, abs=0.02)


def send(api: httpx.Client, run: dict, **order: object) -> None:
    """Ask something, and wait until the plotter shows nothing more to do."""
    url = f"/api/runs/{run['id']}"
    before = api.get(url).json()["marking"]
    assert api.post(f"{url}/placing", json=order).status_code == 202
    for _ in range(300):
        if api.get(url).json()["marking"] != before:
            return
        time.sleep(0.02)
