"""Labels of a job: a list drives how many of a design there are, and what each of them says."""

from collections.abc import Mapping

from perisect.core.finding import Finding
from perisect.core.job.recipe import DesignRecipe, JobRecipe
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
    found = [_finding(design, "look", "list", note) for note in labels.table.notes]
    found += _boxes(design, labels, width_mm, height_mm)
    if counts["problem"]:
        worst = [f"row {each.row + 1}, {each.problem}" for each in labels.tight[:TOLD] if each.problem]
        more = counts["problem"] - len(worst)
        text = f"{counts['problem']} of {len(labels)} labels do not fit and are not printed whole: {'; '.join(worst)}"
        text += f"; and {more} more." if more else "."
        found.append(_finding(design, "stop", "labels_unfit", text, counts["problem"]))
    if counts["shortened"]:
        text = f"{counts['shortened']} of {len(labels)} labels were shortened by your short forms."
        found.append(_finding(design, "look", "labels_short", text, counts["shortened"]))
    if not counts["problem"]:
        least = min((each.size_mm for each in labels.tight if each.size_mm > 0), default=None)
        if least is not None:
            text = f"All {len(labels)} labels of {design.name} fit; the smallest capitals are {least:.1f} mm high."
            found.append(_finding(design, "good", "labels_fit", text, round(least, 2), "mm"))
    return found


def _boxes(design: DesignRecipe, labels: LabelSet, width_mm: float, height_mm: float) -> list[Finding]:
    found = []
    for box in (*labels.recipe.texts, *labels.recipe.codes):
        left, top = box.x * labels.longest_mm, box.y * labels.longest_mm
        right, bottom = left + box.width * labels.longest_mm, top + box.height * labels.longest_mm
        past = round(max(-left, -top, right - width_mm, bottom - height_mm), 2)
        if past > 0:
            text = f"The box “{box.template}” reaches {past:.1f} mm past {design.name}: what it says may be cut off."
            found.append(_finding(design, "look", "label_box", text, past, "mm"))
    return found


def _finding(
    design: DesignRecipe,
    severity: str,
    code: str,
    text: str,
    measured: float | None = None,
    unit: str = "labels",
) -> Finding:
    return Finding.model_validate(
        {
            "code": code,
            "station": "sheet",
            "severity": severity,
            "design": design.id,
            "text": text,
            "measured": measured,
            "unit": unit if measured is not None else None,
        }
    )
