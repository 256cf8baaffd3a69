"""Advice on a drawing's form, which stops nobody: cut flat, pale, thin, busy."""

from typing import Any

import shapely

from perisect.core.artwork import Background
from perisect.core.finding import Finding, PutShape, SetField
from perisect.core.job.design_frame import in_design, mm_per_px
from perisect.core.job.recipe import DesignRecipe
from perisect.core.job.traced import TracedArtwork
from perisect.core.lines import CutLines
from perisect.core.lines.cut_lines import THIN_MM
from perisect.core.message import Message, mm, percent, says

FLAT_SHARE = 0.08
FLAT_LEAST_MM = 2.0
"""Art that lies along the picture's edge for longer than both was cut off there."""

BUSY = 2.6
"""An outline this many times as long as a thread round it is slow to cut and tears."""

PALE_SHARE = 0.5


def design_advice(design: DesignRecipe, artwork: TracedArtwork, lines: CutLines | None) -> list[Finding]:
    """What an experienced eye would say of clear art; of framed or backed pictures nothing."""
    framed = design.mend.frame is not None or design.mend.backing is not None
    if framed or artwork.facts.background is not Background.CLEAR:
        return []
    found = [_flat(design, artwork), _pale(design, artwork)]
    if lines is not None:
        found += [_thin(design, lines), _busy(design, lines)]
    return [each for each in found if each is not None]


def _advice(design: DesignRecipe, message: Message, **fields: Any) -> Finding:
    fields = {"severity": "look", "code": message.code.split(".")[0]} | fields
    return Finding(station="artwork", design=design.id, message=message, **fields)


def _flat(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    scale = mm_per_px(design, artwork)
    length = artwork.edge.flat_px * scale * max(artwork.scale)
    if length < max(FLAT_LEAST_MM, FLAT_SHARE * design.longest_mm) or design.mend.crop is not None:
        return None
    return _advice(
        design,
        says("flat", name=design.name, length=mm(length, 1)),
        where_mm=in_design(design, artwork, *artwork.edge.flat_at),
        measured=round(length, 1),
        limit=round(max(FLAT_LEAST_MM, FLAT_SHARE * design.longest_mm), 1),
        unit="mm",
    )


def _pale(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    share = artwork.edge.pale_share
    if share < PALE_SHARE:
        return None
    return _advice(
        design,
        says("pale", share=percent(share), name=design.name),
        measured=round(share, 2),
        limit=PALE_SHARE,
        unit="share",
        remedy=PutShape.saying(says("remedy.circle_behind"), part="backing", shape="circle"),
    )


def _thin(design: DesignRecipe, lines: CutLines) -> Finding | None:
    if not lines.thin:
        return None
    count, worst = len(lines.thin), lines.thin[0]
    carried = design.border_mm >= THIN_MM
    advice = (
        says("thin.carried", border=mm(design.border_mm), count=count)
        if carried
        else says("thin.tears", count=count)
    )
    return _advice(
        design,
        says(
            "thin.one" if count == 1 else "thin",
            name=design.name,
            count=count,
            limit=mm(THIN_MM),
            advice=advice,
        ),
        severity="good" if carried else "look",
        where_mm=worst.where_mm,
        measured=count,
        limit=0,
        unit="parts",
        remedy=None
        if carried
        else SetField.saying(says("remedy.border", border=mm(2)), field="border_mm", value=2.0),
    )


def _busy(design: DesignRecipe, lines: CutLines) -> Finding | None:
    hulls = shapely.length(shapely.convex_hull(shapely.get_parts(lines.outline))).sum()
    outer = shapely.length(shapely.get_exterior_ring(shapely.get_parts(lines.outline))).sum()
    times = float(outer / hulls)
    if times < BUSY:
        return None
    return _advice(
        design,
        says("busy", name=design.name, times=f"{times:.1f}"),
        measured=round(times, 1),
        limit=BUSY,
        unit="times",
    )
