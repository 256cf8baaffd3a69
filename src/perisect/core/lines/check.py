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
        remedy = SetField(label=f"Border {wanted:g} mm", field="border_mm", value=wanted)
    smallest = min(shapely.get_parts(lines.own), key=shapely.area)
    x, y = shapely.get_coordinates(smallest.representative_point())[0]
    joins = f" They join at a border of {wanted:g} mm." if wanted is not None else ""
    return line_finding(
        design,
        "loose_pieces",
        f"{name} comes apart into {lines.pieces} stickers.{joins}",
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
                "not_searched",
                f"{name}'s line is too long to search for narrow places.",
                severity="good",
            )
        ]
    limit = lines.tooling.narrow_mm
    found = []
    for code, places, words in (
        ("neck", measures.narrow.necks, "neck"),
        ("slot", measures.narrow.slots, "slot"),
    ):
        if not places:
            continue
        worst, more = places[0], len(places) - 1
        others = f" {more} more {'is' if more == 1 else 'are'} under {limit:g} mm." if more else ""
        # A slot closes when it is grown by half its width; a neck is made stronger by a wider border.
        bridge = ceil((worst.width_mm / 2 + 0.05) * 20) / 20
        wider = min(20.0, round(border_mm + 0.5, 2))
        remedy = (
            SetField(
                label=f"Bridge it by {bridge:g} mm",
                field="lines.bridge_mm",
                value=max(bridge, lines.recipe.bridge_mm),
            )
            if code == "slot"
            else SetField(label=f"Border {wider:g} mm", field="border_mm", value=wider)
        )
        why = "the strip between tears or lifts" if code == "slot" else "it tears when the piece is peeled"
        found.append(
            line_finding(
                design,
                code,
                f"{name} has a {words} of {worst.width_mm:.2f} mm: {why}.{others}",
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
        "small_loop",
        f"A loop of {name} is {measures.smallest_loop_mm:.2f} mm across: the knife tears a loop under "
        f"{least:g} mm instead of closing it.",
        where_mm=measures.smallest_loop_at,
        measured=round(measures.smallest_loop_mm, 2),
        limit=least,
        unit="mm",
    )


def _busy(design: str, name: str, measures: Cuttability, lines: CutLines) -> Finding | None:
    if measures.turns_per_100 <= BUSY_TURNS or lines.recipe.radius_mm >= ROUND_MM:
        return None
    rounder = bears_radius(lines.own, ROUND_MM)
    better = (
        "Rounder turns cut faster."
        if rounder
        else "It is too slight to be rounded: a larger piece cuts better."
    )
    return line_finding(
        design,
        "turns",
        f"{name}'s line turns sharply {measures.turns_per_100:.0f} times in 100 mm. {better}",
        where_mm=measures.tightest_at,
        measured=round(measures.turns_per_100, 1),
        limit=BUSY_TURNS,
        unit="turns",
        remedy=SetField(label=f"Round to {ROUND_MM:g} mm", field="lines.radius_mm", value=ROUND_MM)
        if rounder
        else None,
    )


def _filled_holes(design: str, lines: CutLines) -> list[Finding]:
    small = [hole for hole in lines.holes_found if hole.too_small]
    if not small:
        return []
    least = lines.tooling.smallest_loop_mm
    holes = "A hole was" if len(small) == 1 else f"{len(small)} holes were"
    return [
        line_finding(
            design,
            "holes_filled",
            f"{holes} filled: less than {least:g} mm across, a blade of {lines.tooling.knife_offset_mm:g} mm offset "
            "cannot close them.",
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
    told = "A crumb is" if count == 1 else f"{count} crumbs are"
    return [
        line_finding(
            design,
            "crumbs",
            f"{told} left out of {name}: so far inside the art they are less than {least:g} mm across, which the "
            "knife tears. A narrower inward border keeps more.",
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
        crosses = "cross" if apart < 1e-6 else f"run {apart:.2f} mm apart"
        return [
            line_finding(
                design,
                "close_lines",
                f"Two lines of {name} {crosses}: under {CLOSE_MM:g} mm the strip between lifts with the knife.",
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
    text = (
        f"{name}: {strength.ties} ties of {strength.tie_mm:.2f} mm hold "
        f"{strength.hold_index * 100:.0f} % of the outline, about {strength.hold_gf / 1000:.1f} kgf: "
        f"{strength.verdict}."
    )
    if strength.verdict == "holds":
        return line_finding(
            design, "hold", text, severity="good", measured=round(strength.hold_index, 3), unit="share"
        )
    share = GOOD_GF / strength.tie_gf_per_mm
    period = lines.recipe.cut_mm + lines.recipe.tie_mm
    tie = round(min(5.0, max(0.2, share * period)), 2)
    return line_finding(
        design,
        "hold",
        text,
        measured=round(strength.hold_index, 3),
        unit="share",
        remedy=SetField(label=f"Ties of {tie:g} mm", field="lines.tie_mm", value=tie),
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
                "hang_edge",
                f"The hole of {name} is {edge:.1f} mm from the edge: it tears out under {least:g} mm.",
                where_mm=where,
                measured=round(edge, 2),
                limit=least,
                unit="mm",
            )
        )
    if shapely.intersects(hole, lines.outline):
        found.append(
            line_finding(design, "hang_art", f"The hole of {name} goes through the art.", where_mm=where)
        )
    return found
