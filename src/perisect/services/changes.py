"""Changes of a job: what is asked for made of its recipe, and saved as a step."""

from collections.abc import Callable
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from perisect.core.finding import Remedy, SplitPage
from perisect.core.job import JobRecipe, apply_remedy
from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord, StockRecord
from perisect.services.pictures import merge, split
from perisect.services.plans import plan
from perisect.store import equipment, jobs
from perisect.store.database import transaction
from perisect.store.jobs import StaleRevision


def changed(recipe: JobRecipe, request: dict[str, Any]) -> JobRecipe:
    """A recipe with what a request asks for.

    Raises:
        RemedyError: it does not apply.
    """
    if "recipe" in request:
        return JobRecipe.model_validate(request["recipe"])
    if "merge" in request:
        return merge(recipe, request["merge"])
    for wanted in (request, *request.get("also", ())):
        recipe = _remedied(recipe, wanted["remedy"], wanted["design"])
    return recipe


def _remedied(recipe: JobRecipe, wanted: dict[str, Any], design: str | None) -> JobRecipe:
    remedy: Remedy = TypeAdapter(Remedy).validate_python(wanted)
    if isinstance(remedy, SplitPage):
        return split(recipe, design or "")
    return apply_remedy(recipe, remedy, design)


TRIES = 20
"""Changes by others that a change of whatever holds is made again after; each is a moment's work."""


def save(
    job_id: int,
    revision: int | None,
    request: dict[str, Any],
    label: str,
    ready: Callable[[JobRecipe], bool] = lambda _: True,
    told: Callable[[Session, int], None] = lambda *_: None,
) -> int | None:
    """Make a change, plan what comes of it and save it; the job's new revision.

    Args:
        revision: the one the change is made to; None for whatever holds, as a command is that somebody gave to a
            piece while pictures were still coming in.
        ready: None is returned, and nothing saved, where it is not true of the recipe before or after.
        told: hears of the new revision in the transaction that saves it.

    Raises:
        RemedyError: the change does not apply.
        UnknownJob, StaleRevision.
    """
    for tried in range(TRIES):
        with transaction() as session:
            job = jobs.get(session, job_id)
            before, at = jobs.recipe(session, job), job.revision
        if not ready(before):
            return None
        new = changed(before, request)
        if new == before:
            return at
        if not ready(new):
            return None
        plan(new)
        try:
            if revision is not None:
                return write(job_id, revision, new, label, told)
            with transaction() as session:
                return _written(session, job_id, at, new, label, told)
        except StaleRevision:
            if revision is not None or tried == TRIES - 1:
                raise
    raise AssertionError("the last try returns or raises")


def write(
    job_id: int,
    revision: int,
    new: JobRecipe,
    label: str,
    told: Callable[[Session, int], None] = lambda *_: None,
) -> int:
    """Save a change; returns the job's new revision. What comes too late is kept as a step aside.

    Raises:
        UnknownJob, StaleRevision.
    """
    try:
        with transaction() as session:
            return _written(session, job_id, revision, new, label, told)
    except StaleRevision as stale:
        with transaction() as session:
            stale.aside = jobs.set_aside(session, job_id, new, f"{label}, given up"[:160])
        raise


def _written(
    session: Session,
    job_id: int,
    revision: int,
    new: JobRecipe,
    label: str,
    told: Callable[[Session, int], None],
) -> int:
    saved = jobs.write(session, job_id, revision, new, label).revision
    told(session, saved)
    return saved


def with_equipment(
    session: Session,
    recipe: JobRecipe,
    stock: str | None,
    printer: str | None,
    plotter: str | None,
    take_numbers: bool,
) -> tuple[JobRecipe, str]:
    """A recipe whose sheet uses what the shop has, by its ids, and what that change is called.

    Raises:
        UnknownEquipment: the shop has no such thing.
    """
    sheet = recipe.sheet
    if take_numbers:
        stock = sheet.paper.id if stock is None and sheet.paper is not None else stock
        printer = sheet.printer.id if printer is None and sheet.printer is not None else printer
        plotter = sheet.plotter.id if plotter is None and sheet.plotter is not None else plotter
    update: dict[str, Any] = {}
    names: list[str] = []
    if stock is not None:
        paper = equipment.one_of(session, "stock", StockRecord, stock).recipe
        update["paper"], names = paper, [*names, paper.name]
    if printer is not None:
        printed_by = equipment.one_of(session, "printer", PrinterRecord, printer).recipe
        update["printer"], names = printed_by, [*names, printed_by.name]
    if plotter is not None:
        cut_by = equipment.one_of(session, "plotter", PlotterRecord, plotter).recipe
        update["plotter"], names = cut_by, [*names, cut_by.name]
    changed_sheet = sheet.model_copy(update=update)
    label = "Update from the shop's record" if take_numbers else ", ".join(names) or "Stock and machines"
    return recipe.model_copy(update={"sheet": changed_sheet}), label[:160]
