"""Findings of the Artwork station: background, islands, specks and resolution of one design."""

from perisect.core.artwork import Verdict
from perisect.core.artwork.mend import THIN_SLIVER_PX
from perisect.core.artwork.resolution import resolution_finding
from perisect.core.finding import Finding, Remedy
from perisect.core.job.recipe import DesignRecipe
from perisect.core.job.traced import TracedArtwork

SPECK_MM2 = 1.0
"""A loose piece smaller than this at the final size is a stray dot."""

MOST_ISLANDS = 6


def artwork_findings(design: DesignRecipe, artwork: TracedArtwork) -> list[Finding]:
    """What stands between this picture and a clean cut."""
    found = []
    if (background := _background(design, artwork)) is not None:
        found.append(background)
    found.extend(_islands(design, artwork))
    if (page := _page(design, artwork)) is not None:
        found.append(page)
    if (specks := _specks(design, artwork)) is not None:
        found.append(specks)
    found.append(resolution_finding(design.id, design.name, artwork.outline.longest_px, design.longest_mm))
    return found


def mm_per_px(design: DesignRecipe, artwork: TracedArtwork) -> float:
    """Scale of a design's picture."""
    return design.longest_mm / artwork.outline.longest_px


def in_design(design: DesignRecipe, artwork: TracedArtwork, x_px: float, y_px: float) -> tuple[float, float]:
    """A place of the picture in design mm."""
    left, top, _, _ = artwork.outline.box_px
    scale = mm_per_px(design, artwork)
    return (x_px - left) * scale, (y_px - top) * scale


def _background(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    judged, mend = artwork.judged, design.mend
    if judged.verdict is Verdict.CLEAR or mend.background != "as_is" or mend.frame is not None:
        return None
    if judged.verdict is Verdict.FEATHERED:
        width = judged.soft_edge_px * mm_per_px(design, artwork)
        return Finding(
            code="feathered",
            station="artwork",
            severity="look",
            design=design.id,
            measured=round(width, 2),
            unit="mm",
            text=f"{design.name} fades out over {width:.1f} mm, so where its edge is cut is a guess. "
            "A harder edge cuts better.",
        )
    if judged.verdict is Verdict.PHOTOGRAPH:
        text = "has no background that can be removed: it is a picture all over. Put a frame round it."
        remedy = Remedy(label="Frame with round corners", field="mend.frame", value="rounded")
    elif judged.verdict is Verdict.CHECKERBOARD:
        text = f"has no clear background. {judged.reason}"
        remedy = Remedy(label="Remove the checkerboard", field="mend.background", value="checkerboard")
    else:
        text = f"has no clear background but a plain one: {judged.reason[0].lower()}{judged.reason[1:]}"
        remedy = Remedy(label="Remove the background", field="mend.background", value="plain")
    return Finding(
        code=f"background_{judged.verdict}",
        station="artwork",
        severity="look",
        design=design.id,
        text=f"{design.name} {text} As it is, the cut is the picture's own rectangle.",
        remedy=remedy,
    )


def _islands(design: DesignRecipe, artwork: TracedArtwork) -> list[Finding]:
    """Enclosed patches of a plain background's colour that stayed."""
    if design.mend.background != "plain":
        return []
    scale = mm_per_px(design, artwork)
    gone = set(design.mend.knock_out)
    left = [island for island in artwork.islands if (island.x_px, island.y_px) not in gone]
    findings = []
    for island in left[:MOST_ISLANDS]:
        area = island.area_px * scale**2
        thin = island.width_px < THIN_SLIVER_PX
        advice = (
            "It is a thin sliver the knife would have to cut: better kept."
            if thin
            else "It stays, in case it is art."
        )
        findings.append(
            Finding(
                code="island",
                station="artwork",
                severity="look" if not thin else "good",
                design=design.id,
                where_mm=in_design(design, artwork, island.x_px + 0.5, island.y_px + 0.5),
                measured=round(area, 1),
                unit="mm2",
                text=f"A patch of {area:.1f} mm² inside {design.name} has the colour of the background. {advice}",
                remedy=Remedy(
                    label="Knock it out", field="mend.knock_out", value=f"{island.x_px},{island.y_px}"
                ),
            )
        )
    return findings


SPLIT = "split"
"""The field of a remedy that makes a design of every drawing on a page."""


def _page(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    count = len(artwork.pieces)
    if count < 2:
        return None
    return Finding(
        code="page",
        station="artwork",
        severity="look",
        design=design.id,
        measured=count,
        limit=1,
        unit="drawings",
        text=f"{design.name} holds {count} drawings that stand apart. As one piece they share one size.",
        remedy=Remedy(label=f"Split into {count} pieces", field=SPLIT, value=count),
    )


def _specks(design: DesignRecipe, artwork: TracedArtwork) -> Finding | None:
    scale = mm_per_px(design, artwork)
    small = [part for part in artwork.loose if part.area_px * scale**2 < SPECK_MM2]
    if not small:
        return None
    count, largest = len(small), max(part.area_px for part in small)
    return Finding(
        code="specks",
        station="artwork",
        severity="look",
        design=design.id,
        where_mm=in_design(design, artwork, small[-1].x_px, small[-1].y_px),
        measured=count,
        limit=0,
        unit="specks",
        text=f"{count} {'speck' if count == 1 else 'specks'} of less than {SPECK_MM2:g} mm² beside {design.name}, "
        f"the largest {largest * scale**2:.2f} mm²: each would be printed and most of them cut round.",
        remedy=Remedy(
            label=f"Remove {'it' if count == 1 else f'all {count}'}",
            field="mend.specks_px2",
            value=round(min(largest + 1, SPECK_MM2 / scale**2 + 1), 1),
        ),
    )
