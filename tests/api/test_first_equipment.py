"""An empty shop asks what the person has, and has no machine that nobody owns."""

from collections.abc import Iterator

import httpx
import pytest
from sqlalchemy import delete, select

from perisect.services import first_equipment
from perisect.store import jobs
from perisect.store.database import transaction
from perisect.store.models import Equipment


@pytest.fixture
def new_shop(shop: object, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """A shop without equipment of its own, whose jobs do not count."""
    monkeypatch.setattr(first_equipment.jobs, "any_there", lambda _: False)
    with transaction() as session:
        before = [(row.kind, row.id, row.recipe) for row in session.scalars(select(Equipment))]
        session.execute(delete(Equipment))
    yield
    with transaction() as session:
        session.execute(delete(Equipment))
        session.add_all(Equipment(kind=kind, id=key, recipe=recipe) for kind, key, recipe in before)


HAS = {"printers": ["a3"], "plotters": ["not here yet"], "stocks": ["letter", "a4-vinyl"]}


def test_a_shop_has_what_its_person_said_and_nothing_else(api: httpx.Client, new_shop: None) -> None:
    assert api.get("/api/shop").json()["is_new"] is True
    begun = api.post("/api/shop/first", json=HAS)
    assert begun.status_code == 201
    shop = begun.json()
    assert shop["is_new"] is False
    assert [each["id"] for each in shop["printers"]] == ["a3"]
    assert sorted(each["id"] for each in shop["stocks"]) == ["a4-vinyl", "letter"]
    # A printer that is here is not simulated; a plotter that is not here yet is.
    assert [each["simulated"] for each in shop["printers"] + shop["plotters"]] == [False, True]
    # A new job is on what there is.
    sheet = api.post("/api/jobs", json={"title": "First"}).json()["recipe"]["sheet"]
    assert sheet["printer"]["id"] == "a3"
    assert sheet["paper"]["id"] in ("letter", "a4-vinyl")
    assert api.post("/api/shop/first", json=HAS).status_code == 409


def test_a_printer_without_an_address_is_not_printed_at_by_anybody_else(
    api: httpx.Client, new_shop: None
) -> None:
    api.post("/api/shop/first", json=HAS)
    from perisect.devices.errors import DeviceError
    from perisect.services.devices import printer_at

    with pytest.raises(DeviceError, match="has no address yet"):
        printer_at("a3")


@pytest.mark.parametrize(
    "wrong", [{**HAS, "printers": []}, {**HAS, "stocks": ["gold"]}, {**HAS, "plotters": ["x" * 50]}, {}]
)
def test_what_is_no_choice_is_refused(wrong: dict, api: httpx.Client, new_shop: None) -> None:
    assert api.post("/api/shop/first", json=wrong).status_code == 422
    assert api.get("/api/shop").json()["is_new"] is True


def test_a_shop_with_jobs_is_not_new(api: httpx.Client) -> None:
    api.post("/api/jobs", json={"title": "One"})
    with transaction() as session:
        assert jobs.any_there(session)
    assert api.get("/api/shop").json()["is_new"] is False
