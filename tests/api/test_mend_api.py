"""Mending through the API: one remedy, one step, and everything downstream follows."""

import io
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import cv2
import httpx
import numpy as np
import pytest
from PIL import Image

from tests.api.conftest import DISC
from tests.core import pictures
from tests.core.test_artwork import saved

Drop = Callable[[bytes], httpx.Response]


def job_with(api: httpx.Client, drop: Drop, rgb: np.ndarray, **design: object) -> dict:
    """A job with one picture."""
    artwork = drop(saved(Image.fromarray(rgb))).json()
    made = api.post("/api/jobs", json={"title": "Mend"}).json()
    recipe = {
        "designs": [{"id": "d1", "name": "Art", "artwork": artwork["sha256"], "longest_mm": 40, **design}]
    }
    body = {"revision": made["revision"], "recipe": recipe, "label": "Add"}
    return api.put(f"/api/jobs/{made['id']}/recipe", json=body).json()


def finding(job: dict, code: str) -> dict:
    return next(each for each in job["findings"] if each["code"] == code)


def remedied(api: httpx.Client, job: dict, code: str) -> dict:
    found = finding(job, code)
    body = {"revision": job["revision"], "remedy": found["remedy"], "design": found["design"]}
    answer = api.post(f"/api/jobs/{job['id']}/remedies", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def sail() -> np.ndarray:
    """A blue sailboard with a white sail on a white page, and a stray dot."""
    page = np.full((400, 300, 3), 255, np.uint8)
    page[60:340, 60:240] = (20, 60, 120)
    page[120:220, 100:200] = 255
    page[380:384, 20:24] = (20, 60, 120)
    return page


def test_a_plain_background_goes_and_lines_sheet_and_files_follow(api: httpx.Client, drop: Drop) -> None:
    before = job_with(api, drop, sail())
    assert before["designs"][0]["artwork"]["verdict"] == "plain"
    assert (before["designs"][0]["width_mm"], before["designs"][0]["height_mm"]) == pytest.approx((30, 40))
    after = remedied(api, before, "background_plain")
    assert after["recipe"]["designs"][0]["mend"]["background"] == "plain"
    assert after["step"] == before["step"] + 1
    box = after["designs"][0]["artwork"]["outline_box_px"]
    assert box == pytest.approx([20, 60, 240, 384], abs=0.6)  # the stray dot is still there
    clean = remedied(api, after, "specks")
    assert clean["designs"][0]["artwork"]["outline_box_px"] == pytest.approx([60, 60, 240, 340], abs=0.6)
    assert not [f for f in clean["findings"] if f["code"] in ("specks", "background_plain")]
    picture = clean["designs"][0]["artwork"]["picture"]
    shown = np.asarray(Image.open(io.BytesIO(api.get(f"/api/artwork/{picture}/preview.png").content)))
    assert shown[10, 10, 3] == 0
    assert shown[170, 150, 3] == 255  # the white sail stayed
    assert clean["sheets"]["count"] > after["sheets"]["count"] or clean["sheets"]["count"] > 0
    assert api.get(f"/api/jobs/{clean['id']}/sheets/1/print.pdf").status_code == 200


def test_a_remedy_without_a_revision_is_for_whatever_holds(api: httpx.Client, drop: Drop) -> None:
    seen = job_with(api, drop, sail())
    remedy = finding(seen, "background_plain")["remedy"]
    more = api.post(
        f"/api/jobs/{seen['id']}/pictures",
        params={"batch": "b1"},
        files={"file": ("kite.png", saved(Image.fromarray(sail()[::-1].copy())), "image/png")},
    )
    assert more.status_code == 202, more.text
    stale = api.post(
        f"/api/jobs/{seen['id']}/remedies",
        json={"revision": seen["revision"], "remedy": remedy, "design": "d1"},
    )
    assert stale.status_code == 409
    now = api.post(f"/api/jobs/{seen['id']}/remedies", json={"remedy": remedy, "design": "d1"}).json()
    assert [design["mend"]["background"] for design in now["recipe"]["designs"]] == ["plain", "as_is"]


def test_a_remedy_for_all_that_have_it_is_one_step(api: httpx.Client, drop: Drop) -> None:
    one = job_with(api, drop, sail())
    again = one["recipe"]["designs"][0] | {"id": "d2", "name": "Other"}
    body = {
        "revision": one["revision"],
        "recipe": one["recipe"] | {"designs": [*one["recipe"]["designs"], again]},
    }
    job = api.put(f"/api/jobs/{one['id']}/recipe", json=body).json()
    found = [each for each in job["findings"] if each["code"] == "background_plain"]
    first, second = ({"remedy": each["remedy"], "design": each["design"]} for each in found)
    after = api.post(f"/api/jobs/{job['id']}/remedies", json=first | {"also": [second]}).json()
    assert [design["mend"]["background"] for design in after["recipe"]["designs"]] == ["plain", "plain"]
    assert (after["step"], after["step_label"]) == (job["step"] + 1, "Remove the background, 2 pieces")
    gone = second | {"design": "d9"}
    assert api.post(f"/api/jobs/{job['id']}/remedies", json=first | {"also": [gone]}).status_code == 422


def test_an_island_is_pointed_at_and_knocked_out(api: httpx.Client, drop: Drop) -> None:
    removed = remedied(api, job_with(api, drop, sail()), "background_plain")
    island = finding(removed, "island")
    scale = 40 / (384 - 60)
    assert island["where_mm"] == pytest.approx([(150 - 20) * scale, (170 - 60) * scale], abs=6)
    out = remedied(api, removed, "island")
    assert out["recipe"]["designs"][0]["mend"]["knock_out"]
    assert not [f for f in out["findings"] if f["code"] == "island"]
    design = out["recipe"]["designs"][0]
    question = {key: design[key] for key in ("artwork", "mend", "longest_mm")} | {"border_mm": 0}
    assert api.post("/api/lines", json=question).json()["holes"] == 1
    back = api.post(f"/api/jobs/{out['id']}/undo", json={"revision": out["revision"]}).json()
    assert finding(back, "island")


def test_a_photograph_gets_a_frame(api: httpx.Client, drop: Drop) -> None:
    job = job_with(api, drop, pictures.photo(np.random.default_rng(5), 300)[:200])
    framed = remedied(api, job, "background_photograph")
    assert framed["recipe"]["designs"][0]["mend"]["frame"]["shape"] == "rounded"
    assert not [f for f in framed["findings"] if f["code"].startswith("background")]
    assert (framed["designs"][0]["width_mm"], framed["designs"][0]["height_mm"]) == pytest.approx(
        (40, 40 * 200 / 300), abs=0.1
    )


def page_of_shapes() -> np.ndarray:
    """Six discs on white, in two rows, and dust."""
    page = np.full((700, 1000, 3), 255, np.uint8)
    for row in range(2):
        for column in range(3):
            cv2.circle(
                page, (200 + 300 * column, 180 + 340 * row), 90 + 10 * column, (30, 90, 60), -1, cv2.LINE_AA
            )
    page[5:7, 5:7] = 0
    return page


def test_a_page_is_split_into_designs_that_print_as_one_did(api: httpx.Client, drop: Drop) -> None:
    removed = remedied(api, job_with(api, drop, page_of_shapes(), longest_mm=120), "background_plain")
    split = remedied(api, removed, "page")
    designs = split["recipe"]["designs"]
    assert [design["name"] for design in designs] == [f"Art {n}" for n in range(1, 7)]
    # Discs of 180, 200 and 220 px on a page whose outline is 120 mm long.
    box = removed["designs"][0]["artwork"]["outline_box_px"]
    scale = 120 / max(box[2] - box[0], box[3] - box[1])
    widths = [design["width_mm"] for design in split["designs"]]
    assert widths == pytest.approx([px * scale for px in (181, 201, 221)] * 2, rel=0.02)
    assert len({design["artwork"]["picture"] for design in split["designs"]}) == 6
    assert split["sheets"]["count"] >= 6
    back = api.post(f"/api/jobs/{split['id']}/undo", json={"revision": split["revision"]}).json()
    assert len(back["recipe"]["designs"]) == 1


def test_a_split_that_has_nothing_to_split_is_refused(api: httpx.Client, drop: Drop) -> None:
    job = job_with(api, drop, sail())
    remedy = {"label": "Split", "act": "split"}
    for design in ("d1", "d9", None):
        body = {"revision": job["revision"], "remedy": remedy, "design": design}
        answer = api.post(f"/api/jobs/{job['id']}/remedies", json=body)
        assert answer.status_code == 422
        assert "no longer applies" in answer.json()["title"]


@pytest.mark.parametrize(
    "mend",
    [
        {"background": "checkerboard"},
        {"background": "sky"},
        {"background": "plain", "tolerance": -1},
        {"background": "plain", "tolerance": 1e9},
        {"knock_out": [[-1, 5]]},
        {"knock_out": [[1, 2]] * 100},
        {"frame": {"shape": "heart"}},
        {"frame": {"shape": "rounded", "radius_pct": 99}},
        {"specks_px2": "many"},
        {"piece": [1]},
        {"magic": True},
    ],
)
def test_a_mend_that_cannot_be_is_refused_and_changes_nothing(
    mend: dict, api: httpx.Client, drop: Drop
) -> None:
    job = job_with(api, drop, sail())
    recipe = job["recipe"] | {"designs": [job["recipe"]["designs"][0] | {"mend": mend}]}
    answer = api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": job["revision"], "recipe": recipe})
    assert answer.status_code == 422
    assert answer.json()["detail"]
    assert api.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]


def test_a_tolerance_can_be_tried_without_keeping_it(api: httpx.Client, drop: Drop) -> None:
    job = job_with(api, drop, sail())
    sha256 = job["recipe"]["designs"][0]["artwork"]
    seen = api.get(f"/api/artwork/{sha256}/trial.png", params={"tolerance": 12})
    shown = np.asarray(Image.open(io.BytesIO(seen.content)))
    assert shown[10, 10, 3] == 0
    assert shown[170, 150, 3] == 255
    for wrong in (-1, 1000, "wide"):
        assert api.get(f"/api/artwork/{sha256}/trial.png", params={"tolerance": wrong}).status_code == 422
    photo = drop(saved(Image.fromarray(pictures.photo(np.random.default_rng(6), 200)))).json()["sha256"]
    assert api.get(f"/api/artwork/{photo}/trial.png", params={"tolerance": 12}).status_code == 422
    assert api.get(f"/api/jobs/{job['id']}").json()["step"] == job["step"]


def test_a_tolerance_can_be_tried_on_a_checkerboard(api: httpx.Client, drop: Drop) -> None:
    y, x = np.mgrid[:300, :300]
    board = np.where((x // 10 + y // 10) % 2 == 0, 255, 204)[..., None].repeat(3, 2).astype(np.uint8)
    board[100:200, 100:200] = (30, 90, 160)
    # Eight levels beside the light grey: ground at a tolerance of ten, art at one of five.
    board[40:60, 40:60] = np.where(board[40:60, 40:60] == 255, 247, 196)
    sha256 = drop(saved(Image.fromarray(board))).json()["sha256"]
    for tolerance, alpha in ((5, 255), (10, 0)):
        seen = api.get(f"/api/artwork/{sha256}/trial.png", params={"tolerance": tolerance})
        shown = np.asarray(Image.open(io.BytesIO(seen.content)))[..., 3]
        assert (shown[5, 5], shown[150, 150], shown[45, 45]) == (0, 255, alpha)


def test_what_may_be_art_is_pointed_at_and_its_remedy_settles_it(api: httpx.Client, drop: Drop) -> None:
    # A disc 2.8 in L from white: kept at 2.5, and taken by what its remedy proposes, 1.7 times as much.
    picture = pictures.on(255.0, (247, 247, 247), pictures.disc(300, 60))
    picture[20:60, 20:60, :3] = (200, 30, 40)
    job = remedied(api, job_with(api, drop, picture[..., :3]), "background_plain")
    left = finding(job, "removal_left")
    assert left["remedy"]["field"] == "mend.tolerance"
    assert left["remedy"]["value"] == pytest.approx(2.5 * 1.7, abs=0.06)
    # In its design's own mm it lies on the disc.
    after = remedied(api, job, "removal_left")
    assert not [f for f in after["findings"] if f["code"] == "removal_left"]
    assert after["designs"][0]["artwork"]["tolerance"] == 2.5


def test_a_mend_that_leaves_nothing_is_said(api: httpx.Client, drop: Drop) -> None:
    pale = np.full((100, 100, 3), 255, np.uint8)
    pale[40:60, 40:60] = 252
    job = job_with(api, drop, pale)
    mend = {"background": "plain", "tolerance": 60}
    recipe = job["recipe"] | {"designs": [job["recipe"]["designs"][0] | {"mend": mend}]}
    answer = api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": job["revision"], "recipe": recipe})
    assert answer.status_code == 422
    assert "clear" in answer.json()["title"]


def at_once(asks: list[Callable[[], httpx.Response]]) -> list[int]:
    """Status of each, all asked at the same time."""
    with ThreadPoolExecutor(len(asks)) as threads:
        return [asked.result().status_code for asked in [threads.submit(ask) for ask in asks]]


def test_remedies_and_pictures_of_eight_hands_at_once_are_all_kept(api: httpx.Client, drop: Drop) -> None:
    job = job_with(api, drop, sail())
    one = job["recipe"]["designs"][0]
    recipe = job["recipe"] | {"designs": [one | {"id": f"d{n}"} for n in range(1, 5)]}
    body = {"revision": job["revision"], "recipe": recipe}
    job = api.put(f"/api/jobs/{job['id']}/recipe", json=body).json()
    path = f"/api/jobs/{job['id']}"
    wanted = finding(job, "background_plain")["remedy"]

    def remedy(design: str) -> Callable[[], httpx.Response]:
        return lambda: api.post(f"{path}/remedies", json={"remedy": wanted, "design": design})

    def picture(number: int) -> Callable[[], httpx.Response]:
        files = {"file": (f"disc {number}.png", DISC, "image/png")}
        return lambda: api.post(
            f"{path}/pictures", params={"batch": "hands", "position": number}, files=files
        )

    statuses = at_once([remedy(f"d{n}") for n in range(1, 5)] + [picture(n) for n in range(4)])
    assert set(statuses) <= {200, 202}
    now = api.get(path).json()
    kept = [design["mend"]["background"] for design in now["recipe"]["designs"]]
    assert kept == ["plain"] * 4 + ["as_is"] * 4
    steps = api.get(f"{path}/steps").json()
    assert not [step for step in steps if step["aside"]]


def test_a_worker_that_died_after_a_change_does_not_make_it_twice(api: httpx.Client, drop: Drop) -> None:
    from perisect.services import operations as service
    from perisect.store.database import transaction
    from perisect.store.models import Operation

    job = job_with(api, drop, sail())
    removed = remedied(api, job, "background_plain")
    island = finding(removed, "island")["remedy"]
    request = {"job": job["id"], "revision": None, "label": "Knock out", "remedy": island, "design": "d1"}
    row = {"kind": "change", "key": "died", "doing": "", "share": 0.0, "stop": "", "tries": 1}
    with transaction() as session:
        # Over, so that no worker of the tests takes it.
        operation = Operation(**row, job_id=job["id"], request=request, state="failed")
        session.add(operation)
        session.flush()
        number = operation.id
    first = service.KINDS["change"](request | {"operation": number})
    again = service.KINDS["change"](request | {"operation": number})
    assert again == first
    now = api.get(f"/api/jobs/{job['id']}").json()
    assert now["step"] == removed["step"] + 1
    assert now["recipe"]["designs"][0]["mend"]["knock_out"] == [list(place) for place in island["places"]]
