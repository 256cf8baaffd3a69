"""What is left of sheets that were cut."""

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Path
from pydantic import BaseModel

from perisect.api.lines_view import shape_path
from perisect.api.problems import Problem
from perisect.services import scraps
from perisect.services.scraps import DoesNotFit, Kept, NothingLeft
from perisect.store.scraps import NotCut

router = APIRouter(tags=["scraps"])

Number = Annotated[int, Path(ge=1, le=2**31 - 1)]
CM2 = 100.0


class ScrapView(BaseModel):
    """A scrap: the print it was and its job, the stock, the sheet (mm) and what is free of it (path and cm²), since
    when, and the job that has it."""

    of_print: int
    job: int
    title: str
    stock: str
    width_mm: float
    height_mm: float
    free: str
    free_cm2: float
    at: datetime
    taken_by: int | None


class LeftView(BaseModel):
    """What would be kept of a sheet, cm²; 0 where nothing of it is worth keeping; and whether it is kept, or was."""

    free_cm2: float
    state: Literal["free", "kept", "gone"]


def _view(kept: Kept) -> ScrapView:
    return ScrapView(
        of_print=kept.of_print,
        job=kept.job,
        title=kept.title,
        stock=kept.stock,
        width_mm=kept.size_mm[0],
        height_mm=kept.size_mm[1],
        free=shape_path(kept.free, 1),
        free_cm2=round(kept.free.area / CM2, 1),
        at=kept.at,
        taken_by=kept.taken_by,
    )


@router.get("/api/scraps")
def get_scraps() -> list[ScrapView]:
    """All that are there, the newest first."""
    return [_view(kept) for kept in scraps.all_kept()]


@router.get("/api/prints/{print_id}/left")
def get_left(print_id: Number) -> LeftView:
    """What is left of a printed sheet after its cut."""
    found, state = scraps.left(print_id)
    return LeftView(free_cm2=0.0 if found is None else round(found.free_mm2 / CM2, 1), state=state)


@router.post("/api/prints/{print_id}/scrap", status_code=201)
def post_scrap(print_id: Number) -> ScrapView:
    """Keep what is left of a sheet that was cut; what is kept already stays as it is."""
    try:
        return _view(scraps.keep(print_id))
    except NotCut as error:
        raise Problem(
            409, "This sheet is not cut yet.", "Cut it and take it off the plotter first."
        ) from error
    except NothingLeft as error:
        raise Problem(
            409,
            "Nothing of this sheet is worth keeping.",
            "What is left of it is too small for marks and stickers.",
        ) from error


@router.delete("/api/scraps/{print_id}")
def delete_scrap(print_id: Number) -> list[ScrapView]:
    """It is thrown away."""
    scraps.throw_away(print_id)
    return get_scraps()


@router.get("/api/jobs/{job_id}/scraps")
def get_job_scraps(job_id: Number) -> list[ScrapView]:
    """Those on which all of a job fits, the smallest first."""
    return [_view(kept) for kept in scraps.offers(job_id)]


@router.post("/api/jobs/{job_id}/scraps/{print_id}")
def post_job_scrap(job_id: Number, print_id: Number) -> ScrapView:
    """Put a job on a scrap, as a step of its own; its new version is in the job's events."""
    try:
        scraps.take(job_id, print_id)
    except DoesNotFit as error:
        raise Problem(
            409,
            "This job does not fit on this scrap.",
            "A scrap takes jobs by number, on plain sheets of its stock, that fit on it whole.",
        ) from error
    return _view(scraps.one(print_id))
