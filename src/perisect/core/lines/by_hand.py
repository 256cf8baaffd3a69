"""Findings about what was edited by hand."""

import shapely

from perisect.core.finding import Finding
from perisect.core.lines.cut_lines import CutLines
from perisect.core.lines.line_finding import line_finding

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
        text = (
            f"A shape drawn by hand on {name} no longer meets its line: the outline has moved away from it."
        )
        found.append(
            line_finding(design, "edit_missed", text, where_mm=middle, measured=number + 1, unit="edit")
        )
    return found


def _missed_nodes(design: str, name: str, lines: CutLines) -> list[Finding]:
    longest = max(lines.width_mm, lines.height_mm)
    found = []
    for number in lines.missed_nodes:
        edit = lines.recipe.nodes[number]
        text = f"An edit of a node of {name} was left out: the line has moved away from it, or would cross itself."
        where = (edit.x * longest, edit.y * longest)
        found.append(
            line_finding(design, "edit_missed", text, where_mm=where, measured=number + 1, unit="edit")
        )
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
            "into_art",
            f"The line of {name}, edited by hand, runs into the art: {area:.1f} mm² would be cut off.",
            where_mm=(float(x), float(y)),
            measured=round(area, 2),
            limit=LOST_MM2,
            unit="mm²",
        )
    ]
