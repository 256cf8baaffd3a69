"""A job that is only cut: bare stock, no marks, no print."""

import io
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import ezdxf
import httpx
import numpy as np
from ezdxf import bbox
from PIL import Image

Work = Callable[[], None]


def cut_only(api: httpx.Client, job: dict, **sheet: object) -> dict:
    recipe = job["recipe"] | {"sheet": job["recipe"]["sheet"] | {"cut_only": True, **sheet}}
    body = {"revision": job["revision"], "recipe": recipe, "label": "Cut only"}
    answer = api.put(f"/api/jobs/{job['id']}/recipe", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def stock_left(api: httpx.Client, item: str) -> float:
    found = next(each for each in api.get("/api/stockroom").json() if each["item"] == item)
    return found["used"]


def test_bare_stock_has_no_marks_and_no_printer_margins(api: httpx.Client, job: dict) -> None:
    assert len(job["sheets"]["marks"]) == 4
    bare = cut_only(api, job)
    assert bare["sheets"]["marks"] == []
    # The plotter still holds its grip: 6 mm at the sides and the top, 9 at the foot of 210 x 297 mm.
    assert bare["sheets"]["limits"] == [6.0, 6.0, 204.0, 288.0]
    assert [len(each["placements"]) for each in bare["sheets"]["sheets"]] == [2]
    assert not [each for each in bare["findings"] if each["severity"] == "stop"]
    said = {each["code"] for each in bare["findings"]}
    assert not said & {"resolution", "marks_clear", "bleed", "pale"}
    file = ezdxf.read(io.StringIO(api.get(f"/api/jobs/{job['id']}/sheets/1/cut.dxf").text))
    assert not [each for each in file.modelspace() if each.dxf.layer == "marks"]
    kiss = bbox.extents([each for each in file.modelspace() if each.dxf.layer == "kiss"])
    assert kiss.extmin.x >= 6 - 0.01
    # More fit where no mark takes a corner.
    marked = api.put(
        f"/api/jobs/{job['id']}/recipe",
        json={
            "revision": bare["revision"],
            "recipe": job["recipe"] | {"sheet": {"fill": True}},
            "label": "Filled",
        },
    ).json()
    filled = cut_only(api, marked)
    many = [sum(len(s["placements"]) for s in each["sheets"]["sheets"]) for each in (marked, filled)]
    assert many[1] >= many[0]


def test_it_is_cut_counted_and_booked_without_a_print(api: httpx.Client, work: Work, job: dict) -> None:
    bare = cut_only(api, job)
    url = f"/api/jobs/{job['id']}"
    refused = api.post(f"{url}/prints", json={"sheet": 1})
    assert (refused.status_code, refused.json()["title"]) == (409, "This job is not printed.")
    assert api.post(f"{url}/sheets/9/cuts").status_code == 404
    before = stock_left(api, "stock:a4")
    started = [api.post(f"{url}/sheets/1/cuts") for _ in range(2)]
    assert [each.status_code for each in started] == [202, 409]  # one sheet at a time at one plotter
    run = started[0].json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["lines_done"], done["slips"]) == ("done", done["lines_total"], None)
    assert done["lines_total"] == 2
    now = api.get(url).json()
    (sheet,) = now["prints"]
    assert (sheet["way"], sheet["state"], sheet["current"]) == ("bare", "printed", True)
    assert stock_left(api, "stock:a4") == before + 1
    picture = Image.open(io.BytesIO(api.get(f"/api/runs/{run['id']}/cut.png").content))
    assert np.asarray(picture.convert("L")).min() < 200  # the cuts are drawn on the bare sheet
    counted = api.put(f"/api/runs/{run['id']}/count", json={"version": 0, "count": {"bad": {}}})
    assert counted.status_code == 200, counted.text
    assert counted.json()["counted_good"] == 2
    # The next sheet is another one.
    assert api.post(f"{url}/sheets/1/cuts").status_code == 202
    work()
    assert stock_left(api, "stock:a4") == before + 2
    assert bare["recipe"]["sheet"]["cut_only"] is True


def test_a_printed_job_is_not_cut_bare(api: httpx.Client, job: dict) -> None:
    refused = api.post(f"/api/jobs/{job['id']}/sheets/1/cuts")
    assert (refused.status_code, refused.json()["title"]) == (409, "This job is printed before it is cut.")


def test_a_busy_plotter_spends_no_second_sheet(api: httpx.Client, work: Work, job: dict) -> None:
    cut_only(api, job)
    url = f"/api/jobs/{job['id']}"
    before = stock_left(api, "stock:a4")
    assert api.post(f"{url}/sheets/1/cuts").status_code == 202
    assert [api.post(f"{url}/sheets/1/cuts").status_code for _ in range(3)] == [409] * 3
    work()
    assert stock_left(api, "stock:a4") == before + 1
    assert api.post(f"{url}/sheets/1/cuts").status_code == 202
    work()
    assert stock_left(api, "stock:a4") == before + 2


def test_a_cut_that_never_began_spends_no_sheet(api: httpx.Client, work: Work, job: dict) -> None:
    cut_only(api, job)
    url = f"/api/jobs/{job['id']}/sheets/1/cuts"
    before = stock_left(api, "stock:a4")
    run = api.post(url).json()
    assert api.post(f"/api/runs/{run['id']}/cancel").json()["state"] == "cancelled"
    again = api.post(url).json()
    assert again["print_id"] == run["print_id"]
    work()
    assert api.get(f"/api/runs/{again['id']}").json()["state"] == "done"
    assert stock_left(api, "stock:a4") == before + 1


def test_eight_who_load_bare_stock_at_once_load_one_sheet(api: httpx.Client, work: Work, job: dict) -> None:
    cut_only(api, job)
    url = f"/api/jobs/{job['id']}/sheets/1/cuts"
    before = stock_left(api, "stock:a4")
    with ThreadPoolExecutor(8) as crowd:
        told = sorted(crowd.map(lambda _: api.post(url).status_code, range(8)))
    assert told == [202] + [409] * 7
    assert stock_left(api, "stock:a4") == before + 1
    work()
