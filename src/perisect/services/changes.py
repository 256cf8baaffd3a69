"""Changes of a job: what is asked for made of its recipe, and saved as a step."""

from typing import Any

from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from perisect.core.finding import Remedy, SplitPage
from perisect.core.job import JobRecipe, apply_remedy
from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord, StockRecord
from perisect.services.pictures import merge, split
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
    remedy: Remedy = TypeAdapter(Remedy).validate_python(request["remedy"])
    if isinstance(remedy, SplitPage):
        return split(recipe, request["design"] or "")
    return apply_remedy(recipe, remedy, request["design"])


def write(job_id: int, revision: int, new: JobRecipe, label: str) -> int:
    """Save a change; returns the job's new revision. What comes too late is kept as a step aside.

    Raises:
        UnknownJob, StaleRevision.
    """
    try:
        with transaction() as session:
            return jobs.write(session, job_id, revision, new, label).revision
    except StaleRevision as stale:
        with transaction() as session:
            stale.aside = jobs.set_aside(session, job_id, new, f"{label}, given up"[:160])
        raise


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
    label = "Take the shop's numbers" if take_numbers else ", ".join(names) or "Stock and machines"
    return recipe.model_copy(update={"sheet": changed_sheet}), label[:160]
