"""Counting a cut sheet, by one person and by several, and the job for what lacks."""

import io
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import NoReturn

import httpx
import numpy as np
import pytest
from PIL import Image
from sqlalchemy import text

from perisect.services.costing import work_times
from perisect.stand_ins import cut_photo
from perisect.store.database import transaction
from perisect.store.models import Print, Run
from tests.api.test_print_and_cut_api import Work, printed


class Undone(Exception):
    """What was tried is taken back; holds what was seen."""


def logged(print_id: int) -> NoReturn:
    """What a log says of six sheets that were asked for at eight and printed by twos of minutes; each cut for five
    minutes, with two between, and its 20 stickers counted in two.

    Raises:
        Undone: always, so that nothing of it stays.
    """
    eight = datetime(2026, 3, 2, 8, 0, tzinfo=UTC)
    with transaction() as session:
        for table in ("run", "print"):
            session.execute(text(f"UPDATE {table} SET finished_at = NULL"))
        assert work_times(session) == []
        first = session.get_one(Print, print_id)
        same = {key: getattr(first, key) for key in ("job_id", "step", "sheet", "recipe", "printer")}
        for n in range(6):
            begun = eight + timedelta(minutes=20 + 7 * n)
            over = begun + timedelta(minutes=5)
            session.add(
                Print(
                    **same,
                    state="printed",
                    created_at=eight,
                    finished_at=eight + timedelta(minutes=2 * n + 2),
                )
            )
            session.add(
                Run(
                    print_id=first.id,
                    job_id=first.job_id,
                    plotter="desk",
                    state="done",
                    created_at=begun,
                    finished_at=over,
                    counted_at=over + timedelta(minutes=2),
                    counted_good=19,
                    counted_bad=1,
                )
            )
        session.flush()
        raise Undone({each.rate: (each.value, each.times) for each in work_times(session)})


def test_the_log_says_how_long_sheets_and_stickers_take(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, job)
    with pytest.raises(Undone) as told:
        logged(sheet["id"])
    assert told.value.args[0] == {"print_min": (2.0, 6), "sheet_min": (2.0, 5), "sticker_s": (6.0, 6)}


def test_a_sheet_is_counted_once_and_what_lacks_becomes_a_job(
    api: httpx.Client, work: Work, job: dict
) -> None:
    (line,) = job["order"]
    assert (line["wanted"], line["to_cut"], line["more"]) == (2, 2, 0)
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    url = f"/api/runs/{run['id']}/count"
    assert api.put(url, json={"version": 0, "count": {}}).status_code == 409  # not cut yet
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert [each["design"] for each in done["stickers"]] == ["d1", "d1"]
    left, top, right, bottom = done["stickers"][0]["box"]
    assert (right - left, bottom - top) == pytest.approx(
        (44.0, 44.0), abs=0.05
    )  # a disc of 40 with a border of 2
    (line,) = api.get(f"/api/jobs/{job['id']}").json()["order"]
    assert (line["uncounted"], line["to_cut"], line["more"]) == (2, 0, 0)
    assert api.post(f"/api/jobs/{job['id']}/more").status_code == 409
    with ThreadPoolExecutor(8) as crowd:
        asked = list(
            crowd.map(
                lambda n: api.put(url, json={"version": 0, "count": {"bad": {n % 2: "slipped"}}}), range(8)
            )
        )
    assert sorted(each.status_code for each in asked) == [200] + [409] * 7
    kept = next(each.json() for each in asked if each.status_code == 200)
    assert (kept["counted_good"], kept["counted_bad"], kept["count_version"]) == (1, 1, 1)
    for wrong in (
        {"bad": {"7": "lost"}},
        {"bad": {"0": "bored"}},
        {"numbers": {"d1": {"good": 3}}},
        {"bad": {"-1": "lost"}},
    ):
        assert api.put(url, json={"version": 1, "count": wrong}).status_code == 422, wrong
    (line,) = api.get(f"/api/jobs/{job['id']}").json()["order"]
    assert (line["good"], line["bad"], line["more"]) == (1, 1, 1)
    more = api.post(f"/api/jobs/{job['id']}/more").json()
    assert more["title"] == "Test, what is missing"
    assert [each["copies"] for each in more["recipe"]["designs"]] == [1]
    assert more["sheets"]["count"] == 1
    # All good after all: nothing lacks.
    good = api.put(url, json={"version": 1, "count": {}}).json()
    assert (good["counted_good"], good["count"]["bad"]) == (2, {})
    assert api.get(f"/api/jobs/{job['id']}").json()["order"][0]["more"] == 0
    assert api.put("/api/runs/999999/count", json={"version": 0, "count": {}}).status_code == 404


@pytest.mark.long
def test_a_cut_is_measured_from_a_picture_of_its_sheet(api: httpx.Client, work: Work, job: dict) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    url = f"/api/runs/{run['id']}"
    nothing = {"file": ("x.png", b"not a picture", "image/png")}
    assert api.post(f"{url}/picture", files=nothing).status_code == 409  # not cut yet
    work()
    before = api.get(url).json()
    assert before["measured_by"] == "plotter"
    assert api.post(f"{url}/picture", files=nothing).status_code == 422
    shown = np.asarray(Image.open(io.BytesIO(api.get(f"{url}/cut.png").content)).convert("RGB"))
    for wrong, says in ((np.full((800, 600, 3), 255, np.uint8), "not all seen"), (shown[:1500], "marks")):
        refused = api.post(f"{url}/picture", files={"file": ("x.png", as_png(wrong), "image/png")})
        assert refused.status_code == 422
        assert says in refused.json()["detail"]
    assert api.get(url).json() == before
    taken = cut_photo.photo(cut_photo.cut_sheet(shown, 300 / 25.4, [], 7), 300 / 25.4, 7)
    after = api.post(f"{url}/picture", files={"file": ("x.jpg", as_png(taken), "image/png")})
    assert after.status_code == 200, after.text
    told = after.json()
    assert (told["measured_by"], told["good"], len(told["slips"])) == ("picture", 2, 2)
    for one, other in zip(told["slips"], before["slips"], strict=True):
        assert (one["dx_mm"], one["dy_mm"]) == pytest.approx((other["dx_mm"], other["dy_mm"]), abs=0.06)
        assert 0 < one["sure_mm"] < 0.1
    assert api.post("/api/runs/999999/picture", files=nothing).status_code == 404


def as_png(picture: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(picture).save(file, "PNG", compress_level=1)
    return file.getvalue()


def test_a_cut_is_measured_by_ruler_at_a_few_of_its_stickers(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    url = f"/api/runs/{run['id']}/ruler"
    assert api.get(url).status_code == 409  # not cut yet
    work()
    assert api.get(url).json() == [0, 1]
    # Both lie a quarter of a millimetre to the right of their art.
    sides = {"left_mm": 1.75, "right_mm": 2.25, "top_mm": 2.0, "bottom_mm": 2.0}
    read = {"readings": [sides | {"sticker": number} for number in (0, 1)]}
    done = api.post(url, json=read).json()
    assert done["measured_by"] == "ruler"
    for slip in done["slips"]:
        assert (slip["dx_mm"], slip["dy_mm"]) == (pytest.approx(0.25, abs=0.03), pytest.approx(0, abs=0.03))
        assert 0.1 < slip["sure_mm"] < 0.6
    for wrong in (
        {"readings": []},
        {"readings": read["readings"] + [sides | {"sticker": 7}]},
        {"readings": [sides | {"sticker": 0, "left_mm": 30}, sides | {"sticker": 1}]},
        {"readings": [sides | {"sticker": 0, "left_mm": "wide"}]},
    ):
        assert api.post(url, json=wrong).status_code == 422, wrong
    assert api.get("/api/runs/999999/ruler").status_code == 404
