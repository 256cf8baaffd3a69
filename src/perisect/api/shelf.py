"""The shelf of finished designs."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.core.job.recipe import DesignRecipe, LongestMm
from perisect.core.sheet.recipe import Copies
from perisect.services import shelf as service
from perisect.services.shelf import TooManyPieces, UnknownPiece
from perisect.store import shelf
from perisect.store.database import transaction
from perisect.store.shelf import ShelfFull, ShelfStale, StillOrdered, UnknownShelfItem
from perisect.store.trade_models import ShelfItem

router = APIRouter(prefix="/api", tags=["shelf"])

Name = Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^\x00-\x1f\x7f]*\S[^\x00-\x1f\x7f]*$")]
Tag = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00-\x1f\x7f]*$")]
Tags = Annotated[list[Tag], Field(max_length=20)]


class ShelfView(BaseModel):
    """A design of the shelf: how it is made, in how many jobs it is, how many were ordered, and how many of it were
    counted good and bad."""

    id: int
    name: str
    tags: list[str]
    picture: str
    version: int
    longest_mm: float
    border_mm: float
    stock: str
    rights: str
    jobs: int
    ordered: int
    good: int
    bad: int
    updated_at: datetime


class ToShelf(BaseModel):
    """Which piece of a job, and what it is to be called; a piece that came from the shelf becomes its next version."""

    job: int
    design: Annotated[str, Field(max_length=40)]
    name: Name | None = None
    tags: Tags = []


class NewName(BaseModel):
    """A name and tags, for the version they are of."""

    version: int
    name: Name
    tags: Tags = []


class Take(BaseModel):
    """One of the shelf at a size, its own where none is given."""

    item: int
    longest_mm: LongestMm | None = None
    copies: Copies = 1


class IntoJob(BaseModel):
    """What is taken, for a job that is there, or a new one of this title."""

    take: Annotated[list[Take], Field(min_length=1, max_length=60)]
    job: int | None = None
    title: Annotated[str, Field(max_length=120)] = ""


class IntoJobView(BaseModel):
    """The job it went into."""

    job: int


class OfferOfShelf(BaseModel):
    """A piece of a job whose design on the shelf has changed since."""

    design: str
    name: str
    item: int
    version: int
    newest: int


@router.get("/shelf")
def get_shelf(
    named: Annotated[str, Query(max_length=120, description="Words of name and tags")] = "",
    skip: Annotated[int, Query(ge=0, le=100_000)] = 0,
    most: Annotated[int, Query(ge=1, le=200)] = 60,
) -> list[ShelfView]:
    """What is on the shelf, by name."""
    with transaction() as session:
        items = shelf.found(session, named, skip, most)
        ids = [item.id for item in items]
        used, ordered = shelf.times_used(session, ids), shelf.ordered(session, ids)
        yields = service.yields(session, ids)
        return [_view(item, used, ordered, yields) for item in items]


def _view(
    item: ShelfItem, used: dict[int, int], ordered: dict[int, int], yields: dict[int, tuple[int, int]]
) -> ShelfView:
    recipe = DesignRecipe.model_validate(item.recipe)
    good, bad = yields.get(item.id, (0, 0))
    return ShelfView(
        id=item.id,
        name=item.name,
        tags=item.tags,
        picture=item.picture,
        version=item.version,
        longest_mm=recipe.longest_mm,
        border_mm=recipe.border_mm,
        stock=str(item.sheet["paper"]["name"]),
        rights=recipe.rights.may_be_sold,
        jobs=used.get(item.id, 0),
        ordered=ordered.get(item.id, 0),
        good=good,
        bad=bad,
        updated_at=item.updated_at,
    )


def _one(item_id: int) -> ShelfView:
    with transaction() as session:
        item = shelf.get(session, item_id)
        used, ordered = shelf.times_used(session, [item_id]), shelf.ordered(session, [item_id])
        return _view(item, used, ordered, service.yields(session, [item_id]))


@router.post("/shelf", status_code=201)
def post_shelf(wanted: ToShelf) -> ShelfView:
    """Put a piece of a job on the shelf."""
    try:
        item = service.put(wanted.job, wanted.design, wanted.name, wanted.tags)
    except UnknownPiece as error:
        raise Problem(404, "This job has no such piece.", "Choose one of its pieces.") from error
    except ShelfFull as error:
        raise Problem(409, "The shelf is full.", "Remove designs that are no longer made.") from error
    except ShelfStale as error:
        raise _stale() from error
    return _one(item.id)


@router.put("/shelf/{item_id}")
def put_shelf(item_id: int, wanted: NewName) -> ShelfView:
    """Give a design another name and other tags."""
    try:
        service.rename(item_id, wanted.version, wanted.name.strip(), wanted.tags)
    except UnknownShelfItem as error:
        raise unknown_item() from error
    except ShelfStale as error:
        raise _stale() from error
    return _one(item_id)


@router.delete("/shelf/{item_id}", status_code=204)
def delete_shelf(item_id: int) -> None:
    """Take a design off the shelf. Jobs keep their pieces."""
    try:
        with transaction() as session:
            shelf.remove(session, item_id)
    except UnknownShelfItem as error:
        raise unknown_item() from error
    except StillOrdered as error:
        raise Problem(
            409, "Orders use this design.", "It stays on the shelf while those orders exist."
        ) from error


@router.post("/shelf/take", status_code=201)
def post_from_shelf(wanted: IntoJob) -> IntoJobView:
    """Put designs of the shelf into a job, at their own or at other sizes, as one step."""
    taken = [service.Taken(each.item, each.longest_mm, each.copies) for each in wanted.take]
    try:
        if wanted.job is not None:
            return IntoJobView(job=service.into_job(wanted.job, taken).id)
        with transaction() as session:
            title = wanted.title.strip() or shelf.get(session, taken[0].item).name
            return IntoJobView(job=service.begin_job(session, title, taken)[0].id)
    except UnknownShelfItem as error:
        raise unknown_item() from error
    except TooManyPieces as error:
        raise Problem(422, "A job holds at most 60 pieces.", "Put some of them into another job.") from error


@router.get("/jobs/{job_id}/shelf")
def get_offers(job_id: int) -> list[OfferOfShelf]:
    """Changes on the shelf that this job may take; nothing is changed by itself."""
    with transaction() as session:
        return [OfferOfShelf(**vars(offer)) for offer in service.offers(session, job_id)]


@router.post("/jobs/{job_id}/shelf/{design}")
def post_offer(job_id: int, design: str) -> IntoJobView:
    """Have a piece as it is on the shelf now."""
    try:
        return IntoJobView(job=service.take_offer(job_id, design).id)
    except UnknownPiece as error:
        raise Problem(
            404, "No piece of this job came from the shelf.", "Look at the job's pieces."
        ) from error


def unknown_item() -> Problem:
    """Nothing on the shelf has this number."""
    return Problem(404, "This is not on the shelf.", "Somebody has removed it. Check the shelf.")


def _stale() -> Problem:
    return Problem(409, "Somebody changed this design meanwhile.", "Look at it as it is now, then change it.")
