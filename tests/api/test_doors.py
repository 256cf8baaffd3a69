"""The doors: the document is current, the front end is served, nothing outside of it is."""

import json
from pathlib import Path

import httpx
import pytest

from perisect.api.limits import _lines

ROOT = Path(__file__).parents[2]


def test_the_kept_openapi_document_is_the_present_one(api: httpx.Client) -> None:
    assert json.loads((ROOT / "web/openapi.json").read_text()) == api.get("/api/openapi.json").json()


def test_every_path_that_is_not_the_api_s_opens_the_page(api: httpx.Client) -> None:
    page = api.get("/jobs/7/lines")
    assert page.status_code == 200
    assert '<div id="root">' in page.text
    assert page.text == api.get("/").text
    assert api.get("/mark.svg").headers["content-type"].startswith("image/svg")


@pytest.mark.parametrize(
    "path",
    ["/../pyproject.toml", "/%2e%2e/pyproject.toml", "/assets/../../package.json", "/..%2f..%2fREADME.md"],
)
def test_nothing_outside_the_built_front_end_is_served(path: str, api: httpx.Client) -> None:
    answer = api.get(path)
    assert "[project]" not in answer.text
    assert '"dependencies"' not in answer.text
    assert "# Perisect" not in answer.text


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("POST", "/api/jobs", b"{not json"),
        ("POST", "/api/jobs", b"[]"),
        ("POST", "/api/lines", b"null"),
        ("PUT", "/api/jobs/1/recipe", b'{"revision": "first"}'),
        ("PUT", "/api/jobs/x/recipe", b"{}"),
        ("POST", "/api/sheets", b'{"designs": 7}'),
        ("POST", "/api/jobs/999999/prints", b'{"sheet": 1}'),
        ("POST", "/api/jobs/999999/undo", b'{"revision": 1}'),
        ("GET", "/api/jobs/99999999999999999999", b""),
        ("DELETE", "/api/jobs/1", b""),
        ("GET", "/api/artwork/..%2f..%2fetc/preview.png", b""),
    ],
)
def test_nonsense_gets_a_problem_below_500(method: str, path: str, body: bytes, api: httpx.Client) -> None:
    answer = api.request(method, path, content=body, headers={"Content-Type": "application/json"})
    assert 400 <= answer.status_code < 500, answer.text
    problem = answer.json()
    assert problem["status"] == answer.status_code
    assert problem["title"]
    assert problem["detail"]


def test_a_preview_is_asked_for_by_name_only(api: httpx.Client) -> None:
    assert api.get(f"/api/artwork/{'a' * 64}/preview.png").status_code == 404
    assert api.get("/api/artwork/short/preview.png").status_code in (404, 422)


@pytest.mark.parametrize(
    "asked",
    [
        "POST /api/lines",
        "POST /api/lines/moving",
        "POST /api/sheets/grown",
        "POST /api/jobs/7/remedies",
        *(f"GET /api/jobs/7/sheets/1/{file}" for file in ("print.pdf", "cut.svg", "cut.splines.dxf")),
    ],
)
def test_whatever_takes_a_processor_waits_in_a_line(asked: str) -> None:
    assert any(line.kind.match(asked) for line in _lines())
