"""Findings of the Cut lines station: what the knife will meet."""

from math import ceil

import shapely

from perisect.core.finding import Finding, SetField
from perisect.core.lines.by_hand import hand_findings
from perisect.core.lines.cut_lines import CutLines
from perisect.core.lines.cuttability import Cuttability, measure
from perisect.core.lines.line_finding import line_finding
from perisect.core.lines.perforate import GOOD_GF
from perisect.core.lines.smooth import bears_radius
from perisect.core.message import NOTHING, mm, percent, quantity, says

BUSY_TURNS = 14.0
"""So many sharp turns in 100 mm slow the machine and lift the film."""

ROUND_MM = 0.5

CLOSE_MM = 0.4
"""Lines of two processes nearer than this lift the strip between them. Folds may cross what they fold."""


def line_findings(design: str, name: str, lines: CutLines, border_mm: float) -> list[Finding]:
    """Everything the knife would meet that a person should know, each with its place and remedy."""
    found = [_loose_pieces(design, name, lines, border_mm)] if lines.pieces > 1 else []
    measures = measure(lines)
    found += _narrow(design, name, measures, lines, border_mm)
    found += [
        each
        for each in (_small_loop(design, name, measures, lines), _busy(design, name, measures, lines))
        if each
    ]
    found += _filled_holes(design, lines)
    found += _crumbs(design, name, lines)
    found += hand_findings(design, name, lines, border_mm)
    found += _close_lines(design, name, lines)
    if lines.perforations:
        found.append(_hold(design, name, lines))
    if lines.hang is not None:
        found += _hang(design, name, lines)
    return found


def _loose_pieces(design: str, name: str, lines: CutLines, border_mm: float) -> Finding:
    joining = lines.joins_at_mm
    wanted = ceil((joining + 0.02) * 10) / 10 if joining is not None else None
    remedy = None
    if wanted is not None and border_mm < wanted <= 20:
        remedy = SetField.saying(says("remedy.border", border=mm(wanted)), field="border_mm", value=wanted)
    smallest = min(shapely.get_parts(lines.own), key=shapely.area)
    x, y = shapely.get_coordinates(smallest.representative_point())[0]
    return line_finding(
        design,
        says("loose_pieces", name=name, count=lines.pieces)
        if wanted is None
        else says("loose_pieces.joining", name=name, count=lines.pieces, border=mm(wanted)),
        where_mm=(float(x), float(y)),
        measured=lines.pieces,
        limit=1,
        unit="pieces",
        remedy=remedy,
    )


def _narrow(
    design: str, name: str, measures: Cuttability, lines: CutLines, border_mm: float
) -> list[Finding]:
    if measures.narrow.given_up:
        return [
            line_finding(
                design,
                says("not_searched", name=name),
                severity="good",
            )
        ]
    limit = lines.tooling.narrow_mm
    found = []
    for code, places in (("neck", measures.narrow.necks), ("slot", measures.narrow.slots)):
        if not places:
            continue
        worst, more = places[0], len(places) - 1
        others = says("narrow.more", count=more, limit=mm(limit)) if more else NOTHING
        # A slot closes when it is grown by half its width; a neck is made stronger by a wider border.
        bridge = ceil((worst.width_mm / 2 + 0.05) * 20) / 20
        wider = min(20.0, round(border_mm + 0.5, 2))
        remedy = (
            SetField.saying(
                says("remedy.bridge", bridge=mm(bridge)),
                field="lines.bridge_mm",
                value=max(bridge, lines.recipe.bridge_mm),
            )
            if code == "slot"
            else SetField.saying(says("remedy.border", border=mm(wider)), field="border_mm", value=wider)
        )
        found.append(
            line_finding(
                design,
                says(code, name=name, width=mm(worst.width_mm, 2), more=others),
                where_mm=worst.where_mm,
                measured=round(worst.width_mm, 3),
                limit=limit,
                unit="mm",
                remedy=remedy,
            )
        )
    return found


def _small_loop(design: str, name: str, measures: Cuttability, lines: CutLines) -> Finding | None:
    least = lines.tooling.smallest_loop_mm
    if measures.smallest_loop_mm >= least:
        return None
    return line_finding(
        design,
        says("small_loop", name=name, across=mm(measures.smallest_loop_mm, 2), limit=mm(least)),
        where_mm=measures.smallest_loop_at,
        measured=round(measures.smallest_loop_mm, 2),
        limit=least,
        unit="mm",
    )


def _busy(design: str, name: str, measures: Cuttability, lines: CutLines) -> Finding | None:
    if measures.turns_per_100 <= BUSY_TURNS or lines.recipe.radius_mm >= ROUND_MM:
        return None
    rounder = bears_radius(lines.own, ROUND_MM)
    return line_finding(
        design,
        says(
            "turns" if rounder else "turns.slight",
            name=name,
            turns=round(measures.turns_per_100),
            over=mm(100),
        ),
        where_mm=measures.tightest_at,
        measured=round(measures.turns_per_100, 1),
        limit=BUSY_TURNS,
        unit="turns",
        remedy=SetField.saying(
            says("remedy.round", radius=mm(ROUND_MM)), field="lines.radius_mm", value=ROUND_MM
        )
        if rounder
        else None,
    )


def _filled_holes(design: str, lines: CutLines) -> list[Finding]:
    small = [hole for hole in lines.holes_found if hole.too_small]
    if not small:
        return []
    least = lines.tooling.smallest_loop_mm
    return [
        line_finding(
            design,
            says("holes_filled", count=len(small), limit=mm(least), offset=mm(lines.tooling.knife_offset_mm)),
            severity="good",
            where_mm=(small[0].x_mm, small[0].y_mm),
            measured=round(small[0].across_mm, 2),
            limit=least,
            unit="mm",
        )
    ]


def _crumbs(design: str, name: str, lines: CutLines) -> list[Finding]:
    if not lines.crumbs:
        return []
    count, least = len(lines.crumbs), lines.tooling.smallest_loop_mm
    return [
        line_finding(
            design,
            says("crumbs", count=count, name=name, limit=mm(least)),
            where_mm=lines.crumbs[0],
            measured=count,
            limit=0,
            unit="crumbs",
        )
    ]


def _close_lines(design: str, name: str, lines: CutLines) -> list[Finding]:
    """Lines of different processes, or of the same piece, that run closer than a knife holds the film between
    them."""
    inner, *further = [
        shapely.boundary(shape)
        for shape in (
            lines.own,
            lines.around,
            *(extra.shape for extra in lines.extras if extra.process != "crease"),
        )
        if not shape.is_empty
    ]
    shapely.prepare(inner)
    for other in further:
        if other.length == 0 or not shapely.dwithin(inner, other, CLOSE_MM):
            continue
        apart = float(shapely.distance(inner, other))
        x, y = shapely.get_coordinates(shapely.shortest_line(inner, other))[0]
        return [
            line_finding(
                design,
                says("close_lines.cross", name=name, limit=mm(CLOSE_MM))
                if apart < 1e-6
                else says("close_lines", name=name, apart=mm(apart, 2), limit=mm(CLOSE_MM)),
                where_mm=(float(x), float(y)),
                measured=round(apart, 3),
                limit=CLOSE_MM,
                unit="mm",
            )
        ]
    return []


def _hold(design: str, name: str, lines: CutLines) -> Finding:
    worst = min(lines.perforations, key=lambda each: each.hold_index)
    tightest = max(lines.perforations, key=lambda each: each.hold_index)
    hard = tightest.verdict == "hard to pop"
    strength = tightest if hard else worst
    message = says(
        "hold",
        name=name,
        ties=strength.ties,
        tie=mm(strength.tie_mm, 2),
        share=percent(strength.hold_index),
        force=quantity(strength.hold_gf / 1000, "kgf", 1),
        verdict=strength.verdict,
    )
    if strength.verdict == "holds":
        return line_finding(
            design, message, severity="good", measured=round(strength.hold_index, 3), unit="share"
        )
    share = GOOD_GF / strength.tie_gf_per_mm
    period = lines.recipe.cut_mm + lines.recipe.tie_mm
    tie = round(min(5.0, max(0.2, share * period)), 2)
    return line_finding(
        design,
        message,
        measured=round(strength.hold_index, 3),
        unit="share",
        remedy=SetField.saying(says("remedy.ties", tie=mm(tie)), field="lines.tie_mm", value=tie),
    )


def _hang(design: str, name: str, lines: CutLines) -> list[Finding]:
    hole = lines.hang
    if hole is None or lines.recipe.hang is None:
        return []
    diameter = lines.recipe.hang.diameter_mm
    x, y = shapely.get_coordinates(hole.centroid)[0]
    where = (float(x), float(y))
    least = max(3.0, diameter)
    edge = float(shapely.distance(hole, shapely.boundary(lines.outer)))
    found = []
    if not shapely.contains(lines.outer, hole) or edge < least - 1e-6:
        found.append(
            line_finding(
                design,
                says("hang_edge", name=name, edge=mm(edge, 1), limit=mm(least)),
                where_mm=where,
                measured=round(edge, 2),
                limit=least,
                unit="mm",
            )
        )
    if shapely.intersects(hole, lines.outline):
        found.append(line_finding(design, says("hang_art", name=name), where_mm=where))
    return found
