"""The lines of one sheet of a plan, as files and the plotter take them."""

from typing import Literal

from perisect.core.curve import Chain
from perisect.core.formats import CutSheet, Ring, rings_of
from perisect.core.job.plan import JobPlan
from perisect.core.sheet.cards import card_ring
from perisect.core.sheet.common_line import slits
from perisect.core.sheet.mark_shape import ink_shapes
from perisect.core.sheet.perimeter import NO_STICKER, perimeter_lines


def cut_sheet(plan: JobPlan, number: int) -> CutSheet:
    """Lines of sheet `number` (from 0) by process, sticker after sticker, and the marks."""
    lines: dict[str, list[Ring]] = {}
    owners: dict[str, list[int]] = {}
    curves: dict[str, list[Chain]] = {}
    for sticker, placement in enumerate(plan.sheets.sheets[number]):
        for process, shape in plan.placed_lines(placement).items():
            rings = rings_of(shape)
            lines.setdefault(process, []).extend(rings)
            owners.setdefault(process, []).extend([sticker] * len(rings))
        for process, found in plan.placed_curves(placement).items():
            curves.setdefault(process, []).extend(found)
    if plan.recipe.sheet.common_line and "through" in lines:
        _share_edges(lines, owners, curves)
    for ring, how in outer_rings(plan, number):
        process, cuts, whole = perimeter_lines(ring, how, plan.recipe.sheet.tooling)
        lines.setdefault(process, []).extend(cuts)
        owners.setdefault(process, []).extend([NO_STICKER] * len(cuts))
        curves.setdefault(process, []).extend(whole)
    inked = ink_shapes(plan.area.marks, plan.area.machine.marks)
    marks = [ring for shape in inked for ring in rings_of(shape)]
    return CutSheet(plan.area.stock.width_mm, plan.area.stock.height_mm, lines, owners, marks, curves)


def outer_rings(plan: JobPlan, number: int) -> list[tuple[Ring, Literal["through", "perforate"]]]:
    """Lines round more than one sticker on a sheet, and how they are cut: cards, then the perimeter."""
    found: list[tuple[Ring, Literal["through", "perforate"]]] = []
    sheet = plan.recipe.sheet
    if plan.cards is not None and sheet.card is not None:
        found += [(card_ring(sheet.card, place), sheet.card.cut) for place in plan.cards.by_sheet[number]]
    ring = plan.perimeter(number)
    if ring is not None and sheet.perimeter_cut != "none":
        found.append((ring, sheet.perimeter_cut))
    return found


def _share_edges(
    lines: dict[str, list[Ring]], owners: dict[str, list[int]], curves: dict[str, list[Chain]]
) -> None:
    """Part boxes that stand edge to edge by straight cuts."""
    cuts, others = slits(lines["through"])
    if not cuts:
        return
    fitted = len(curves.get("through", ())) == len(lines["through"])
    lines["slit"], owners["slit"] = cuts, [NO_STICKER] * len(cuts)
    lines["through"] = [lines["through"][n] for n in others]
    owners["through"] = [owners["through"][n] for n in others]
    curves["through"] = [curves["through"][n] for n in others] if fitted else []
    if not others:
        del lines["through"], owners["through"], curves["through"]
