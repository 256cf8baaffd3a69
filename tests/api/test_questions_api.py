"""Questions of the Sheet station through the API."""

from collections.abc import Callable

import httpx
import pytest

from tests.api.test_line_sets_api import with_lines

Drop = Callable[[bytes], httpx.Response]


def asked(api: httpx.Client, job: dict, **question: object) -> httpx.Response:
    body = {"recipe": job["recipe"], "design": "d1"} | question
    return api.post("/api/sheets/questions", json=body)


def test_the_largest_size_is_one_at_which_so_many_stand_on_the_sheet(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop)
    largest = asked(api, job, up=12).json()["largest_mm"]
    recipe = job["recipe"]
    for size, enough in ((largest, True), (largest + 0.12, False)):
        recipe["designs"][0]["longest_mm"] = size
        recipe["sheet"] = {"fill": True}
        assert (api.post("/api/sheets", json=recipe).json()["count"] >= 12) is enough
    assert asked(api, job, up=1000).json()["largest_mm"] is None


def test_an_order_takes_spares_and_sheets(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop)
    exact = asked(api, job, orders={"d1": 250}, reject_share=0).json()
    assert exact["to_print"] == {"d1": 250}
    recipe = job["recipe"]
    recipe["designs"][0]["copies"] = 250
    assert exact["sheets"] == len(api.post("/api/sheets", json=recipe).json()["sheets"])
    spares = asked(api, job, orders={"d1": 250}, reject_share=0.04).json()
    assert spares["to_print"]["d1"] == 266  # as tests/core/test_questions.py works out by hand
    usual = asked(api, job, orders={"d1": 250}).json()
    assert 0 <= usual["reject_share"] <= 0.9


@pytest.mark.parametrize(
    ("question", "status"),
    [
        ({"up": 0}, 422),
        ({"up": 1_000_001}, 422),
        ({"orders": {"d1": -1}}, 422),
        ({"orders": {"d1": 5_000_000}}, 422),
        ({"reject_share": 1.0}, 422),
        ({"design": "nobody"}, 404),
    ],
)
def test_absurd_questions_are_refused(
    api: httpx.Client, drop: Drop, question: dict[str, object], status: int
) -> None:
    job = with_lines(api, drop)
    answer = asked(api, job, **question)
    assert answer.status_code == status
    assert answer.json()["detail"]


def test_an_order_of_a_million_says_what_is_left_out(api: httpx.Client, drop: Drop) -> None:
    job = with_lines(api, drop)
    answer = asked(api, job, orders={"d1": 1_000_000}, reject_share=0.02).json()
    assert answer["sheets"] == 60
    assert answer["left_out"] > 900_000


def test_every_sticker_has_an_error_to_expect(api: httpx.Client, drop: Drop) -> None:
    sheets = with_lines(api, drop)["sheets"]
    places = [place for sheet in sheets["sheets"] for place in sheet["placements"]]
    errors = [place["error_mm"] for place in places]
    assert len(errors) == sheets["count"]
    assert max(errors) == sheets["worst_error_mm"]
    # Outside is what hangs over the marks' rectangle, 11 to 199 across and 12 to 282 down.
    boxes = [place["box"] for place in places]
    over = [box[0] < 11 or box[1] < 12 or box[2] > 199 or box[3] > 282 for box in boxes]
    assert [place["outside"] for place in places] == over
    assert min(errors) >= 0.014  # 0.02 mm times the root of 2 / 4: no place is better with four marks
