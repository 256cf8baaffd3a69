"""Jobs: every change kept, walked back and forth, never overwritten."""

import io

import httpx
import pikepdf


def change(api: httpx.Client, job: dict, label: str = "Change", **design: object) -> httpx.Response:
    recipe = job["recipe"] | {"designs": [job["recipe"]["designs"][0] | design]}
    body = {"revision": job["revision"], "recipe": recipe, "label": label}
    return api.put(f"/api/jobs/{job['id']}/recipe", json=body)


def walk(api: httpx.Client, job: dict, way: str) -> httpx.Response:
    return api.post(f"/api/jobs/{job['id']}/{way}", json={"revision": job["revision"]})


def border(job: dict) -> float:
    return job["recipe"]["designs"][0]["border_mm"]


def test_undo_and_redo_walk_the_steps(api: httpx.Client, job: dict) -> None:
    three = change(api, job, border_mm=3.0).json()
    four = change(api, three, border_mm=4.0).json()
    assert (border(four), four["can_undo"], four["can_redo"]) == (4.0, True, False)
    back = walk(api, four, "undo").json()
    assert (border(back), back["can_redo"]) == (3.0, True)
    assert border(walk(api, back, "redo").json()) == 4.0


def test_a_change_after_undo_begins_a_branch_and_redo_takes_the_newest(api: httpx.Client, job: dict) -> None:
    back = walk(api, change(api, job, border_mm=3.0).json(), "undo").json()
    branch = change(api, back, border_mm=5.0).json()
    assert branch["can_redo"] is False
    again = walk(api, walk(api, branch, "undo").json(), "redo").json()
    assert border(again) == 5.0


def test_undo_ends_at_the_first_step(api: httpx.Client) -> None:
    empty = api.post("/api/jobs", json={"title": "Empty"}).json()
    assert empty["can_undo"] is False
    answer = walk(api, empty, "undo")
    assert answer.status_code == 409
    assert "nothing to undo" in answer.json()["title"]


def test_a_stale_write_gets_the_other_version_and_overwrites_nothing(api: httpx.Client, job: dict) -> None:
    kept = change(api, job, border_mm=3.5).json()
    stale = change(api, job, border_mm=1.0)
    assert stale.status_code == 409
    current = stale.json()["current"]
    assert current["revision"] == kept["revision"]
    assert current["recipe"]["designs"][0]["border_mm"] == 3.5
    assert border(api.get(f"/api/jobs/{job['id']}").json()) == 3.5


def test_the_same_recipe_again_is_no_step(api: httpx.Client, job: dict) -> None:
    assert change(api, job).json()["step"] == job["step"]


def test_what_a_recipe_cannot_be_is_refused(api: httpx.Client, job: dict) -> None:
    for wrong in (
        {"border_mm": -21},
        {"longest_mm": 1e12},
        {"copies": 0},
        {"copies": 10**9},
        {"id": "a b"},
        {"x": 1},
    ):
        assert change(api, job, **wrong).status_code == 422
    unknown = change(api, job, artwork="0" * 64)
    assert unknown.status_code == 422
    assert "Drop it again" in unknown.json()["detail"]
    assert api.get(f"/api/jobs/{job['id']}").json()["revision"] == job["revision"]


def test_a_remedy_is_carried_out_and_can_be_undone(api: httpx.Client, job: dict) -> None:
    large = change(api, job, longest_mm=390.0).json()
    (finding,) = [f for f in large["findings"] if f["code"] == "too_large"]
    body = {"revision": large["revision"], "remedy": finding["remedy"], "design": finding["design"]}
    mended = api.post(f"/api/jobs/{job['id']}/remedies", json=body).json()
    assert mended["recipe"]["designs"][0]["longest_mm"] == finding["remedy"]["value"]
    assert mended["sheets"]["count"] == 2
    assert not [f for f in mended["findings"] if f["severity"] == "stop"]
    assert walk(api, mended, "undo").json()["recipe"]["designs"][0]["longest_mm"] == 390
    absurd = body | {"revision": mended["revision"], "remedy": {"label": "x", "field": "id", "value": "y"}}
    assert api.post(f"/api/jobs/{job['id']}/remedies", json=absurd).status_code == 422


def test_titles_and_the_list_of_jobs(api: httpx.Client, job: dict) -> None:
    assert api.put(f"/api/jobs/{job['id']}/title", json={"title": "Deck tags"}).json()["title"] == "Deck tags"
    listed = {each["id"]: each for each in api.get("/api/jobs").json()}
    assert (listed[job["id"]]["title"], listed[job["id"]]["designs"]) == ("Deck tags", 1)
    assert api.post("/api/jobs", json={"title": ""}).status_code == 422
    assert api.get("/api/jobs/999999").status_code == 404
    assert api.get("/api/nothing").headers["content-type"] == "application/problem+json"


def test_files_of_a_sheet(api: httpx.Client, job: dict) -> None:
    base = f"/api/jobs/{job['id']}/sheets/1"
    with pikepdf.open(io.BytesIO(api.get(f"{base}/print.pdf").content)) as pdf:
        assert len(pdf.pages) == 1
    assert '<g id="kiss"' in api.get(f"{base}/cut.svg").text
    assert "LWPOLYLINE" in api.get(f"{base}/cut.dxf").text
    assert api.get(f"{base}/cut.hpgl").text.startswith("IN;")
    assert [(t["process"], t["count"]) for t in api.get(f"{base}/lines").json()] == [("kiss", 2)]
    assert api.get(f"/api/jobs/{job['id']}/sheets/2/print.pdf").status_code == 404
    assert api.get(f"{base}/cut.exe").status_code in (404, 422)


def test_a_sheet_can_be_tried_without_keeping_it(api: httpx.Client, job: dict) -> None:
    tried = api.post("/api/sheets", json=job["recipe"] | {"sheet": {"stock": "letter", "fill": True}}).json()
    assert tried["count"] > 10
    assert tried["stock"].startswith("Letter")
    assert api.get(f"/api/jobs/{job['id']}").json()["sheets"]["count"] == 2


def test_the_list_is_paged_without_a_gap_or_a_double(api: httpx.Client) -> None:
    made = [api.post("/api/jobs", json={"title": f"Page {n}"}).json()["id"] for n in range(7)]
    seen: list[int] = []
    mark: dict[str, object] = {}
    while rows := api.get("/api/jobs", params={"most": 3, **mark}).json():
        assert len(rows) <= 3
        seen += [row["id"] for row in rows]
        mark = {"before": rows[-1]["updated_at"], "last": rows[-1]["id"]}
    assert len(seen) == len(set(seen))
    assert seen[:7] == made[::-1]


def test_a_job_is_found_by_words_of_its_title_however_old_it_is(api: httpx.Client) -> None:
    wanted = api.post("/api/jobs", json={"title": "Lanterns 50 % of the Autumn fair"}).json()["id"]
    for n in range(3):
        api.post("/api/jobs", json={"title": f"Later lanterns {n}"})

    def named(words: str) -> list[int]:
        return [row["id"] for row in api.get("/api/jobs", params={"named": words, "most": 2}).json()]

    assert named("autumn LANTERNS") == [wanted]
    # What a database takes for any letters is a letter here.
    assert named("50 % autumn") == [wanted]
    assert named("l_nterns") == []
    assert len(named("lanterns")) == 2
    assert named(f"{wanted}") == [wanted]
    assert api.get("/api/jobs", params={"named": "x" * 200}).status_code == 422
