"""Findings about what was edited by hand."""

import shapely

from perisect.core.finding import Finding
from perisect.core.lines.cut_lines import CutLines
from perisect.core.lines.line_finding import line_finding
from perisect.core.message import mm2, says

LOST_MM2 = 0.2
"""Less of the art than this cut off by hand is seen by nobody."""


def hand_findings(design: str, name: str, lines: CutLines, border_mm: float) -> list[Finding]:
    """Edits that the line has moved away from, and edits that cut into the art."""
    found = _missed(design, name, lines) + _missed_nodes(design, name, lines)
    return found + _into_art(design, name, lines, border_mm)


def _missed(design: str, name: str, lines: CutLines) -> list[Finding]:
    longest = max(lines.width_mm, lines.height_mm)
    found = []
    for number in lines.missed:
        patch = lines.recipe.patches[number]
        middle = ((patch.x + patch.width / 2) * longest, (patch.y + patch.height / 2) * longest)
        message = says("edit_missed.shape", name=name)
        found.append(line_finding(design, message, where_mm=middle, measured=number + 1, unit="edit"))
    return found


def _missed_nodes(design: str, name: str, lines: CutLines) -> list[Finding]:
    longest = max(lines.width_mm, lines.height_mm)
    found = []
    for number in lines.missed_nodes:
        edit = lines.recipe.nodes[number]
        message = says("edit_missed.node", name=name)
        where = (edit.x * longest, edit.y * longest)
        found.append(line_finding(design, message, where_mm=where, measured=number + 1, unit="edit"))
    return found


def _into_art(design: str, name: str, lines: CutLines, border_mm: float) -> list[Finding]:
    """A line that was edited by hand and now runs into the art it should go round."""
    by_hand = lines.recipe.nodes or any(patch.does == "cut" for patch in lines.recipe.patches)
    if border_mm < 0 or not by_hand:
        return []
    lost = shapely.get_parts(shapely.difference(lines.outline, lines.own))
    lost = lost[shapely.area(lost) > LOST_MM2]
    if len(lost) == 0:
        return []
    worst = max(lost, key=shapely.area)
    x, y = shapely.get_coordinates(worst.representative_point())[0]
    area = float(shapely.area(lost).sum())
    return [
        line_finding(
            design,
            says("into_art", name=name, area=mm2(area, 1)),
            where_mm=(float(x), float(y)),
            measured=round(area, 2),
            limit=LOST_MM2,
            unit="mm²",
        )
    ]
