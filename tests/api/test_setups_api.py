"""Set-ups through the API: kept by name, without what belongs to one piece."""

import httpx
import pytest

SETUP = {
    "name": "Jar labels",
    "sheet": {"stock": "letter", "gap_mm": 3, "perimeter_cut": "perforate"},
    "border_mm": 1.5,
    "peel_mm": 2,
    "lines": {"outer": "perforate", "patches": [{"does": "cut", "x": 0, "y": 0, "width": 1, "height": 1}]},
}


def test_a_setup_is_kept_replaced_and_forgotten(api: httpx.Client) -> None:
    (kept,) = [each for each in api.put("/api/setups", json=SETUP).json() if each["name"] == "Jar labels"]
    assert kept["sheet"]["stock"] == "letter"
    assert kept["lines"]["outer"] == "perforate"
    assert kept["lines"]["patches"] == []  # an edit by hand is of one piece
    api.put("/api/setups", json=SETUP | {"border_mm": 4})
    (again,) = [each for each in api.get("/api/setups").json() if each["name"] == "Jar labels"]
    assert again["border_mm"] == 4
    left = api.delete("/api/setups/Jar labels").json()
    assert "Jar labels" not in {each["name"] for each in left}
    gone = api.delete("/api/setups/Jar labels")
    assert gone.status_code == 404
    assert gone.json()["detail"]


@pytest.mark.parametrize(
    "change", [{"name": ""}, {"name": "   "}, {"name": "x" * 61}, {"border_mm": 1e9}, {"x": 1}]
)
def test_a_setup_that_makes_no_sense_is_refused(api: httpx.Client, change: dict[str, object]) -> None:
    assert api.put("/api/setups", json=SETUP | change).status_code == 422
