"""The shelf: a finished design goes into a job in one step, at its own or at other sizes."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from perisect.core.job import DesignRecipe, JobRecipe, SheetRecipe
from perisect.core.ledger.count import Count, found_on
from perisect.store import jobs, shelf
from perisect.store.database import transaction
from perisect.store.models import Job
from perisect.store.trade_models import ShelfItem

MOST_PIECES = 60
MADE_ON = ("paper", "printer", "plotter")


class UnknownPiece(KeyError):
    """The job has no such piece."""


class TooManyPieces(Exception):
    """The job would have more pieces than it may."""


def put(job_id: int, design_id: str, name: str | None, tags: Sequence[str]) -> ShelfItem:
    """Put a piece of a job on the shelf; one that came from there becomes its next version.

    Raises:
        UnknownJob, UnknownPiece, ShelfFull.
    """
    with transaction() as session:
        job = jobs.get(session, job_id, lock=True)
        recipe = jobs.recipe(session, job)
        try:
            design = recipe.design(design_id)
        except KeyError as error:
            raise UnknownPiece(design_id) from error
        known = shelf.uses(session, job_id).get(design_id)
        values: dict[str, Any] = {
            "name": name or design.name,
            "recipe": design.model_copy(update={"copies": 1, "group": ""}).model_dump(mode="json"),
            "sheet": _made_on(recipe.sheet),
            "picture": design.picture,
        }
        if known is not None:
            there = shelf.get(session, known.shelf_id, lock=True)
            values["name"], values["tags"] = name or there.name, _tidy(tags) or there.tags
            item = shelf.change(session, there.id, there.version, **values)
        else:
            item = shelf.add(session, **values, tags=_tidy(tags))
        shelf.use(session, job_id, design_id, item)
        return item


def rename(item_id: int, version: int, name: str, tags: Sequence[str]) -> ShelfItem:
    """Give one another name and other tags.

    Raises:
        UnknownShelfItem, ShelfStale.
    """
    with transaction() as session:
        return shelf.change(session, item_id, version, name=name, tags=_tidy(tags))


def _tidy(tags: Sequence[str]) -> list[str]:
    return sorted({tag.strip().lower() for tag in tags if tag.strip()})


def _made_on(sheet: SheetRecipe) -> dict[str, Any]:
    return {
        "paper": sheet.on.model_dump(mode="json"),
        "printer": sheet.printed_by.model_dump(mode="json"),
        "plotter": sheet.cut_by.model_dump(mode="json"),
    }


def sheet_of(item: ShelfItem) -> SheetRecipe:
    """A sheet for what was made on this stock, by these machines."""
    return SheetRecipe(fill=False, **{part: item.sheet[part] for part in MADE_ON})


def design_of(
    item: ShelfItem, design_id: str, longest_mm: float | None = None, copies: int = 1
) -> DesignRecipe:
    """A piece of it, at its own size unless another is wanted; borders and margins stay as they are in mm."""
    recipe = DesignRecipe.model_validate(item.recipe)
    size = longest_mm or recipe.longest_mm
    name = item.name if size == recipe.longest_mm else f"{item.name}, {size:g} mm"[:120]
    return recipe.model_copy(update={"id": design_id, "longest_mm": size, "copies": copies, "name": name})


@dataclass(frozen=True)
class Taken:
    """One of the shelf, at a size or at its own."""

    item: int
    longest_mm: float | None = None
    copies: int = 1


def begin_job(
    session: Session, title: str, taken: Sequence[Taken], order: bool = False
) -> tuple[Job, list[str]]:
    """A new job of what is taken from the shelf, on the stock of the first of it; ids of its pieces, in their order.

    Raises:
        UnknownShelfItem, TooManyPieces.
    """
    if len(taken) > MOST_PIECES:
        raise TooManyPieces
    items = [shelf.get(session, each.item) for each in taken]
    ids = [f"d{number}" for number in range(1, len(taken) + 1)]
    designs = tuple(
        design_of(item, design_id, each.longest_mm, each.copies)
        for item, each, design_id in zip(items, taken, ids, strict=True)
    )
    recipe = JobRecipe(designs=designs, sheet=sheet_of(items[0]), order=order)
    job = jobs.create(session, title[:120], recipe)
    for item, design_id in zip(items, ids, strict=True):
        shelf.use(session, job.id, design_id, item)
    return job, ids


def into_job(job_id: int, taken: Sequence[Taken]) -> Job:
    """Add pieces of the shelf to a job as one step.

    Raises:
        UnknownJob, UnknownShelfItem, TooManyPieces.
    """
    with transaction() as session:
        items = [shelf.get(session, each.item) for each in taken]
        added: list[str] = []

        def with_them(now: JobRecipe) -> JobRecipe:
            if len(now.designs) + len(taken) > MOST_PIECES:
                raise TooManyPieces
            there = {design.id for design in now.designs}
            free = (f"d{number}" for number in range(1, 1000) if f"d{number}" not in there)
            new = []
            for item, each in zip(items, taken, strict=True):
                added.append(next(free))
                new.append(design_of(item, added[-1], each.longest_mm, each.copies))
            # An empty job takes the stock with the first design.
            update: dict[str, Any] = {"designs": (*now.designs, *new)}
            if not now.designs:
                made = sheet_of(items[0])
                update["sheet"] = now.sheet.model_copy(update={part: getattr(made, part) for part in MADE_ON})
            return now.model_copy(update=update)

        label = f"Take {items[0].name}" if len(items) == 1 else f"Take {len(items)} from the shelf"
        job = jobs.append(session, job_id, with_them, label[:160])
        for item, design_id in zip(items, added, strict=True):
            shelf.use(session, job_id, design_id, item)
        return job


@dataclass(frozen=True)
class Offer:
    """A piece of a job whose design on the shelf has changed since."""

    design: str
    name: str
    item: int
    version: int
    newest: int


def offers(session: Session, job_id: int) -> list[Offer]:
    """Changes on the shelf that a job may take."""
    recipe = jobs.recipe(session, jobs.get(session, job_id))
    there = {design.id: design.name for design in recipe.designs}
    found = []
    for design, use in shelf.uses(session, job_id).items():
        item = shelf.get(session, use.shelf_id)
        if design in there and item.version > use.version:
            found.append(Offer(design, there[design], item.id, use.version, item.version))
    return found


def take_offer(job_id: int, design_id: str) -> Job:
    """Have a piece as it is on the shelf now, at its size and count of the job.

    Raises:
        UnknownJob, UnknownPiece.
    """
    with transaction() as session:
        jobs.get(session, job_id, lock=True)
        use = shelf.uses(session, job_id).get(design_id)
        if use is None:
            raise UnknownPiece(design_id)
        item = shelf.get(session, use.shelf_id)

        def newest(now: JobRecipe) -> JobRecipe:
            try:
                mine = now.design(design_id)
            except KeyError as error:
                raise UnknownPiece(design_id) from error
            new = design_of(item, design_id, mine.longest_mm, mine.copies).model_copy(
                update={"group": mine.group}
            )
            return now.model_copy(
                update={"designs": tuple(new if each.id == design_id else each for each in now.designs)}
            )

        job = jobs.append(session, job_id, newest, f"Take {item.name} as it is on the shelf"[:160])
        shelf.use(session, job_id, design_id, item)
        return job


def yields(session: Session, ids: list[int]) -> dict[int, tuple[int, int]]:
    """Good and bad stickers counted of each design of the shelf."""
    totals: dict[int, tuple[int, int]] = {}
    for item, design, run in shelf.counted_runs(session, ids):
        found = found_on(
            Count.model_validate(run.count), [str(each["design"]) for each in run.stickers or []]
        )
        good, bad = totals.get(item, (0, 0))
        totals[item] = good + found.good[design], bad + found.bad[design]
    return totals
