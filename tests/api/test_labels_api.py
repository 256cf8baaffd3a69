"""Labels through the API."""

from collections.abc import Callable

import httpx
import pytest

from tests.api.test_line_sets_api import with_lines

Drop = Callable[[bytes], httpx.Response]

LIST = "name;id\n" + "\n".join(f"Reed honey {n};{n}" for n in range(40))
TEXT = {"template": "{name}", "x": 0.1, "y": 0.3, "width": 0.8, "height": 0.2}


def keep(api: httpx.Client, data: bytes) -> httpx.Response:
    return api.post("/api/labels/tables", files={"file": ("list.csv", data, "text/csv")})


def labelled(api: httpx.Client, drop: Drop, **labels: object) -> dict:
    table = keep(api, LIST.encode()).json()
    recipe = with_lines(api, drop)["recipe"]
    recipe["designs"][0]["labels"] = {"table": table["table"], "texts": [TEXT], **labels}
    return recipe


def test_a_list_is_kept_and_told(api: httpx.Client) -> None:
    kept = keep(api, LIST.encode()).json()
    assert kept["columns"] == ["name", "id"]
    assert (kept["rows"], len(kept["first"])) == (40, 5)
    assert api.get(f"/api/labels/tables/{kept['table']}").json() == kept
    assert api.get(f"/api/labels/tables/{'0' * 64}").status_code == 404


@pytest.mark.parametrize(
    "data", [b"", b"\0\0\0", b"only a head\n", b"n\n" + b"x\n" * 100_000, b"n\n" + b"y" * 9_000_000]
)
def test_what_is_no_list_gets_a_clear_refusal(api: httpx.Client, data: bytes) -> None:
    answer = keep(api, data)
    assert answer.status_code == 422
    assert answer.json()["detail"]


@pytest.mark.parametrize(
    "rows",
    [
        "name,id\nمرحبا,1\nשלום,2",
        "name,id\n🐝🐝,1",
        "name,id\n=HYPERLINK(1),1",
        'name,id\n"a\nb",1',
        "name,id\n" + "x" * 5000 + ",1",
    ],
)
def test_odd_rows_are_findings_not_faults(api: httpx.Client, drop: Drop, rows: str) -> None:
    table = keep(api, rows.encode()).json()["table"]
    recipe = labelled(api, drop)
    recipe["designs"][0]["labels"]["table"] = table
    answer = api.post("/api/sheets", json=recipe)
    assert answer.status_code == 200
    assert any(finding["code"].startswith(("label", "list")) for finding in answer.json()["findings"])


def test_forty_rows_are_forty_labels_whatever_the_copies(api: httpx.Client, drop: Drop) -> None:
    recipe = labelled(api, drop, codes=[TEXT | {"template": "{id}", "y": 0.5, "height": 0.4, "kind": "qr"}])
    recipe["sheet"] = {"fill": True}
    sheets = api.post("/api/sheets", json=recipe).json()
    assert sheets["count"] == 40
    said = api.post("/api/labels/sheets/1", json=recipe).json()
    assert len(said) == len(sheets["sheets"][0]["placements"])
    assert all(len(label) == 2 for label in said)
    assert len({label[0]["path"] for label in said}) == len(said)
    assert api.post("/api/labels/sheets/99", json=recipe).status_code == 404


def test_the_worst_rows_come_first(api: httpx.Client, drop: Drop) -> None:
    recipe = labelled(api, drop)
    recipe["designs"][0]["labels"]["texts"] = [TEXT | {"size_mm": 8}]
    worst = api.post("/api/labels/worst", params={"design": "d1"}, json=recipe).json()
    assert (worst["rows"], worst["unfit"], worst["shortened"]) == (40, 0, 0)
    sizes = [row["size_mm"] for row in worst["worst"]]
    assert sizes == sorted(sizes)
    assert worst["worst"][0]["row"] > 10  # two digits take more room than one
    assert api.post("/api/labels/worst", params={"design": "nobody"}, json=recipe).status_code == 404


def test_a_list_that_is_not_here_is_said(api: httpx.Client, drop: Drop) -> None:
    recipe = labelled(api, drop)
    recipe["designs"][0]["labels"]["table"] = "f" * 64
    answer = api.post("/api/sheets", json=recipe)
    assert answer.status_code == 404
    assert "Drop it again" in answer.json()["detail"]


def test_a_theme_sheet_is_told_to_the_screen(api: httpx.Client, drop: Drop) -> None:
    recipe = with_lines(api, drop)["recipe"]
    recipe["sheet"] = {"fill": True, "card": {"width_mm": 90, "height_mm": 120, "heading": "Ferry"}}
    sheets = api.post("/api/sheets", json=recipe).json()
    assert len(sheets["sheets"][0]["cards"]) == 4
    assert sheets["card_heading"].startswith("M")
    assert set(sheets["whites"]) == {"d1"}
    absurd = recipe | {"sheet": {"card": {"width_mm": 1e7}}}
    assert api.post("/api/sheets", json=absurd).status_code == 422
