"""Labels of a job: a list drives how many of a design there are, and what each of them says."""

from collections.abc import Mapping

from perisect.core.finding import Finding, Severity
from perisect.core.job.recipe import DesignRecipe, JobRecipe
from perisect.core.message import NOTHING, Message, mm, says
from perisect.core.sheet.labels import Table
from perisect.core.sheet.labels.sets import LabelSet, label_set

TOLD = 5


def label_sets(recipe: JobRecipe, tables: Mapping[str, Table]) -> dict[str, LabelSet]:
    """The labels of every design that has a list."""
    return {
        design.id: label_set(design.labels, tables[design.labels.table], design.longest_mm)
        for design in recipe.designs
        if design.labels is not None and design.labels.table in tables
    }


def counted(recipe: JobRecipe, sets: Mapping[str, LabelSet]) -> JobRecipe:
    """The recipe as it is filled: a row is a label, and a job with a list is made by number."""
    if not sets:
        return recipe
    designs = tuple(
        design.model_copy(update={"copies": len(sets[design.id])}) if design.id in sets else design
        for design in recipe.designs
    )
    sheet = recipe.sheet.model_copy(update={"fill": False})
    return recipe.model_copy(update={"designs": designs, "sheet": sheet})


def label_findings(
    design: DesignRecipe, labels: LabelSet, width_mm: float, height_mm: float
) -> list[Finding]:
    """Rows that do not fit, rows that were shortened, boxes that reach past the piece (`width_mm` by `height_mm`),
    and what was noticed in the list."""
    counts = labels.counts
    found = [_finding(design, "look", says("list", note=note)) for note in labels.table.notes]
    found += _boxes(design, labels, width_mm, height_mm)
    if counts["problem"]:
        worst = [f"row {each.row + 1}, {each.problem}" for each in labels.tight[:TOLD] if each.problem]
        more = counts["problem"] - len(worst)
        message = says(
            "labels_unfit",
            unfit=counts["problem"],
            labels=len(labels),
            rows="; ".join(worst),
            more=says("labels_unfit.more", count=more) if more else NOTHING,
        )
        found.append(_finding(design, "stop", message, counts["problem"]))
    if counts["shortened"]:
        message = says("labels_short", shortened=counts["shortened"], labels=len(labels))
        found.append(_finding(design, "look", message, counts["shortened"]))
    if not counts["problem"]:
        least = min((each.size_mm for each in labels.tight if each.size_mm > 0), default=None)
        if least is not None:
            message = says("labels_fit", labels=len(labels), name=design.name, least=mm(least, 1))
            found.append(_finding(design, "good", message, round(least, 2), "mm"))
    return found


def _boxes(design: DesignRecipe, labels: LabelSet, width_mm: float, height_mm: float) -> list[Finding]:
    found = []
    for box in (*labels.recipe.texts, *labels.recipe.codes):
        left, top = box.x * labels.longest_mm, box.y * labels.longest_mm
        right, bottom = left + box.width * labels.longest_mm, top + box.height * labels.longest_mm
        past = round(max(-left, -top, right - width_mm, bottom - height_mm), 2)
        if past > 0:
            message = says("label_box", box=box.template, past=mm(past, 1), name=design.name)
            found.append(_finding(design, "look", message, past, "mm"))
    return found


def _finding(
    design: DesignRecipe,
    severity: Severity,
    message: Message,
    measured: float | None = None,
    unit: str = "labels",
) -> Finding:
    return Finding(
        code=message.code,
        station="sheet",
        severity=severity,
        design=design.id,
        message=message,
        measured=measured,
        unit=unit if measured is not None else None,
    )
