"""How sheets come to paper: by one's own print dialog, by a print shop, all that are missing, and printed only."""

import io
import zipfile
from concurrent.futures import ThreadPoolExecutor

import httpx
import pikepdf
import pypdfium2
import pytest
from PIL import Image

from perisect.core.prepress.raster import MOST_PX
from tests.api.test_print_and_cut_api import Work, printed
from tests.core.icc import press


def handed_out(api: httpx.Client, job: dict, way: str) -> dict:
    found = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1, "way": way})
    assert found.status_code == 202
    assert (found.json()["state"], found.json()["way"]) == ("out", way)
    return found.json()


def test_a_sheet_from_one_s_own_print_dialog_is_cut_as_it_was_handed_out(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = handed_out(api, job, "own")
    url = f"/api/prints/{sheet['id']}"
    assert api.get(f"{url}/sheet.pdf").content.startswith(b"%PDF-1.7")
    assert api.post(f"{url}/cuts").status_code == 409  # nobody has said that it is printed
    recipe = job["recipe"] | {"designs": [job["recipe"]["designs"][0] | {"longest_mm": 20, "copies": 9}]}
    api.put(f"/api/jobs/{job['id']}/recipe", json={"revision": job["revision"], "recipe": recipe})
    with ThreadPoolExecutor(8) as crowd:
        said = list(crowd.map(lambda _: api.post(f"{url}/printed"), range(8)))
    assert {(each.status_code, each.json()["state"]) for each in said} == {(200, "printed")}
    assert api.post(f"{url}/cancel").status_code == 409
    assert Image.open(io.BytesIO(api.get(f"{url}/printed.png").content)).size == (2480, 3508)
    run = api.post(f"{url}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["lines_total"], done["good"]) == ("done", 2, 2)
    assert api.get(f"/api/jobs/{job['id']}").json()["way"] == "own"


def test_a_print_shop_whose_profile_is_known_is_given_its_inks_too(api: httpx.Client, job: dict) -> None:
    profile = press()
    sent = api.put("/api/tones/desk/a4/standard/profile", files={"file": ("press.icc", profile)})
    assert sent.json()["profile_name"] == "Ferry press, matt paper"
    out = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1, "way": "shop"}).json()
    archive = zipfile.ZipFile(io.BytesIO(api.get(f"/api/prints/{out['id']}/package.zip").content))
    base = f"print-{out['id']}-sheet-01"
    assert {f"{base}.pdf", f"{base}.cmyk.pdf", "please-print.txt"} <= set(archive.namelist())
    with pikepdf.open(io.BytesIO(archive.read(f"{base}.cmyk.pdf"))) as pdf:
        assert pdf.Root.OutputIntents[0].DestOutputProfile.read_bytes() == profile
    text = archive.read("please-print.txt").decode()
    assert f"{base}.cmyk.pdf is in CMYK for “Ferry press, matt paper”" in text
    api.delete("/api/tones/desk/a4/standard/profile")
    again = zipfile.ZipFile(io.BytesIO(api.get(f"/api/prints/{out['id']}/package.zip").content))
    assert f"{base}.cmyk.pdf" not in again.namelist()


def test_a_print_shop_gets_a_package_and_the_sheet_comes_back(
    api: httpx.Client, work: Work, job: dict
) -> None:
    sheet = handed_out(api, job, "shop")
    url = f"/api/prints/{sheet['id']}"
    archive = zipfile.ZipFile(io.BytesIO(api.get(f"{url}/package.zip").content))
    base = f"print-{sheet['id']}-sheet-01"
    assert archive.namelist() == [f"{base}.pdf", f"{base}-proof.png", "please-print.txt"]
    assert archive.read(f"{base}.pdf") == api.get(f"{url}/sheet.pdf").content
    asked = archive.read("please-print.txt").decode()
    # A4 with its marks 11 mm from the sides, 12 from the head and 15 from the foot.
    for words in ("210 x 297 mm", "188.00 mm from the top left mark to the top right", "270.00 mm", "100 %"):
        assert words in asked
    assert api.post(f"{url}/printed").json()["state"] == "printed"
    run = api.post(f"{url}/cuts").json()
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["state"] == "done"


def test_what_was_taken_back_or_goes_by_the_link_is_not_said_to_be_printed(
    api: httpx.Client, job: dict
) -> None:
    sheet = handed_out(api, job, "own")
    url = f"/api/prints/{sheet['id']}"
    assert api.post(f"{url}/cancel").json()["state"] == "cancelled"
    assert api.post(f"{url}/printed").status_code == 409
    linked = api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1}).json()
    assert api.post(f"/api/prints/{linked['id']}/printed").status_code == 409
    assert api.post("/api/prints/999999/printed").status_code == 404
    assert api.get(f"/api/prints/{linked['id']}/package.zip").status_code == 404
    assert api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 1, "way": "pigeon"}).status_code == 422
    assert api.post(f"/api/jobs/{job['id']}/prints", json={"sheet": 9, "way": "own"}).status_code == 404


@pytest.mark.long
def test_what_is_not_printed_yet_is_printed_once_and_what_was_spoiled_again(
    api: httpx.Client, work: Work, job: dict
) -> None:
    recipe = job["recipe"] | {"designs": [job["recipe"]["designs"][0] | {"longest_mm": 90, "copies": 8}]}
    change = {"revision": job["revision"], "recipe": recipe}
    sheets = api.put(f"/api/jobs/{job['id']}/recipe", json=change).json()["sheets"]["sheets"]
    assert len(sheets) == 2  # six of 94 mm are more than A4 holds
    with ThreadPoolExecutor(8) as crowd:
        asked = list(crowd.map(lambda _: api.post(f"/api/jobs/{job['id']}/prints/rest"), range(8)))
    assert sorted(len(each.json()) for each in asked) == [0] * 7 + [2]
    work()
    first, second = sorted(api.get(f"/api/jobs/{job['id']}").json()["prints"], key=lambda each: each["sheet"])
    assert (first["state"], second["state"]) == ("printed", "printed")
    run = api.post(f"/api/prints/{first['id']}/cuts").json()
    assert api.post(f"/api/prints/{first['id']}/spoiled", json={}).status_code == 409  # the knife is at it
    assert api.post(f"/api/prints/{second['id']}/spoiled", json={}).json()["state"] == "spoiled"
    assert api.post(f"/api/prints/{second['id']}/spoiled", json={}).status_code == 200
    assert api.post(f"/api/prints/{second['id']}/cuts").status_code == 409
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["state"] == "done"
    assert api.post(f"/api/prints/{first['id']}/spoiled", json={}).json()["state"] == "spoiled"
    assert "spoiled" in api.post(f"/api/prints/{first['id']}/printed").json()["title"]
    again = api.post(f"/api/jobs/{job['id']}/prints/rest").json()
    assert [each["sheet"] for each in again] == [0, 1]
    assert api.post(f"/api/prints/{again[0]['id']}/spoiled", json={}).status_code == 409  # not printed yet
    assert api.post("/api/jobs/999999/prints/rest").status_code == 404
    work()


def test_what_is_printed_only_is_on_the_paper_and_no_blade_comes_near_it(
    api: httpx.Client, work: Work, job: dict
) -> None:
    piece = job["recipe"]["designs"][0]
    caption = piece | {
        "id": "caption",
        "name": "Caption",
        "copies": 1,
        "lines": {"own": "none"},
        "peel_mm": None,
    }
    url = f"/api/jobs/{job['id']}"
    change = {"revision": job["revision"], "recipe": job["recipe"] | {"designs": [piece, caption]}}
    both = api.put(f"{url}/recipe", json=change).json()
    assert both["sheets"]["count"] == 3
    assert [each["count"] for each in api.get(f"{url}/sheets/1/lines").json()] == [2]
    sheet = printed(api, work, job)
    run = api.post(f"/api/prints/{sheet['id']}/cuts").json()
    work()
    done = api.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["lines_total"], done["good"], len(done["slips"])) == ("done", 2, 2, 2)
    change = {"revision": both["revision"], "recipe": both["recipe"] | {"designs": [caption]}}
    assert api.put(f"{url}/recipe", json=change).status_code == 200
    sheet = printed(api, work, job)
    assert sheet["state"] == "printed"
    refused = api.post(f"/api/prints/{sheet['id']}/cuts")
    assert (refused.status_code, refused.json()["title"]) == (409, "There is nothing to cut on this sheet.")
    for kind in ("svg", "dxf", "hpgl"):
        assert api.get(f"{url}/sheets/1/cut.{kind}").status_code == 200


@pytest.mark.long
def test_a_long_panel_of_a_roll_is_handed_out_with_a_picture_that_fits_in_memory(
    api: httpx.Client, job: dict
) -> None:
    shop = api.get("/api/shop").json()
    roll = next(stock for stock in shop["stocks"] if stock["kind"] == "roll")
    plotter = max(shop["plotters"], key=lambda each: each["cutting_width_mm"])
    printer = max(shop["printers"], key=lambda each: each.get("widest_mm", 0))
    url = f"/api/jobs/{job['id']}"
    for change in ({"stock": roll["id"]}, {"printer": printer["id"]}, {"plotter": plotter["id"]}):
        now = api.get(url).json()
        assert api.post(f"{url}/equipment", json={"revision": now["revision"], **change}).status_code == 200
    now = api.get(url).json()
    sheet = now["recipe"]["sheet"] | {"panel_mm": roll["height_mm"], "fill": True}
    change = {"revision": now["revision"], "recipe": now["recipe"] | {"sheet": sheet}}
    assert api.put(f"{url}/recipe", json=change).json()["sheets"]["height_mm"] >= 1200
    out = handed_out(api, job, "shop")
    for path in ("sheet.pdf", "package.zip"):
        assert api.get(f"/api/prints/{out['id']}/{path}").status_code == 200
    assert api.post(f"/api/prints/{out['id']}/printed").json()["state"] == "printed"
    Image.MAX_IMAGE_PIXELS, kept = None, Image.MAX_IMAGE_PIXELS
    try:
        picture = Image.open(io.BytesIO(api.get(f"/api/prints/{out['id']}/printed.png").content))
        assert picture.width * picture.height <= MOST_PX * 1.001
    finally:
        Image.MAX_IMAGE_PIXELS = kept


def test_a_class_gets_a_sheet_each_with_a_name_on_it(api: httpx.Client, work: Work, job: dict) -> None:
    names = ["Mara Quill", "Łucja Reed", "Odo Sedge", "Ivo Tern", "Ada Wren"]
    url = f"/api/jobs/{job['id']}/prints/copies"
    made = api.post(url, json={"names": names, "way": "own"}).json()
    assert [(each["name"], each["copy_number"], each["copies"], each["state"]) for each in made] == [
        (name, number, 5, "out") for number, name in enumerate(names, start=1)
    ]
    (batch,) = {each["batch"] for each in made}
    pages = pypdfium2.PdfDocument(api.get(f"/api/batches/{batch}/sheets.pdf").content)
    texts = [page.get_textpage().get_text_range() for page in pages]
    for page, name in enumerate(names):
        assert name.split()[1] in texts[page]
        assert f"copy {page + 1} of 5" in texts[page]
        assert f"job {job['id']}" in texts[page]
    # One alone is the same page.
    alone = pypdfium2.PdfDocument(api.get(f"/api/prints/{made[2]['id']}/sheet.pdf").content)
    assert "Sedge" in alone[0].get_textpage().get_text_range()
    api.post(f"/api/prints/{made[4]['id']}/cancel")
    with ThreadPoolExecutor(8) as crowd:
        said = list(crowd.map(lambda _: api.post(f"/api/batches/{batch}/printed"), range(8)))
    assert {each.status_code for each in said} == {200}
    states = {each["name"]: each["state"] for each in api.get(f"/api/jobs/{job['id']}").json()["prints"]}
    assert states == dict.fromkeys(names[:4], "printed") | {"Ada Wren": "cancelled"}
    run = api.post(f"/api/prints/{made[1]['id']}/cuts").json()
    work()
    assert api.get(f"/api/runs/{run['id']}").json()["good"] == 2


def test_copies_go_through_the_link_and_what_cannot_be_meant_is_refused(
    api: httpx.Client, work: Work, job: dict
) -> None:
    url = f"/api/jobs/{job['id']}/prints/copies"
    made = api.post(url, json={"copies": 3}).json()
    assert [each["copy_number"] for each in made] == [1, 2, 3]
    work()
    now = api.get(f"/api/jobs/{job['id']}").json()["prints"]
    assert [each["state"] for each in now] == ["printed"] * 3
    spoiled = api.post(f"/api/prints/{made[0]['id']}/spoiled", json={"why": "cut twice"}).json()
    assert (spoiled["state"], spoiled["message"]) == ("spoiled", "You said: cut twice.")
    for order, status in (
        ({"first": 2, "last": 1}, 404),
        ({"last": 7}, 404),
        ({"copies": 501}, 422),
        ({"copies": 0}, 422),
        ({"names": ["船"]}, 422),
        ({"names": ["x\u0000y"]}, 422),
        ({"names": ["w" * 61]}, 422),
        ({"names": [" "]}, 422),
    ):
        assert api.post(url, json=order).status_code == status, order
    assert len(api.get(f"/api/jobs/{job['id']}").json()["prints"]) == 3
    assert api.get("/api/batches/none/sheets.pdf").status_code == 404


def test_a_print_keeps_the_size_it_was_made_for(api: httpx.Client, job: dict) -> None:
    url = f"/api/jobs/{job['id']}/scale"
    now = api.get(url).json()
    across, along = now["across"]["mm"], now["along"]["mm"]
    sheet = handed_out(api, job, "own")
    read = {"across_mm": across * 0.99, "along_mm": along, "was": [1, 1]}
    assert api.post(url, json=read).json()["across"]["corrected"]
    later = handed_out(api, job, "own")
    contents = []
    for each in (sheet, later):
        with pikepdf.open(io.BytesIO(api.get(f"/api/prints/{each['id']}/sheet.pdf").content)) as file:
            contents.append(file.pages[0].Contents[0].read_bytes())
    assert b"1.010101 0 0 1.000000" not in contents[0]
    assert contents[1].startswith(b"1.010101 0 0 1.000000")
