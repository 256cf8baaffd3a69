"""Pieces of several things through the API, and fonts of the person's own."""

import io
from pathlib import Path

import ezdxf
import httpx
import numpy as np
import pytest
from ezdxf import bbox
from fontTools.ttLib import TTFont

from perisect.core.fonts import FOLDER
from tests.core.test_die import dxf, ticket

BADGE = (
    {"kind": "words", "text": "{name}", "place": "round", "size_mm": 5, "gap_mm": 1.5, "font": "text-bold"},
    {
        "kind": "words",
        "text": "Reedwater kiosk",
        "place": "on",
        "size_mm": 1.8,
        "font": "text",
        "role": "print",
    },
    {"kind": "ground", "shape": "circle", "margin_mm": 2, "colour": "#cfe3dd"},
)


@pytest.fixture
def part(api: httpx.Client, job: dict) -> dict:
    return api.get(f"/api/jobs/{job['id']}/designs/d1/part").json()


@pytest.mark.long
def test_a_badge_is_placed_at_once_and_made_for_each_name(api: httpx.Client, job: dict, part: dict) -> None:
    composition = {"parts": [part, *BADGE]}
    told = api.post("/api/compose", json=composition).json()
    by_number = {each["number"]: each for each in told["parts"]}
    assert by_number[0]["box"] == pytest.approx([-20, -20, 20, 20], abs=0.02)  # the disc of 40 mm
    assert by_number[1]["path"].startswith("M")
    left, top, right, bottom = by_number[3]["box"]
    assert (right - left, told["pieces"]) == (pytest.approx(bottom - top), 1)
    # Braces reach a little above the capitals.
    assert right - left == pytest.approx(2 * (20 + 1.5 + 5 + 2), abs=1.0)
    names = ["Ada", "Bo", "Cy"]
    wanted = {"composition": composition, "design": "d1", "names": names}
    made = api.post(f"/api/jobs/{job['id']}/compose", json=wanted)
    assert made.status_code == 201, made.text
    now = api.get(f"/api/jobs/{job['id']}").json()
    designs = now["recipe"]["designs"]
    assert [(d["id"], d["name"]) for d in designs] == [("d1", "Disc"), ("d2", "Bo"), ("d3", "Cy")]
    assert all(d["longest_mm"] == pytest.approx(right - left, abs=1.5) for d in designs)
    assert now["step"] == job["step"] + 1
    kept = api.get(f"/api/artwork/{designs[1]['artwork']}/composition").json()
    assert kept["parts"][1]["text"] == "Bo"
    # One step back, and the disc is as it was.
    back = api.post(f"/api/jobs/{job['id']}/undo", json={"revision": now["revision"]}).json()
    assert [d["longest_mm"] for d in back["recipe"]["designs"]] == [40]
    assert api.get(f"/api/artwork/{back['recipe']['designs'][0]['artwork']}/composition").json() is None


def test_what_cannot_be_composed_is_said(api: httpx.Client, job: dict, part: dict) -> None:
    words = {"kind": "words", "text": "Ferry"}
    for wrong, says in (
        ({"parts": [words | {"role": "print"}]}, "printed only"),
        ({"parts": [words | {"text": "   "}]}, "Nothing of this is printed"),
        ({"parts": [words | {"size_mm": 200, "text": "Ferry ferry ferry"}]}, "400 mm"),
        ({"parts": [words | {"font": "f" * 64}]}, "font"),
    ):
        refused = api.post("/api/compose", json=wrong)
        assert refused.status_code == 422, wrong
        assert says in refused.json()["detail"], refused.json()
    for wrong in (
        {"parts": []},
        {"parts": [BADGE[2]]},
        {"parts": [words | {"size_mm": 0}]},
        {"parts": [words | {"text": "a\x00b"}]},
        {"parts": [words] * 25},
        {"parts": [words | {"tracking": 1e9}]},
    ):
        assert api.post("/api/compose", json=wrong).status_code == 422, wrong
    strange = part | {"picture": "0" * 64}
    assert api.post("/api/compose", json={"parts": [strange]}).status_code == 404
    fine = {"kind": "ground", "pattern": "dots", "pattern_mm": 0.5, "second": "#ff0000"}
    refused = api.post(f"/api/jobs/{job['id']}/compose", json={"composition": {"parts": [part, fine]}})
    assert (refused.status_code, "coarser" in refused.json()["detail"]) == (422, True)
    assert api.post("/api/jobs/999999/compose", json={"composition": {"parts": [words]}}).status_code == 404
    lacking = api.post(
        "/api/compose", json={"parts": [words | {"text": "\U0001f6f6 Ferry", "size_mm": 1}]}
    ).json()
    assert (lacking["lacking"], lacking["small"]) == ("\U0001f6f6", ["\U0001f6f6 Ferry"])


def woff2(name: str) -> bytes:
    font, out = TTFont(FOLDER / f"{name}.ttf"), io.BytesIO()
    font.flavor = "woff2"
    font["OS/2"].fsType = 4
    font.save(out)
    return out.getvalue()


def test_a_font_of_ones_own_sets_words_and_a_broken_one_is_refused(api: httpx.Client) -> None:
    def sent(data: bytes) -> httpx.Response:
        return api.post("/api/fonts", files={"file": ("x.woff2", data, "font/woff2")})

    data = woff2("round")
    taken = sent(data)
    assert taken.status_code == 201, taken.text
    own = next(each for each in taken.json() if each["own"])
    assert (own["name"], own["rights"]) == ("Fredoka Light SemiBold", "for print and preview")
    words = {"kind": "words", "text": "Heron", "size_mm": 10}
    mine = api.post("/api/compose", json={"parts": [words | {"font": own["key"]}]}).json()
    same = api.post("/api/compose", json={"parts": [words | {"font": "round"}]}).json()
    assert mine["parts"][0]["path"] == same["parts"][0]["path"]
    plain = (FOLDER / "text.ttf").read_bytes()
    rng = np.random.default_rng(5)
    hostile = [
        b"",
        b"not a font",
        b"ttcf" + plain,
        plain[:5000],
        data[: len(data) // 2],
        Path(__file__).read_bytes(),
    ]
    for _ in range(12):
        spoiled = bytearray(plain)
        for at in rng.integers(0, 3000, 40):
            spoiled[at] = rng.integers(256)
        hostile.append(bytes(spoiled))
    for bad in hostile:
        answer = sent(bad)
        assert answer.status_code in (201, 422), answer.text
        if answer.status_code == 201:
            key = next(each["key"] for each in answer.json() if each["own"] and each["key"] != own["key"])
            set_in = api.post("/api/compose", json={"parts": [words | {"font": key}]})
            assert set_in.status_code in (200, 422), set_in.text
            api.delete(f"/api/fonts/{key}")
    assert api.delete(f"/api/fonts/{own['key']}").status_code == 200
    assert api.delete(f"/api/fonts/{own['key']}").status_code == 404


def test_a_die_with_words_on_it_keeps_its_line(api: httpx.Client) -> None:
    job = api.post("/api/jobs", json={"title": "Tickets"}).json()
    die = api.post("/api/artwork", files={"file": ("ticket.dxf", dxf(ticket))}).json()["sha256"]
    lines = {"shape": "held", "fit_mm": 0}
    design = {"id": "d1", "name": "Ticket", "artwork": die, "longest_mm": 80, "border_mm": 0, "lines": lines}
    body = {"revision": job["revision"], "recipe": {"designs": [design]}, "label": "Add"}
    assert api.put(f"/api/jobs/{job['id']}/recipe", json=body).status_code == 200
    part = api.get(f"/api/jobs/{job['id']}/designs/d1/part").json()
    words = {"kind": "words", "text": "Ferry", "place": "on", "size_mm": 8, "font": "text", "role": "print"}
    wanted = {"composition": {"parts": [part, words]}, "design": "d1", "names": []}
    assert api.post(f"/api/jobs/{job['id']}/compose", json=wanted).status_code == 201
    now = api.get(f"/api/jobs/{job['id']}").json()
    assert [f["code"] for f in now["findings"] if f["severity"] == "stop"] == []
    (made,) = now["recipe"]["designs"]
    assert (made["lines"]["shape"], made["longest_mm"]) == ("held", pytest.approx(80, abs=0.05))
    file = ezdxf.read(io.StringIO(api.get(f"/api/jobs/{job['id']}/sheets/1/cut.dxf").text))
    boxes = {}
    for layer in ("kiss", "crease", "perforate"):
        found = [e for e in file.modelspace() if e.dxf.layer.lower() == layer]
        assert found, layer
        boxes[layer] = bbox.extents(found)
        boxes[layer] = sorted((boxes[layer].size.x, boxes[layer].size.y))
    # The ticket is 80 x 40 mm, its crease and its perforation go across; it may lie turned on the sheet.
    wide = boxes["kiss"]
    assert wide[1] >= 79.9
    assert boxes["crease"][1] >= 39.9
    assert boxes["perforate"][1] >= 39.9


def test_a_recipe_that_cannot_be_drawn_opens_with_a_finding_and_undo(api: httpx.Client, job: dict) -> None:
    from perisect.core.job import JobRecipe
    from perisect.store import jobs
    from perisect.store.database import transaction

    def held(recipe: JobRecipe) -> JobRecipe:
        (disc,) = recipe.designs
        lines = disc.lines.model_copy(update={"shape": "held"})
        return recipe.model_copy(update={"designs": (disc.model_copy(update={"lines": lines}),)})

    with transaction() as session:
        jobs.append(session, job["id"], held, "As no screen makes it")
    opened = api.get(f"/api/jobs/{job['id']}")
    assert opened.status_code == 200, opened.text
    now = opened.json()
    (stop,) = [each for each in now["findings"] if each["severity"] == "stop"]
    assert (stop["code"], stop["design"], stop["station"]) == ("impossible_line", "d1", "lines")
    assert "holds no cut line" in stop["text"]
    assert now["designs"][0]["placed"] == 0
    printing = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1})
    assert (printing.status_code, printing.json()["title"]) == (
        422,
        "The picture holds no cut line of its own.",
    )
    remedy = {"revision": now["revision"], "remedy": stop["remedy"], "design": "d1"}
    mended = api.post(f"/api/jobs/{job['id']}/remedies", json=remedy)
    assert mended.status_code == 200, mended.text
    assert mended.json()["designs"][0]["placed"] == 2
    back = api.post(f"/api/jobs/{job['id']}/undo", json={"revision": mended.json()["revision"]})
    assert back.status_code == 200, back.text
    assert back.json()["designs"][0]["placed"] == 0
    before = api.post(f"/api/jobs/{job['id']}/undo", json={"revision": back.json()["revision"]})
    assert before.json()["recipe"] == job["recipe"]
