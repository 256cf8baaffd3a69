"""What every station has to say of a plan: a tuple of checkers, in the order of work."""

from collections.abc import Callable, Iterable

from perisect.core.finding import Finding, SetField
from perisect.core.job.artwork_check import artwork_findings
from perisect.core.job.bleed_check import bleed_findings
from perisect.core.job.label_rows import label_findings
from perisect.core.job.plan import JobPlan
from perisect.core.job.remainder import remainder_findings
from perisect.core.job.rights import rights_findings
from perisect.core.lines import LineError
from perisect.core.lines.check import line_findings
from perisect.core.message import says
from perisect.core.sheet.cards import card_findings
from perisect.core.sheet.check import sheet_findings
from perisect.core.sheet.common_line import common_line_findings
from perisect.core.sheet.footprints import clearance_mm
from perisect.core.sheet.layout_check import layout_findings
from perisect.core.sheet.machine_check import machine_findings

OF_PRINTING = frozenset({"resolution", "pale", "feathered"})
"""Findings of artwork that say nothing where it is only cut."""
Checker = Callable[[JobPlan], Iterable[Finding]]


def _artwork(plan: JobPlan) -> Iterable[Finding]:
    for design in plan.recipe.designs:
        found = artwork_findings(design, plan.artworks[design.id], plan.lines.get(design.id))
        yield from (each for each in found if not plan.recipe.sheet.cut_only or each.code not in OF_PRINTING)


def _undrawn(plan: JobPlan) -> Iterable[Finding]:
    for design in plan.recipe.designs:
        error = plan.undrawn.get(design.id)
        if error is not None:
            is_line = isinstance(error, LineError)
            back = SetField.saying(says("remedy.contour"), field="lines.shape", value="contour")
            yield Finding(
                code="impossible_line",
                station="lines" if is_line else "artwork",
                severity="stop",
                message=says("impossible_line", name=design.name, why=error.title, act=error.detail),
                design=design.id,
                remedy=back if is_line and design.lines.shape != "contour" else None,
            )


def _lines(plan: JobPlan) -> Iterable[Finding]:
    for design in plan.recipe.designs:
        if design.id in plan.undrawn:
            continue
        if design.id in plan.lines and design.lines.own != "none":
            yield from line_findings(design.id, design.name, plan.lines[design.id], design.border_mm)
            if not plan.recipe.sheet.cut_only:
                yield from bleed_findings(design, plan.artworks[design.id], plan.lines[design.id])


def _sheets(plan: JobPlan) -> Iterable[Finding]:
    return sheet_findings(plan.area, plan.sheets, list(plan.footprints), _names(plan), plan.recipe.sheet.fill)


def _machines(plan: JobPlan) -> Iterable[Finding]:
    return machine_findings(plan.area.stock, plan.recipe.sheet) if plan.sheets.sheets else ()


def _cards(plan: JobPlan) -> Iterable[Finding]:
    card = plan.recipe.sheet.card
    if plan.cards is None or card is None:
        return ()
    return card_findings(card, plan.cards, _names(plan), plan.area.stock)


def _common_lines(plan: JobPlan) -> Iterable[Finding]:
    if not plan.recipe.sheet.common_line:
        return ()
    return common_line_findings(dict(plan.lines), _names(plan))


def _layout(plan: JobPlan) -> Iterable[Finding]:
    sheet = plan.recipe.sheet
    more_mm = {key: clearance_mm(lines, sheet) for key, lines in plan.lines.items()}
    return layout_findings(plan.area, plan.layout, plan.footprints, sheet, _names(plan), more_mm)


def _labels(plan: JobPlan) -> Iterable[Finding]:
    for design in plan.recipe.designs:
        if design.id in plan.labels:
            lines = plan.lines[design.id]
            yield from label_findings(design, plan.labels[design.id], lines.width_mm, lines.height_mm)


def _remainder(plan: JobPlan) -> Iterable[Finding]:
    return remainder_findings(plan)


def _rights(plan: JobPlan) -> Iterable[Finding]:
    return rights_findings(plan.recipe)


CHECKERS: tuple[Checker, ...] = (
    _artwork,
    _undrawn,
    _lines,
    _sheets,
    _machines,
    _cards,
    _common_lines,
    _layout,
    _remainder,
    _labels,
    _rights,
)


def findings_of(plan: JobPlan, checkers: tuple[Checker, ...] = CHECKERS) -> tuple[Finding, ...]:
    """Everything the checkers find in a plan."""
    return tuple(finding for checker in checkers for finding in checker(plan))


def _names(plan: JobPlan) -> dict[str, str]:
    return {design.id: design.name for design in plan.recipe.designs}
