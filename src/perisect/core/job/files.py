"""Print and cut files of a planned job."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from perisect.core.formats import CutSheet
from perisect.core.formats.dxf import write_dxf
from perisect.core.formats.hpgl import write_hpgl
from perisect.core.formats.svg import write_svg
from perisect.core.job.plan import JobPlan
from perisect.core.prepress import EncodedPicture, PrintDesign, write_print_pdf

CUT_WRITERS = {"svg": write_svg, "dxf": write_dxf, "hpgl": write_hpgl}
CUT_MEDIA_TYPES = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf", "hpgl": "application/vnd.hp-HPGL"}


def print_pdf(plan: JobPlan, number: int, pictures: Mapping[str, EncodedPicture]) -> bytes:
    """The print file of sheet `number` (from 0).

    Args:
        pictures: encoded pictures by the designs' `picture`.
    """
    designs = {}
    for design in plan.recipe.designs:
        if design.picture in pictures:
            left, top, _, _ = plan.artworks[design.id].outline.box_px
            scale = plan.lines[design.id].mm_per_px
            designs[design.id] = PrintDesign(pictures[design.picture], scale, (left, top))
    slug = f"Sheet {number + 1} of {len(plan.sheets.sheets)} · print side up · this edge leaves last"
    machine = plan.area.machine
    return write_print_pdf(
        plan.area.stock, plan.area.marks, machine.marks, plan.sheets.sheets[number], designs, slug
    )


@dataclass(frozen=True)
class LineTotals:
    """Count and length of the lines of one process on one sheet."""

    count: int
    length_mm: float


def line_totals(sheet: CutSheet) -> dict[str, LineTotals]:
    """Totals by process."""
    totals = {}
    for process, rings in sheet.lines.items():
        length = sum(float(np.hypot(*(np.roll(r, -1, axis=0) - r).T).sum()) for r in rings)
        totals[process] = LineTotals(len(rings), length)
    return totals
