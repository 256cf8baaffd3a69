"""Long readings can be watched and cancelled; pages, sizes, tone, rights and merging through the API."""

import hashlib
import io
import time
from collections.abc import Callable

import httpx
import numpy as np
import pikepdf
import pytest
from PIL import Image

from tests.api.conftest import DISC, STAR
from tests.api.test_mend_api import finding, job_with, remedied
from tests.core import pictures
from tests.core.icc import press
from tests.core.test_background import page_of_drawings, saved
from tests.core.test_tone import SRGB

Drop = Callable[[bytes], httpx.Response]


def changed(api: httpx.Client, job: dict, **design: object) -> dict:
    """The job with its first design changed."""
    recipe = job["recipe"]
    recipe["designs"][0] |= design
    body = {"revision": job["revision"], "recipe": recipe, "label": "Change"}
    answer = api.put(f"/api/jobs/{job['id']}/recipe", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def noisy(side: int) -> bytes:
    """A picture that takes a while: large, and its background full of grain."""
    rng = np.random.default_rng(9)
    grain = rng.integers(200, 256, (side, side, 3), dtype=np.uint8)
    return saved(Image.fromarray(grain), "PNG", compress_level=1)


def sent(
    api: httpx.Client, job: int, data: bytes, wait_s: int = 60, name: str = "art.png", **place: object
) -> dict:
    """A picture sent to a job; the operation once it is over, or as it is after a while."""
    params = {"batch": "b1", **place}
    files = {"file": (name, data, "image/png")}
    headers = {"Prefer": f"wait={wait_s}"}
    answer = api.post(f"/api/jobs/{job}/pictures", params=params, files=files, headers=headers)
    assert answer.status_code == 202, answer.text
    return answer.json()


@pytest.mark.long
def test_a_reading_is_watched_and_cancelled_and_the_next_one_works(api: httpx.Client) -> None:
    job = api.post("/api/jobs", json={"title": "Watched"}).json()["id"]
    asked = sent(api, job, noisy(5500), wait_s=0)
    seen: set[str] = set()
    deadline = time.monotonic() + 30
    while not any(doing and "Waiting" not in doing for doing in seen):
        seen.add(api.get(f"/api/operations/{asked['id']}", headers={"Prefer": "wait=0"}).json()["doing"])
        assert time.monotonic() < deadline
        time.sleep(0.02)
    api.post(f"/api/operations/{asked['id']}/stop")
    over = api.get(f"/api/operations/{asked['id']}").json()
    assert over["state"] == "cancelled"
    assert api.get(f"/api/jobs/{job}").json()["recipe"]["designs"] == []
    assert sent(api, job, DISC)["state"] == "done"
    assert [d["name"] for d in api.get(f"/api/jobs/{job}").json()["recipe"]["designs"]] == ["Art"]


def test_pictures_dropped_together_are_one_step_in_the_order_of_their_files(api: httpx.Client) -> None:
    job = api.post("/api/jobs", json={"title": "Dropped"}).json()
    for position, data in ((2, DISC), (0, STAR), (1, noisy(40))):
        assert sent(api, job["id"], data, position=position)["state"] == "done"
    after = api.get(f"/api/jobs/{job['id']}").json()
    assert (after["step"], after["step_label"]) == (job["step"] + 1, "Add 3 pictures")
    star, noise, disc = (design["artwork"]["sha256"] for design in after["designs"])
    assert star == hashlib.sha256(STAR).hexdigest()
    assert (noise, disc) == (hashlib.sha256(noisy(40)).hexdigest(), hashlib.sha256(DISC).hexdigest())
    assert {design["rights"]["may_be_sold"] for design in after["recipe"]["designs"]} == {"unknown"}
    broken = sent(api, job["id"], DISC[: len(DISC) // 2], batch="b2")
    assert (broken["state"], broken["problem"]["status"]) == ("failed", 422)
    assert api.get(f"/api/jobs/{job['id']}").json()["revision"] == after["revision"]


def test_a_job_that_nobody_named_is_called_as_its_first_pictures(api: httpx.Client) -> None:
    unnamed, named = (
        api.post("/api/jobs", json={"title": title}).json()["id"] for title in ("New job", "Spring")
    )
    for job, title in ((unnamed, "Art"), (named, "Spring")):
        assert sent(api, job, DISC)["state"] == "done"
        assert api.get(f"/api/jobs/{job}").json()["title"] == title
    # Not as whichever of a drop was read first, and not anew with a later one.
    names = {0: "heron.png", 1: "gull.png"}
    together = api.post("/api/jobs", json={"title": "New job"}).json()["id"]
    for batch, order in (("b3", (1, 0)), ("b4", (0, 1))):
        for position in order:
            assert (
                sent(api, together, STAR, batch=batch, position=position, name=names[position])["state"]
                == "done"
            )
        assert api.get(f"/api/jobs/{together}").json()["title"] == "Heron and 1 more"


def test_every_page_of_a_pdf_can_be_a_piece(api: httpx.Client, drop: Drop) -> None:
    pdf = pikepdf.new()
    for width in (20, 60):
        pdf.add_blank_page(page_size=(100, 100))
        pdf.pages[-1].Contents = pdf.make_stream(f"0 0.4 0.4 rg 10 20 {width} 60 re f".encode())
    file = io.BytesIO()
    pdf.save(file)
    taken = drop(file.getvalue()).json()
    assert (taken["pages"], taken["notes"]) == (2, ["Page 1 of 2."])
    made = api.post("/api/jobs", json={"title": "Pages"}).json()
    designs = [
        {
            "id": f"d{n}",
            "name": f"Page {n}",
            "artwork": taken["sha256"],
            "longest_mm": 60,
            "mend": {"page": n},
        }
        for n in (1, 2)
    ]
    body = {"revision": made["revision"], "recipe": {"designs": designs}, "label": "Add"}
    first, second = api.put(f"/api/jobs/{made['id']}/recipe", json=body).json()["designs"]
    assert (first["width_mm"], first["height_mm"]) == pytest.approx((20, 60), abs=0.1)
    assert (second["width_mm"], second["height_mm"]) == pytest.approx((60, 60), abs=0.1)
    body["recipe"]["designs"][0]["mend"]["page"] = 3
    refused = api.put(f"/api/jobs/{made['id']}/recipe", json=body | {"revision": made["revision"] + 1})
    assert (refused.status_code, refused.json()["title"]) == (422, "The PDF has no page 3.")


@pytest.mark.long
def test_limits_that_are_tried_are_those_that_split(api: httpx.Client, drop: Drop) -> None:
    page = page_of_drawings(np.random.default_rng(1))
    artwork = drop(saved(Image.fromarray(page), "PNG", compress_level=1)).json()
    made = api.post("/api/jobs", json={"title": "Page"}).json()
    design = {"id": "d1", "name": "Birds", "artwork": artwork["sha256"], "longest_mm": 280}
    body = {"revision": made["revision"], "recipe": {"designs": [design]}, "label": "Add"}
    job = api.put(f"/api/jobs/{made['id']}/recipe", json=body).json()
    tried = api.get(f"/api/artwork/{artwork['picture']}/pieces", params={"joining_px": 0.5}).json()
    assert len(tried) > 24  # the dots of the letters come apart
    job = changed(api, job, mend={"split": {"joining_px": 0.5}})
    assert finding(job, "page")["measured"] == len(tried)
    split = remedied(api, changed(api, job, mend={}), "page")
    assert len(split["recipe"]["designs"]) == 24
    ids = [each["id"] for each in split["recipe"]["designs"][:3]]
    merged = api.post(
        f"/api/jobs/{job['id']}/merge", json={"revision": split["revision"], "designs": ids}
    ).json()
    assert len(merged["recipe"]["designs"]) == 22
    assert merged["designs"][0]["width_mm"] > 2 * split["designs"][0]["width_mm"]
    refused = api.post(f"/api/jobs/{job['id']}/merge", json={"revision": 99, "designs": ["a", "b"]})
    assert refused.status_code == 422


def test_the_shop_s_sizes_are_its_own(api: httpx.Client) -> None:
    before = api.get("/api/sizes").json()
    assert {"Laptop lid", "Staff badge"} <= {size["use"] for size in before}
    mine = [{"use": "Thermos", "side": "height", "mm": 70}]
    assert api.put("/api/sizes", json=mine).json() == [mine[0] | {"height_mm": None}]
    box = api.put("/api/sizes", json=[{"use": "Box", "side": "box", "mm": 30}])
    assert (box.status_code, "width and a height" in box.json()["detail"]) == (422, True)
    assert api.put("/api/sizes", json=[]).status_code == 422
    assert len(api.get("/api/sizes").json()) == 1
    api.put("/api/sizes", json=before)


def test_a_stock_s_tone_changes_the_print_and_never_the_picture(api: httpx.Client, job: dict) -> None:
    sheet = f"/api/jobs/{job['id']}/sheets/1/print.pdf"
    plain = api.get(sheet).content
    picture = job["designs"][0]["artwork"]["picture"]
    shown = api.get(f"/api/artwork/{picture}/preview.png").content
    told = api.put("/api/tones/desk/a4/standard", json={"brightness": 20}).json()
    assert (told["tone"]["brightness"], len(told["patches"])) == (20, 12)
    assert api.get(sheet).content != plain
    assert api.get(f"/api/artwork/{picture}/preview.png").content == shown
    proof = api.get(f"/api/tones/desk/a4/standard/proof/{picture}.png", params={"brightness": 20})
    middle = np.asarray(Image.open(io.BytesIO(proof.content)))[260, 260, :3]
    assert middle.tolist() == [60 + 51, 120 + 51, 150 + 51]
    best = api.post("/api/tones/desk/a4/standard/patch", json={"number": 5}).json()["tone"]
    assert (best["brightness"], best["contrast"]) == (20, 8)
    strip = api.get(f"/api/tones/desk/a4/standard/strip/{picture}.pdf")
    assert strip.content.startswith(b"%PDF")
    api.put("/api/tones/desk/a4/standard", json={})
    assert api.get(sheet).content == plain


def test_a_profile_is_loaded_named_used_and_taken_away(api: httpx.Client, job: dict) -> None:
    sent = api.put("/api/tones/desk/letter/standard/profile", files={"file": ("a.icc", SRGB)})
    assert "sRGB" in sent.json()["profile_name"]
    picture = job["designs"][0]["artwork"]["picture"]
    assert (
        api.get(f"/api/tones/desk/letter/standard/proof/{picture}.png", params={"proof": True}).status_code
        == 200
    )
    refused = api.put("/api/tones/desk/letter/standard/profile", files={"file": ("a.icc", b"no profile")})
    assert (refused.status_code, "ICC" in refused.json()["detail"]) == (422, True)
    assert "sRGB" in api.get("/api/tones/desk/letter/standard").json()["profile_name"]
    assert api.delete("/api/tones/desk/letter/standard/profile").json()["profile_name"] is None
    gamut = f"/api/tones/desk/letter/standard/gamut/{picture}"
    assert api.get(gamut).status_code == 409
    api.put("/api/tones/desk/letter/standard/profile", files={"file": ("press.icc", press())})
    # The disc is of one colour, more saturated than the made-up press prints it; without its colour it is a grey.
    assert api.get(gamut).json() == {"share_beyond": 1.0, "is_cmyk": True}
    shown = f"/api/tones/desk/letter/standard/proof/{picture}.png"
    proofs = [api.get(shown, params={"proof": True, "gamut": gamut}).content for gamut in (False, True)]
    assert proofs[0] != proofs[1]
    api.put("/api/tones/desk/letter/standard", json={"saturation": -100})
    assert api.get(gamut).json()["share_beyond"] < 0.01
    api.put("/api/tones/desk/letter/standard", json={})
    api.delete("/api/tones/desk/letter/standard/profile")
    for bad in ("curve=9", "curve=9,9;8,8", "brightness=900"):
        assert api.get(f"/api/tones/desk/letter/standard/proof/{picture}.png?{bad}").status_code == 422


def test_an_order_asks_for_rights_at_the_sheet(api: httpx.Client, drop: Drop) -> None:
    job = job_with(api, drop, pictures.photo(np.random.default_rng(5), 200))
    assert not [f for f in job["findings"] if f["code"] == "rights"]
    body = {"revision": job["revision"], "recipe": job["recipe"] | {"order": True}, "label": "An order"}
    order = api.put(f"/api/jobs/{job['id']}/recipe", json=body).json()
    asked = finding(order, "rights")
    assert (asked["station"], asked["severity"]) == ("sheet", "look")
    assert asked in order["sheets"]["findings"]
    said = remedied(api, order, "rights")
    assert said["recipe"]["designs"][0]["rights"]["may_be_sold"] == "yes"
    assert not [f for f in said["findings"] if f["code"] == "rights"]
    never = changed(api, said, rights={"may_be_sold": "no", "source": "a magazine"})
    assert (finding(never, "rights")["severity"], finding(never, "rights")["remedy"]) == ("stop", None)


def test_a_frame_in_mm_follows_the_size(api: httpx.Client, drop: Drop) -> None:
    job = job_with(api, drop, pictures.photo(np.random.default_rng(6), 300))
    framed = changed(api, job, mend={"frame": {"shape": "rectangle", "border_mm": 4}})
    larger = changed(api, framed, longest_mm=80)
    boxes = [j["designs"][0]["artwork"]["outline_box_px"] for j in (framed, larger)]
    # 300 px on 40 - 8 mm and on 80 - 8 mm, and the border beside them.
    assert [box[2] - box[0] for box in boxes] == pytest.approx([300 * 40 / 32, 300 * 80 / 72], abs=1.1)
