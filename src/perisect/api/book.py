"""The settings book of the shop, and its passing on to other shops."""

from typing import Annotated, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session

from perisect.api.problems import Problem
from perisect.api.versions import IfMatch, expected
from perisect.core.cutting.book import BookEntry, BookKey
from perisect.core.process import TABLE
from perisect.core.sheet.force import ForceScale
from perisect.core.sheet.shop_records import PlotterRecord, StockRecord
from perisect.store import book, equipment
from perisect.store.book import BookFull
from perisect.store.database import transaction
from perisect.store.versions import version_of

router = APIRouter(prefix="/api/shop/book", tags=["shop"])


class PassedOn(BaseModel):
    """The file that a book is passed on in: entries, with names and numbers of their stocks and plotters."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["perisect cut settings 1"] = "perisect cut settings 1"
    caution: str = "Test first: blades, mats and plotters differ."
    stocks: Annotated[list[StockRecord], Field(max_length=500)] = []
    plotters: Annotated[dict[str, ForceScale], Field(max_length=100)] = {}
    entries: Annotated[list[BookEntry], Field(max_length=5000)]


class EntryView(BookEntry):
    """An entry, and the version of what it says."""

    version: str


@router.get("")
def get_book() -> list[EntryView]:
    """Every entry."""
    with transaction() as session:
        entries = book.all_of(session)
    return [EntryView(**dict(each), version=version_of(each.model_dump(mode="json"))) for each in entries]


@router.put("")
def put_entry(entry: BookEntry, if_match: IfMatch = None) -> list[EntryView]:
    """Set an entry by hand; one for the same is replaced. Test on a scrap first."""
    _check(entry)
    with transaction() as session:
        by_hand = entry.model_copy(update={"source": "hand", "sure": None, "at": None})
        _save(session, by_hand, expected(if_match))
    return get_book()


@router.post("/forget")
def post_forget(key: BookKey) -> list[EntryView]:
    """Take an entry out."""
    with transaction() as session:
        book.forget(session, key)
    return get_book()


@router.get("/book.json", response_class=Response)
def get_passed_on() -> Response:
    """The book as a file for another shop."""
    with transaction() as session:
        entries = book.all_of(session)
        stocks = equipment.all_of(session, "stock", StockRecord)
        plotters = equipment.all_of(session, "plotter", PlotterRecord)
    used = {entry.key.stock for entry in entries}
    passed = PassedOn(
        stocks=[each for each in stocks if each.id in used],
        plotters={each.id: each.force for each in plotters},
        entries=entries,
    )
    headers = {"Content-Disposition": 'attachment; filename="cut-settings.json"'}
    return Response(passed.model_dump_json(indent=1), media_type="application/json", headers=headers)


@router.post("/book.json")
def post_passed_on(passed: PassedOn) -> list[EntryView]:
    """Take another shop's book in. What is here already stays; what comes in is theirs until it is tested."""
    for entry in passed.entries:
        _check(entry)
    with transaction() as session:
        here = {entry.key for entry in book.all_of(session)}
        for entry in passed.entries:
            if entry.key not in here:
                _save(session, entry.model_copy(update={"source": "shop", "sure": None}))
    return get_book()


def _save(session: Session, entry: BookEntry, version: str | None = None) -> None:
    try:
        book.save(session, entry, version)
    except BookFull as error:
        raise Problem(409, "The settings book is full.", "Remove entries that are no longer used.") from error


def _check(entry: BookEntry) -> None:
    if entry.key.process not in TABLE:
        raise Problem(422, f"There is no process {entry.key.process[:40]}.", f"There are {', '.join(TABLE)}.")
