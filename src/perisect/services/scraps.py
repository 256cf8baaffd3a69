"""What is left of sheets: kept after a cut, offered to small jobs that fit on it, taken by one of them."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

import shapely
from sqlalchemy.orm import Session

from perisect.core.job import JobRecipe
from perisect.core.job.scrap import left_of, may_stand_on_scrap, sheet_on
from perisect.core.sheet.recipe import SheetRecipe
from perisect.core.sheet.scrap import Scrap as Left
from perisect.core.sheet.scrap import marks_on, scrap_with
from perisect.services.plans import plan
from perisect.store import jobs, scraps
from perisect.store.database import transaction
from perisect.store.jobs import StaleRevision
from perisect.store.models import Print
from perisect.store.prints import UnknownPrint
from perisect.store.scraps import ScrapGone

TRIES = 20
MOST_TRIED, MOST_OFFERED = 6, 3
"""Scraps that a job is tried on, and that it is shown."""


class NothingLeft(Exception):
    """What is left of a sheet holds no marks, or nothing worth keeping."""


class DoesNotFit(Exception):
    """A job is not one for scraps, or does not fit on this one."""


@dataclass(frozen=True)
class Kept:
    """A scrap in the shop: the print that it was, its job, the stock, the sheet's width and height, what is free of it
    as one shape in sheet mm, and the job that has it."""

    of_print: int
    job: int
    title: str
    stock: str
    size_mm: tuple[float, float]
    free: shapely.Polygon
    at: datetime
    taken_by: int | None


State = Literal["free", "kept", "gone"]


def left(print_id: int) -> tuple[Left | None, State]:
    """What would be kept of a printed sheet; None where that is nothing; and whether it is kept, or was.

    Raises:
        UnknownPrint.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        recipe, number, scrap = JobRecipe.model_validate(row.recipe), row.sheet, scraps.of(row)
    state: State = "free" if scrap is None else "kept" if scrap.gone is None else "gone"
    return left_of(plan(recipe).plan, number), state


def keep(print_id: int) -> Kept:
    """Keep what is left of a sheet that was cut, once.

    Raises:
        UnknownPrint, NotCut, NothingLeft, ScrapGone.
    """
    found, _ = left(print_id)
    if found is None:
        raise NothingLeft
    with transaction() as session:
        scraps.keep(session, print_id, found.used, found.free_mm2)
    return one(print_id)


def throw_away(print_id: int) -> None:
    """A scrap is no more.

    Raises:
        UnknownPrint, ScrapGone.
    """
    with transaction() as session:
        scraps.throw_away(session, print_id)


def one(print_id: int) -> Kept:
    """A scrap, there or gone.

    Raises:
        UnknownPrint, ScrapGone.
    """
    with transaction() as session:
        row = session.get(Print, print_id)
        if row is None:
            raise UnknownPrint(print_id)
        scrap = scraps.of(row)
        if scrap is None:
            raise ScrapGone("No leftover of this sheet was kept.")
        return _kept(session, row, scrap)


def all_kept() -> list[Kept]:
    """All scraps of the shop, the newest first."""
    with transaction() as session:
        return [_kept(session, row, scrap) for row, scrap in scraps.listed(session)]


def offers(job_id: int) -> list[Kept]:
    """Scraps of its own stock on which all of a job fits, the smallest first.

    Raises:
        UnknownJob.
    """
    with transaction() as session:
        recipe = jobs.recipe(session, jobs.get(session, job_id))
        if not may_stand_on_scrap(recipe):
            return []
        there = [
            (row, scrap, _kept(session, row, scrap))
            for row, scrap in scraps.listed(session)
            if _same_stock(recipe, row) and scraps.is_free(session, row.id, scrap, job_id)
        ]
    taken = plan(recipe).plan
    needed = sum(f.area_mm2 * f.copies for f in taken.footprints)
    large = sorted((each for each in there if each[1].free_mm2 > needed), key=lambda each: each[1].free_mm2)
    found: list[Kept] = []
    for row, scrap, kept in large[:MOST_TRIED]:
        if len(found) < MOST_OFFERED and _on(recipe, row, scrap) is not None:
            found.append(kept)
    return found


def take(job_id: int, print_id: int) -> None:
    """Put a job, as it is now, on a scrap, as a step of its own.

    Raises:
        UnknownJob, UnknownPrint, StaleRevision, DoesNotFit, ScrapGone.
    """
    for tried in range(TRIES):
        with transaction() as session:
            job = jobs.get(session, job_id)
            recipe, revision = jobs.recipe(session, job), job.revision
            row = session.get(Print, print_id)
            scrap = None if row is None else scraps.of(row)
        if row is None:
            raise UnknownPrint(print_id)
        if scrap is None:
            raise ScrapGone("This scrap is used or thrown away.")
        new = _on(recipe, row, scrap) if may_stand_on_scrap(recipe) else None
        if new is None:
            raise DoesNotFit
        try:
            with transaction() as session:
                # The job first, as everywhere.
                jobs.get(session, job_id, lock=True)
                scraps.take(session, print_id, job_id)
                jobs.write(session, job_id, revision, new, "On what is left of a sheet")
            return
        except StaleRevision:
            # Somebody else changed the job meanwhile: its pieces may not fit any more.
            if tried + 1 == TRIES:
                raise


def _sheet_of(row: Print) -> SheetRecipe:
    return SheetRecipe.model_validate(row.recipe["sheet"])


def _same_stock(recipe: JobRecipe, row: Print) -> bool:
    was, now = _sheet_of(row).on, recipe.sheet.on
    return (was.id, was.width_mm, was.height_mm) == (now.id, now.width_mm, now.height_mm)


def _on(recipe: JobRecipe, row: Print, scrap: scraps.Scrap) -> JobRecipe | None:
    """A job's recipe on a scrap; None where not all of it fits."""
    if not _same_stock(recipe, row):
        return None
    left = _left(row, scrap)
    marks = marks_on(left, plan(recipe).plan.area)
    if marks is None:
        return None
    new = recipe.model_copy(update={"sheet": sheet_on(recipe.sheet, row.id, left.used, marks)})
    sheets = plan(new).plan.sheets
    return new if len(sheets.sheets) == 1 and not sheets.missing else None


def _left(row: Print, scrap: scraps.Scrap) -> Left:
    sheet = _sheet_of(row)
    rings = tuple(tuple((float(x), float(y)) for x, y in ring) for ring in scrap.used)
    return scrap_with(rings, sheet.machine, sheet.on.panel(sheet.on.height_mm))


def _kept(session: Session, row: Print, scrap: scraps.Scrap) -> Kept:
    on = _sheet_of(row).on
    return Kept(
        row.id,
        row.job_id,
        jobs.get(session, row.job_id).title,
        on.name,
        (on.width_mm, on.height_mm),
        _left(row, scrap).free,
        datetime.fromisoformat(scrap.at),
        scraps.taken_by(session, row.id, scrap),
    )
